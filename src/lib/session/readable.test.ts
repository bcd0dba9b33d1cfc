import { expect } from 'chai';
import { applyEdits } from '#core/notation';
import { effectiveDocument } from './readable';

describe('half-typed statements', () => {
  const before = 'zone a:\ninterface x: on p1, zone a\nzone b:\n';
  const last = () => {
    const map = new Map<string, string>();
    effectiveDocument('f', before, map);
    return map;
  };

  it('count as they last could be read', () => {
    const typed = before.replace('on p1, zone a', 'on p1, zone a, addr');
    const e = effectiveDocument('f', typed, last());
    expect(e.held).to.deep.equal(['interface/x']);
    expect(e.document.text).to.equal(before);
    expect(effectiveDocument('f', typed, new Map()).held, 'nothing to hold to').to.deep.equal([]);
  });

  it('leave everything else editable, at its right place in the real text', () => {
    const typed = before.replace('on p1, zone a', 'on p1, zone a, address 10.');
    const e = effectiveDocument('f', typed, last());
    const at = e.document.text.indexOf('zone b');
    const real = e.toReal([{ start: at + 5, end: at + 6, text: 'c' }])!;
    expect(applyEdits(typed, real)).to.equal(typed.replace('zone b', 'zone c'));
    const inside = e.document.text.indexOf('on p1');
    expect(e.toReal([{ start: inside, end: inside + 2, text: 'on' }])).to.equal(undefined);
  });
});
