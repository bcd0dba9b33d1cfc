/** What changes between two sites, by meaning and not by line. */
import { printStatement } from '#core/notation';
import type { Clause, Statement } from '#core/notation';
import { documentOf } from '#core/site';
import type { Site } from '#core/site';

/** One change. `was` and `now` are clause texts, laid out alike, so that mere formatting is no difference. */
export interface Change {
  readonly subject: string;
  readonly kind: 'added' | 'removed' | 'changed' | 'order';
  readonly clauses: readonly { readonly name: string; readonly was: string; readonly now: string }[];
  /** The whole statement where it is added or removed. */
  readonly text: string;
  /** How far the consequence goes, 0 first: newly open to the outside, ways in, services lost, the rest. */
  readonly rank: number;
}

const clauseText = (statement: Statement, clause: Clause): string =>
  printStatement({ ...statement, clauses: [clause] })
    .replace(/^[^:]*?:\s/, '')
    .trim();

/** Clauses by name and number: `lends`, then `lends` again. */
function clausesOf(statement: Statement): Map<string, string> {
  const out = new Map<string, string>();
  const count = new Map<string, number>();
  for (const clause of statement.clauses) {
    const nth = count.get(clause.name) ?? 0;
    count.set(clause.name, nth + 1);
    out.set(`${clause.name}#${nth}`, clauseText(statement, clause));
  }
  return out;
}

const isOutward = (s: Statement): boolean =>
  s.kind === 'door' || (s.kind === 'passage' && s.verdict === 'allow');

function rankOf(kind: Change['kind'], statement: Statement, names: readonly string[]): number {
  if (kind === 'added' && isOutward(statement)) return 0;
  if (names.includes('answers')) return 1;
  if (kind === 'removed' || names.some((n) => ['address', 'on', 'off', 'gateway', 'zone'].includes(n)))
    return 2;
  return 3;
}

const writtenIn = (site: Site, s: Statement): string => documentOf(site, s).text.slice(s.start, s.end);

/**
 * The changes from one site to another, most consequent first, then in the order of the new text. Notes and layout
 * count for nothing; the order of zones, passages and leaves counts, since it means something.
 */
export function diffSites(before: Site, after: Site, only: (s: Statement) => boolean = () => true): Change[] {
  const old = new Map(before.statements.filter(only).map((s) => [s.subject, s]));
  const now = new Map(after.statements.filter(only).map((s) => [s.subject, s]));
  const out: Change[] = [];
  for (const [subject, s] of now) {
    const was = old.get(subject);
    if (!was) {
      out.push({
        subject,
        kind: 'added',
        clauses: [],
        text: printStatement(s),
        rank: rankOf('added', s, []),
      });
      continue;
    }
    // What reads the same letter for letter means the same, and most statements do.
    if (writtenIn(before, was) === writtenIn(after, s)) continue;
    const [a, b] = [clausesOf(was), clausesOf(s)];
    const clauses = [...new Set([...a.keys(), ...b.keys()])]
      .filter((key) => a.get(key) !== b.get(key) && !key.startsWith('note#'))
      .map((key) => ({ name: key.split('#')[0]!, was: a.get(key) ?? '', now: b.get(key) ?? '' }));
    if (clauses.length) {
      const names = clauses.map((c) => c.name);
      out.push({
        subject,
        kind: 'changed',
        clauses,
        text: printStatement(s),
        rank: rankOf('changed', s, names),
      });
    }
  }
  for (const [subject, s] of old)
    if (!now.has(subject))
      out.push({
        subject,
        kind: 'removed',
        clauses: [],
        text: printStatement(s),
        rank: rankOf('removed', s, []),
      });
  for (const kind of ['zone', 'passage', 'leave'] as const) {
    const order = (m: Map<string, Statement>, other: Map<string, Statement>) =>
      [...m].filter(([key, s]) => s.kind === kind && other.has(key)).map(([key]) => key);
    const [a, b] = [order(old, now), order(now, old)];
    const moved = b.find((key, i) => key !== a[i]);
    if (moved !== undefined)
      out.push({
        subject: moved,
        kind: 'order',
        clauses: [],
        text: b.join(', '),
        rank: kind === 'zone' ? 3 : 2,
      });
  }
  return out
    .map((c, i) => ({ c, i }))
    .sort((x, y) => x.c.rank - y.c.rank || x.i - y.i)
    .map(({ c }) => c);
}
