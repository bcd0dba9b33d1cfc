import { changeClauses, dropStatement } from '#core/edits';
import { check } from '../../finding';
import { cablesOf, live } from '../../queries';

/** A port of a link aggregation that is used for something else: an interface, a cable of its own, another aggregation. */
export const aggregateMemberBusy = check({
  code: 'aggregate-member-busy',
  *run({ site }) {
    for (const whole of site.ports.values()) {
      const said = whole.statement?.over?.value.ports ?? [];
      for (const [i, member] of said.entries()) {
        const { name, at } = member;
        const statement = whole.statement!;
        const values = { name: whole.name, port: name };
        const rest = [...new Set(said.map((r) => r.name).filter((_, k) => k !== i))];
        const out = {
          what: 'leave-aggregate',
          values,
          changes: changeClauses(site, statement, [
            rest.length
              ? { do: 'replace', start: said[0]!.at.start, end: said.at(-1)!.at.end, text: rest.join(' ') }
              : { do: 'remove', name: 'over' },
          ]),
        } as const;
        const other = site.ports.get(site.ports.get(name)?.within ?? '');
        if (name === whole.name || (other && other !== whole) || said.findIndex((r) => r.name === name) < i) {
          const by =
            name === whole.name ? 'itself' : other === whole ? 'this one already' : `port ${other!.name}`;
          yield {
            statement,
            at,
            others: other?.statement && other !== whole ? [other.statement] : [],
            values: { ...values, by },
            mends: [out],
          };
          continue;
        }
        const iface = live(site).find((x) => x.ports.includes(name));
        if (iface) {
          const spoken = !!(iface.addresses.length || iface.dynamic);
          yield {
            statement,
            at,
            others: [iface.statement],
            values: { ...values, by: `interface ${iface.name}` },
            mends: spoken
              ? [out]
              : [
                  {
                    what: 'drop-interface',
                    values: { name: iface.name },
                    changes: dropStatement(site, iface.statement),
                  },
                  out,
                ],
          };
        }
        const cabled = cablesOf(site).find(([, plug]) => plug.to === 'port' && plug.port === name);
        if (!cabled) continue;
        const [s, plug] = cabled;
        yield {
          statement,
          at,
          others: [s],
          values: { ...values, by: `the cable of ${s.kind} ${s.name}` },
          mends:
            s.kind === 'switch'
              ? [
                  {
                    what: 'plug-aggregate',
                    values: { switch: s.name, name: whole.name },
                    changes: changeClauses(site, s, [
                      {
                        do: 'replace',
                        start: plug.at.start,
                        end: plug.at.start + name.length,
                        text: whole.name,
                      },
                    ]),
                  },
                ]
              : [],
        };
      }
    }
  },
});
