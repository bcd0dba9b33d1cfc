/** What the box does with a packet, as data and as answers about one flow. */
export {
  addressesFor,
  answerServices,
  behindInterface,
  compileRules,
  internetSet,
  kindOf,
  outInterfaces,
  zoneSet,
} from './rules';
export type { AnswerRule, LeaveRule, PassageRule, Rules } from './rules';
export { foreseenStates, leadsTo, lookUp, nextHop, routesOf } from './routes';
export type { InterfaceState, Route, States } from './routes';
export { checkSource, decideAnswer, decideLeave, decidePassage, providerDrops } from './decide';
export type { DecidedBy, Flow, PassageDecision, SourceFault } from './decide';
export { wayTo } from './way';
export type { PassedOver, Way } from './way';
