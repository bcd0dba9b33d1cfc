import { contains, formatIp, formatPrefix, networkOf } from '#core/addr';
import type { At, StatementOf } from '#core/notation';
import type { Ip, Ipv4 } from '#core/addr';
import { changeClauses } from '#core/edits';
import { landingOn, lentTo, relayingAt, staticNetworks } from '#core/site';
import type { Landing, Relaying } from '#core/site';
import { check } from '../../finding';
import type { Context } from '../../finding';
import { live } from '../../queries';

/** A side that asks servers elsewhere, with the words that say so. */
interface Asking {
  readonly statement: StatementOf<'interface'> | StatementOf<'router'>;
  readonly name: string;
  readonly landing: Landing;
  readonly asked: readonly At<Ip>[];
  /** Where it cannot ask at all: it has no address to ask from. */
  readonly relaying?: Relaying;
}

/** A DHCP server that is asked and that, as far as the wiring is known, lends nothing here. */
export const relayUnanswered = check({
  code: 'relay-unanswered',
  *run(c) {
    const known = live(c.site).flatMap(staticNetworks);
    for (const { statement, name, landing, asked, relaying } of askingOf(c)) {
      const net = relaying && networkOf(relaying.from);
      for (const { value, at } of asked) {
        const server = value as Ipv4;
        const station = c.wiring.stations.find((s) => !s.supposed && s.address?.address === value);
        // Who is asked outside of everything that is written here may well answer.
        if (relaying && !station && !known.some((n) => contains(n, value))) continue;
        if (relaying && lentTo(c.site, c.wiring, { ...relaying, servers: [server] }, landing).length)
          continue;
        const lost = net && station?.lends.some((p) => contains(p.network, net.address));
        const others = net
          ? c.wiring.stations.filter((s) => !s.off && s.lends.some((p) => contains(p.network, net.address)))
          : [];
        const right = others.length === 1 ? others[0]!.address?.address : undefined;
        yield {
          statement,
          at,
          others: station?.statement ? [station.statement] : [],
          values: {
            name,
            server: formatIp(value),
            station: station?.name ?? '',
            lost: lost ? 'yes' : '',
            nobody: net && !lost ? formatPrefix(net) : '',
            unable: net ? '' : 'yes',
          },
          mends:
            right === undefined || right === value
              ? []
              : [
                  {
                    what: 'relay-to',
                    values: { station: others[0]!.name, address: formatIp(right) },
                    changes: changeClauses(c.site, statement, [
                      { do: 'replace', start: at.start, end: at.end, text: formatIp(right) },
                    ]),
                  },
                ],
        };
      }
    }
  },
});

function askingOf({ site, wiring }: Context): Asking[] {
  const ofBox = live(site).flatMap((i): Asking[] => {
    const landing = landingOn(i);
    if (!i.statement.relays.length || !landing) return [];
    const [relaying] = i.relays.length ? relayingAt(site, wiring, landing) : [];
    return [{ statement: i.statement, name: i.name, landing, asked: i.statement.relays, relaying }];
  });
  const ofRouters = wiring.routers.flatMap((router) =>
    router.legs.flatMap((leg, nth): Asking[] => {
      const asked = router.statement.legs[nth]!.value.relays;
      const relaying = { from: leg.address, servers: leg.relays };
      return asked.length
        ? [
            {
              statement: router.statement,
              name: `router ${router.name}`,
              landing: leg.landing,
              asked,
              relaying,
            },
          ]
        : [];
    }),
  );
  return [...ofBox, ...ofRouters];
}
