/** Proof on the bench: ladders, desks, promises and traces. */
export { UPLINK_STAGES, familiesOf } from './ladder';
export type { StageName, StageResult, UplinkLadder } from './ladder';
export { DESK_STAGES } from './desks';
export type { DeskLadder } from './desks';
export { bootBench, prove, proveOn } from './prove';
export type { Drill, LeaseSeen, NameSeen, Proof, RouteSeen } from './prove';
export type { LearnedSeen } from './learned';
export type { PromiseResult } from './promises';
export { traceFlow } from './trace';
export type { Trace, TraceFault, TraceQuestion, Verdict } from './trace';
export { judge } from './promises';
export type { EndCode } from './explain';
export type { Ended, Ending, PromiseValues, StageCode, StageValues } from './told';
export { logOf } from './log';
export type { LogRow } from './log';
export { captureFlow } from './capture';
export type { FlowFrame } from './capture';
