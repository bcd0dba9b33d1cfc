/** The gate notation: text to statements with their places, and edits of statements back to text. */
export { parseDocument, readServices } from './document';
export type { Document } from './document';
export { Readings } from './readings';
export type { Span, Token } from './lexer';
export {
  KINDS,
  NAMED_KINDS,
  NAME_ORDER,
  WIRING_KINDS,
  isOfBox,
  nameLike,
  isFarName,
  isName,
  isReserved,
  nearest,
} from './grammar';
export type { Kind } from './grammar';
export { CLAUSES, mayRepeat } from './kinds';
export { POOL_WORDS } from './kinds/shared';
export { MOST_MAPPED } from './kinds/rules';
export type { Statement, StatementOf } from './kinds';
export { ANSWERABLE } from './ast';
export type {
  AddressSource,
  AlsoItem,
  AnswerName,
  AnswersClause,
  At,
  Clause,
  GatewayClause,
  KeepsClause,
  JackClause,
  LegClause,
  LendsClause,
  OptionClause,
  OverClause,
  Plug,
  ReadFaults,
  ReadProblem,
  Ref,
  RouteClause,
  Who,
} from './ast';
export { applyEdits, composeEdits, diffEdits, invertEdits, mergeEdits } from './change';
export type { Edit, FileChange } from './change';
export { resolveShort } from './base';
export { allWords, clausesOf, written } from './parts';
export { baseAddress, endOfLine, insertStatement, removeStatement, rewriteStatement } from './rewrite';
export type { ClauseOp } from './rewrite';
export {
  layOut,
  printClause,
  printClauses,
  printDocument,
  printHead,
  printStatement,
  printString,
  oneLine,
} from './print';
export { complete } from './complete';
export type { Completion, KnownNames } from './complete';
export { inPlaceOf, maskSecrets, secretsIn } from './secrets';
export type { SecretSpan } from './secrets';
