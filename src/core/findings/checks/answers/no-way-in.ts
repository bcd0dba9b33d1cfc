import type { Check } from '../../finding';
import { boxPlace, boxSubject, inside, live } from '../../queries';
import { addAnswer } from '../../mending';

/** No interface would let an administrator in: only the console port is left. */
export const noWayIn: Check = {
  code: 'no-way-in',
  *run({ site }) {
    const place = boxPlace(site);
    if (!place || !site.interfaces.length) return;
    const login = ['ssh', 'https', 'http'];
    const way = live(site).some(
      (i) =>
        // An address that lacks its length is told as that; it is meant to be there.
        (i.statement.address || i.speaks6 || i.statement.clauses.some((x) => x.name === 'address')) &&
        i.statement.answers.some((a) => a.services.some((s) => login.includes(s.name))),
    );
    if (way) return;
    const trusted = inside(site)
      .filter((i) => i.addresses.length && !i.zone?.dmz)
      .sort(
        (a, b) =>
          Number(b.zone?.management ?? false) - Number(a.zone?.management ?? false) ||
          (b.zone?.trust ?? -1) - (a.zone?.trust ?? -1),
      )[0];
    yield {
      statement: place,
      subject: boxSubject(site),
      others: trusted ? [trusted.statement] : [],
      values: { name: trusted?.name ?? '' },
      mends: trusted
        ? [
            {
              what: 'answer-login',
              values: { name: trusted.name },
              changes: addAnswer(site, trusted, 'ssh https'),
            },
          ]
        : [],
    };
  },
};
