/** Statements as forms: what can be said in each, how it is read from the text, and how it is written back. */
export { FORMS } from './kinds';
export { HEAD, LEAD, isFlag, lacking, printOption, slotsOf } from './form';
export type { Field, Group, Option, Pattern, Slot, Takes, Values } from './form';
export { rowFrom, rowsOf, sayRows } from './rows';
export type { Row, Tried } from './rows';
export { isChosen, slotOffers } from './offers';
export { fromTrade } from './trade';
