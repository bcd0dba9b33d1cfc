/** `book`: the site book, as Markdown or as one page by itself. */
import { formatIp } from '#core/addr';
import type { Day } from '#core/base';
import { contextOf, findAll } from '#core/findings';
import { bookRows } from '#core/formats/site-book';
import { bootBench, proveOn } from '#core/proof';
import { Reach, ReachTable } from '#core/reach';
import type { ReachEnd } from '#core/reach';
import { documentOf } from '#core/site';
import { bookHtml, bookMarkdown, bookOf, cellText, endText, findingText, promiseText } from '#words';
import { readModel } from './input';
import type { CommandResult } from './outcome';

/** Ends of the reach that the book tells of. */
const BOOKED: ReadonlySet<ReachEnd['kind']> = new Set(['zone', 'internet', 'box', 'door']);

export function book(files: readonly string[], html: boolean, at?: Day): CommandResult {
  const reach = new Reach(readModel(files, at));
  const { site } = reach.model;
  const table = new ReachTable(reach);
  const { promises } = proveOn(bootBench(reach).bench, reach);
  const rows = bookRows(reach.model);
  const made = bookOf(rows, {
    site: rows.box,
    // Networks and hosts stand in their zones.
    reach: [...table.all(table.sources.filter((s) => BOOKED.has(s.kind)))]
      .filter(({ to }) => BOOKED.has(to.kind))
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
