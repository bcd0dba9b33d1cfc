import { check } from '../../finding';

/** A port that the box did not report. */
export const portUnknown = check({
  code: 'port-unknown',
  *run({ site, observed }) {
    if (!observed.ports) return;
    for (const iface of site.interfaces)
      for (const ref of iface.statement.carrier?.ports ?? [])
        if (!observed.ports.includes(ref.name))
          yield {
            statement: iface.statement,
            at: ref.at,
            values: { port: ref.name, name: iface.name, ports: observed.ports.join(', ') },
          };
  },
});
