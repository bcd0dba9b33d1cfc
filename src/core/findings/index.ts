/** What is wrong with a site, as codes with values, places and mends. */
export { contextOf, findAll, findOnly } from './runner';
export { isProven, withProvenMends } from './proven';
export { SEVERITIES } from './finding';
export type {
  Code,
  Context,
  Finding,
  Mend,
  MendCode,
  MendValues,
  Observed,
  Severity,
  Values,
} from './finding';
export { CHECKS } from './checks';
export type { FindingValues } from './checks';
