/** Drills and the what-if board, as the worker does them: plain data, in slices. */
import { faultsOf, pairsOf, runDrill, tryFaults } from '#core/proof/drills';
import type { DrillScript, WhatIfRow } from '#core/proof/drills';
import { Reach } from '#core/reach';
import { drillFaultText } from '#words';
import { modelFrom } from './engine';
import type { Remembered, Time } from './engine';
import type { DrillAnswer, TextFile, WhatIfTold, WhatIfView } from './protocol';

/** Runs a drill on texts. */
export function drill(files: readonly TextFile[], script: DrillScript, last: Remembered): DrillAnswer {
  const run = runDrill(new Reach(modelFrom(files, last)), script);
  return 'fault' in run ? { ok: false, why: drillFaultText(run) } : { ok: true, run };
}

/** How long the board is filled before the worker hears what else is wanted, milliseconds. */
const SLICE = 30;

/**
 * Fills the what-if board. What is known so far is told row by row; another call ends it, and then there is no answer.
 */
export async function whatIf(
  files: readonly TextFile[],
  isPairs: boolean,
  told: WhatIfTold,
  { clock, pause }: Time,
  last: Remembered,
): Promise<WhatIfView | undefined> {
  const mine = ++last.trying;
  const model = modelFrom(files, last);
  const singles = faultsOf(model);
  const faults = isPairs ? [...singles, ...pairsOf(model)] : singles;
  const looking = tryFaults(new Reach(model), faults);
  const rows: WhatIfRow[] = [];
  let since = clock();
  for (;;) {
    const { done, value } = looking.next();
    if (done) return { bearers: value, rows };
    if (value) rows.push(value);
    if (clock() - since > SLICE) {
      told(rows.length, faults.length);
      await pause();
      if (last.trying !== mine) return undefined;
      since = clock();
    }
  }
}
