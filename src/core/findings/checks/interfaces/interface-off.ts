import { formatPrefix } from '#core/addr';
import { changeClauses } from '#core/edits';
import { check } from '../../finding';

/** An interface that is off though it is fully set up, or something refers to it. */
export const interfaceOff = check({
  code: 'interface-off',
  *run({ site }) {
    for (const iface of site.interfaces) {
      const { off } = iface.statement;
      if (!off) continue;
      const referred = site.statements.find(
        (s) =>
          (s.kind === 'leave' && s.via.name === iface.name) ||
          (s.kind === 'send' && s.by.name === iface.name) ||
          (s.kind === 'door' && s.on?.name === iface.name) ||
          (s.kind === 'table' && s.routes.some((r) => r.interface?.name === iface.name)),
      );
      if (!iface.addresses.length && !iface.dynamic && !referred) continue;
      yield {
        statement: iface.statement,
        at: off,
        others: referred ? [referred] : [],
        values: {
          name: iface.name,
          address: iface.addresses[0] ? formatPrefix(iface.addresses[0].prefix) : (iface.dynamic ?? ''),
        },
        mends: [
          {
            what: 'interface-on',
            values: { name: iface.name },
            changes: changeClauses(site, iface.statement, [{ do: 'remove', name: 'off' }]),
          },
        ],
      };
    }
  },
});
