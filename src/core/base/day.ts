/** Days of the calendar, counted from 1970-01-01 (proleptic Gregorian, RFC 3339 §5.6 `full-date`). */
import type { Brand } from './brand';

/** A day, as the number of days since 1970-01-01. Two days compare and subtract as numbers. */
export type Day = Brand<number, 'day'>;

const MILLISECONDS = 86_400_000;

/** Reads `2026-12-31`; undefined where it is written otherwise, or is no day of the calendar. */
export function parseDay(text: string): Day | undefined {
  const match = /^(\d{4})-(\d{2})-(\d{2})$/.exec(text);
  if (!match) return undefined;
  const time = Date.UTC(Number(match[1]), Number(match[2]) - 1, Number(match[3]));
  const day = (time / MILLISECONDS) as Day;
  return formatDay(day) === text ? day : undefined;
}

/** `2026-12-31`. */
export const formatDay = (day: Day): string => new Date(day * MILLISECONDS).toISOString().slice(0, 10);

/** The day that it is at a moment, by the calendar of where the program runs. */
export const dayAt = (moment: Date): Day =>
  (Date.UTC(moment.getFullYear(), moment.getMonth(), moment.getDate()) / MILLISECONDS) as Day;
