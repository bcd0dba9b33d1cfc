import { isLooped } from '#core/site';
import { check } from '../../finding';

/** Switches whose cables lead round in a ring and never to the box. */
export const switchLoop = check({
  code: 'switch-loop',
  *run({ site }) {
    for (const sw of site.switches) {
      if (!isLooped(site, sw) || sw.plug?.to !== 'jack') continue;
      const other = site.switches.find((s) => sw.plug?.to === 'jack' && s.name === sw.plug.switch);
      yield {
        statement: sw,
        at: sw.plug.at,
        others: other && other !== sw ? [other] : [],
        values: {
          name: sw.name,
          jack: `${sw.plug.switch}/${sw.plug.jack}`,
          own: other === sw ? sw.name : '',
        },
      };
    }
  },
});
