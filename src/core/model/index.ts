/** The Model of a site, made once for each version of its text; suggestions and questions about it. */
export { modelAt, modelOf, unlearned } from './model';
export type { Model } from './model';
export { firstHost, freeName, nearestFreeSubnet, nextFreeSubnet } from './suggest';
export { plausibleValues } from './plausible';
export { leavingsOf } from './leaving';
export type { Leavings, Taken } from './leaving';
export { comparePlan, compareReservations, plannedIn } from './plan';
export type {
  Compared,
  ComparedReservation,
  PlanComparison,
  PlanField,
  PlanNetwork,
  PlanReservation,
} from './plan';
export { foldFree, freePublic, ledgerOf } from './ledger';
export type { LedgerLine, LedgerRow, LedgerUse } from './ledger';
