/** Why a line that was said does nothing. */
import type { NotSaid } from '#core/edits';

/** Clauses that are named where one was not found. */
const MOST_NAMED = 8;

export function notSaidText(why: NotSaid): string {
  switch (why.what) {
    case 'fault':
      return `expected ${why.expected || 'something else'}, found ${why.got}`;
    case 'no-clause':
      return `${why.clause} is no clause of a ${why.kind}; there are ${why.clauses.slice(0, MOST_NAMED).join(', ')} …`;
    case 'no-table':
      return `${why.name} is no interface, zone or table`;
    case 'there-already':
      return `${why.subject.replace('/', ' ')} is there already; say its name and a clause to change it`;
    case 'no-file':
      return `there is no file for a ${why.kind}`;
    case 'so-already':
      return 'that is so already';
    case 'not-understood':
      return 'Say a statement (zone lab:), a clause for a thing (studio lends .50-.199), or a question (wheel-pc to www.example tcp 443).';
  }
}
