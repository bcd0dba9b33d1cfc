import { pairedInterfaces } from '#core/site';
import { check } from '../../finding';
import { live } from '../../queries';

/** A twin that cannot be told from the box, or could take over only one side: with no way out of its own, or nobody inside who would send to it. */
export const twinHalf = check({
  code: 'twin-half',
  *run({ site }) {
    const twin = site.box?.twin;
    if (!site.box || !twin) return;
    const paired = pairedInterfaces(site);
    const hasOutside = paired.some((i) => i.uplink);
    const hasInside = paired.some((i) => !i.uplink);
    const isNamesake = twin.value.name === site.box.name;
    if (hasOutside && hasInside && !isNamesake) return;
    const lacking = isNamesake ? [] : live(site).filter((i) => i.uplink === hasInside && !paired.includes(i));
    yield {
      statement: site.box,
      at: twin.at,
      others: lacking.map((i) => i.statement),
      values: {
        twin: twin.value.name,
        side: isNamesake
          ? 'no name of its own'
          : hasInside
            ? 'no way out'
            : hasOutside
              ? 'nothing inside'
              : 'nothing',
        names: lacking.map((i) => i.name).join(', '),
      },
      mends: [],
    };
  },
});
