import { check } from '../../finding';
import { answerNot } from '../../mending';
import { live, phrase } from '../../queries';

/** A login or service of the box answered to the whole internet. */
export const answersOpenUpstream = check({
  code: 'answers-open-upstream',
  *run({ site }) {
    const risky = ['ssh', 'http', 'https', 'snmp', 'dns'];
    for (const iface of live(site)) {
      if (!iface.zone?.upstream) continue;
      for (const clause of iface.answers) {
        const open = clause.services.filter((s) => risky.includes(s.name)).map((s) => s.name);
        const anyone = !clause.from || clause.from.some((w) => w.type === 'any' || w.type === 'internet');
        if (!open.length || !anyone) continue;
        yield {
          statement: iface.statement,
          at: clause.at,
          values: { name: iface.name, services: phrase(open), zone: iface.zone.name },
          mends: [answerNot(site, iface, clause, open)],
        };
      }
    }
  },
});
