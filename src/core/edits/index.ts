/** What people want done to a site, as text changes that know its meaning. */
export {
  addStatement,
  changeClauses,
  changesTo,
  dropStatement,
  homeOf,
  joinChanges,
  siteAfter,
} from './change';
export { mapAddresses, moveSubnet, textOf, wordsOf } from './renumber';
export { moveInterface, moveToPort, moveToZone } from './views';
export { redirect, rename } from './references';
export { mergeInterfaces } from './merge';
export { readSaid } from './said';
export type { NotSaid, Said } from './said';
export {
  USUAL_ANSWERS,
  lineOnSheet,
  plugIn,
  usualPool,
  writeInside,
  writePorts,
  writeUplink,
} from './first-light';
export type { InsideTerms, LineTerms, Written } from './first-light';
export { promoteAddress, secondaryAddresses } from './addresses';
export { moveStatement, moveZone, replug, toggleMember } from './members';
export { cloneNetwork, fixedIn, renumberNetwork, resizeNetwork } from './networks';
export type { CloneTerms, Thought } from './networks';
export { poolOps, takePlan, takeReservations } from './plan';
export type { PlanTerms } from './plan';
export { moveUplink, uplinksInOrder } from './uplinks';
export { copyText, pasteStatements } from './paste';
export type { Pasted } from './paste';
export { holdsSecrets, leaveSecretsOut, withSecretsOf } from './secrets';
export { toTwin, twinText } from './twin';
export { suggestedPassages } from './suggested';
export { freezeReach, isFrozen, thawReach } from './frozen';
export {
  FORMS,
  HEAD,
  LEAD,
  fromTrade,
  isChosen,
  isFlag,
  lacking,
  printOption,
  rowFrom,
  rowsOf,
  sayRows,
  slotOffers,
  slotsOf,
} from './forms';
export type { Field, Group, Option, Pattern, Row, Slot, Takes, Tried, Values } from './forms';
export { gestureAt, nameFault, zonePlace } from './making';
export type { Ask, GestureId, Made, MakingFault, Place, Role } from './making';
