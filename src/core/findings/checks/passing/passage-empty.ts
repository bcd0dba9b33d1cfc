import type { IpSet } from '#core/addr';
import { memo } from '#core/base';
import { zoneSet } from '#core/semantics';
import { zoneNamed } from '#core/site';
import type { Zone } from '#core/site';
import { check } from '../../finding';

/** A passage that can take nothing: a zone without interfaces, or addresses that its zone does not have. */
export const passageEmpty = check({
  code: 'passage-empty',
  *run(c) {
    const sets = new Map<Zone, IpSet>();
    const peopled = new Set(c.site.interfaces.map((i) => i.zone));
    for (const rule of c.rules.passages) {
      const side = (name: string, set: IpSet | undefined, what: string): string | undefined => {
        const zone = zoneNamed(c.site, name);
        if (!zone) return undefined;
        if (!peopled.has(zone)) return `zone ${name} has no interface`;
        if (!set) return undefined;
        const own = memo(sets, zone, () => zoneSet(c.site, c.prospects, zone));
        return !own.isEmpty && !set.meets(own) ? `${what} names no address of zone ${name}` : undefined;
      };
      const why = side(rule.from, rule.sources, '`from`') ?? side(rule.to, rule.destinations, '`to`');
      if (why)
        yield {
          statement: rule.statement,
          values: { zones: `${rule.from} > ${rule.to}`, why },
        };
    }
  },
});
