import { expect } from 'chai';
import fc from 'fast-check';
import { markdownCode, markdownRow, markdownText } from './markdown';

describe('text of others in Markdown', () => {
  it('holds no markup that is not escaped', () => {
    fc.assert(
      fc.property(fc.string({ unit: fc.constantFrom(...'\\<>[]()!`|&*#- \nax'.split('')) }), (text) => {
        const plain = markdownText(text).replace(/\\[\\<[\]`|&#>+*-]/g, '');
        expect(plain).to.not.match(/[\\<[\]`|&\n]/);
        expect(markdownRow([text, 1]).replace(/\\[^]/g, '').split('|').length).to.equal(4);
      }),
      { numRuns: 1000 },
    );
    expect(markdownText('![p](http://x/y.png) <b>')).to.equal('!\\[p\\](http://x/y.png) \\<b>');
    expect(markdownText('# a\nb')).to.equal('\\# a b');
  });

  it('is shown letter by letter within a fence that it does not hold', () => {
    expect(markdownCode('a')).to.equal('`a`');
    expect(markdownCode('a`` <b> `c')).to.equal('```a`` <b> `c```');
    expect(markdownCode('`x`\n![p](y)')).to.equal('``` `x` ![p](y) ```'.replaceAll('```', '``'));
  });
});
