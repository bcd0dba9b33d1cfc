import { joinChanges } from '#core/edits';
import { check } from '../../finding';
import { boxPlace, boxSubject, live, phrase } from '../../queries';
import { addAnswer } from '../../mending';

/** Interfaces that do not answer pings, listed once. */
export const pingSilent = check({
  code: 'ping-silent',
  *run({ site }) {
    const place = boxPlace(site);
    const silent = live(site).filter(
      (i) =>
        (i.addresses.length > 0 || i.dynamic) &&
        !i.answers.some((a) => a.services.some((s) => s.name === 'ping')),
    );
    if (!place || !silent.length) return;
    const names = phrase(silent.map((i) => i.name));
    yield {
      statement: place,
      subject: boxSubject(site),
      others: silent.map((i) => i.statement),
      values: { names, verb: silent.length === 1 ? 'answers' : 'answer' },
      mends: [
        {
          what: 'answer-ping',
          values: { names },
          changes: joinChanges(...silent.map((i) => addAnswer(site, i, 'ping'))),
        },
      ],
    };
  },
});
