/** Two interfaces made one: what the second has goes to the first, and who spoke of it speaks of the first. */
import { formatIp, formatPrefix, isIpv4, parseIpv4 } from '#core/addr';
import type { Ipv4 } from '#core/addr';
import { baseAddress, resolveShort, written } from '#core/notation';
import type { Clause, ClauseOp, FileChange, Statement } from '#core/notation';
import { documentOf } from '#core/site';
import type { Interface, Site } from '#core/site';
import { changeClauses, dropStatement, joinChanges } from './change';
import { redirect, redirectOps } from './references';

type ReplaceOp = Extract<ClauseOp, { do: 'replace' }>;

/** Clauses that are the second interface's own place, and go with it. */
const PLACE = new Set([
  'on',
  'bridge',
  'pppoe',
  'loopback',
  'zone',
  'table',
  'off',
  'address',
  'also',
  'mac',
  'note',
]);
/** Clauses of which both may stand. */
const BOTH = new Set(['answers', 'lends', 'relays', 'keeps', 'watch']);

/** Merges one interface into another of the same port and tag. */
export function mergeInterfaces(site: Site, into: Interface, from: Interface): FileChange[] {
  const ops: ClauseOp[] = [];
  const held = new Set(into.addresses.map((a) => a.prefix.address));
  const more = from.addresses.filter((a) => !held.has(a.prefix.address)).map((a) => a.prefix);
  const [four, six] = [more.filter((p) => isIpv4(p.address)), more.filter((p) => !isIpv4(p.address))];
  if (four.length)
    ops.push({
      do: 'add',
      text: `${into.statement.address ? 'also' : 'address'} ${four.map(formatPrefix).join(' ')}`,
    });
  if (six.length) ops.push({ do: 'add', text: `address6 ${six.map(formatPrefix).join(' ')}` });
  const self = redirectOps(site, from.statement, 'interface', from.name, into.name);
  const there = new Set(written(into.statement).clauses.map((c) => c.name));
  const texts = new Set(written(into.statement).clauses.map((c) => spelledOut(site, into.statement, c)));
  for (const clause of written(from.statement).clauses) {
    const { name } = clause;
    if (PLACE.has(name)) continue;
    const text = spelledOut(site, from.statement, clause, self);
    if (texts.has(text)) continue;
    if (name === 'address6') {
      // Written ones are among the addresses.
      if (/^address6 (by|from)/.test(text)) ops.push({ do: 'add', text });
    } else if (BOTH.has(name) || !there.has(name)) ops.push({ do: 'add', text });
    else if (name === 'names' && !/learned/.test(text)) ops.push({ do: 'add', text });
    else if (name === 'mtu' && from.statement.mtu && into.statement.mtu) {
      // What fits the smaller one fits both.
      if (from.statement.mtu.value < into.statement.mtu.value) ops.push({ do: 'set', name, text });
    }
  }
  // Who spoke of the one that goes may be the other, or itself in a clause that comes over.
  const own = redirectOps(site, into.statement, 'interface', from.name, into.name);
  return joinChanges(
    changeClauses(site, into.statement, [...own, ...ops]),
    dropStatement(site, from.statement),
    redirect(site, 'interface', from.name, into.name, [from.statement, into.statement]),
  );
}

/** A clause with its short addresses written out, so that it means the same in another statement. */
function spelledOut(
  site: Site,
  statement: Statement,
  clause: Clause,
  again: readonly ReplaceOp[] = [],
): string {
  const { text } = documentOf(site, statement);
  const base = baseAddress(statement);
  const renamed = new Map(again.map((op) => [op.start, op.text]));
  let out = '';
  let at = clause.start;
  for (const word of clause.words) {
    const whole = renamed.get(word.start) ?? (word.kind === 'word' ? inFull(word.text, base) : word.text);
    out += gapText(text.slice(at, word.start)) + whole;
    at = word.end;
  }
  return out;
}

/** What stands between two words, without line ends and comments. */
const gapText = (gap: string): string => (gap === '' ? '' : ' ');

function inFull(word: string, base: Ipv4 | undefined): string {
  const match = /^(\.[.0-9]+|[0-9]+\.[.0-9]+)(?:-([.0-9]+))?(\/[0-9]+)?$/.exec(word);
  if (!match) return word;
  const [, first = '', last, length = ''] = match;
  const from = resolveShort(first, base) ?? parseIpv4(first);
  if (from === undefined || !isIpv4(from)) return word;
  const to = last === undefined ? undefined : resolveShort(last, from);
  if (last !== undefined && to === undefined) return word;
  return `${formatIp(from)}${to === undefined ? '' : `-${formatIp(to)}`}${length}`;
}
