/** A thing that is wanted in one gesture: what it asks, with everything its place suggests, and what it writes. */
import { parseDocument } from '#core/notation';
import type { ClauseOp, FileChange, Kind, ReadProblem, Statement } from '#core/notation';
import type { Model } from '#core/model';
import type { Site } from '#core/site';
import { addStatement, changeClauses, joinChanges } from '../change';
import type { Slot, Takes, Values } from '../forms';

/** Where somebody stands when they ask for it. */
export interface Place {
  readonly zone?: string;
  readonly port?: string;
  readonly interface?: string;
  /** The other zone of a passage. */
  readonly to?: string;
  /** A public address of the ledger, or one that a lease has. */
  readonly address?: string;
  readonly mac?: string;
  readonly label?: string;
  readonly role?: Role;
  readonly tag?: string;
}

export type Role = 'inside' | 'upstream' | 'dmz' | 'management';

/** One thing that is asked. */
export interface Ask {
  readonly slot: Slot;
  /** What the place suggests; what somebody put in stands instead. */
  readonly value: string;
  readonly offers?: readonly string[];
  /** Codes of the offers, which are said in words. */
  readonly said?: boolean;
}

/** Why it cannot be written as it stands. */
export type MakingFault =
  | { readonly what: 'needed' }
  /** A sign that would end the value where it stands. */
  | { readonly what: 'sign'; readonly sign: string }
  | { readonly what: 'name' }
  | { readonly what: 'taken'; readonly subject: string }
  | { readonly what: 'no-address' }
  | { readonly what: 'not-host'; readonly network: string }
  | { readonly what: 'outside'; readonly network: string }
  | { readonly what: 'no-uplink' }
  | { readonly what: 'no-such'; readonly kind: Kind; readonly name: string }
  | { readonly what: 'no-lease-yet'; readonly station: string }
  | { readonly what: 'nothing' }
  | { readonly what: 'reads'; readonly fault: ReadProblem };

export type Made =
  | {
      readonly ok: true;
      readonly statements: readonly string[];
      readonly changes: readonly FileChange[];
      /** What the slip shows afterwards. */
      readonly subject: string;
    }
  | { readonly ok: false; readonly ask?: string; readonly why: MakingFault };

export interface Gesture {
  /** What is asked, given what is put in already; the rest is suggested. */
  readonly asks: (model: Model, place: Place, values: Values) => readonly Ask[];
  readonly write: (model: Model, values: Values, place: Place) => Made;
}

export const refuse = (ask: string | undefined, why: MakingFault): Made => ({ ok: false, ask, why });

/** An ask for one value. */
export const ask = (
  key: string,
  takes: Takes,
  value = '',
  more: Omit<Slot, 'key' | 'takes'> & { readonly offers?: readonly string[]; readonly said?: boolean } = {},
): Ask => {
  const { offers, said, ...slot } = more;
  return { slot: { key, takes, ...slot }, value, offers, said };
};

/** A choice among codes, which are said in words. */
export const pick = (key: string, value: string, words: readonly string[]): Ask => ({
  slot: { key, takes: 'word', words },
  value,
  offers: words,
  said: true,
});

/** The values of all asks: what was put in, else what is suggested. */
export const valuesOf = (asks: readonly Ask[], put: Values): Values =>
  Object.fromEntries(asks.map((a) => [a.slot.key, put[a.slot.key] ?? a.value]));

/** The first value that is needed and missing, or that has a sign in it which ends a clause, a string or a line. */
export function wrongValue(asks: readonly Ask[], values: Values): Made | undefined {
  for (const { slot } of asks) {
    const value = values[slot.key]?.trim() ?? '';
    if (value === '' && !slot.may) return refuse(slot.key, { what: 'needed' });
    const isQuoted = slot.takes === 'text' || slot.takes === 'secret';
    const sign = isQuoted ? undefined : /[,#"\n]/.exec(value)?.[0];
    if (sign !== undefined) return refuse(slot.key, { what: 'sign', sign });
  }
  return undefined;
}

/** Statements being written together. */
export class Sheet {
  private readonly parts: (readonly FileChange[])[] = [];
  private readonly ops = new Map<Statement, ClauseOp[]>();
  readonly statements: string[] = [];
  constructor(private readonly site: Site) {}

  add(kind: Kind, text: string, place: Parameters<typeof addStatement>[3] = {}): this {
    this.statements.push(text);
    this.parts.push(addStatement(this.site, kind, text, place));
    return this;
  }

  /** Adds or changes a clause of a statement that is there. */
  clause(statement: Statement, op: ClauseOp, shown: string): this {
    this.statements.push(shown);
    const ops = this.ops.get(statement);
    if (ops) ops.push(op);
    else this.ops.set(statement, [op]);
    return this;
  }

  /** All of it, or the first fault of what would be written. */
  done(subject: string): Made {
    for (const text of this.statements) {
      const { problems, statements } = parseDocument(text, '');
      const [fault] = problems;
      if (fault) return refuse(undefined, { what: 'reads', fault });
      if (statements.length > 1) return refuse(undefined, { what: 'nothing' });
    }
    const clauses = [...this.ops].map(([statement, ops]) => changeClauses(this.site, statement, ops));
    const changes = joinChanges(...this.parts, ...clauses);
    return changes.length
      ? { ok: true, statements: this.statements, changes, subject }
      : refuse(undefined, { what: 'nothing' });
  }
}
