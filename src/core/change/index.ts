/** What changes, in which order, and how it is tried. */
export { diffSites } from './diff';
export type { Change } from './diff';
export { mergeDraft } from './merge';
export type { Clash, Merge } from './merge';
export { lookForCrossing, planCrossing } from './plan';
export type { Beside, Plan, PlanOptions, PlanStep, SeatFate } from './plan';
export { SeatWorld, byShell, contactsOf, seatClauses } from './seat';
export type { Contact, Counts, DeskMove, Seat } from './seat';
export { slowCrossings } from './slow';
export type { SlowCrossing, SlowStep } from './slow';
export { TRIAL_SECONDS, factoryBox, sameFiles, secondsFor, stepBox } from './trial';
export type { BoxEvent, BoxFile, BoxState, Files, HistoryEntry, Refusal, Trial } from './trial';
export { standbyFirst } from './standby';
export type { TwoBoxes } from './standby';
