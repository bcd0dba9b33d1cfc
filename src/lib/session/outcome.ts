/** What an edit brings and takes away, in findings. */
import type { FindingView } from '../../worker/protocol';

export interface Foretold {
  readonly comes: readonly FindingView[];
  readonly goes: readonly FindingView[];
}

/** Findings are the same when code and subject are. What only the box knows is not asked again, so it does not go. */
export function outcomeOf(before: readonly FindingView[], after: readonly FindingView[]): Foretold {
  const key = (f: FindingView) => `${f.code} ${f.subject}`;
  const [had, has] = [new Set(before.map(key)), new Set(after.map(key))];
  return {
    comes: after.filter((f) => !had.has(key(f))),
    goes: before.filter((f) => !has.has(key(f)) && f.code !== 'first-password'),
  };
}
