/** Which statement of one text is which of another. */
import { memo } from '#core/base';
import { printStatement, written } from '#core/notation';
import type { Statement, Token } from '#core/notation';

/** A statement as it was and as it is; one side absent where it came or went. */
export interface Pair {
  readonly was?: Statement;
  readonly now?: Statement;
  /** Known to be the same word for word; absent where nobody looked. */
  readonly same?: true;
}

/** The statement without its layout and its notes, which say nothing to the box: what means the same reads the same. */
const plainText = (s: Statement): string => printStatement(s, '\n', (c) => c.name !== 'note');

/** Where things stand and what they are called is not what a statement says. */
const PLACES = new Set('file index subject start end line column head source note at'.split(' '));

/** All that a statement says, whatever its layout: equal for what the box would take alike. */
export function meaningOf(s: Statement): string {
  if (s.broken) return plainText(s);
  return JSON.stringify(s, (key, value: unknown) =>
    PLACES.has(key) ? undefined : typeof value === 'bigint' ? String(value) : value,
  );
}

/** Whether two statements are the same word for word. */
function sameWords(a: Statement, b: Statement): boolean {
  if (a === b || a.source === b.source) return true;
  if (a.kind !== b.kind) return false;
  const same = (x: readonly Token[], y: readonly Token[]) =>
    x.length === y.length && x.every((t, i) => t.text === y[i]!.text);
  const [was, now] = [written(a), written(b)];
  return (
    same(was.header, now.header) &&
    was.clauses.length === now.clauses.length &&
    was.clauses.every((c, i) => same(c.words, now.clauses[i]!.words))
  );
}

const nameOf = (s: Statement): string | undefined => ('name' in s ? s.name : undefined);

/** What a statement says, whatever it is called. */
const body = (s: Statement): string => {
  const text = plainText(s);
  return text.slice(text.indexOf(':'));
};

/** Statements without a name that are about the same: a passage between the same zones, a leave of the same WHO. */
const about = (s: Statement): string => s.subject.replace(/#\d+$/, '');

/**
 * Pairs statements: those with a name by kind and name, then one that went with one that came and says the same under
 * another name; those without a name by what they say, then in order with those about the same.
 */
export function pairStatements(before: readonly Statement[], after: readonly Statement[]): Pair[] {
  const partner = new Map<Statement, Statement>();
  const taken = new Set<Statement>();
  // Most of two texts is the same in the same order, which needs no looking up.
  const least = Math.min(before.length, after.length);
  let head = 0;
  while (head < least && sameWords(before[head]!, after[head]!)) head++;
  let tail = 0;
  while (tail < least - head && sameWords(before.at(-1 - tail)!, after.at(-1 - tail)!)) tail++;
  const old = before.slice(head, before.length - tail);
  const fresh = after.slice(head, after.length - tail);
  const joinBy = (key: (s: Statement) => string | undefined) => {
    const free = new Map<string, Statement[]>();
    for (const s of old) {
      const k = taken.has(s) ? undefined : key(s);
      if (k !== undefined) memo(free, k, (): Statement[] => []).push(s);
    }
    for (const s of fresh) {
      const k = partner.has(s) ? undefined : key(s);
      const was = k === undefined ? undefined : free.get(k)?.shift();
      if (!was) continue;
      partner.set(s, was);
      taken.add(was);
    }
  };
  const isNamed = (s: Statement) => nameOf(s) !== undefined;
  joinBy((s) => (s.kind === 'box' ? 'box' : isNamed(s) ? `${s.kind}/${nameOf(s)}` : undefined));
  joinBy((s) => (isNamed(s) ? undefined : plainText(s)));
  joinBy((s) => (isNamed(s) ? undefined : about(s)));
  joinBy((s) => (isNamed(s) && written(s).clauses.length ? `${s.kind} ${body(s)}` : undefined));
  const same = (now: Statement, at: number): Pair => ({ was: before.at(at), now, same: true });
  return [
    ...after.slice(0, head).map((now, i) => same(now, i)),
    ...fresh.map((now): Pair => ({ was: partner.get(now), now })),
    ...after.slice(after.length - tail).map((now, i) => same(now, i - tail)),
    ...old.filter((was) => !taken.has(was)).map((was): Pair => ({ was })),
  ];
}
