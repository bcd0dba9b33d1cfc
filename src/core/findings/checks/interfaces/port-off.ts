import { changeClauses } from '#core/edits';
import { check } from '../../finding';
import { live } from '../../queries';

/** An interface on a port that is switched off. */
export const portOff = check({
  code: 'port-off',
  *run({ site }) {
    for (const iface of live(site)) {
      const off = iface.ports.map((p) => site.ports.get(p)).find((p) => p?.off);
      const statement = off?.statement;
      if (!statement || iface.ports.some((p) => !site.ports.get(p)?.off)) continue;
      yield {
        statement: iface.statement,
        at: iface.statement.carrier?.at,
        others: [statement],
        values: { name: iface.name, port: off.name },
        mends: [
          {
            what: 'port-on',
            values: { port: off.name },
            changes: changeClauses(site, statement, [{ do: 'remove', name: 'off' }]),
          },
        ],
      };
    }
  },
});
