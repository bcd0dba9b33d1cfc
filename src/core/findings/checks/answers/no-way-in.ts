import { check } from '../../finding';
import { boxPlace, boxSubject, letsIn, live, trusted } from '../../queries';
import { addAnswer } from '../../mending';

/** No interface would let an administrator in: only the console port is left. */
export const noWayIn = check({
  code: 'no-way-in',
  *run({ site }) {
    const place = boxPlace(site);
    if (!place || !site.interfaces.length) return;
    if (live(site).some((i) => letsIn(i))) return;
    const [first] = trusted(site);
    yield {
      statement: place,
      subject: boxSubject(site),
      others: first ? [first.statement] : [],
      values: { name: first?.name ?? '' },
      mends: first
        ? [
            {
              what: 'answer-login',
              values: { name: first.name },
              changes: addAnswer(site, first, 'ssh https'),
            },
          ]
        : [],
    };
  },
});
