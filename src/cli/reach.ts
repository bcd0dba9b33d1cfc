/** `reach`: who gets to whom, for every pair, without the bench. */
import type { Day } from '#core/base';
import { formatIp, formatServices } from '#core/addr';
import type { ServiceItem, ServiceSet } from '#core/addr';
import { Reach, ReachTable } from '#core/reach';
import { cellText, endText } from '#words';
import { Unusable, readModel } from './input';
import type { CommandResult } from './outcome';

/** One text for each protocol and stretch of ports: `tcp 80`, `tcp 8000-8010`, `ping`; `any` for everything. */
const listOf = (set: ServiceSet): string[] => {
  const { services, others } = set.toWords();
  return [...services.map(textOf), ...(others ? [others] : [])];
};

const textOf = (item: ServiceItem): string => {
  if (item.kind !== 'ports') return formatServices([item]);
  const name = item.proto === 6 ? 'tcp' : 'udp';
  if (item.first === 0 && item.last === 65535) return name;
  return `${name} ${item.first === item.last ? item.first : `${item.first}-${item.last}`}`;
};

/** Questions beyond which nobody waits for a table, and nobody reads it. */
const MOST_QUESTIONS = 1_000_000;

/** The whole table, or the rows of the sources named. */
export function reachOf(files: readonly string[], from: readonly string[] = [], at?: Day): CommandResult {
  const table = new ReachTable(new Reach(readModel(files, at)));
  for (const name of from)
    if (!table.sources.some((s) => s.name === name))
      throw new Unusable(`nothing that may ask is called ${name}`);
  const sources = from.length ? table.sources.filter((s) => from.includes(s.name)) : table.sources;
  const questions = table.questions(sources);
  if (questions > MOST_QUESTIONS)
    throw new Unusable(
      `this is ${questions} questions, more than ${MOST_QUESTIONS}: ask for the rows of an interface or two with --from NAME`,
    );
  const cells = [...table.all(sources)];
  const json = {
    sources,
    destinations: table.destinations,
    cells: cells.map(({ from, to, cell }) => ({
      from: from.name,
      to: to.name,
      fromKind: from.kind,
      toKind: to.kind,
      verdict: cell.verdict,
      services: cell.verdict === 'all' && to.kind !== 'door' ? ['any'] : listOf(cell.services),
      by: table
        .statementsOf(cell)
        .map((s) => s.line)
        .sort((a, b) => a - b),
      ...(cell.leavesAs === undefined ? {} : { leavesAs: formatIp(cell.leavesAs) }),
    })),
  };
  const width = sources.reduce((most, s) => Math.max(most, endText(s).length), 0) + 2;
  const lines = cells
    .filter(({ cell }) => cell.verdict !== 'none')
    .map(({ from, to, cell }) => {
      const as = cell.leavesAs === undefined ? '' : `, as ${formatIp(cell.leavesAs)}`;
      return `${endText(from).padEnd(width)}${endText(to)}: ${cellText(cell, to)}${as}`;
    });
  lines.push(`${cells.length} pairs, ${cells.filter((c) => c.cell.verdict !== 'none').length} of them open`);
  return { json, text: `${lines.join('\n')}\n`, status: 0 };
}
