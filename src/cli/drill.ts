/** `drill`: a continuous ping while lines fail; `what-if`: what every single fault would do. */
import type { Day } from '#core/base';
import {
  DRILL_DEEDS,
  MOST_SECONDS,
  faultKey,
  faultsOf,
  pairsOf,
  runDrill,
  tryFaults,
} from '#core/proof/drills';
import type { Bearer, DrillAct, Outcome, WhatIfRow } from '#core/proof/drills';
import { Reach } from '#core/reach';
import {
  bearerText,
  deadText,
  deedText,
  drillFaultText,
  drillText,
  faultText,
  noticedText,
  outcomeText,
  secondsText,
} from '#words';
import { Unusable, readModel } from './input';
import type { CommandResult } from './outcome';

export interface DrillOptions {
  readonly from: string;
  readonly to?: string;
  /** Seconds. */
  readonly for: string;
  readonly do: readonly string[];
  readonly at?: Day;
}

/** Reads `5 cut p1`, `20 slow northmoor 300`. */
function readAct(text: string): DrillAct {
  const match = /^\s*(\d+(?:\.\d+)?)\s*s?\s+(\S+)\s+(\S+)(?:\s+(\d+(?:\.\d+)?)\s*(?:ms|%)?)?\s*$/.exec(text);
  const what = DRILL_DEEDS.find((d) => d === match?.[2]);
  if (!match || !what)
    throw new Unusable(
      `“${text}” is nothing to do; write seconds, one of ${DRILL_DEEDS.join(', ')}, and a line, such as "5 cut p1"`,
    );
  const measured = what === 'slow' || what === 'lossy';
  const by = match[4] === undefined ? undefined : Number(match[4]);
  if (measured !== (by !== undefined) || (by ?? 0) > (what === 'lossy' ? 100 : 10_000))
    throw new Unusable(
      measured
        ? `“${text}” lacks how much: \`slow LINE 300\` in milliseconds up to 10000, \`lossy LINE 20\` in percent`
        : `“${text}” says how much, and ${what} takes nothing`,
    );
  return { at: Number(match[1]) * 1000, what, on: match[3]!, by };
}

export function drillFiles(files: readonly string[], o: DrillOptions): CommandResult {
  const seconds = Number(o.for.replace(/s$/, ''));
  if (!Number.isInteger(seconds) || seconds < 1 || seconds > MOST_SECONDS)
    throw new Unusable(`--for ${o.for} is no time; give seconds from 1 to ${MOST_SECONDS}`);
  const acts = o.do.map(readAct);
  const run = runDrill(new Reach(readModel(files, o.at)), { from: o.from, to: o.to, seconds, acts });
  if ('fault' in run) throw new Unusable(drillFaultText(run));
  const told = [
    ...run.acts.map((a) => ({ at: a.at, text: deedText(a) })),
    ...run.noticed.map((n) => ({ at: n.at, text: noticedText(n) })),
  ].sort((a, b) => a.at - b.at);
  const seen = seenAs(run.fresh);
  return {
    json: { ...run, seen },
    text: `${[
      drillText(run),
      ...told.map((t) => `  ${secondsText(t.at).padStart(8)}  ${t.text}`),
      ...seen.map((s) => `  ${secondsText(s.at).padStart(8)}  who begins now is seen as ${s.as ?? 'nobody'}`),
    ].join('\n')}\n`,
    status: run.outages.length ? 1 : 0,
  };
}

/** When the address that new flows show changed. */
function seenAs(
  fresh: readonly { readonly at: number; readonly seen?: string }[],
): { at: number; as?: string }[] {
  return fresh.flatMap((b, i) => (i > 0 && fresh[i - 1]!.seen === b.seen ? [] : [{ at: b.at, as: b.seen }]));
}

export function whatIf(files: readonly string[], isPairs: boolean, at?: Day): CommandResult {
  const model = readModel(files, at);
  const singles = faultsOf(model);
  const looking = tryFaults(new Reach(model), isPairs ? [...singles, ...pairsOf(model)] : singles);
  const rows: WhatIfRow[] = [];
  for (;;) {
    const { done, value } = looking.next();
    if (done) return told(value, rows);
    if (value) rows.push(value);
  }
}

function told(bearers: readonly Bearer[], rows: readonly WhatIfRow[]): CommandResult {
  const lines = rows.flatMap((row) => {
    const groups = new Map<string, string[]>();
    for (const [i, outcome] of row.outcomes.entries()) {
      const text = outcomeText(outcome);
      groups.set(text, [...(groups.get(text) ?? []), bearerText(bearers[i]!)]);
    }
    return [faultText(row.fault), ...[...groups].map(([text, names]) => `  ${names.join(', ')}: ${text}`)];
  });
  const plain = (o: Outcome) => (o.is === 'dead' ? { is: o.is, why: deadText(o.why) } : o);
  return {
    json: {
      bearers,
      faults: rows.map((r) => ({ fault: faultKey(r.fault), ...r.fault, outcomes: r.outcomes.map(plain) })),
    },
    text: `${lines.join('\n')}\n`,
    status: rows.some((r) => r.outcomes.some((o) => o.is === 'dead')) ? 1 : 0,
  };
}
