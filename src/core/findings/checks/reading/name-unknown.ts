import { isName, isReserved } from '#core/notation';
import { addStatement } from '#core/edits';
import { check } from '../../finding';
import type { Mend } from '../../finding';

/** A name that no statement makes. */
export const nameUnknown = check({
  code: 'name-unknown',
  *run({ site }) {
    for (const p of site.nameProblems) {
      if (p.code !== 'name-unknown') continue;
      const mends: Mend[] = [];
      if (p.proposal)
        mends.push({
          what: 'replace',
          values: { text: p.proposal },
          changes: [
            { file: p.statement.file, edits: [{ start: p.at.start, end: p.at.end, text: p.proposal }] },
          ],
        });
      const wanted = p.values.name;
      if (p.values.kinds === 'zone' && isName(wanted) && !isReserved(wanted))
        mends.push({
          what: 'make-zone',
          values: { name: wanted },
          changes: addStatement(site, 'zone', `zone ${wanted}:`),
        });
      yield {
        statement: p.statement,
        at: p.at,
        values: p.values,
        mends,
        severity: p.mild ? 'warning' : 'error',
      };
    }
  },
});
