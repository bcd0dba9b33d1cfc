import { expect } from 'chai';
import fc from 'fast-check';
import { jsonText, shown } from './outlet';

/** All that a terminal obeys, or that turns a line round, but for line ends and tabs. */
// eslint-disable-next-line no-control-regex
const OBEYED = /[\u0000-\u0008\u000b\u000c\u000e-\u001f\u007f-\u009f\u202a-\u202e\u2066-\u2069]/;
const foreign = fc.string({
  unit: fc.oneof(
    fc.integer({ min: 0, max: 0x9f }).map((n) => String.fromCharCode(n)),
    fc.constantFrom(
      '\u202e',
      '\u2066',
      '\u200f',
      '\u2028',
      '\u001b[2J',
      '\u009b31m',
      '\r',
      '\r\n',
      '\t',
      'é',
      '…',
    ),
  ),
});

describe('what is printed', () => {
  it('obeys nothing that a box or a file says, and stays readable', () => {
    fc.assert(
      fc.property(foreign, (text) => {
        expect(shown(text)).to.not.match(OBEYED);
        expect(shown(text).split('\n').length).to.equal(text.split('\n').length);
        // What is harmless is as it was.
        expect(shown(shown(text))).to.equal(shown(text));
      }),
      { numRuns: 2000 },
    );
    expect(shown('a\u001b]0;x\u0007b\r\n\tc\rd')).to.equal('a<U+001B>]0;x<U+0007>b\r\n\tc<U+000D>d');
  });

  it('is the same document for machines', () => {
    fc.assert(
      fc.property(foreign, (text) => {
        expect(jsonText({ text })).to.not.match(OBEYED);
        expect(JSON.parse(jsonText({ [text]: [text] }))).to.deep.equal({ [text]: [text] });
      }),
      { numRuns: 2000 },
    );
  });
});
