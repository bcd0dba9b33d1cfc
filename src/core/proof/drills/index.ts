/** What happens when a line fails: drills with a clock, and the board of every single fault. */
export { BEAT, DRILL_DEEDS, FRESH, MOST_SECONDS, outagesOf, runDrill } from './drill';
export type { Beat, DrillAct, DrillDeed, DrillFault, DrillRun, DrillScript, Noticed, Outage } from './drill';
export { faultKey, faultsOf, newWeakPoints, pairsOf, tryFaults } from './what-if';
export type { Bearer, Fault, Outcome, WeakPoint, WhatIf, WhatIfRow } from './what-if';
