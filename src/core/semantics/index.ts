/**
 * What the box does with a packet, as data and as answers about one flow. Its way has twelve steps; they are counted here,
 * and everybody who speaks of "step 8" means this list (behaviour, "The way of a packet"):
 *
 *  1. Arrival: port and tag pick the interface; a bridge forwards between its members and takes what is for itself.
 *  2. ARP and neighbour discovery: the box answers for every address of that interface, and for what it stands in for.
 *  3. Own business, always taken: DHCP, router advertisements, neighbour discovery, PPP, replies to the box itself.
 *  4. Known flow: replies and errors of a flow that is allowed skip to 8, by the table and interface that it came from.
 *  5. Source check, of what starts a flow: a route leads back; `guard` asks for one by this interface.
 *  6. Door: a new flow to a door's address and service gets the inside address and service.
 *  7. For the box itself: the `answers` of the arrival interface decide.
 *  8. Route: `send` first, then the longest prefix of the table, then distance, priority and order; of a default route
 *     by an uplink that shares, the share of the source.
 *  9. Passage: the first statement between the two zones; none: `within`, or nothing between zones.
 * 10. Leave: the first statement says which source address the flow shows, or that it never goes.
 * 11. Neighbour: the next hop must answer on the interface.
 * 12. Departure: TTL, MTU, segment size, then out with the interface's tag.
 */
export {
  LOGINS,
  addressesFor,
  answerServices,
  compileRules,
  outwardRules,
  suffixed,
  whoNow,
  internetSet,
  isTranslation,
  kindOf,
  knownRanges,
  outInterfaces,
  pairServices,
  zoneSet,
} from './rules';
export type { AnswerRule, DoorRule, HostSuffix, LeaveRule, PassageRule, Rules, SendRule } from './rules';
export { behindInterface } from './behind';
export {
  BUCKETS,
  bucketOf,
  isSharer,
  isWide,
  portionOf,
  preferenceOf,
  shareBy,
  shareTogether,
  sharedRoute,
  usualRoute,
  wayBy,
} from './share';
export type { ShareRule, Sharer } from './share';
export { foreseenStates, inOrder, isLive, isNextHop, leadsTo, lookUp, nextHop, routesOf } from './routes';
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
export type { PassedOver, Whereabouts } from './way';
