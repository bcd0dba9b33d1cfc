import { jackOf } from '#core/site';
import { check } from '../../finding';
import { cablesOf, phrase } from '../../queries';

/** A cable that ends at a jack the switch does not have. */
export const jackUnknown = check({
  code: 'jack-unknown',
  *run({ site }) {
    for (const [s, plug] of cablesOf(site)) {
      if (plug.to !== 'jack') continue;
      const sw = site.switches.find((x) => x.name === plug.switch);
      if (!sw || jackOf(sw, plug.jack) !== undefined) continue;
      yield {
        statement: s,
        at: plug.at,
        others: [sw],
        values: {
          name: s.name,
          switch: sw.name,
          jack: String(plug.jack),
          jacks: sw.jacks.length ? phrase(sw.jacks.map((j) => String(j.value.jack))) : 'none',
        },
      };
    }
  },
});
