import { contains, formatIp, formatPrefix, isIpv4 } from '#core/addr';
import type { Prefix } from '#core/addr';
import { changeClauses, joinChanges } from '#core/edits';
import type { Circuit } from '#core/site';
import { addressesOf } from '#core/site';
import { check } from '../../finding';
import type { Mend } from '../../finding';
import { statedCircuits, uplinks } from '../../queries';

/** A block of public addresses that the circuit, as the wiring has it, does not bring to the box. */
export const blockUnrouted = check({
  code: 'block-unrouted',
  *run(c) {
    for (const iface of uplinks(c.site)) {
      const { block } = iface;
      const circuits = block ? statedCircuits(c, iface) : [];
      if (!block || !circuits.length || circuits.some((x) => brings(x, block.prefix, block.routed))) continue;
      const text = formatPrefix(block.prefix);
      const own = addressesOf(iface, c.prospects).find((a) => isIpv4(a.address))?.address;
      const circuit = c.site.circuits.find((s) => s.name === circuits[0]!.name);
      const mends: Mend[] =
        own === undefined || !circuit
          ? []
          : [
              {
                what: 'route-block',
                values: { circuit: circuit.name, block: text, address: formatIp(own) },
                changes: joinChanges(
                  changeClauses(c.site, circuit, [
                    { do: 'add', text: `routes ${text} via ${formatIp(own)}` },
                  ]),
                  block.routed
                    ? []
                    : changeClauses(c.site, iface.statement, [
                        { do: 'set', name: 'block', text: `block ${text} routed` },
                      ]),
                ),
              },
            ];
      yield {
        statement: iface.statement,
        at: iface.statement.block?.at,
        others: circuit ? [circuit] : [],
        values: {
          name: iface.name,
          block: text,
          circuit: circuits[0]!.name,
          routed: block.routed ? 'yes' : '',
        },
        mends,
      };
    }
  },
});

/** Whether a circuit sends what is for a block to the box: by a route, or on the line itself. */
function brings(circuit: Circuit, block: Prefix, routed: boolean): boolean {
  const holds = (p: Prefix | undefined) => !!p && p.length <= block.length && contains(p, block.address);
  return (
    circuit.routes.some((r) => holds(r.prefix)) ||
    (!routed && (holds(circuit.prefix) || circuit.beside.some(holds)))
  );
}
