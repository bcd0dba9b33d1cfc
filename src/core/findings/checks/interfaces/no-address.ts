import { formatIp, offsetIp } from '#core/addr';
import { changeClauses } from '#core/edits';
import { nextFreeSubnet } from '#core/model';
import type { Interface, Site } from '#core/site';
import { check } from '../../finding';
import type { Mend } from '../../finding';
import { live } from '../../queries';

/** An interface that has no address and asks for none. */
export const noAddress = check({
  code: 'no-address',
  *run(c) {
    const { site } = c;
    for (const iface of live(site)) {
      const session = iface.carrier === 'pppoe';
      // What a session gives is got by no other way, and nothing else by a session.
      const asks = iface.dynamic && (iface.dynamic === 'pppoe') === session;
      if (iface.addresses.length || asks || iface.statement.address6.length) continue;
      const next = iface.zone?.upstream || iface.dynamic ? undefined : nextFreeSubnet(c);
      const first = next && formatIp(offsetIp(next.address, 1)!);
      yield {
        statement: iface.statement,
        values: { name: iface.name, by: iface.dynamic ?? '' },
        mends: next
          ? [
              {
                what: 'use-address',
                values: { address: `${first}/${next.length}` },
                changes: changeClauses(site, iface.statement, [
                  { do: 'set', name: 'address', text: `address ${first}/${next.length}` },
                ]),
              },
            ]
          : session
            ? [bySession(site, iface)]
            : iface.zone?.upstream
              ? [
                  {
                    what: 'by-dhcp',
                    values: { name: iface.name },
                    changes: changeClauses(site, iface.statement, [
                      { do: 'set', name: 'address', text: 'address by dhcp' },
                    ]),
                  },
                ]
              : [],
      };
    }
  },
});

const bySession = (site: Site, iface: Interface): Mend => ({
  what: 'by-pppoe',
  values: { name: iface.name },
  changes: changeClauses(site, iface.statement, [{ do: 'set', name: 'address', text: 'address by pppoe' }]),
});
