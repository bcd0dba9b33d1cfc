import { expect } from 'chai';
import fc from 'fast-check';
import { readAnswer } from './index';

const BOX = {
  hinge: '0123456789abcdef',
  boot: 'b',
  uptime: 7,
  kernel: '6.1.0',
  systemd: true,
  running: 'none',
  startup: '0123456789abcdef',
  tools: ['ip'],
  others: [],
};
const GOOD = JSON.stringify({ ok: true, box: BOX });

describe('what a live box answers', () => {
  it('is taken for what it is, after whatever its login prints', () => {
    expect(readAnswer('order', `Welcome!\nLast login: {now}\n${GOOD}\n`)).to.deep.equal({
      heard: 'answer',
      answer: { ok: true, box: BOX },
    });
    const trial = { order: 'a', generation: 'ab', before: 'none', left: -2 };
    expect(readAnswer('order', JSON.stringify({ ok: true, box: { ...BOX, trial } }))).to.have.nested.property(
      'answer.box.trial.left',
      -2,
    );
    expect(
      readAnswer(
        'order',
        JSON.stringify({ ok: false, error: 'no-trial', detail: 'no\u0007ne\u001b[31m', box: BOX }),
      ),
    ).to.deep.equal({ heard: 'refusal', refusal: 'no-trial', detail: 'no ne [31m', box: BOX });
  });

  it('is nonsense where it is cut off, of another shape, or of values that could not be', () => {
    const rows: readonly (readonly [why: string, text: string])[] = [
      ['nothing', ''],
      ['no answer at all', 'sh: not found\n'],
      ['cut off', GOOD.slice(0, -5)],
      ['a number that is none', GOOD.replace('"uptime":7', '"uptime":"7"')],
      ['a name that could be a path', GOOD.replace('"running":"none"', '"running":"../../etc"')],
      ['an unknown refusal', '{"ok":false,"error":"because","detail":""}'],
      ['a list', '[]'],
    ];
    for (const [reason, text] of rows) expect(readAnswer('order', text).heard, reason).to.equal('nonsense');
  });

  it('never throws and never shows a control character, whatever bytes it is made of', () => {
    const bytes = fc.uint8Array({ maxLength: 200 }).map((b) => new TextDecoder().decode(b));
    const torn = fc
      .tuple(fc.nat(GOOD.length), fc.nat(GOOD.length), bytes)
      .map(([a, b, x]) => GOOD.slice(0, Math.min(a, b)) + x + GOOD.slice(Math.max(a, b)));
    fc.assert(
      fc.property(fc.oneof(bytes, torn), (text) => {
        for (const kind of ['order', 'state', 'ladder', 'trace', 'log', 'adopt'] as const) {
          const said = readAnswer(kind, text);
          const shown = said.heard === 'nonsense' ? said.start : said.heard === 'refusal' ? said.detail : '';
          expect(shown).to.match(/^[\x20-\x7e]*$/);
        }
      }),
    );
  });
});
