/** Pieces of text that several mends write. */
import { compareIp, formatIp, formatRangeShort, offsetIp } from '#core/addr';
import type { Ip, Range } from '#core/addr';
import { changeClauses, dropStatement, joinChanges, moveStatement } from '#core/edits';
import { clausesOf } from '#core/notation';
import type { AnswersClause, FileChange, Statement, StatementOf } from '#core/notation';
import { documentOf } from '#core/site';
import type { Interface, Site } from '#core/site';
import type { Mend } from './finding';
import { letsIn, live, phrase, trusted } from './queries';

/** Takes a statement out. */
export const takeOut = (site: Site, statement: Statement): Mend => ({
  what: 'remove-statement',
  values: { line: String(statement.line) },
  changes: dropStatement(site, statement),
});

/** Puts a statement before one that takes what it names. */
export const moveBefore = (site: Site, statement: Statement, other: Statement): Mend => ({
  what: 'move-before',
  values: { line: String(other.line) },
  changes: moveStatement(site, statement, { before: other }),
});

/** Gives a station or a router inside another gateway. */
export const setGateway = (site: Site, statement: StatementOf<'station' | 'router'>, address: Ip): Mend => ({
  what: 'set-station-gateway',
  values: { station: statement.name, address: formatIp(address) },
  changes: changeClauses(site, statement, [
    { do: 'set', name: 'gateway', text: `gateway ${formatIp(address)}` },
  ]),
});

/** The parts of a range without some addresses, in order. */
export function withoutAddresses(range: Range, taken: readonly Ip[]): Range[] {
  const cuts = [...taken].sort(compareIp);
  const out: Range[] = [];
  let first: Ip | undefined = range.first;
  for (const cut of cuts) {
    if (first === undefined || cut < first || cut > range.last) continue;
    if (cut > first) out.push({ first, last: offsetIp(cut, -1)! });
    first = cut === range.last ? undefined : offsetIp(cut, 1);
  }
  if (first !== undefined) out.push({ first, last: range.last });
  return out;
}

/** Ranges as a pool clause writes them. */
export const rangesText = (ranges: readonly Range[]): string => ranges.map(formatRangeShort).join(' ');

/** Lets an interface answer services beside those it answers. */
export function addAnswer(site: Site, iface: Interface, services: string): FileChange[] {
  const open = iface.answers.findIndex((a) => !a.from);
  const clause = clausesOf(iface.statement, 'answers')[open];
  if (!clause) return changeClauses(site, iface.statement, [{ do: 'add', text: `answers ${services}` }]);
  const text = documentOf(site, iface.statement).text.slice(clause.start, clause.end);
  return changeClauses(site, iface.statement, [
    { do: 'set', name: 'answers', nth: open, text: `${text} ${services}` },
  ]);
}

/** Takes services out of one `answers` clause; the clause goes when nothing is left. */
export function answersWithout(
  site: Site,
  iface: Interface,
  clause: AnswersClause,
  names: readonly string[],
): FileChange[] {
  const nth = iface.answers.indexOf(clause);
  const { words } = clausesOf(iface.statement, 'answers')[nth]!;
  const left = clause.services.filter((s) => !names.includes(s.name));
  if (!left.length) return changeClauses(site, iface.statement, [{ do: 'remove', name: 'answers', nth }]);
  const fromAt = words.findIndex((w) => w.text === 'from');
  const from =
    fromAt < 0
      ? ''
      : ` ${words
          .slice(fromAt)
          .map((w) => w.text)
          .join(' ')}`;
  const text = left.map((s) => (s.port === undefined ? s.name : `${s.name} ${s.port}`)).join(' ');
  return changeClauses(site, iface.statement, [
    { do: 'set', name: 'answers', nth, text: `answers ${text}${from}` },
  ]);
}

/** Stops answering; where nobody else would let an administrator in, the most trusted interface does from then on. */
export function answerNot(
  site: Site,
  iface: Interface,
  clause: AnswersClause,
  open: readonly string[],
): Mend {
  const changes = answersWithout(site, iface, clause, open);
  const values = { services: phrase(open), name: iface.name };
  const other = trusted(site).find((i) => i !== iface);
  const last = !live(site).some((i) => letsIn(i, i === iface ? clause : undefined));
  if (!last || !other) return { what: 'answer-not', values, changes };
  return {
    what: 'answer-elsewhere',
    values: { ...values, other: other.name },
    changes: joinChanges(changes, addAnswer(site, other, 'ssh https')),
  };
}

/** Takes every pool off an interface. */
export const lendNot = (site: Site, iface: Interface): Mend => ({
  what: 'lend-not',
  values: { name: iface.name },
  changes: changeClauses(
    site,
    iface.statement,
    iface.statement.lends.map(() => ({ do: 'remove' as const, name: 'lends' })),
  ),
});
