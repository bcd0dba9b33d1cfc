import { check } from '../../finding';
import { live } from '../../queries';

/** A tagged interface whose tag the switch sends untagged, since it is its native VLAN. */
export const nativeTagClash = check({
  code: 'native-tag-clash',
  *run({ site }) {
    for (const iface of live(site)) {
      if (iface.tag === undefined) continue;
      for (const sw of site.switches)
        if (sw.plug?.to === 'port' && iface.ports.includes(sw.plug.port) && sw.native === iface.tag)
          yield {
            statement: iface.statement,
            at: iface.statement.carrier?.tag?.at,
            others: [sw],
            values: { name: iface.name, tag: String(iface.tag), switch: sw.name, port: sw.plug.port },
          };
    }
  },
});
