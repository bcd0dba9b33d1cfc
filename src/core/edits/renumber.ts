/** Moving addresses: every word of a statement that names one of them is rewritten, and nothing else. */
import { contains, formatIp, overlaps, prefixRange } from '#core/addr';
import type { Ip, Ipv4, Prefix } from '#core/addr';
import { allWords, baseAddress, resolveShort } from '#core/notation';
import type { FileChange, Statement } from '#core/notation';
import { claimantAt, documentOf, landingOf, staticNetworks } from '#core/site';
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
  // What another interface holds as well is that one's, unless it is said to be here or sits here.
  const rivals = site.interfaces.filter(
    (i) => i !== iface && staticNetworks(i).some((n) => overlaps(n, from) && n.length >= from.length),
  );
  const here = new Set<Ip>(
    site.stations.flatMap((s) =>
      s.address?.value.by === 'static' && claimantAt(site, landingOf(site, s.plug)) === iface
        ? [s.address.value.prefix.address]
        : [],
    ),
  );
  const moveFor = (s: Statement) => (address: Ipv4) =>
    s === iface.statement ||
    isSaidToBeAt(s, iface) ||
    here.has(address) ||
    !rivals.some((i) => staticNetworks(i).some((n) => contains(n, address)))
      ? move(address)
      : address;
  const touched = site.statements.filter(
    (s) =>
      s === iface.statement ||
      (['door', 'known', 'record', 'passage', 'leave', 'send', 'expect', 'table', 'box'].includes(s.kind) &&
        !s.broken),
  );
  return joinChanges(...touched.map((s) => mapAddresses(site, s, moveFor(s))));
}

/** Whether a statement names the interface that its addresses are behind. */
const isSaidToBeAt = (s: Statement, iface: Interface): boolean =>
  (s.kind === 'known' && s.behind?.name === iface.name) || (s.kind === 'door' && s.on?.name === iface.name);

/** Rewrites every address word of a statement by a function on addresses. */
export function mapAddresses(site: Site, statement: Statement, move: (address: Ipv4) => Ipv4): FileChange[] {
  const base = baseAddress(statement);
  const newBase = base === undefined ? undefined : move(base);
  const words = allWords(statement);
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

/** An IPv4 word's address, short or whole. */
const meant = (text: string, base: Ipv4 | undefined): Ipv4 | undefined =>
  resolveShort(text, base) as Ipv4 | undefined;

/** The text of a statement as it stands. */
/** A stretch of a statement as it is written. */
export const wordsOf = (
  site: Site,
  statement: Statement,
  at: { readonly start: number; readonly end: number },
) => documentOf(site, statement).text.slice(at.start, at.end);

/** The text of a statement. */
export const textOf = (site: Site, statement: Statement): string =>
  documentOf(site, statement).text.slice(statement.start, statement.end);
