/**
 * Merging by statement: what somebody else changed of what a draft was made from is brought into the draft, and what
 * both changed is shown with both sides.
 */
import { addStatement, changeClauses, dropStatement, joinChanges, textOf } from '#core/edits';
import { clausesOf, isOfBox, written } from '#core/notation';
import type { ClauseOp, FileChange, Statement } from '#core/notation';
import { documentOf } from '#core/site';
import type { Site } from '#core/site';
import { changeOf, reorderings } from './diff';
import type { Change } from './diff';
import { meaningOf, pairStatements } from './pairs';
import type { Pair } from './pairs';

/** One statement that both sides changed, and not alike. The draft keeps its own until told otherwise. */
export interface Clash {
  readonly subject: string;
  /** As it was, as they have it, as the draft has it; absent where it is not there. */
  readonly base?: string;
  readonly theirs?: string;
  readonly ours?: string;
  /** What takes their side; nothing where it is an order of statements. */
  readonly take: readonly FileChange[];
}

export interface Merge {
  /** Of the draft: what they changed and it did not. */
  readonly changes: readonly FileChange[];
  readonly taken: readonly Change[];
  readonly clashes: readonly Clash[];
}

/** Brings what changed from `base` to `theirs` into a draft that was made from `base`. */
export function mergeDraft(base: Site, theirs: Site, draft: Site): Merge {
  return new Merging(base, theirs, draft).merge();
}

class Merging {
  private readonly their: readonly Pair[];
  private readonly our: readonly Pair[];
  private readonly oursOf: ReadonlyMap<Statement, Statement>;
  private readonly baseOf: ReadonlyMap<Statement, Statement>;
  private readonly edits: (readonly FileChange[])[] = [];
  private readonly taken: Change[] = [];
  private readonly clashes: Clash[] = [];
  private readonly dropped = new Set<Statement>();
  /** Texts to be put behind a statement of the draft, or where their kind stands. */
  private readonly added = new Map<Statement | Statement['kind'], string[]>();

  constructor(
    private readonly base: Site,
    private readonly theirs: Site,
    private readonly draft: Site,
  ) {
    const told = (site: Site) => site.statements.filter(isOfBox);
    this.their = pairStatements(told(base), told(theirs));
    this.our = pairStatements(told(base), told(draft));
    this.oursOf = new Map(this.our.flatMap(({ was, now }) => (was && now ? [[was, now] as const] : [])));
    this.baseOf = new Map(this.their.flatMap(({ was, now }) => (was && now ? [[now, was] as const] : [])));
  }

  merge(): Merge {
    for (const { was, now } of this.their) if (was) this.known(was, now);
    for (const { was, now } of this.their) if (!was && now) this.fresh(now);
    for (const [place, texts] of this.added) {
      const text = texts.join('\n');
      this.edits.push(
        typeof place === 'string'
          ? addStatement(this.draft, place, text)
          : addStatement(this.draft, place.kind, text, { after: place }),
      );
    }
    const told = this.base.statements.filter(isOfBox);
    const ours = reorderings(this.our, told);
    for (const order of reorderings(this.their, told)) {
      const kind = kindOf(order.subject);
      const mine = ours.find((o) => kindOf(o.subject) === kind);
      if (mine?.text !== order.text)
        this.clashes.push({ subject: order.subject, theirs: order.text, ours: mine?.text, take: [] });
    }
    return { changes: joinChanges(...this.edits), taken: this.taken, clashes: this.clashes };
  }

  /** A statement that was there when the draft was made. */
  private known(was: Statement, now: Statement | undefined): void {
    const change = changeOf(this.base, this.theirs, { was, now });
    if (!change) return;
    const ours = this.oursOf.get(was);
    const mine = changeOf(this.base, this.draft, { was, now: ours });
    if (!mine) {
      if (!now) this.dropped.add(ours!);
      return this.take(change, this.instead(ours!, now));
    }
    if (!now && !ours) return;
    if (now && ours && meaningOf(now) === meaningOf(ours)) return;
    const clauses = now && ours && this.besides(change, mine, now, ours);
    if (clauses) return this.take(change, clauses);
    this.clash(ours ?? now!, was, now, ours);
  }

  /** A statement that they have made. */
  private fresh(now: Statement): void {
    const made = this.our.filter((p) => !p.was).map((p) => p.now!);
    if (made.some((s) => meaningOf(s) === meaningOf(now))) return;
    const named = 'name' in now ? this.draft.statements.find((s) => s.subject === now.subject) : undefined;
    if (named) return this.clash(named, undefined, now, named);
    const place = this.before(now) ?? now.kind;
    const texts = this.added.get(place);
    const text = textOf(this.theirs, now);
    if (texts) texts.push(text);
    else this.added.set(place, [text]);
    this.take(changeOf(this.base, this.theirs, { now })!, []);
  }

  /** The statement of the draft that stands before where one of theirs stands among its kind. */
  private before(now: Statement): Statement | undefined {
    const like = this.theirs.statements.filter((s) => s.kind === now.kind);
    for (const s of like.slice(0, like.indexOf(now)).reverse()) {
      const was = this.baseOf.get(s);
      const ours = was && this.oursOf.get(was);
      if (ours?.kind === now.kind && !this.dropped.has(ours)) return ours;
    }
    return undefined;
  }

  /** Clauses that only they changed, where each side changed its own; undefined where they meet. */
  private besides(
    theirs: Change,
    mine: Change,
    now: Statement,
    ours: Statement,
  ): readonly FileChange[] | undefined {
    const names = (c: Change) => new Set(c.clauses.map((x) => x.name));
    const [there, here] = [names(theirs), names(mine)];
    if (there.has('name') || here.has('name') || [...there].some((n) => here.has(n))) return undefined;
    if (now.kind === 'expect' || ![...there].every((n) => isClause(now, n) || isClause(ours, n)))
      return undefined;
    const { text } = documentOf(this.theirs, now);
    const ops = [...there].flatMap((name): ClauseOp[] => {
      const gone = clausesOf(ours, name);
      const come = clausesOf(now, name);
      const texts = come.map((c) => text.slice(c.start, c.end));
      return [
        ...gone.map((): ClauseOp => ({ do: 'remove', name, nth: 0 })),
        ...texts.map((text): ClauseOp => ({ do: 'add', text })),
      ];
    });
    return changeClauses(this.draft, ours, ops);
  }

  private instead(ours: Statement, now: Statement | undefined): readonly FileChange[] {
    if (!now) return dropStatement(this.draft, ours);
    const text = textOf(this.theirs, now);
    return [{ file: ours.file, edits: [{ start: ours.start, end: ours.end, text }] }];
  }

  private take(change: Change, edits: readonly FileChange[]): void {
    this.taken.push(change);
    this.edits.push(edits);
  }

  private clash(of: Statement, was?: Statement, now?: Statement, ours?: Statement): void {
    const take = ours
      ? this.instead(ours, now)
      : now
        ? addStatement(this.draft, now.kind, textOf(this.theirs, now))
        : [];
    this.clashes.push({
      subject: of.subject,
      base: was && textOf(this.base, was),
      theirs: now && textOf(this.theirs, now),
      ours: ours && textOf(this.draft, ours),
      take,
    });
  }
}

const kindOf = (subject: string): string => subject.split('/')[0]!;
const isClause = (s: Statement, name: string): boolean => written(s).clauses.some((c) => c.name === name);
