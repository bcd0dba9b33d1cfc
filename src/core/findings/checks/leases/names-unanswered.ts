import { changeClauses, joinChanges } from '#core/edits';
import { check } from '../../finding';
import { live } from '../../queries';
import { addAnswer } from '../../mending';

/** A pool that hands out the box as resolver, which then does not answer. */
export const namesUnanswered = check({
  code: 'names-unanswered',
  *run({ site }) {
    const own = new Set(site.interfaces.flatMap((i) => i.addresses.map((a) => a.prefix.address)));
    for (const iface of live(site)) {
      const pool = iface.statement.lends.find((p) =>
        p.names.length ? p.names.some((n) => own.has(n.value)) : site.box?.servesNames,
      );
      if (!pool) continue;
      const answers = iface.answers.some((a) => a.services.some((s) => s.name === 'dns'));
      const serves = !!site.box?.servesNames;
      if (answers && serves) continue;
      const changes = [
        ...(answers ? [] : [addAnswer(site, iface, 'dns')]),
        ...(serves || !site.box
          ? []
          : [changeClauses(site, site.box, [{ do: 'add', text: 'serves names' }])]),
      ];
      yield {
        statement: iface.statement,
        at: pool.at,
        others: site.box ? [site.box] : [],
        values: {
          name: iface.name,
          lacks: [
            ...(serves ? [] : ['the box does not serve names']),
            ...(answers ? [] : [`${iface.name} does not answer dns`]),
          ].join(' and '),
        },
        mends:
          serves || site.box
            ? [{ what: 'answer-dns', values: { name: iface.name }, changes: joinChanges(...changes) }]
            : [],
      };
    }
  },
});
