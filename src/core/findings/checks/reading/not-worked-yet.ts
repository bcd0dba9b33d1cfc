import type { Check } from '../../finding';

/** Statements that are read, kept and printed, but that nothing here acts on yet. */
export const notWorkedYet: Check = {
  code: 'not-worked-yet',
  *run({ site }) {
    for (const s of site.statements) {
      if (s.kind === 'send' || s.kind === 'door') yield { statement: s, values: { what: s.kind } };
    }
  },
};
