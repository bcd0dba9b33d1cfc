/** The gate notation: text to statements with their places, and edits of statements back to text. */
export { parseDocument, readServices } from './document';
export { Readings } from './readings';
export { lex } from './lexer';
export type { Span, Token } from './lexer';
export {
  CLAUSES,
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
export { ANSWERABLE } from './ast';
export type {
  AddressSource,
  AlsoItem,
  AnswerName,
  AnswersClause,
  At,
  BoxStatement,
  CircuitStatement,
  Clause,
  Document,
  DoorStatement,
  ExpectStatement,
  FarStatement,
  GatewayClause,
  InterfaceStatement,
  KeepsClause,
  KnownStatement,
  LeaveStatement,
  LendsClause,
  PassageStatement,
  Plug,
  PortStatement,
  ReadProblem,
  Ref,
  RouteClause,
  SendStatement,
  Statement,
  StatementOf,
  StationStatement,
  SwitchStatement,
  TableStatement,
  Who,
  ZoneStatement,
} from './ast';
export { applyEdits, composeEdits, diffEdits, invertEdits, mergeEdits } from './change';
export type { Edit, FileChange } from './change';
export { resolveShort } from './reader';
export { baseAddress, endOfLine, insertStatement, removeStatement, rewriteStatement } from './rewrite';
export type { ClauseOp } from './rewrite';
export {
  layOut,
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
