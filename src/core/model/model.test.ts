import { expect } from 'chai';
import { formatPrefix } from '#core/addr';
import { GOOD, good, modelFrom } from '#core/testkit';
import { nextFreeSubnet, plausibleValues } from './index';

describe('the model', () => {
  it('offers the next free subnet, never one that an uplink has or will get', () => {
    expect(formatPrefix(nextFreeSubnet(modelFrom(GOOD))!)).to.equal('10.61.30.0/24');
    expect(formatPrefix(nextFreeSubnet(modelFrom(''))!)).to.match(/^10\.61\.\d+\.0\/24$/);
    const behind = modelFrom(
      'zone w: upstream\ninterface u: on p1, zone w, address by dhcp\ncircuit c: at p1, lends 10.61.10.5-.9 in 10.61.0.0/16\n',
    );
    expect(formatPrefix(nextFreeSubnet(behind)!)).to.not.match(/^10\.61\./);
  });
});

describe('values that a clause could have', () => {
  const offered = (subject: string, clause: string, text = GOOD) => {
    const model = modelFrom(text);
    return plausibleValues(
      model,
      model.site.statements.find((s) => s.subject === subject)!,
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
