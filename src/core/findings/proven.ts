/** Which mends do what they offer: each is tried on the text, and what it leaves behind is looked at. */
import { siteAfter } from '#core/edits';
import { modelOf } from '#core/model';
import { Reach } from '#core/reach';
import { contextOf, findAll } from './runner';
import type { Context, Finding, Mend } from './finding';

const countErrors = (findings: readonly Finding[]): ReadonlyMap<string, number> => {
  const out = new Map<string, number>();
  for (const f of findings) if (f.severity === 'error') out.set(f.code, (out.get(f.code) ?? 0) + 1);
  return out;
};

/** Whether a mend clears its finding and brings no error that was not there. */
export function isProven(
  context: Context,
  findings: readonly Finding[],
  finding: Finding,
  mend: Mend,
): boolean {
  const { site, observed, memory } = context;
  const after = findAll(contextOf(new Reach(modelOf(siteAfter(site, mend.changes))), observed, memory));
  if (after.some((f) => f.id === finding.id)) return false;
  const before = countErrors(findings);
  return [...countErrors(after)].every(([code, n]) => n <= (before.get(code) ?? 0));
}

/**
 * The findings with only those mends that are proven, one finding a step; `most` mends are tried at all, and what is
 * not tried is not offered. `all` are the findings of the site, where `findings` are some of them.
 */
export function* withProvenMends(
  context: Context,
  findings: readonly Finding[],
  most = Infinity,
  all = findings,
): Generator<Finding, void> {
  let left = most;
  for (const finding of findings)
    yield finding.mends.length
      ? {
          ...finding,
          mends: finding.mends.filter((m) => left-- > 0 && isProven(context, all, finding, m)),
        }
      : finding;
}
