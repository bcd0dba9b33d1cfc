/** What every form of promise is judged with. */
import type { Bench } from '#core/bench';
import type { StatementOf, Who } from '#core/notation';
import type { Place, PromiseOnSets, Reach } from '#core/reach';
import type { DoorRule } from '#core/semantics';
import type { PromiseCode, PromiseValues } from '../told';
import type { Try } from './attempts';
import type { End } from './ends';

export interface PromiseResult {
  readonly statement: StatementOf<'expect'>;
  readonly result: 'pass' | 'fail';
  readonly code: PromiseCode;
  readonly values: Readonly<Record<string, string | undefined>>;
}

/** Tells what became of a promise. */
type Tell = <C extends keyof PromiseValues>(code: C, values: PromiseValues[C]) => PromiseResult;

/** What is told of one attempt. */
export type Told = PromiseValues['promise-not-reached'];

type Said = NonNullable<StatementOf<'expect'>['promise']>;
/** What a promise of one form says. */
type Of<S extends Said['says'], P = Said> = P extends { readonly says: infer T }
  ? S extends T
    ? P
    : never
  : never;

/** A flow that somebody points to, who judges nothing here. */
export type Pointed = Pick<PromiseOnSets, 'why' | 'witness'>;

/** A promise of one form, put to a bench that has booted. The reach is its witness: it points to flows, and judges none. */
export interface Judging<S extends Said['says']> {
  readonly bench: Bench;
  readonly reach: Reach;
  /** The flow that the witness points to, and why it would break the promise; asked where nobody can sit. */
  readonly pointed: () => Pointed | undefined;
  readonly promise: Of<S>;
  readonly sources: readonly End[];
  /** Who may be on a provider's line. */
  readonly strangers: readonly Place[];
  readonly doorOf: (who: Who) => DoorRule | undefined;
  /** What is told of an attempt. */
  readonly told: (t: Try) => Told;
  readonly pass: Tell;
  readonly fail: Tell;
}
