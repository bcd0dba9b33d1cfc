/** Every check, family by family. */
import { aggregateMemberBusy } from './interfaces/aggregate-member-busy';
import { aggregateOneMember } from './interfaces/aggregate-one-member';
import { aggregateOneSided } from './interfaces/aggregate-one-sided';
import { aggregateUnlike } from './interfaces/aggregate-unlike';
import { optionOwned } from './leases/option-owned';
import { optionUnused } from './leases/option-unused';
import { relayUnanswered } from './leases/relay-unanswered';
import { suffixNowhere } from './passing/suffix-nowhere';
import { recordToLent } from './upstream/record-to-lent';
import { recordUnserved } from './upstream/record-unserved';
import { answersAround } from './upstream/answers-around';
import { behindUnrouted } from './upstream/behind-unrouted';
import { routerGatewayForeign } from './upstream/router-gateway-foreign';
import { switchLoop } from './interfaces/switch-loop';
import { mssOff } from './interfaces/mss-off';
import { lendsTooSmall } from './leases/lends-too-small';
import { doorPortsUnequal } from './passing/door-ports-unequal';
import { namesUnlisted } from './upstream/names-unlisted';
import type { ReadFaults } from '#core/notation';
import type { Check, ValuesOfCheck } from '../finding';
import { addressDuplicate } from './addresses/address-duplicate';
import { addressNotHost } from './addresses/address-not-host';
import { addressPrivateUpstream } from './addresses/address-private-upstream';
import { addressSpecial } from './addresses/address-special';
import { alsoNotCovered } from './addresses/also-not-covered';
import { alsoOtherSubnet } from './addresses/also-other-subnet';
import { guardBlocksUpstream } from './addresses/guard-blocks-upstream';
import { macDuplicate } from './addresses/mac-duplicate';
import { maskDiffers } from './addresses/mask-differs';
import { stationGatewayForeign } from './addresses/station-gateway-foreign';
import { subnetDuplicateInOtherTable } from './addresses/subnet-duplicate-in-other-table';
import { subnetFull } from './addresses/subnet-full';
import { subnetNearlyFull } from './addresses/subnet-nearly-full';
import { subnetOverlap } from './addresses/subnet-overlap';
import { answersOnDmz } from './answers/answers-on-dmz';
import { answersOpenUpstream } from './answers/answers-open-upstream';
import { firstPassword } from './answers/first-password';
import { noWayIn } from './answers/no-way-in';
import { pingSilent } from './answers/ping-silent';
import { plainHttp } from './answers/plain-http';
import { seatCut } from './answers/seat-cut';
import { bridgeMemberBusy } from './interfaces/bridge-member-busy';
import { bridgeMemberTwice } from './interfaces/bridge-member-twice';
import { bridgeOneMember } from './interfaces/bridge-one-member';
import { cableTwice } from './interfaces/cable-twice';
import { interfaceOff } from './interfaces/interface-off';
import { jackUnknown } from './interfaces/jack-unknown';
import { knownUnused } from './interfaces/known-unused';
import { mssTooBig } from './interfaces/mss-too-big';
import { mtuTooBig } from './interfaces/mtu-too-big';
import { nameTagMismatch } from './interfaces/name-tag-mismatch';
import { nativeTagClash } from './interfaces/native-tag-clash';
import { noAddress } from './interfaces/no-address';
import { noCarrier } from './interfaces/no-carrier';
import { noZone } from './interfaces/no-zone';
import { portOff } from './interfaces/port-off';
import { portUnknown } from './interfaces/port-unknown';
import { secretMissing } from './interfaces/secret-missing';
import { tableUnused } from './interfaces/table-unused';
import { tagDuplicate } from './interfaces/tag-duplicate';
import { tagNotCarried } from './interfaces/tag-not-carried';
import { tagUnclaimed } from './interfaces/tag-unclaimed';
import { zoneContradiction } from './interfaces/zone-contradiction';
import { zoneUnused } from './interfaces/zone-unused';
import { zoneWithoutUpstream } from './interfaces/zone-without-upstream';
import { keepDuplicate } from './leases/keep-duplicate';
import { keepOutsideSubnet } from './leases/keep-outside-subnet';
import { lendsCoversBox } from './leases/lends-covers-box';
import { lendsCoversFixed } from './leases/lends-covers-fixed';
import { lendsGatewayForeign } from './leases/lends-gateway-foreign';
import { lendsNoNames } from './leases/lends-no-names';
import { lendsOnClient } from './leases/lends-on-client';
import { lendsOnDmz } from './leases/lends-on-dmz';
import { lendsOutsideSubnet } from './leases/lends-outside-subnet';
import { lendsOverlap } from './leases/lends-overlap';
import { lendsTwoServers } from './leases/lends-two-servers';
import { lendsUpstream } from './leases/lends-upstream';
import { namesUnanswered } from './leases/names-unanswered';
import { dmzInward } from './passing/dmz-inward';
import { doorAmbiguous } from './passing/door-ambiguous';
import { doorClash } from './passing/door-clash';
import { doorForeign } from './passing/door-foreign';
import { doorLeavesElsewhere } from './passing/door-leaves-elsewhere';
import { doorLostOnFailover } from './passing/door-lost-on-failover';
import { doorNotListening } from './passing/door-not-listening';
import { doorToLent } from './passing/door-to-lent';
import { doorToNowhere } from './passing/door-to-nowhere';
import { leaveLostOnFailover } from './passing/leave-lost-on-failover';
import { leaveForeign } from './passing/leave-foreign';
import { leaveMissing } from './passing/leave-missing';
import { leaveShadowed } from './passing/leave-shadowed';
import { passageEmpty } from './passing/passage-empty';
import { passageInward } from './passing/passage-inward';
import { passageOpen } from './passing/passage-open';
import { passageShadowed } from './passing/passage-shadowed';
import { untilPast } from './passing/until-past';
import { untilSoon } from './passing/until-soon';
import { upstreamInward } from './passing/upstream-inward';
import { v6Open } from './passing/v6-open';
import { expectationFailed } from './promises/expectation-failed';
import { nameTwice } from './reading/name-twice';
import { nameUnknown } from './reading/name-unknown';
import { advertisesWithoutAddress } from './upstream/advertises-without-address';
import { blockUnrouted } from './upstream/block-unrouted';
import { gatewayInside } from './upstream/gateway-inside';
import { gatewayIsSelf } from './upstream/gateway-is-self';
import { gatewayNotHost } from './upstream/gateway-not-host';
import { gatewayOffSubnet } from './upstream/gateway-off-subnet';
import { guardMissing } from './upstream/guard-missing';
import { namesUnreachable } from './upstream/names-unreachable';
import { noDefaultRoute } from './upstream/no-default-route';
import { noDefaultRoute6 } from './upstream/no-default-route6';
import { noNames } from './upstream/no-names';
import { routeShadowed } from './upstream/route-shadowed';
import { routeUnreachable } from './upstream/route-unreachable';
import { slaacNot64 } from './upstream/slaac-not-64';
import { timeMissing } from './upstream/time-missing';
import { delegatedWritten } from './passing/delegated-written';
import { nameUnresolved } from './passing/name-unresolved';
import { gatewayNotShared } from './pair/gateway-not-shared';
import { publicNotShared } from './pair/public-not-shared';
import { twinHalf } from './pair/twin-half';
import { virtualOffSubnet } from './pair/virtual-off-subnet';
import { onDemandAlone } from './upstream/on-demand-alone';
import { shareAlone } from './upstream/share-alone';
import { uplinkTie } from './upstream/uplink-tie';
import { uplinkUnwatched } from './upstream/uplink-unwatched';
import { watchSingle } from './upstream/watch-single';

export const STATED = [
  addressDuplicate,
  addressNotHost,
  addressPrivateUpstream,
  addressSpecial,
  alsoNotCovered,
  alsoOtherSubnet,
  guardBlocksUpstream,
  macDuplicate,
  maskDiffers,
  stationGatewayForeign,
  subnetDuplicateInOtherTable,
  subnetFull,
  subnetNearlyFull,
  subnetOverlap,
  answersOnDmz,
  answersOpenUpstream,
  firstPassword,
  noWayIn,
  pingSilent,
  plainHttp,
  seatCut,
  bridgeMemberBusy,
  bridgeMemberTwice,
  bridgeOneMember,
  cableTwice,
  interfaceOff,
  jackUnknown,
  knownUnused,
  mssTooBig,
  mtuTooBig,
  nameTagMismatch,
  nativeTagClash,
  noAddress,
  noCarrier,
  noZone,
  portOff,
  portUnknown,
  secretMissing,
  tableUnused,
  tagDuplicate,
  tagNotCarried,
  tagUnclaimed,
  zoneContradiction,
  zoneUnused,
  zoneWithoutUpstream,
  switchLoop,
  mssOff,
  lendsTooSmall,
  doorPortsUnequal,
  namesUnlisted,
  keepDuplicate,
  keepOutsideSubnet,
  lendsCoversBox,
  lendsCoversFixed,
  lendsGatewayForeign,
  lendsNoNames,
  lendsOnClient,
  lendsOnDmz,
  lendsOutsideSubnet,
  lendsOverlap,
  lendsTwoServers,
  lendsUpstream,
  namesUnanswered,
  dmzInward,
  doorAmbiguous,
  doorClash,
  doorForeign,
  doorLeavesElsewhere,
  doorLostOnFailover,
  doorNotListening,
  doorToLent,
  doorToNowhere,
  leaveForeign,
  leaveLostOnFailover,
  leaveMissing,
  leaveShadowed,
  passageEmpty,
  passageInward,
  passageOpen,
  passageShadowed,
  untilPast,
  untilSoon,
  upstreamInward,
  v6Open,
  expectationFailed,
  nameTwice,
  nameUnknown,
  advertisesWithoutAddress,
  aggregateMemberBusy,
  aggregateOneSided,
  aggregateUnlike,
  aggregateOneMember,
  optionOwned,
  optionUnused,
  relayUnanswered,
  suffixNowhere,
  recordUnserved,
  recordToLent,
  blockUnrouted,
  behindUnrouted,
  routerGatewayForeign,
  answersAround,
  gatewayInside,
  gatewayIsSelf,
  gatewayNotHost,
  gatewayOffSubnet,
  guardMissing,
  namesUnreachable,
  noDefaultRoute,
  noDefaultRoute6,
  noNames,
  routeShadowed,
  routeUnreachable,
  slaacNot64,
  timeMissing,
  uplinkTie,
  shareAlone,
  nameUnresolved,
  delegatedWritten,
  onDemandAlone,
  virtualOffSubnet,
  twinHalf,
  gatewayNotShared,
  publicNotShared,
  uplinkUnwatched,
  watchSingle,
] as const;

export const CHECKS: readonly Check[] = STATED;

type Stated = (typeof STATED)[number];

/** The values of each code, by their names: a sentence that needs another does not compile. */
export type FindingValues = { [K in Stated as K['code']]: ValuesOfCheck<K> } & ReadFaults &
  /** For what a later version of the notation may bring. */
  { readonly 'not-worked-yet': { readonly what: string } };
