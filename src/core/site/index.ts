/** The Site: what all statements say together, the wiring with its suppositions, and queries on both. */
export { ETHERNET_MTU, buildSite, documentOf, interfaceNamed, primaryAddress, staticNetworks } from './site';
export type { Interface, NameProblem, OwnAddress, Port, Site, Zone } from './site';
export { claimantAt, interfaceAt, jackTag, landed, landingOf } from './segments';
export type { Landing } from './segments';
export { completeWiring, describedPorts, interfaceMac, lowestFree, macFor } from './wiring';
export type { Circuit, Far, Station, Wiring } from './wiring';
export {
  addressesOf,
  circuitsOf,
  foresee,
  gatewayOf,
  networksOf,
  poolSize,
  primaryOf,
  stationsOf,
} from './prospects';
export type { Learned, Prospects } from './prospects';
export { freeName, nearestFreeSubnet, nextFreeSubnet } from './suggest';
