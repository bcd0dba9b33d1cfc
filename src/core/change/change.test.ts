import { expect } from 'chai';
import fc from 'fast-check';
import { anyText, good, GOOD, howMany, siteFrom } from '#core/testkit';
import { parseDocument, printDocument } from '#core/notation';
import { changeTexts } from '#words';
import { diffSites, factoryBox, sameFiles, stepBox } from './index';
import type { BoxEvent, BoxState, Files } from './index';

const files = (text: string): Files => [{ name: 'box.gate', text }];
const apply = (state: BoxState, ...events: readonly (readonly [BoxEvent, number])[]) =>
  events.reduce((s, [event, now]) => stepBox(s, event, now).state, state);
const TRY: BoxEvent = { do: 'try', id: 'one', files: files('new'), seconds: 60, note: 'why' };

describe('a trial', () => {
  const box = apply(factoryBox(files('old')), [{ do: 'set-password' }, 0]);

  it('goes back by itself when its time is over, before anything else is heard', () => {
    const on = apply(box, [TRY, 1000]);
    expect(on.running).to.deep.equal(files('new'));
    expect(apply(on, [{ do: 'tick' }, 60_999]).running).to.deep.equal(files('new'));
    const late = stepBox(on, { do: 'stay', id: 'one' }, 61_000);
    expect(late.refused).to.equal('no-trial');
    expect(late.state.running).to.deep.equal(files('old'));
    expect(late.state.last).to.deep.equal({ what: 'went-back', at: 61_000 });
  });

  it('stays when it is told to in time, by the one who began it', () => {
    const on = apply(box, [TRY, 0]);
    expect(stepBox(on, { do: 'stay', id: 'other' }, 10).refused).to.equal('other-trial');
    const stayed = apply(on, [{ do: 'stay', id: 'one' }, 10]);
    expect([stayed.running, stayed.trial, stayed.history[0]?.note]).to.deep.equal([
      files('new'),
      undefined,
      'why',
    ]);
    expect(sameFiles(stayed.startup, files('old')), 'start-up only when saved').to.equal(true);
    expect(apply(stayed, [{ do: 'save' }, 20]).startup).to.deep.equal(files('new'));
    expect(apply(stayed, [{ do: 'reboot' }, 20]).running).to.deep.equal(files('old'));
  });

  it('is refused where it must be', () => {
    expect(stepBox(factoryBox(files('')), TRY, 0).refused).to.equal('factory-password');
    expect(stepBox(box, { ...TRY, seconds: 2 }, 0).refused).to.equal('bad-time');
    expect(stepBox(box, { ...TRY, seconds: Number.NaN }, 0).refused).to.equal('bad-time');
    const on = apply(box, [TRY, 0]);
    expect(stepBox(on, { ...TRY, id: 'two' }, 1).refused).to.equal('trial-running');
    expect(stepBox(on, { do: 'save' }, 1).refused).to.equal('trial-running');
    expect(stepBox(box, { do: 'go-back' }, 1).refused).to.equal('no-trial');
  });

  it('can be given more time and can be ended at once', () => {
    const on = apply(box, [TRY, 0], [{ do: 'extend', id: 'one', seconds: 60 }, 50_000]);
    expect(apply(on, [{ do: 'tick' }, 100_000]).trial).to.not.equal(undefined);
    expect(apply(on, [{ do: 'go-back' }, 100_000]).running).to.deep.equal(files('old'));
    expect(apply(on, [{ do: 'reboot' }, 100_000]).running, 'a power cut starts from start-up').to.deep.equal(
      files('old'),
    );
  });
});

describe('a difference', () => {
  const told = (after: string, before = GOOD) =>
    diffSites(siteFrom(before), siteFrom(after)).flatMap(changeTexts);

  it('is told by meaning, with what was, the most consequent first', () => {
    expect(told(good(['lends .50-.199', 'lends .50-.239']))).to.deep.equal([
      'desk: lends .50-.239 (was .50-.199)',
    ]);
    const many = told(
      `${good(['answers ping dns ssh https', 'answers ping dns'], ['gateway .17, answers', 'gateway .20, answers'])}passage world > office: allow ssh\n`,
    );
    expect(many).to.deep.equal([
      'new: passage world > office: allow ssh',
      'desk: answers ping dns (was ping dns ssh https)',
      'line: gateway .20 (was .17)',
    ]);
    expect(told(good(['zone office:\n', '']))[0]).to.equal('gone: zone office:');
    expect(
      told(good(['zone world: upstream\nzone office:', 'zone office:\nzone world: upstream'])),
    ).to.deep.equal(['office: the order is now zone/office, zone/world']);
  });

  it('is nothing for a mere change of form', () => {
    fc.assert(
      fc.property(anyText, (text) => {
        const printed = printDocument(parseDocument(text, 't'));
        expect(
          diffSites(siteFrom(text), siteFrom(`# a remark\n\n${printed.replace('\ufeff', '')}`)),
        ).to.deep.equal([]);
      }),
      { numRuns: howMany(100, 400) },
    );
  });

  it('is nothing for another way to write the same', () => {
    const rows: readonly [string, string][] = [
      ['gateway .17', 'gateway 198.51.100.17'],
      ['198.51.100.18/29', '198.51.100.18 mask 255.255.255.248'],
      ['lends .50-.199', 'lends 10.61.20.50-10.61.20.199'],
      ['answers ping dns ssh https', 'note "desk", answers ping dns ssh https'],
    ];
    for (const [was, now] of rows) expect(told(good([was, now])), now).to.deep.equal([]);
  });

  it('knows a statement again that others were put before, that moved, or that has another name', () => {
    const two = 'passage office > world: drop tcp 25\n';
    expect(told(good(['passage office', `${two}passage office`]))).to.deep.equal([`new: ${two.trim()}`]);
    const both = `${GOOD}${two}`;
    expect(told(good(['passage office', `${two}passage office`]), both))
      .to.have.length(1)
      .and.match(/the order is now/);
    expect(told(good(['interface desk:', 'interface studio:']))).to.deep.equal(['studio: its name was desk']);
  });
});

describe('the box’s stores', () => {
  const event: fc.Arbitrary<BoxEvent> = fc.oneof(
    fc.record({
      do: fc.constant('try' as const),
      id: fc.constantFrom('a', 'b'),
      files: fc.constantFrom('x', 'y', 'z').map(files),
      seconds: fc.constantFrom(5, 60, 1),
      note: fc.constant(''),
    }),
    fc.record({ do: fc.constant('stay' as const), id: fc.constantFrom('a', 'b') }),
    fc.record({
      do: fc.constant('extend' as const),
      id: fc.constantFrom('a', 'b'),
      seconds: fc.constantFrom(10, 9999),
    }),
    fc.constantFrom<BoxEvent>({ do: 'go-back' }, { do: 'tick' }, { do: 'save' }, { do: 'reboot' }),
  );

  it('never keep what nobody stayed with, whatever happens in whatever order', () => {
    fc.assert(
      fc.property(
        fc.array(fc.tuple(event, fc.integer({ min: 0, max: 90_000 })), { maxLength: 25 }),
        (events) => {
          let state = apply(factoryBox(files('factory')), [{ do: 'set-password' }, 0]);
          let now = 0;
          for (const [e, wait] of events) {
            now += wait;
            const before = state;
            const { state: next, refused } = stepBox(state, e, now);
            state = next;
            // What runs without a trial was there before, stayed, or is start-up.
            const stayed = [...state.history.map((h) => h.files), state.startup, files('factory')];
            if (!state.trial) expect(stayed.some((f) => sameFiles(f, state.running))).to.equal(true);
            else expect(state.trial.until).to.be.greaterThan(now);
            if (refused)
              expect([sameFiles(before.startup, state.startup), state.history.length]).to.deep.equal([
                true,
                before.history.length,
              ]);
            if (e.do !== 'save')
              expect(sameFiles(before.startup, state.startup), 'only saving saves').to.equal(true);
          }
        },
      ),
    );
  });
});
