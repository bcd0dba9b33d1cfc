import { formatIp, isIpv4, isPrivate, isSpecial } from '#core/addr';
import type { Ip } from '#core/addr';
import type { Span, Statement } from '#core/notation';
import { lookUp } from '#core/semantics';
import { interfaceNamed, networksOf } from '#core/site';
import { check } from '../../finding';
import { live } from '../../queries';

/** A resolver to which no route leads, or a private one that the internet cannot have. */
export const namesUnreachable = check({
  code: 'names-unreachable',
  *run(c) {
    const { site } = c;
    const check = (address: Ip): boolean => {
      const route = lookUp(c.routes, 'main', address);
      if (!route) return true;
      const out = interfaceNamed(site, route.interface);
      // A private resolver behind an uplink is there only if that uplink's own network is private too.
      return (
        route.prefix.length === 0 &&
        isSpecial(address) &&
        !(out && networksOf(out, c.prospects).some((n) => isPrivate(n.address)))
      );
    };
    const named: { statement: Statement; at: Span; address: Ip; name: string }[] = [
      ...(site.box?.names ?? []).map((n) => ({
        statement: site.box!,
        at: n.at,
        address: n.value,
        name: `box ${site.box!.name}`,
      })),
      ...live(site).flatMap((i) =>
        (i.statement.names?.value.addresses ?? []).map((n) => ({
          statement: i.statement,
          at: n.at,
          address: n.value,
          name: `interface ${i.name}`,
        })),
      ),
    ];
    if (!c.routes.some((r) => r.prefix.length === 0)) return;
    for (const { statement, at, address, name } of named)
      if (isIpv4(address) && check(address))
        yield { statement, at, values: { name, address: formatIp(address) } };
  },
});
