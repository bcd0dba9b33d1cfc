/** The name by which a statement counts, comments and logs on a box. */
import { memo } from '#core/base';
import type { Statement } from '#core/notation';
import type { Site } from '#core/site';
import { quoted } from './match';

/** NFLOG's group of what statements log (nft(8), log statement). */
export const LOG_GROUP = 77;
/** What a line of the log begins with; the name of the statement follows. */
export const LOG_PREFIX = 'gate ';

/** How much a rule logs, so that whoever sends what is refused cannot fill the box: nft(8), limit statement. */
const LOG_LIMIT = 'limit rate 10/second burst 50 packets';

export interface Teller {
  /** Counts a packet that a rule takes; ends with a space. */
  readonly hit: string;
  /** Stands at the end of a rule; begins with a space. */
  readonly comment: string;
  /** What logs a packet, in a rule of its own before the one that decides; undefined where the statement does not log. */
  readonly log?: string;
}

/** The rule that logs what a head takes, where the statement says so: it stands before those that decide. */
export const logging = ({ log }: Teller, head: string): string[] =>
  log === undefined ? [] : [`${head}${log}`];

/** A name that nftables takes without quotes: letters, digits, `/`, `-`, `_` and dots. */
const nameOf = (subject: string): string =>
  subject
    .replace(/>/g, '/')
    .replace(/#1$/, '')
    .replace(/#/, '/')
    .replace(/[^A-Za-z0-9/_.-]/g, '_');

/** Gathers the statements that rules are made of: each is one counter, however many rules it takes. */
export class Statements {
  private readonly known = new Map<string, string>();

  /** What tells of a statement, or of a part of it (`answers`, `guard`, `within`). `log`: also to the log. */
  tells(statement: Pick<Statement, 'subject'>, part = '', log = false): Teller {
    const name = nameOf(statement.subject) + (part && `/${part}`);
    const comment = sentence(statement.subject, part);
    this.known.set(name, comment);
    return {
      hit: `counter name ${quoted(name)} `,
      ...(log && { log: `${LOG_LIMIT} log prefix ${quoted(`${LOG_PREFIX}${name} `)} group ${LOG_GROUP}` }),
      comment: ` comment ${quoted(comment)}`,
    };
  }

  /** The declarations of all counters. */
  lines(): string[] {
    return [...this.known].map(([name, comment]) => `counter ${name} { comment ${quoted(comment)} ; }`);
  }
}

/** A subject as its statement begins: `passage studio > world`, the second of its kind with its number. */
const sentence = (subject: string, part: string): string => {
  const [kind = '', ...rest] = subject.split('/');
  const [name = '', number] = rest.join('/').split('#');
  const nth = number === undefined || number === '1' ? '' : ` (${number})`;
  return `${kind} ${name.replace('>', ' > ')}${nth}${part && `: ${part.replace('/', ' ')}`}`;
};

const subjects = new WeakMap<Site, ReadonlyMap<string, string>>();
/** The subject of the statement that a counter's comment tells of, or of a part of it; undefined where a site has none. */
export const subjectCounted = (site: Site, comment: string): string | undefined =>
  memo(subjects, site, () => new Map(site.statements.map((s) => [sentence(s.subject, ''), s.subject]))).get(
    comment.replace(/: .*$/, ''),
  );
