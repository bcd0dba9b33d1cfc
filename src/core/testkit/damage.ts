/** What a box that lies may say: an answer of a real one, damaged in its text or in one of its values. */
import { Seeded } from '#core/base';

/** What stands where something else was, as a text. */
const SCRAPS = [
  ...[
    '',
    ' ',
    '\n',
    '\0',
    '\r',
    '\u001b[2J',
    '\u009b31m',
    '\u202e',
    '\u0007',
    '|',
    ',',
    '/',
    '..',
    '-x',
    '$(id)',
  ],
  ...[
    '<img src=x>',
    '`id`',
    "'",
    '"',
    '\\',
    '\\u001b]0;x\\u0007',
    '999999999999999999999',
    '-1',
    '1e999',
    '０',
    'é',
  ],
  ...[
    'none',
    'p3',
    '10.61.20.50',
    '10.61.20.50/99',
    'fe80::1%p3',
    '::',
    'x'.repeat(5000),
    'zone a:\n'.repeat(50),
  ],
] as const;
/** The same, as a value. */
const VALUES: readonly unknown[] = [
  ...[null, true, false, 0, -1, 0.5, 1e308, -1e308, 9e15, 8.64e15 / 1000 + 1, [], {}, [[]], [null], [{}], ''],
  { __proto__: null, constructor: 1 },
  JSON.parse('{"__proto__":{"x":1}}'),
];

/** Damages of this seed; `one` chooses by the same chance. */
export function damages(seed: number) {
  const chance = new Seeded(seed);
  const random = (): number => chance.u32() / 2 ** 32;
  const one = <T>(list: readonly T[]): T => list[Math.floor(random() * list.length)]!;

  /** A value with one of its places damaged. */
  function damagedValue(value: unknown): unknown {
    if (random() < 0.15) return one(VALUES);
    if (typeof value === 'string') return damagedText(value);
    if (Array.isArray(value)) {
      const list: unknown[] = value;
      if (!list.length || random() < 0.1) return [...list, one(VALUES)];
      const at = Math.floor(random() * list.length);
      return list.map((x, k) => (k === at ? damagedValue(x) : x));
    }
    if (typeof value === 'object' && value !== null) {
      const name = one(Object.keys(value));
      return name === undefined
        ? one(VALUES)
        : { ...value, [name]: damagedValue((value as Record<string, unknown>)[name]) };
    }
    return one(VALUES);
  }

  /** A text with a piece of it taken out, put in twice, or another in its place. */
  function damagedText(text: string): string {
    const at = Math.floor(random() * (text.length + 1));
    const end = Math.min(text.length, at + Math.floor(random() * 12));
    switch (Math.floor(random() * 4)) {
      case 0:
        return text.slice(0, at) + text.slice(end);
      case 1:
        return text.slice(0, end) + text.slice(at);
      case 2:
        return text.slice(0, at);
      default:
        return text.slice(0, at) + one(SCRAPS) + text.slice(end);
    }
  }

  /** Every other time it still is JSON. */
  const damagedAnswer = (said: string): string =>
    random() < 0.5 ? damagedText(said) : JSON.stringify(damagedValue(JSON.parse(said)));
  return { one, damagedAnswer };
}
