import { formatIp } from '#core/addr';
import { changeClauses } from '#core/edits';
import { check } from '../../finding';
import { boxPlace, uplinks } from '../../queries';

/** No resolver anywhere: addresses will answer, names will not. */
export const noNames = check({
  code: 'no-names',
  *run(c) {
    const { site } = c;
    const ups = uplinks(site);
    const place = boxPlace(site);
    if (!place || !ups.length || site.box?.names.length) return;
    const learns = ups.some((i) => {
      const learned = [c.prospects.uplinks.get(i.name), c.prospects.uplinks6.get(i.name)].filter((l) => !!l);
      const told = !learned.length || learned.some((l) => l.names.length > 0);
      return i.names.addresses.length > 0 || (i.names.learned && told);
    });
    if (learns) return;
    const given = c.wiring.circuits.find((x) => x.names.length && !x.supposed);
    const resolver = given?.names ?? c.wiring.fars.find((f) => f.resolves)?.addresses.slice(0, 1);
    const first = ups[0]!;
    const text = resolver?.map(formatIp).join(' ') ?? '';
    yield {
      statement: site.box ?? first.statement,
      subject: site.box ? undefined : first.statement.subject,
      values: { name: site.box ? site.box.name : first.name },
      mends: text
        ? [
            {
              what: 'use-names',
              values: { addresses: text },
              changes: changeClauses(site, site.box ?? first.statement, [
                { do: 'add', text: `names ${text}` },
              ]),
            },
          ]
        : [],
    };
  },
});
