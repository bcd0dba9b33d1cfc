/** What of a site has an end. */
import { formatDay } from '#core/base';
import type { Day } from '#core/base';
import type { At, StatementOf } from '#core/notation';
import type { Site } from '#core/site';

export interface Ending {
  readonly statement: StatementOf<'passage' | 'door'>;
  readonly until: At<Day>;
  /** Days from today to its last one: 0 today, negative once it is over. */
  readonly left: number;
  /** `passage studio > world`, `door orders`. */
  readonly what: string;
  /** Its last day. */
  readonly day: string;
  /** Its verdict where it is a passage. */
  readonly verdict: string;
}

/** Passages and doors with an end, in file order, where a day is asked about. */
export function* endings({ today, passages, doors }: Site): Generator<Ending> {
  if (today === undefined) return;
  for (const statement of [...passages, ...doors]) {
    const { until } = statement;
    if (!until) continue;
    const isDoor = statement.kind === 'door';
    yield {
      statement,
      until,
      left: until.value - today,
      what: isDoor ? `door ${statement.name}` : `passage ${statement.from.name} > ${statement.to.name}`,
      day: formatDay(until.value),
      verdict: isDoor ? '' : (statement.verdict ?? ''),
    };
  }
}
