import type { Check } from '../../finding';
import { live, phrase } from '../../queries';
import { answersWithout } from '../../mending';

/** A login or service of the box answered to the whole internet. */
export const answersOpenUpstream: Check = {
  code: 'answers-open-upstream',
  *run({ site }) {
    const risky = ['ssh', 'http', 'https', 'snmp', 'dns'];
    for (const iface of live(site)) {
      if (!iface.zone?.upstream) continue;
      const inner = site.zones.filter((z) => !z.upstream && !z.dmz);
      for (const clause of iface.statement.answers) {
        const open = clause.services.filter((s) => risky.includes(s.name)).map((s) => s.name);
        const anyone = !clause.from || clause.from.some((w) => w.type === 'any' || w.type === 'internet');
        if (!open.length || !anyone) continue;
        yield {
          statement: iface.statement,
          at: clause.at,
          values: { name: iface.name, services: phrase(open), zone: iface.zone.name },
          mends: [
            {
              what: 'answer-not',
              values: {
                services: phrase(open),
                name: iface.name,
                inner: inner.map((z) => z.name).join(', '),
              },
              changes: answersWithout(site, iface, clause, open),
            },
          ],
        };
      }
    }
  },
};
