/** The reach of a site: the rules on sets of flows, exact, with a witness for each answer. */
export type { End, Outcome } from './outcome';
export { FAMILIES, has, pointOf } from './block';
export type { Block, Point, Region } from './block';
export { Reach } from './reach';
export type { Passing } from './reach';
export { stationGateway } from './places';
export type { Place } from './places';
export { ReachMemory } from './table/memory';
export { ReachTable } from './table/table';
export { compareReach } from './table/compare';
export type { Cell, ReachEnd } from './table/parts';
export type { ReachChange } from './table/compare';
export { shadowed, takings } from './behind';
export type { Taking } from './behind';
export { becauseOf } from './because';
export type { Because, BecauseCode } from './because';
export { doorPlaces, exitsOf, judgeOnSets, promiseNow, spotOf } from './promise';
export type { PromiseOnSets, Why } from './promise';
