/**
 * What a box that lies may say. Its answers, recorded from a real one (tests/corpus/answers.json), are damaged in their text
 * and in their values: whatever is told of them is one sentence or a whole answer, moves no cursor, and stays within bounds.
 */
import { expect } from 'chai';
import { readFileSync } from 'node:fs';
import { readAnswer } from '#core/box';
import { readTrace } from '#core/linux';
import { damages, howMany, seedOr } from '#core/testkit';
import { liveStageText } from '#words';
import { traceLines } from '../../lib/server/live/why';
import { Unusable } from '../input';
import { jsonText, shown } from '../outlet';
import { adoptedShown, driftShown, logShown, metShown, stateShown } from './look';

const RECORDED = JSON.parse(readFileSync('tests/corpus/answers.json', 'utf8')) as Record<string, string>;
const { one, damagedAnswer } = damages(seedOr(29));
const COUNT = howMany(2000, 200_000);

/** All that a terminal obeys or that turns a line round, but for line ends and tabs. */
// eslint-disable-next-line no-control-regex
const OBEYED = /[\u0000-\u0008\u000b\u000c\u000e-\u001f\u007f-\u009f\u202a-\u202e\u2066-\u2069]/;

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
      const text = damagedAnswer(said);
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
