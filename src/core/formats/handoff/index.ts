/** The provider's sheet: from prose to values, and to the statement they make. */
export { lineTerms, readHandoff, statementFor } from './handoff';
export type { Contradiction, SheetFound, Handoff, HandoffOptions } from './handoff';
export { correctSheet, isDoubted, sheetFields, sheetText } from './correct';
export type { Corrected, Corrections, SheetField } from './correct';
