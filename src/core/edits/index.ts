/** What people want done to a site, as text changes that know its meaning. */
export { addStatement, changeClauses, dropStatement, homeOf, joinChanges } from './change';
export { mapAddresses, moveSubnet, textOf } from './renumber';
export { interfaceText, moveToPort, moveToZone, rename } from './views';
