import { contains, formatIp, formatMac, formatPrefix } from '#core/addr';
import { staticNetworks } from '#core/site';
import { check } from '../../finding';
import { live, phrase } from '../../queries';

/** A reservation that lies in no subnet of its interface. */
export const keepOutsideSubnet = check({
  code: 'keep-outside-subnet',
  *run({ site }) {
    for (const iface of live(site)) {
      const nets = staticNetworks(iface);
      for (const keep of nets.length ? iface.statement.keeps : [])
        if (!nets.some((n) => contains(n, keep.address.value)))
          yield {
            statement: iface.statement,
            at: keep.address.at,
            values: {
              name: iface.name,
              address: formatIp(keep.address.value),
              who: keep.label ?? formatMac(keep.mac),
              nets: phrase(nets.map(formatPrefix)),
            },
          };
    }
  },
});
