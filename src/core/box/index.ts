/** The contract with a box, and the bench box behind it. */
export { ATTEMPTS, deviceOf, receive, send } from './device';
export type { Device, Order, OrderAnswer, Line } from './device';
export { LIVE_REFUSALS, printable, readAnswer } from './live';
export type { Heard, LiveHello, LiveLog, LiveRefusal, LiveState } from './live';
export { readOther, rivals } from './others';
export type { Other } from './others';
export {
  AskSchema,
  BoxesSchema,
  EnterSchema,
  HandSchema,
  MeetSchema,
  OrderSchema,
  WatchSchema,
} from './relay';
export type {
  BoxShown,
  Hand,
  Knock,
  LiveStage,
  LiveUplink,
  Met,
  Ordered,
  RelayAsk,
  RelayBoxes,
  RelayEvent,
  RelayOrder,
} from './relay';
export { sightOf } from './sight';
export type { HitSight, LeaseSight, NeighbourSight, PortSight, Restored, RouteSight, Sight } from './sight';
