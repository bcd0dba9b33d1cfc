/** Which statement of one text is which of another. */
import { printStatement } from '#core/notation';
import type { Statement, Token } from '#core/notation';

/** A statement as it was and as it is; one side absent where it came or went. */
export interface Pair {
  readonly was?: Statement;
  readonly now?: Statement;
}

/** Notes say nothing to the box. */
const meaning = (s: Statement): Statement => ({
  ...s,
  clauses: s.clauses.filter((c) => c.name !== 'note'),
});

/** The statement without its layout and its notes: what means the same reads the same. */
const plainText = (s: Statement): string => printStatement(meaning(s));

/** Where things stand and what they are called is not what a statement says. */
const PLACES = new Set(
  'file index subject start end line column head header headEnd clauses commented note at'.split(' '),
);

/** All that a statement says, whatever its layout: equal for what the box would take alike. */
export function meaningOf(s: Statement): string {
  if (s.broken) return plainText(s);
  return JSON.stringify(s, (key, value: unknown) =>
    PLACES.has(key) ? undefined : typeof value === 'bigint' ? String(value) : value,
  );
}

/** Whether two statements are the same word for word. */
function sameWords(a: Statement, b: Statement): boolean {
  const same = (x: readonly Token[], y: readonly Token[]) =>
    x.length === y.length && x.every((t, i) => t.text === y[i]!.text);
  return (
    a === b ||
    (a.kind === b.kind &&
      same(a.header, b.header) &&
      a.clauses.length === b.clauses.length &&
      a.clauses.every((c, i) => same(c.words, b.clauses[i]!.words)))
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
  const join = (was: Statement, now: Statement) => {
    partner.set(now, was);
    taken.add(was);
  };
  const joinBy = (key: (s: Statement) => string | undefined) => {
    const free = new Map<string, Statement[]>();
    for (const s of before) {
      const k = taken.has(s) ? undefined : key(s);
      if (k === undefined) continue;
      const list = free.get(k);
      if (list) list.push(s);
      else free.set(k, [s]);
    }
    for (const s of after) {
      const k = partner.has(s) ? undefined : key(s);
      const was = k === undefined ? undefined : free.get(k)?.shift();
      if (was) join(was, s);
    }
  };
  // Most of two texts is the same in the same order, which needs no looking up.
  const least = Math.min(before.length, after.length);
  let head = 0;
  while (head < least && sameWords(before[head]!, after[head]!)) join(before[head]!, after[head++]!);
  for (let n = 1; n <= least - head; n++) {
    const [was, now] = [before.at(-n)!, after.at(-n)!];
    if (!sameWords(was, now)) break;
    join(was, now);
  }
  const isNamed = (s: Statement) => nameOf(s) !== undefined;
  joinBy((s) => (s.kind === 'box' ? 'box' : isNamed(s) ? `${s.kind}/${nameOf(s)}` : undefined));
  joinBy((s) => (isNamed(s) ? undefined : plainText(s)));
  joinBy((s) => (isNamed(s) ? undefined : about(s)));
  joinBy((s) => (isNamed(s) && s.clauses.length ? `${s.kind} ${body(s)}` : undefined));
  return [
    ...after.map((now): Pair => ({ was: partner.get(now), now })),
    ...before.filter((was) => !taken.has(was)).map((was): Pair => ({ was })),
  ];
}
