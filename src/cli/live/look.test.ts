/**
 * What a box that lies may say. Its answers, recorded from a real one (tests/corpus/answers.json), are damaged in their text
 * and in their values: whatever is told of them is one sentence or a whole answer, moves no cursor, and stays within bounds.
 */
import { expect } from 'chai';
import { readFileSync } from 'node:fs';
import { Seeded } from '#core/base';
import { readAnswer } from '#core/box';
import { readTrace } from '#core/linux';
import { howMany, seedOr } from '#core/testkit';
import { liveStageText } from '#words';
import { traceLines } from '../../lib/server/live/why';
import { Unusable } from '../input';
import { jsonText, shown } from '../outlet';
import { adoptedShown, driftShown, logShown, metShown, stateShown } from './look';

const RECORDED = JSON.parse(readFileSync('tests/corpus/answers.json', 'utf8')) as Record<string, string>;
const COUNT = howMany(2000, 200_000);

/** All that a terminal obeys or that turns a line round, but for line ends and tabs. */
// eslint-disable-next-line no-control-regex
const OBEYED = /[\u0000-\u0008\u000b\u000c\u000e-\u001f\u007f-\u009f\u202a-\u202e\u2066-\u2069]/;

const chance = new Seeded(seedOr(29));
const random = (): number => chance.u32() / 2 ** 32;
const one = <T>(list: readonly T[]): T => list[Math.floor(random() * list.length)]!;

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

/** A value with one of its places damaged. */
function damaged(value: unknown): unknown {
  if (random() < 0.15) return one(VALUES);
  if (typeof value === 'string') return damagedText(value);
  if (Array.isArray(value)) {
    const list: unknown[] = value;
    if (!list.length || random() < 0.1) return [...list, one(VALUES)];
    const at = Math.floor(random() * list.length);
    return list.map((x, k) => (k === at ? damaged(x) : x));
  }
  if (typeof value === 'object' && value !== null) {
    const name = one(Object.keys(value));
    return name === undefined
      ? one(VALUES)
      : { ...value, [name]: damaged((value as Record<string, unknown>)[name]) };
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

/** What the command tells of an answer; a sentence where it refuses to. */
function toldOf(order: string, said: string): { readonly text: string; readonly json?: unknown } {
  try {
    switch (order) {
      case 'state': {
        const heard = readAnswer('state', said);
        if (heard.heard !== 'answer') return { text: JSON.stringify(heard), json: heard };
        const { answer } = heard;
        return one([
          () => stateShown(answer),
          () => driftShown(answer),
          () => metShown('a box', answer.box, answer),
          () => adoptedShown(answer.box, answer, true),
        ])();
      }
      case 'log': {
        const heard = readAnswer('log', said);
        return heard.heard === 'answer'
          ? logShown(heard.answer, new Date(0))
          : { text: JSON.stringify(heard) };
      }
      case 'trace': {
        const heard = readAnswer('trace', said);
        const trace = heard.heard === 'answer' ? readTrace(heard.answer.trace) : undefined;
        return { text: trace ? traceLines(trace).join('\n') : JSON.stringify(heard), json: trace };
      }
      case 'ladder': {
        const heard = readAnswer('ladder', said);
        if (heard.heard !== 'answer') return { text: JSON.stringify(heard) };
        const rungs = heard.answer.stages.split('\n').map((l) => l.split(' '));
        return {
          text: rungs
            .map(([stage = '', , ...rest]) => liveStageText(stage, 'fail', rest.join(' ')))
            .join('\n'),
        };
      }
      case 'flows':
        return { text: JSON.stringify(readAnswer('flows', said)) };
      case 'ask':
        return { text: JSON.stringify(readAnswer('ask', said)) };
      default:
        return { text: JSON.stringify(readAnswer(order === 'adopt' ? 'adopt' : 'order', said)) };
    }
  } catch (error) {
    if (error instanceof Unusable) return { text: error.message };
    throw error;
  }
}

describe('what a box says', () => {
  it(`is told whole or refused in a sentence, whatever is damaged in it: ${COUNT} answers`, () => {
    const whole = Object.entries(RECORDED);
    for (const [order, said] of whole) expect(() => toldOf(order, said), order).to.not.throw();
    let answers = 0;
    for (let n = 0; n < COUNT; n++) {
      const [order, said] = one(whole);
      const text = n % 2 ? damagedText(said) : JSON.stringify(damaged(JSON.parse(said)));
      let told;
      try {
        told = toldOf(order, text);
      } catch (error) {
        throw new Error(`${order}: ${(error as Error).stack}\nof ${text.slice(0, 3000)}`, { cause: error });
      }
      expect(shown(told.text), text).to.not.match(OBEYED);
      expect(told.text.length, text).to.be.below(30 * (said.length + 5000));
      if (told.json !== undefined) expect(jsonText(told.json), text).to.not.match(OBEYED);
      if (!told.text.includes('nonsense')) answers++;
    }
    // Many of them are still answers, or little would have been asked.
    expect(answers).to.be.above(COUNT / 5);
  });
});
