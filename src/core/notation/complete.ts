/** What could be typed next: statement kinds, clause words, names of things, and the words a clause takes. */
import { NAMED_SERVICES } from '#core/addr';
import { ANSWERABLE } from './ast';
import { CLAUSES, KINDS, WIRING_KINDS } from './grammar';
import type { Kind } from './grammar';

/** A proposal: `insert` replaces the text from `start` to the caret. */
export interface Completion {
  readonly insert: string;
  readonly start: number;
  readonly about: 'kind' | 'clause' | 'name' | 'word';
}

/** The names that exist, by the kind that declares them. */
export type KnownNames = Readonly<Partial<Record<Kind, readonly string[]>>>;

const SERVICES = [...Object.keys(NAMED_SERVICES), 'tcp', 'udp', 'proto'];

/** Words that each clause takes right behind its name. */
const WORDS: Readonly<Record<string, readonly string[]>> = {
  address: ['by dhcp', 'by pppoe'],
  address6: ['by slaac', 'by dhcpv6', 'from'],
  gateway: ['learned', 'none'],
  gateway6: ['learned', 'none'],
  names: ['learned'],
  within: ['allow', 'drop'],
  serves: ['names', 'time'],
  speed: ['auto', '100', '1000', '2500', '10000'],
  as: ['interface'],
  dead: ['beyond'],
  mss: ['auto', 'off'],
  answers: ANSWERABLE,
  allow: SERVICES,
  drop: SERVICES,
  reject: SERVICES,
  listens: SERVICES,
};

const NAMES: Readonly<Record<string, readonly Kind[]>> = {
  on: ['port'],
  bridge: ['port'],
  at: ['port', 'switch'],
  zone: ['zone'],
  table: ['table'],
  behind: ['interface'],
  from: ['zone', 'interface', 'known'],
  to: ['zone', 'interface', 'known', 'station'],
};

const HEADS: Readonly<Partial<Record<Kind, readonly Kind[]>>> = {
  passage: ['zone'],
  leave: ['zone', 'interface', 'known'],
  send: ['zone', 'interface', 'known'],
  expect: ['zone', 'interface', 'known', 'door', 'station', 'far'],
};

/**
 * Proposals for the caret at `offset` of a statement's text (one logical line, or the start of one), best first.
 * `names` are the names in use. Never proposes what is already typed whole.
 */
export function complete(statement: string, offset: number, names: KnownNames): Completion[] {
  const before = statement.slice(0, offset);
  const word = /[^\s,>]*$/.exec(before)![0];
  const start = offset - word.length;
  const list = (items: readonly string[], about: Completion['about']): Completion[] =>
    [...new Set(items)]
      .filter((item) => item.startsWith(word) && item !== word)
      .map((item) => ({ insert: item, start, about }));
  const kind = KINDS.find((k) => new RegExp(`^${k}[\\s:]`).test(before));
  if (!kind)
    return before.trim() === word
      ? list(
          KINDS.map((k) => `${k} `),
          'kind',
        )
      : [];
  const of = (kinds: readonly Kind[]) => kinds.flatMap((k) => names[k] ?? []);
  const colon = kind === 'expect' ? -1 : before.search(/[^:]:(\s|$)/);
  if (colon < 0) {
    const heads = list(
      [...of(HEADS[kind] ?? []), ...(kind === 'passage' || kind === 'leave' ? ['any'] : [])],
      'name',
    );
    if (kind !== 'expect') return heads;
    return [
      ...heads,
      ...list(['reaches', 'never reaches', 'leaves as', 'answers ping from', 'internet'], 'word'),
    ];
  }
  const clause = before.slice(
    before.lastIndexOf(',') + 1 > colon + 2 ? before.lastIndexOf(',') + 1 : colon + 2,
  );
  const words = clause.trim().split(/\s+/).filter(Boolean);
  const typed = word === '' ? words : words.slice(0, -1);
  if (typed.length === 0) {
    const present = new Set([...before.matchAll(/[,:]\s*([a-z0-9]+)\s/g)].map((m) => m[1]));
    return list(
      CLAUSES[kind].filter((c) => !present.has(c)),
      'clause',
    );
  }
  const last = typed[typed.length - 1]!;
  const head = typed[0]!;
  const named = list(
    of(NAMES[last] ?? (head === 'from' || head === 'to' || head === 'bridge' ? NAMES[head]! : [])),
    'name',
  );
  const takes =
    head === 'answers'
      ? [...ANSWERABLE, 'from']
      : (WORDS[last] ?? (head in WORDS && SERVICES.includes(last) ? SERVICES : []));
  const wiringAt = head === 'at' && WIRING_KINDS.has(kind) ? list(['tag'], 'word') : [];
  return [...named, ...list(takes, 'word'), ...(typed.length > 1 ? wiringAt : [])];
}
