import { changeClauses, joinChanges } from '#core/edits';
import { namesAsked, recordOf } from '#core/site';
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
    // What rules speak of has its use anyway.
    const asked = new Set(namesAsked(site).map((name) => recordOf(site, name)));
    const first = site.records.find((r) => !asked.has(r));
    const forwards = box?.forwards[0];
    if (box?.servesNames || (!first && !forwards)) return;
    const statement = first ?? box!;
    // Pools then hand out the box as resolver, so it answers there.
    const answering = inside(site).filter((i) => i.pools.some((p) => !p.names.length) && !answersDns(i));
    yield {
      statement,
      others: box && first ? [box] : [],
      values: { what: first ? `record ${first.name}` : `the domain ${forwards!.domain}` },
      mends: box
        ? [
            {
              what: 'box-serves-names',
              values: { names: answering.map((i) => i.name).join(', ') },
              changes: joinChanges(
                changeClauses(site, box, [{ do: 'add', text: 'serves names' }]),
                ...answering.map((i) => addAnswer(site, i, 'dns')),
              ),
            },
          ]
        : [],
    };
  },
});
