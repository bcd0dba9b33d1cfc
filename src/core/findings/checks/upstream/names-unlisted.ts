import { formatIp } from '#core/addr';
import type { Ip } from '#core/addr';
import { addStatement, changeClauses } from '#core/edits';
import type { Span, Statement } from '#core/notation';
import { freeName } from '#core/model';
import type { Circuit } from '#core/site';
import { check } from '../../finding';
import type { Context, Mend } from '../../finding';
import { statedCircuits, uplinks } from '../../queries';

/** A resolver that no far host is and no circuit names, where the circuit it is asked through names others. */
export const namesUnlisted = check({
  code: 'names-unlisted',
  *run(c) {
    const { site } = c;
    const ups = uplinks(site);
    const stated = new Map(ups.map((i) => [i, statedCircuits(c, i)]));
    const all = [...stated.values()].flat();
    const found: { statement: Statement; at: Span; address: Ip; circuits: readonly Circuit[] }[] = [
      ...ups.flatMap((i) =>
        (i.statement.names?.value.addresses ?? []).map((n) => ({
          statement: i.statement,
          at: n.at,
          address: n.value,
          circuits: stated.get(i)!,
        })),
      ),
      ...(site.box?.names ?? []).map((n) => ({
        statement: site.box!,
        at: n.at,
        address: n.value,
        circuits: all,
      })),
    ];
    for (const { statement, at, address, circuits } of found) {
      const giving = circuits.find((x) => x.names.length > 0);
      if (!giving || isListed(c, address)) continue;
      const names = giving.names.map(formatIp).join(' ');
      const text = `far ${freeName(site, 'far', 'resolver')}: address ${formatIp(address)}, resolves`;
      const mends: Mend[] = [
        {
          what: 'use-names',
          values: { addresses: names },
          changes: changeClauses(site, statement, [{ do: 'set', name: 'names', text: `names ${names}` }]),
        },
        { what: 'public-resolver', values: { text }, changes: addStatement(site, 'far', text) },
      ];
      yield {
        statement,
        at,
        others: giving.statement ? [giving.statement] : [],
        values: { address: formatIp(address), circuit: giving.name, names },
        mends,
      };
    }
  },
});

/** Whether a far host is written with this address, or a stated circuit names it or is it. */
const isListed = (c: Context, address: Ip): boolean =>
  c.wiring.fars.some((f) => !f.supposed && f.addresses.includes(address)) ||
  c.wiring.circuits.some(
    (x) => !x.supposed && (x.names.includes(address) || x.gateway === address || x.gateway6 === address),
  ) ||
  c.site.interfaces.some((i) => i.addresses.some((a) => a.prefix.address === address));
