/** Moving addresses: every word of a statement that names one of them is rewritten, and nothing else. */
import { contains, formatIp, isIpv4, parseIpv4, prefixRange } from '#core/addr';
import type { Ipv4, Prefix } from '#core/addr';
import type { FileChange, Statement } from '#core/notation';
import { documentOf } from '#core/site';
import type { Interface, Site } from '#core/site';
import { changeClauses, joinChanges } from './change';

/**
 * Moves a network of an interface: its own addresses, pools, keeps, and every door, known host, passage, leave and
 * answer of the box that names an address in it. Stations are not told: they are the world's, not the box's.
 */
export function moveSubnet(site: Site, iface: Interface, from: Prefix<Ipv4>, to: Prefix<Ipv4>): FileChange[] {
  const start = prefixRange(from).first;
  const target = prefixRange(to).first;
  const move = (address: Ipv4): Ipv4 =>
    contains(from, address) ? ((target + (address - start)) as Ipv4) : address;
  const touched = site.statements.filter(
    (s) =>
      s === iface.statement ||
      (['door', 'known', 'passage', 'leave', 'send', 'expect', 'table', 'box'].includes(s.kind) && !s.broken),
  );
  return joinChanges(...touched.map((s) => mapAddresses(site, s, move)));
}

/** Rewrites every address word of a statement by a function on addresses. */
export function mapAddresses(site: Site, statement: Statement, move: (address: Ipv4) => Ipv4): FileChange[] {
  const base = baseOf(statement);
  const newBase = base === undefined ? undefined : move(base);
  const words = [...statement.header, ...statement.clauses.flatMap((c) => c.words)];
  const ops = words.flatMap((word) => {
    if (word.kind !== 'word') return [];
    const next = mapWord(word.text, move, base, newBase);
    return next === word.text
      ? []
      : [{ do: 'replace' as const, start: word.start, end: word.end, text: next }];
  });
  return ops.length ? changeClauses(site, statement, ops, { follow: true }) : [];
}

function mapWord(
  text: string,
  move: (address: Ipv4) => Ipv4,
  base: Ipv4 | undefined,
  newBase: Ipv4 | undefined,
): string {
  const colon = text.endsWith(':') ? ':' : '';
  const bare = colon ? text.slice(0, -1) : text;
  const match = /^([.0-9]+)(?:-([.0-9]+))?(\/[0-9]+)?$/.exec(bare);
  if (!match) return text;
  const [, firstText = '', lastText, length = ''] = match;
  const first = meant(firstText, base);
  if (first === undefined) return text;
  const moved = move(first);
  const written = rewritten(firstText, moved, newBase);
  if (lastText === undefined) return written + length + colon;
  const last = meant(lastText, first);
  if (last === undefined) return text;
  return `${written}-${rewritten(lastText, move(last), moved)}${length}${colon}`;
}

/** An address as long or as short as it was written, where the short form still says it from its base. */
function rewritten(was: string, address: Ipv4, base: Ipv4 | undefined): string {
  const full = formatIp(address);
  if (!was.startsWith('.')) return full;
  const octets = was.split('.').length - 1;
  const short = `.${full
    .split('.')
    .slice(4 - octets)
    .join('.')}`;
  return meant(short, base) === address ? short : full;
}

function meant(text: string, base: Ipv4 | undefined): Ipv4 | undefined {
  if (!text.startsWith('.')) return parseIpv4(text);
  const given = text.split('.').length - 1;
  if (base === undefined || given > 3) return undefined;
  return parseIpv4(
    formatIp(base)
      .split('.')
      .slice(0, 4 - given)
      .join('.') + text,
  );
}

function baseOf(statement: Statement): Ipv4 | undefined {
  if (statement.kind === 'interface' && statement.address?.value.by === 'static') {
    const { address } = statement.address.value.prefix;
    if (isIpv4(address)) return address;
  }
  for (const word of [...statement.header, ...statement.clauses.flatMap((c) => c.words)]) {
    const address = word.kind === 'word' ? parseIpv4(/^[0-9.]*/.exec(word.text)![0]) : undefined;
    if (address !== undefined) return address;
  }
  return undefined;
}

/** The text of a statement as it stands. */
export const textOf = (site: Site, statement: Statement): string =>
  documentOf(site, statement).text.slice(statement.start, statement.end);
