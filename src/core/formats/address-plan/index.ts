/** Address plans and reservations as tables, in and out. */
export { PLAN_COLUMNS, bareHead } from './columns';
export type { Columns, PlanColumn } from './columns';
export { MOST_ROWS, readPlan } from './read';
export type { Plan, PlanFault, PlanRow } from './read';
export { networkRows, planCsv, planMarkdown, reservationRows, reservationsCsv } from './write';
