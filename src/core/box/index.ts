/** The contract with a box, and the bench box behind it. */
export { ATTEMPTS, deviceOf, receive, send } from './device';
export type { Device, Order, OrderAnswer, Line } from './device';
export { LIVE_REFUSALS, printable, readAnswer } from './live';
export type { Heard, LiveHello, LiveRefusal, LiveState } from './live';
