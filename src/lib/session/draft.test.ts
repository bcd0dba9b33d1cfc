import { expect } from 'chai';
import fc from 'fast-check';
import { diffEdits } from '#core/notation';
import { edited, travelled } from './draft';
import type { Draft } from './draft';

const start = (text = 'zone a:\n'): Draft => ({
  files: [
    { name: 'box.gate', text },
    { name: 'wiring.gate', text: '' },
  ],
  undo: [],
  redo: [],
});
const textOf = (d: Draft) => d.files[0]!.text;
/** Somebody types until the text is another. */
const typed = (d: Draft, text: string, at: number, label = 'type in zone a') =>
  edited(d, [{ file: 'box.gate', edits: diffEdits(textOf(d), text) }], label, at, true);
const undo = (d: Draft) => travelled(d, 'undo')!.draft;
const redo = (d: Draft) => travelled(d, 'redo')!.draft;

describe('the draft', () => {
  it('is the very same where a change changes nothing, and forgets what could be done again where it does', () => {
    const draft = start();
    expect(edited(draft, [{ file: 'box.gate', edits: [] }], 'nothing', 1)).to.equal(draft);
    expect(edited(draft, [{ file: 'other.gate', edits: diffEdits('', 'x') }], 'nowhere', 1)).to.equal(draft);
    const back = undo(typed(draft, 'zone ab:\n', 1));
    expect(back.redo).to.have.length(1);
    expect(typed(back, 'zone b:\n', 2).redo).to.deep.equal([]);
    expect(travelled(draft, 'undo')).to.equal(undefined);
  });

  it('joins keystrokes in a row to one step, until a pause, another label or an edit of another kind', () => {
    const d1 = typed(typed(typed(start(), 'zone ab:\n', 0), 'zone abc:\n', 1000), 'zone abcd:\n', 2400);
    expect(d1.undo).to.have.length(1);
    expect(textOf(undo(d1))).to.equal('zone a:\n');
    expect(textOf(redo(undo(d1)))).to.equal('zone abcd:\n');
    expect(typed(d1, 'zone x:\n', 3900).undo, 'after a pause').to.have.length(2);
    expect(typed(d1, 'zone x:\n', 2500, 'type in zone b').undo, 'another statement').to.have.length(2);
    const mend = [{ file: 'box.gate', edits: diffEdits(textOf(d1), 'zone y:\n') }];
    expect(edited(d1, mend, 'type in zone a', 2500).undo, 'a mend').to.have.length(2);
  });

  it('leaves out a kept step that does not fit the text any more, and changes nothing else', () => {
    const edits = [{ start: 500, end: 510, text: '' }];
    const step = {
      label: 'tampered',
      at: 1,
      forward: [{ file: 'box.gate', edits }],
      back: [{ file: 'box.gate', edits }],
    };
    const good = typed(start(), 'zone ab:\n', 0);
    const draft: Draft = { ...good, undo: [...good.undo, step] };
    const went = travelled(draft, 'undo')!;
    expect([went.fits, went.step.label, textOf(went.draft)]).to.deep.equal([false, 'tampered', 'zone ab:\n']);
    expect(textOf(undo(went.draft))).to.equal('zone a:\n');
  });

  it('comes back to every text on its way, and goes on to it again', () => {
    fc.assert(
      fc.property(
        fc.array(fc.tuple(fc.string({ maxLength: 12 }), fc.integer({ min: 0, max: 3000 }), fc.boolean()), {
          minLength: 1,
          maxLength: 12,
        }),
        (steps) => {
          let draft = start();
          let at = 0;
          const seen = new Set([textOf(draft)]);
          for (const [text, pause, keys] of steps) {
            at += pause;
            draft = edited(
              draft,
              [{ file: 'box.gate', edits: diffEdits(textOf(draft), text) }],
              'x',
              at,
              keys,
            );
            seen.add(textOf(draft));
          }
          const end = textOf(draft);
          let back = draft;
          while (back.undo.length) {
            back = undo(back);
            expect(seen).to.include(textOf(back));
          }
          expect(textOf(back)).to.equal('zone a:\n');
          while (back.redo.length) back = redo(back);
          expect([textOf(back), back.undo.length]).to.deep.equal([end, draft.undo.length]);
        },
      ),
    );
  });

  it('keeps 500 steps', () => {
    let draft = start();
    for (let i = 0; i < 510; i++) draft = typed(draft, `zone z${i}:\n`, i * 2000);
    expect(draft.undo).to.have.length(500);
  });
});
