/** The bench: machines on links with real frames, virtual time, and a seed. */
export { Bench } from './bench';
export type { BenchOptions } from './bench';
export { answerOf } from './endpoints';
export type { Attempt } from './endpoints';
export type { Lease } from './dhcp-client';
export type { Seen } from './cloud';
export { Host } from './host';
export { Box } from './box';
export type { BoxInterface } from './box-interface';
export type { EndedFlow, Happening, Stage, Step, StepCode, Told } from './trace';
export type { DeadBecause } from './uplinks';
export type { Tap } from './link';
export { readPacket } from './packet';
export { ndOf } from './segment';
