/** `book`: the site book, as Markdown or as one page by itself. */
import { formatIp } from '#core/addr';
import type { Day } from '#core/base';
import { contextOf, findAll } from '#core/findings';
import { bookRows } from '#core/formats/site-book';
import { bootBench, proveOn } from '#core/proof';
import { Reach, ReachTable } from '#core/reach';
import { documentOf } from '#core/site';
import {
  bookHtml,
  bookMarkdown,
  bookOf,
  cellText,
  endText,
  findingText,
  isBooked,
  promiseText,
} from '#words';
import { readModel } from './input';
import type { CommandResult } from './outcome';

export function book(files: readonly string[], html: boolean, at?: Day): CommandResult {
  const reach = new Reach(readModel(files, at));
  const { site } = reach.model;
  const table = new ReachTable(reach);
  const { promises } = proveOn(bootBench(reach).bench, reach);
  const rows = bookRows(reach.model);
  const made = bookOf(rows, {
    site: rows.box,
    reach: [...table.all(table.sources.filter(isBooked))]
      .filter(({ to }) => isBooked(to))
      .flatMap(({ from, to, cell }) =>
        cell.verdict === 'none'
          ? []
          : [
              {
                from: endText(from),
                to: endText(to),
                what: cellText(cell, to),
                as: cell.leavesAs === undefined ? '' : formatIp(cell.leavesAs),
              },
            ],
      ),
    promises: promises.map((p) => ({
      text: documentOf(site, p.statement).text.slice(p.statement.start, p.statement.end),
      holds: p.result === 'pass',
      why: promiseText(p),
    })),
    findings: findAll(contextOf(reach)).map((f) => ({
      severity: f.severity,
      where: f.subject.replace('/', ' '),
      text: findingText(f),
    })),
  });
  return { text: html ? bookHtml(made) : bookMarkdown(made), json: made, status: 0 };
}
