import { contains, formatIp, formatPrefix } from '#core/addr';
import { changeClauses } from '#core/edits';
import { primaryAddress } from '#core/site';
import { check } from '../../finding';
import { live } from '../../queries';

/** A shared address, or the twin's own, that is not in the network of the interface's own address: nobody there asks for it. */
export const virtualOffSubnet = check({
  code: 'virtual-off-subnet',
  *run({ site }) {
    for (const iface of live(site)) {
      const said = iface.statement.virtual?.value;
      if (!said) continue;
      const own = primaryAddress(iface);
      const wrong = [...said.addresses, ...(said.other ? [said.other] : [])].find(
        (a) => !own || !contains(own, a.value),
      );
      if (!wrong) continue;
      yield {
        statement: iface.statement,
        at: wrong.at,
        values: {
          name: iface.name,
          address: formatIp(wrong.value),
          own: own ? formatPrefix(own) : '',
        },
        mends: [
          {
            what: 'remove-word',
            values: { word: 'virtual' },
            changes: changeClauses(site, iface.statement, [{ do: 'remove', name: 'virtual' }]),
          },
        ],
      };
    }
  },
});
