import { formatIp } from '#core/addr';
import { changeClauses } from '#core/edits';
import { check } from '../../finding';

/** A box without a time server: its log and its certificates go by a wrong clock. */
export const timeMissing = check({
  code: 'time-missing',
  *run({ site }) {
    if (!site.box || site.box.time.length) return;
    const given = site.circuits.find((x) => x.time.length);
    const text = given?.time.map((t) => formatIp(t.value)).join(' ');
    yield {
      statement: site.box,
      values: { name: site.box.name },
      mends: text
        ? [
            {
              what: 'use-time',
              values: { addresses: text },
              changes: changeClauses(site, site.box, [{ do: 'add', text: `time ${text}` }]),
            },
          ]
        : [],
    };
  },
});
