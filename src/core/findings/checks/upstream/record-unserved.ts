import { changeClauses, joinChanges } from '#core/edits';
import type { Interface } from '#core/site';
import { check } from '../../finding';
import { addAnswer } from '../../mending';
import { inside } from '../../queries';

const answersDns = (i: Interface): boolean => i.answers.some((a) => a.services.some((s) => s.name === 'dns'));

/** Names that the box would answer for, and a box that serves no names: said once, at the first. */
export const recordUnserved = check({
  code: 'record-unserved',
  *run({ site }) {
    const { box } = site;
    const [first] = site.records;
    const forwards = box?.forwards[0];
    if (box?.servesNames || (!first && !forwards)) return;
    const statement = first ?? box!;
    yield {
      statement,
      others: box && first ? [box] : [],
      values: { what: first ? `record ${first.name}` : `the domain ${forwards!.domain}` },
      mends: box
        ? [
            {
              what: 'box-serves-names',
              values: {},
              // Pools then hand out the box as resolver, so it answers there.
              changes: joinChanges(
                changeClauses(site, box, [{ do: 'add', text: 'serves names' }]),
                ...inside(site)
                  .filter((i) => i.pools.some((p) => !p.names.length) && !answersDns(i))
                  .map((i) => addAnswer(site, i, 'dns')),
              ),
            },
          ]
        : [],
    };
  },
});
