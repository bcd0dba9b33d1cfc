import { allWords } from '#core/notation';
import { check } from '../../finding';

/** A known host that nothing speaks of. */
export const knownUnused = check({
  code: 'known-unused',
  *run({ site }) {
    if (!site.knowns.length) return;
    const spoken = new Set(
      site.statements.flatMap((s) => (s.kind === 'known' ? [] : allWords(s).map((w) => w.text))),
    );
    for (const known of site.knowns)
      if (!spoken.has(known.name)) yield { statement: known, values: { name: known.name } };
  },
});
