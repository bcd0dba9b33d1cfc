import { clausesOf } from '#core/notation';
import { changeClauses } from '#core/edits';
import { check } from '../../finding';
import { live } from '../../queries';
import { answersWithout } from '../../mending';

/** The login page without encryption. */
export const plainHttp = check({
  code: 'plain-http',
  *run({ site }) {
    for (const iface of live(site))
      for (const [nth, clause] of iface.answers.entries()) {
        const http = clause.services.find((s) => s.name === 'http');
        if (!http) continue;
        const has = iface.answers.some((a) => a.services.some((s) => s.name === 'https'));
        const words = clausesOf(iface.statement, 'answers')[nth]!.words;
        const word = words.find((w) => w.text === 'http')!;
        yield {
          statement: iface.statement,
          at: http.at,
          values: { name: iface.name },
          mends: [
            {
              what: 'https-instead',
              values: { name: iface.name },
              changes: has
                ? answersWithout(site, iface, clause, ['http'])
                : changeClauses(site, iface.statement, [
                    { do: 'replace', start: word.start, end: word.end, text: 'https' },
                  ]),
            },
          ],
        };
      }
  },
});
