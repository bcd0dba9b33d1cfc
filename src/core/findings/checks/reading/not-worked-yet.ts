import type { Check } from '../../finding';

/** Statements and clauses that are read, kept and printed, but that nothing here acts on yet. */
export const notWorkedYet: Check = {
  code: 'not-worked-yet',
  *run({ site }) {
    for (const s of site.statements) {
      if (s.kind === 'send' || s.kind === 'door') yield { statement: s, values: { what: s.kind } };
      const clauses =
        s.kind === 'interface'
          ? ['pppoe', 'address6', 'gateway6', 'advertises', 'mss']
          : s.kind === 'circuit'
            ? ['pppoe', 'block6', 'lends6', 'delegates6']
            : [];
      for (const clause of s.clauses)
        if (clauses.includes(clause.name))
          yield { statement: s, at: clause.words[0]!, values: { what: clause.name } };
    }
  },
};
