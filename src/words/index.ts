/** Sentences: codes and values in, words out. No logic. */
export { FINDING_TEXTS, MEND_TEXTS, findingText, mendText } from './findings';
export { fill, leftText, spanText } from './fill';
export {
  END_TEXTS,
  PROMISE_TEXTS,
  STAGE_NAMES,
  STAGE_TEXTS,
  frameComment,
  logEndText,
  SPENT_TEXT,
  promiseText,
  stageText,
  stepText,
  traceFaultText,
  traceText,
} from './proof';
export {
  CONTRADICTION_TEXTS,
  MISSING_TEXTS,
  SHEET_LABELS,
  contradictionText,
  ledgerOf,
  sheetFaultText,
} from './handoff';
export {
  bearerText,
  deadText,
  deedText,
  drillFaultText,
  drillText,
  faultText,
  noticedText,
  outageText,
  outcomeText,
  secondsText,
} from './drill';
export { CHANGE_HEADS, REFUSALS, changeTexts } from './change';
export { bookHtml, bookMarkdown, bookOf, htmlText, isBooked } from './book';
export type { Book, BookTable, BookTold } from './book';
export { planFaultText } from './plan-sheet';
export { jackTagsText, wiringSheetText } from './wiring';
export {
  FATE_WORDS,
  contactText,
  deskText,
  slowLine,
  slowRest,
  standbyText,
  apartText,
  stepLine,
  todoText,
} from './plan';
export { WHY_TEXTS, cellText, changeOfReachText, endText, serviceWords, whyText } from './reach';
export { wayText } from './way';
export { notSaidText } from './said';
export { KIND_LABELS, fieldLabel, optionLabel, slotLabel } from './labels';
export type { Label } from './labels';
export { GESTURE_LABELS, askLabel, makingFaultText, pickLabel } from './making';
export { GLOSSARY, glossaryFor, meaningOf, wantsFor } from './glossary';
export { lackText } from './linux';
export {
  NO_KEYS_KEPT,
  UNREACHED,
  driftText,
  liveStageText,
  logText,
  partText,
  realTraceText,
  refusalText,
  otherText,
  restoredText,
  secretsLeftText,
  strangerText,
  trialOverText,
} from './live';
