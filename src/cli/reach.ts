/** `reach`: who gets to whom, for every pair, without the bench. */
import { formatIp, formatServices } from '#core/addr';
import type { ServiceItem, ServiceSet } from '#core/addr';
import { Reach, ReachTable } from '#core/reach';
import { cellText, endText } from '#words';
import { readSite } from './input';
import type { Outcome } from './outcome';

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

export function reachOf(files: readonly string[]): Outcome {
  const table = new ReachTable(Reach.of(readSite(files)));
  const cells = [...table.all()];
  const json = {
    sources: table.sources,
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
  const width = table.sources.reduce((most, s) => Math.max(most, endText(s).length), 0) + 2;
  const lines = cells
    .filter(({ cell }) => cell.verdict !== 'none')
    .map(({ from, to, cell }) => {
      const as = cell.leavesAs === undefined ? '' : `, as ${formatIp(cell.leavesAs)}`;
      return `${endText(from).padEnd(width)}${endText(to)}: ${cellText(cell, to)}${as}`;
    });
  lines.push(`${cells.length} pairs, ${cells.filter((c) => c.cell.verdict !== 'none').length} of them open`);
  return { json, text: `${lines.join('\n')}\n`, status: 0 };
}
