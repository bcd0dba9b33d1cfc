/** The reach of a site: the rules on sets of flows, exact, with a witness for each answer. */
export { Follower } from './follow';
export type { End, Outcome } from './follow';
export { has } from './block';
export type { Block, Point, Region } from './block';
