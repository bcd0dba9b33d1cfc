import { expect } from 'chai';
import { modelFrom } from '#core/testkit';
import { hostsIn, movedPool, neighbourhoods, rulersOf } from './rulers';

const TEXT = `zone world: upstream
zone office:
interface line: on p1, zone world, address by dhcp
interface office: on p2, zone office, address 10.61.20.1/24, also 10.61.21.1/25, lends .50-.199,
  keeps .20 for 02:61:00:00:20:20 "printer"
interface lab: on p3, zone office, address 10.61.20.129/25
known camera: 10.61.20.30
circuit harbour: at p1, lends 203.0.113.140-.180 in 203.0.113.128/26, gateway .129
switch core: at p2, jack 1 tag 1, jack 2 tag 1
station pc: at core/1, address by dhcp
station till: at core/2, address 10.61.20.9/24, gateway 10.61.20.1
`;

describe('rulers', () => {
  const rulers = rulersOf(modelFrom(TEXT), [{ station: 'pc', address: '10.61.20.50' }]);
  const office = rulers[0]!;

  it('stand for every network, second and learned ones too, inside first', () => {
    expect(rulers.map((r) => [r.iface.name, r.text, r.primary, r.learned])).to.deep.equal([
      ['office', '10.61.20.0/24', true, false],
      ['office', '10.61.21.0/25', false, false],
      ['lab', '10.61.20.128/25', true, false],
      ['line', '203.0.113.128/26', false, true],
    ]);
  });

  it('show who has which address, the pool, what is shared, and count to the last free one', () => {
    expect(office.marks.map((m) => [m.kind, m.address, m.who])).to.deep.equal([
      ['box', '10.61.20.1', 'office'],
      ['fixed', '10.61.20.9', 'till'],
      ['kept', '10.61.20.20', 'printer'],
      ['known', '10.61.20.30', 'camera'],
      ['leased', '10.61.20.50', 'pc'],
    ]);
    expect(office.pools).to.deep.equal([{ nth: 0, first: 50, last: 199 }]);
    expect(office.clashes).to.deep.equal([{ who: 'lab 10.61.20.128/25', first: 128, last: 255 }]);
    // 254 hosts, 150 of them lent; the box, a till, a printer and a camera stand outside of the pool.
    expect(office.count).to.include({ hosts: 254, lent: 150, leased: 1, kept: 1, fixed: 1, free: 100 });
  });

  it('carry the end of a pool within the network, never past the other end', () => {
    const [pool] = office.pools;
    expect(movedPool(office, pool!, 'last', 900)).to.include({ first: 50, last: 254 });
    expect(movedPool(office, pool!, 'first', -4)).to.include({ first: 1, last: 199 });
    expect(movedPool(office, pool!, 'first', 230)).to.include({ first: 199, last: 199 });
    expect([hostsIn(24), hostsIn(31), hostsIn(30)]).to.deep.equal([254, 2, 2]);
  });

  it('lie beside their neighbours to scale', () => {
    const [home] = neighbourhoods(rulers);
    expect(home!.blocks.map((b) => b.ruler.text)).to.deep.equal([
      '10.61.20.0/24',
      '10.61.20.128/25',
      '10.61.21.0/25',
    ]);
    for (const b of home!.blocks) expect(b.from + b.share).to.be.at.most(1);
    expect(home!.blocks[0]!.share).to.be.closeTo(2 * home!.blocks[1]!.share, 1e-9);
  });
});
