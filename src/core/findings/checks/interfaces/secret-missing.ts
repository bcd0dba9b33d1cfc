import { check } from '../../finding';
import { changeClauses } from '#core/edits';
import { printString } from '#core/notation';
import { live, statedCircuits } from '../../queries';

/** A PPPoE login without its secret, as an export leaves it. */
export const secretMissing = check({
  code: 'secret-missing',
  *run(c) {
    for (const iface of live(c.site)) {
      const { carrier } = iface.statement;
      if (carrier?.by !== 'pppoe' || carrier.secret) continue;
      const session = statedCircuits(c, iface).find((x) => x.session?.user === carrier.user)?.session;
      const tag = carrier.tag ? ` tag ${carrier.tag.value}` : '';
      yield {
        statement: iface.statement,
        at: carrier.at,
        values: { name: iface.name, user: carrier.user ?? '' },
        mends: session?.secret
          ? [
              {
                what: 'use-secret',
                values: { user: session.user },
                changes: changeClauses(c.site, iface.statement, [
                  {
                    do: 'set',
                    name: 'pppoe',
                    text: `pppoe on ${iface.ports[0]}${tag} user ${printString(session.user)} secret ${printString(session.secret)}`,
                  },
                ]),
              },
            ]
          : [],
      };
    }
  },
});
