import { expect } from 'chai';
import type { Derived, FindingView } from '../../worker/protocol';
import { NO_JOBS, findingsOf, findingsTold, forgotten, isFresh, isOf, proofAsked } from './jobs';
import { proofFailed, proofTold, typingBegun, typingRested } from './jobs';

const finding = (subject: string, code = 'no-zone') =>
  ({ id: `${code} ${subject}`, code, subject }) as FindingView;
const derived = (generation: number, ...findings: FindingView[]) =>
  ({ generation, findings }) as unknown as Derived;
const [first, second] = [[{ name: 'a', text: '1' }], [{ name: 'a', text: '2' }]];
const subjects = (list: readonly FindingView[]) => list.map((f) => f.subject);

describe('what the worker was asked and told', () => {
  it('findings belong to the text that was asked about last, and a proof is fresh only for it', () => {
    const asked = proofAsked(NO_JOBS, first);
    expect([asked.generation, asked.isProving, isOf(asked, first)]).to.deep.equal([1, true, false]);
    const done = proofTold(asked, derived(1, finding('interface/desk')));
    expect([done.isProving, isOf(done, first), isFresh(done, first)]).to.deep.equal([false, true, true]);
    expect(isOf(done, second), 'typed since').to.equal(false);
    const again = proofAsked(done, second);
    expect([isFresh(again, second), isOf(again, second)]).to.deep.equal([false, false]);
    const found = findingsTold(again, [finding('zone/lab')]);
    expect([isOf(found, second), isFresh(found, second)], 'looked at, not proved').to.deep.equal([
      true,
      false,
    ]);
    expect(subjects(findingsOf(found, []))).to.deep.equal(['zone/lab']);
    expect(found.derived?.generation, 'what the proof said last stays').to.equal(1);
  });

  it('trouble is told until an answer comes, and leaves what was known', () => {
    const done = proofTold(proofAsked(NO_JOBS, first), derived(1, finding('interface/desk')));
    const failed = proofFailed(proofAsked(done, second), 'it died');
    expect([failed.trouble, failed.isProving]).to.deep.equal(['it died', false]);
    expect(subjects(findingsOf(failed, []))).to.deep.equal(['interface/desk']);
    expect(proofTold(failed, derived(2)).trouble).to.equal('');
    expect(findingsOf(forgotten(failed), [])).to.deep.equal([]);
  });

  it('holds back the findings of the statement being typed, those as they were before stay', () => {
    const before = proofTold(proofAsked(NO_JOBS, first), derived(1, finding('a'), finding('b')));
    const typing = typingBegun(before, 'a');
    expect(typingBegun(typing, 'a'), 'once').to.equal(typing);
    const told = proofTold(typing, derived(2, finding('a', 'syntax'), finding('b'), finding('c')));
    expect(findingsOf(told, [finding('a', 'held')]).map((f) => f.id)).to.deep.equal([
      'no-zone b',
      'no-zone c',
      'no-zone a',
    ]);
    expect(findingsOf(typingRested(told), [finding('x', 'held')]).map((f) => f.id)).to.deep.equal([
      'held x',
      'syntax a',
      'no-zone b',
      'no-zone c',
    ]);
    expect(subjects(findingsOf(typingBegun(NO_JOBS, 'a'), []))).to.deep.equal([]);
  });
});
