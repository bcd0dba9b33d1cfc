import { expect } from 'chai';
import { completeWiring, foresee, plausibleValues } from '#core/site';
import { GOOD, good, siteFrom } from '#core/testkit';
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

describe('values that a clause could have', () => {
  const offered = (subject: string, clause: string, text = GOOD) => {
    const site = siteFrom(text);
    return plausibleValues(
      site,
      completeWiring(site),
      site.statements.find((s) => s.subject === subject)!,
      clause,
    );
  };
  const rows: [string, string, string[], string?][] = [
    ['interface/line', 'address', ['198.51.100.19/29']],
    ['interface/line', 'gateway', ['198.51.100.17']],
    ['interface/desk', 'also', ['10.61.20.2', '10.61.30.1/24']],
    ['interface/desk', 'lends', []],
    [
      'interface/desk',
      'lends',
      ['10.61.21.51-10.61.21.253'],
      good(['20.1/24', '20.1/24, also 10.61.21.1/24']),
    ],
    ['interface/line', 'watch', ['192.0.2.80', '192.0.2.53']],
    ['box/first', 'names', ['192.0.2.53']],
    ['station/pc', 'address', ['by dhcp', '10.61.20.2/24']],
    ['station/pc', 'gateway', ['10.61.20.1']],
    [
      'station/pc',
      'at',
      ['core/2'],
      `${GOOD}switch core: at p4, jack 1 tag 1, jack 2 tag 1\nstation x: at core/1\n`,
    ],
    [
      'interface/v',
      'tag',
      ['30'],
      `${GOOD}switch core: at p4, carries 20 30\ninterface v: on p4 tag 20, zone office\n`,
    ],
  ];
  for (const [subject, clause, wanted, text] of rows)
    it(`${subject} ${clause}`, () => expect(offered(subject, clause, text)).to.deep.equal(wanted));
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
