/** What the box does with a packet, as data and as answers about one flow. */
export {
  LOGINS,
  addressesFor,
  answerServices,
  behindInterface,
  compileRules,
  internetSet,
  kindOf,
  outInterfaces,
  pairServices,
  zoneSet,
} from './rules';
export type { AnswerRule, DoorRule, LeaveRule, PassageRule, Rules, SendRule } from './rules';
export { foreseenStates, inOrder, isNextHop, leadsTo, lookUp, nextHop, routesOf } from './routes';
export type { InterfaceState, Route, States } from './routes';
export {
  checkSource,
  decideAnswer,
  decideDoor,
  isAskedFor,
  decideLeave,
  decidePassage,
  decideSend,
  outsideOf,
  providerDrops,
} from './decide';
export type { DecidedBy, Flow, PassageDecision, SourceFault, ThroughDoor } from './decide';
export { askedServices, namedServices } from './asked';
export type { AskedService } from './asked';
export { proxiedBy } from './claims';
export { wayTo } from './way';
export type { PassedOver, Way } from './way';
