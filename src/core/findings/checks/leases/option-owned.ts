import { OWNED_OPTIONS } from '#core/addr';
import { changeClauses } from '#core/edits';
import { check } from '../../finding';
import { live } from '../../queries';

/** A DHCP option that the server tells by itself, or by words of its own. */
export const optionOwned = check({
  code: 'option-owned',
  *run({ site }) {
    for (const iface of live(site))
      for (const [nth, { option, what }] of iface.statement.options.entries()) {
        const instead = OWNED_OPTIONS[option.code];
        if (instead === undefined) continue;
        yield {
          statement: iface.statement,
          at: what,
          values: { name: iface.name, code: String(option.code), instead },
          mends: [
            {
              what: 'option-not',
              values: { code: String(option.code) },
              changes: changeClauses(site, iface.statement, [{ do: 'remove', name: 'option', nth }]),
            },
          ],
        };
      }
  },
});
