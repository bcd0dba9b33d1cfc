import { check } from '../../finding';
import { live } from '../../queries';
import { withoutMember } from './bridge-member-busy';

/** A bridge of one port, which is that port. */
export const bridgeOneMember = check({
  code: 'bridge-one-member',
  *run({ site }) {
    for (const iface of live(site)) {
      const { carrier } = iface.statement;
      if (carrier?.by !== 'bridge' || carrier.ports.length !== 1) continue;
      const port = iface.ports[0]!;
      yield {
        statement: iface.statement,
        at: carrier.at,
        values: { name: iface.name, port },
        mends: [{ what: 'plain-port', values: { port }, changes: withoutMember(site, iface, port).changes }],
      };
    }
  },
});
