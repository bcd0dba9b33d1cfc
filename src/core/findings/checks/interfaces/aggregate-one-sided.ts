import { changeClauses } from '#core/edits';
import { check } from '../../finding';

/** A link aggregation whose other end is set otherwise. */
export const aggregateOneSided = check({
  code: 'aggregate-one-sided',
  *run({ site }) {
    for (const sw of site.switches) {
      const port = sw.plug?.to === 'port' ? site.ports.get(sw.plug.port) : undefined;
      const there = sw.links?.value;
      const here = port?.over?.mode;
      if (!port?.statement || !here || !there || here === there) continue;
      const { over } = port.statement;
      const words = port.over.ports.join(' ');
      yield {
        statement: port.statement,
        at: over?.at,
        others: [sw],
        values: { name: port.name, here, there, switch: sw.name, single: there === 'single' ? 'yes' : '' },
        mends: [
          ...(there === 'single'
            ? []
            : [
                {
                  what: 'aggregate-by' as const,
                  values: { mode: there },
                  changes: changeClauses(site, port.statement, [
                    {
                      do: 'set',
                      name: 'over',
                      text: `over ${words} by ${there}${port.over.fast ? ' fast' : ''}`,
                    },
                  ]),
                },
              ]),
          {
            what: 'switch-links' as const,
            values: { switch: sw.name, mode: here },
            changes: changeClauses(site, sw, [{ do: 'set', name: 'links', text: `links ${here}` }]),
          },
        ],
      };
    }
  },
});
