import { written } from '#core/notation';
import { changeClauses } from '#core/edits';
import { freeName } from '#core/model';
import { check } from '../../finding';

/** Two statements of one kind with one name; the first counts. */
export const nameTwice = check({
  code: 'name-twice',
  *run({ site }) {
    for (const p of site.nameProblems) {
      if (p.code !== 'name-twice') continue;
      const free = freeName(site, p.statement.kind, p.values.name ?? '');
      const token = written(p.statement).header[0];
      yield {
        statement: p.statement,
        at: p.at,
        values: p.values,
        mends:
          token && p.statement.kind !== 'box'
            ? [
                {
                  what: 'rename',
                  values: { text: free },
                  changes: changeClauses(site, p.statement, [
                    { do: 'replace', start: token.start, end: token.end, text: free },
                  ]),
                },
              ]
            : [],
      };
    }
  },
});
