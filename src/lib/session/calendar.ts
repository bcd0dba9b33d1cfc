/** The day of the calendar that it is here. */
import { dayAt } from '#core/base';
import type { Day } from '#core/base';

export const today = (): Day => dayAt(new Date());
