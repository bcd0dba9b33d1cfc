import { memo } from '#core/base';
import { mergeInterfaces } from '#core/edits';
import type { Interface, Site } from '#core/site';
import { check } from '../../finding';
import type { Mend } from '../../finding';
import { live, pairs } from '../../queries';

/** Two interfaces on one port with one tag: the second never gets a frame. */
export const tagDuplicate = check({
  code: 'tag-duplicate',
  *run({ site }) {
    const alike = new Map<number | undefined, Interface[]>();
    for (const iface of live(site)) memo(alike, iface.tag, () => []).push(iface);
    for (const [a, b] of [...alike.values()].flatMap((list) => [...pairs(list)])) {
      const port = a.ports.find((p) => b.ports.includes(p));
      if (port === undefined) continue;
      const [one, other] = [a, b].map((i) => i.carrier);
      // A bridge's members have findings of their own; a session shares its line with the modem's plain frames.
      if (one === 'bridge' || other === 'bridge' || (one === 'pppoe') !== (other === 'pppoe')) continue;
      yield {
        statement: b.statement,
        at: b.statement.carrier?.at,
        others: [a.statement],
        values: {
          name: b.name,
          other: a.name,
          port,
          tag: a.tag === undefined ? 'untagged' : `tag ${a.tag}`,
        },
        mends: mergeMend(site, a, b),
      };
    }
  },
});

function mergeMend(site: Site, a: Interface, b: Interface): Mend[] {
  // One that asks for its address cannot be a second subnet of another.
  if (b.dynamic) return [];
  return [{ what: 'merge', values: { name: b.name, into: a.name }, changes: mergeInterfaces(site, a, b) }];
}
