import { check } from '../../finding';
import { answerNot } from '../../mending';
import { live, phrase } from '../../queries';

/** The box answers more than ping on a dmz (dns and time are fine where it serves them). */
export const answersOnDmz = check({
  code: 'answers-on-dmz',
  *run({ site }) {
    for (const iface of live(site)) {
      if (!iface.zone?.dmz) continue;
      const fine = new Set([
        'ping',
        ...(site.box?.servesNames ? ['dns'] : []),
        ...(site.box?.servesTime ? ['time'] : []),
      ]);
      for (const clause of iface.answers) {
        const open = clause.services.filter((s) => !fine.has(s.name)).map((s) => s.name);
        if (open.length)
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
