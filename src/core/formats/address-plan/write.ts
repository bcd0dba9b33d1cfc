/** The address plan of a site as a table: CSV (RFC 4180) and Markdown. What `readPlan` reads back is the same. */
import { markdownRow, markdownRule, markdownText } from '#core/base';
import Papa from 'papaparse';
import { formatIp, formatMac, formatPrefix, formatRange, isIpv4, networkOf } from '#core/addr';
import { plannedIn } from '#core/model';
import type { Site } from '#core/site';

type Row = readonly string[];

export const NETWORK_HEADS: Row = ['name', 'VLAN', 'subnet', 'gateway', 'pool', 'zone', 'note'];
export const RESERVATION_HEADS: Row = ['device', 'MAC', 'IP', 'network'];

/** One row for each inside network, secondary ones included. */
export function networkRows(site: Site): Row[] {
  return plannedIn(site).flatMap((i) =>
    i.addresses
      .filter((a) => isIpv4(a.prefix.address))
      .filter((a, n, all) => all.findIndex((b) => sameNet(b.prefix, a.prefix)) === n)
      .map(({ prefix }, n) => [
        i.name,
        i.tag === undefined ? '' : String(i.tag),
        formatPrefix(networkOf(prefix)),
        formatIp(prefix.address),
        i.pools
          .flatMap((p) => p.ranges)
          .filter((r) => sameNet({ address: r.first, length: prefix.length }, prefix))
          .map(formatRange)
          .join('; '),
        i.zone?.name ?? '',
        n ? `second subnet of ${i.name}` : (i.statement.note?.value ?? ''),
      ]),
  );
}

const sameNet = (a: Parameters<typeof networkOf>[0], b: Parameters<typeof networkOf>[0]): boolean =>
  formatPrefix(networkOf(a)) === formatPrefix(networkOf(b));

export const reservationRows = (site: Site): Row[] =>
  site.interfaces.flatMap((i) =>
    i.reserved.map((r) => [r.label ?? '', formatMac(r.mac), formatIp(r.address), i.name]),
  );

/** A cell that a spreadsheet would take for a sum is text. */
const csv = (rows: readonly Row[]): string =>
  `${Papa.unparse(
    rows.map((r) => [...r]),
    { newline: '\n', escapeFormulae: true },
  )}\n`;

export const planCsv = (site: Site): string => csv([NETWORK_HEADS, ...networkRows(site)]);
export const reservationsCsv = (site: Site): string => csv([RESERVATION_HEADS, ...reservationRows(site)]);

const markdown = (heads: Row, rows: readonly Row[]): string =>
  [markdownRow(heads), markdownRule(heads), ...rows.map(markdownRow)].join('\n');

/** The plan as a page of Markdown. */
export function planMarkdown(site: Site): string {
  const reserved = reservationRows(site);
  return [
    `# Address plan of ${markdownText(site.box?.name || 'the box')}`,
    markdown(NETWORK_HEADS, networkRows(site)),
    ...(reserved.length ? ['## Reservations', markdown(RESERVATION_HEADS, reserved)] : []),
    '',
  ].join('\n\n');
}
