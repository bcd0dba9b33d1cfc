/** What changes between two sites, by meaning and not by line. */
import { textOf } from '#core/edits';
import { maskSecrets, printClauses, printStatement, written } from '#core/notation';
import type { Statement } from '#core/notation';
import type { Site } from '#core/site';
import { meaningOf, pairStatements } from './pairs';
import type { Pair } from './pairs';

/** One change. `was` and `now` are clause texts, laid out alike, so that mere formatting is no difference. */
export interface Change {
  readonly subject: string;
  readonly kind: 'added' | 'removed' | 'changed' | 'order';
  readonly clauses: readonly { readonly name: string; readonly was: string; readonly now: string }[];
  /** The whole statement where it is added or removed. */
  readonly text: string;
  /** How far the consequence goes, 0 first: newly open to the outside, ways in, services lost, leases, the rest. */
  readonly rank: number;
}

/** Clauses by name and number: `lends`, then `lends` again. */
function clausesOf(statement: Statement): Map<string, string> {
  const out = new Map<string, string>();
  const count = new Map<string, number>();
  const texts = printClauses(statement);
  for (const [i, { name }] of written(statement).clauses.entries()) {
    const nth = count.get(name) ?? 0;
    count.set(name, nth + 1);
    out.set(`${name}#${nth}`, texts[i]!);
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
  return names.some((n) => LENDING.has(n)) ? 3 : 4;
}

/** What clients learn when they renew. */
const LENDING: ReadonlySet<string> = new Set(['lends', 'keeps', 'advertises']);

/** A statement that came or went. */
const whole = (kind: 'added' | 'removed', s: Statement): Change => ({
  subject: s.subject,
  kind,
  clauses: [],
  text: maskSecrets(printStatement(s)),
  rank: rankOf(kind, s, []),
});

/** Kinds of which the order means something. */
const ORDERED = ['zone', 'passage', 'leave', 'send', 'door'] as const;

/** The two sides of a clause without the secrets in it; where nothing else differs, that it is another secret. */
function shown(name: string, was: string, now: string): Change['clauses'][number] {
  const [old, fresh] = [maskSecrets(was), maskSecrets(now)];
  return old === fresh ? { name: 'secret', was: old, now: fresh } : { name, was: old, now: fresh };
}

/** One pair as a change; undefined where it means the same. */
export function changeOf(before: Site, after: Site, { was, now, same }: Pair): Change | undefined {
  if (same) return undefined;
  if (!was || !now) return now ? whole('added', now) : was && whole('removed', was);
  // What reads the same letter for letter means the same, and most statements do.
  if (textOf(before, was) === textOf(after, now) || meaningOf(was) === meaningOf(now)) return undefined;
  const [a, b] = [clausesOf(was), clausesOf(now)];
  const clauses = [...new Set([...a.keys(), ...b.keys()])]
    .filter((key) => a.get(key) !== b.get(key) && !key.startsWith('note#'))
    .map((key) => shown(key.split('#')[0]!, a.get(key) ?? '', b.get(key) ?? ''));
  if ('name' in was && 'name' in now && was.name !== now.name)
    clauses.unshift({ name: 'name', was: was.name, now: now.name });
  if (!clauses.length) return undefined;
  const names = clauses.map((c) => c.name);
  return {
    subject: now.subject,
    kind: 'changed',
    clauses,
    text: maskSecrets(printStatement(now)),
    rank: rankOf('changed', now, names),
  };
}

/** Whose order changed, with the order as it is now; of each kind at most one. */
export function reorderings(pairs: readonly Pair[], before: readonly Statement[]): Change[] {
  const out: Change[] = [];
  // What stays where it was before and after the rest changes no order.
  const ordered = (s: Statement) => ORDERED.some((kind) => kind === s.kind);
  if (pairs.every((p) => p.same || !p.was || !ordered(p.was))) return out;
  const place = new Map(before.map((s, i) => [s, i]));
  for (const kind of ORDERED) {
    const both = pairs.filter((p) => p.now?.kind === kind && p.was);
    const ranks = both.map((p) => place.get(p.was!)!);
    const sorted = [...ranks].sort((x, y) => x - y);
    const moved = both.findIndex((_, i) => ranks[i] !== sorted[i]);
    if (moved >= 0)
      out.push({
        subject: both[moved]!.now!.subject,
        kind: 'order',
        clauses: [],
        text: both.map((p) => p.now!.subject).join(', '),
        rank: kind === 'zone' ? 4 : 2,
      });
  }
  return out;
}

/**
 * The changes from one site to another, most consequent first, then in the order of the new text. Notes and layout
 * count for nothing; the order of zones, passages, leaves, sends and doors counts, since it means something.
 */
export function diffSites(before: Site, after: Site, only: (s: Statement) => boolean = () => true): Change[] {
  const old = before.statements.filter(only);
  const pairs = pairStatements(old, after.statements.filter(only));
  const changes = [
    ...pairs.flatMap((pair) => changeOf(before, after, pair) ?? []),
    ...reorderings(pairs, old),
  ];
  return byRank(changes);
}

/** The most consequent first, and what is alike in the order given. */
export const byRank = (changes: readonly Change[]): Change[] => [...changes].sort((x, y) => x.rank - y.rank);
