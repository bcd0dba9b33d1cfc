import { expect } from 'chai';
import { completeWiring, foresee } from '#core/site';
import { GOOD, siteFrom } from '#core/testkit';
import { factsAbout } from './facts';
import { toOffset, toPosition } from './positions';

const facts = (word: string, about = 'interface/desk', text = GOOD) => {
  const site = siteFrom(text);
  const wiring = completeWiring(site);
  const statement = site.statements.find((s) => s.subject === about);
  return Object.fromEntries(factsAbout(site, wiring, foresee(site, wiring), statement, word));
};

describe('facts under the pointer', () => {
  it('tell a network, its mask, its hosts and who uses an address', () => {
    expect(facts('10.61.20.1/24')).to.deep.equal({
      address: '10.61.20.1',
      network: '10.61.20.0/24',
      mask: '255.255.255.0',
      broadcast: '10.61.20.255',
      hosts: '10.61.20.1–10.61.20.254 (254)',
      kind: 'private (RFC 1918 §3)',
      'used by': 'interface desk',
    });
    expect(facts('.50-.199')['used by'], 'a short address leans on its statement').to.equal('pc');
    expect(facts('198.51.100.20').on, 'a free one of a known network').to.equal('line');
  });

  it('tell things by their name, and nothing of other words', () => {
    expect(facts('office').interfaces).to.equal('desk');
    expect(facts('desk')['here sit']).to.equal('pc');
    expect([facts('lends'), facts('192.0.2.999')]).to.deep.equal([{}, {}]);
  });
});

describe('places in a file and in its editor', () => {
  it('are the same in a text with LF, and go there and back over CRLF', () => {
    const text = 'ab\r\ncd\r\n\r\ne';
    expect(toOffset('ab\ncd', 4)).to.equal(4);
    for (const [position, offset] of [
      [0, 0],
      [2, 2],
      [3, 4],
      [5, 6],
      [6, 8],
      [7, 10],
    ] as const) {
      expect(toOffset(text, position)).to.equal(offset);
      expect(toPosition(text, offset)).to.equal(position);
    }
  });
});
