/** The Site: what all statements say together, the wiring with its suppositions, and what is foreseen to be learned. */
export {
  ETHERNET_MTU,
  buildSite,
  documentOf,
  failedWhile,
  hasEnded,
  interfaceNamed,
  carriedMtu,
  linkMtu,
  primaryAddress,
  staticNetworks,
  zoneNamed,
} from './site';
export type { Interface, NameProblem, OwnAddress, Pool, Port, Site, Zone } from './types';
export {
  claimantAt,
  interfaceAt,
  isLit,
  isLooped,
  jackCarries,
  jackOf,
  landed,
  landingOf,
  landingOn,
  legLanding,
  routingSwitch,
  segmentOf,
} from './segments';
export type { Landing } from './segments';
export {
  announcedBy,
  circuitMac,
  completeWiring,
  describedPorts,
  interfaceMac,
  lowestFree,
  macFor,
} from './wiring';
export {
  boxSideOf,
  handedOn,
  interfaceFor,
  legToBox,
  routerAt,
  routersOn,
  sentToBox,
  stationsBehind,
  wayInside,
  waysInside,
} from './inside';
export type { InsideWay, OnSegment } from './inside';
export { lendersAt, lentTo, relayingAt } from './lenders';
export { forwardedTo, namesAsked, recordNames, recordOf } from './resolving';
export type { Lender, Relaying } from './lenders';
export type { Circuit, Far, InsideRouter, LentPool, RouterLeg, Station, Wiring } from './wiring';
export {
  addressesOf,
  advertisedNetwork,
  circuitsOf,
  coveredBy,
  delegatedAddresses,
  foresee,
  gateway6Of,
  gatewayOf,
  lowestLent6,
  optionsFor,
  networksOf,
  poolOf,
  poolSize,
  primaryOf,
  slaacAddress,
  speaks6,
  stationsOf,
  wantsDelegation,
} from './prospects';
export type { Learned, Learned6, Prospects, UplinksLearned } from './prospects';
export { boxNames, gatewayAddress, pairedInterfaces, twinAddresses, twinSite } from './pair';
