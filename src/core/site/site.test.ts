import { expect } from 'chai';
import { formatIp, formatPrefix } from '#core/addr';
import { GOOD, good, siteFrom } from '#core/testkit';
import { completeWiring, foresee, landingOf } from './index';

const net = (text: string) => {
  const site = siteFrom(text);
  return { site, wiring: completeWiring(site), prospects: foresee(site, completeWiring(site)) };
};

describe('the site', () => {
  it('orders zones by trust, resolves interfaces, and knows an uplink', () => {
    const { site } = net(
      `${GOOD}interface spare: on p3, zone office, address by dhcp, answers ping\ninterface idle: on p4, zone world, off\n`,
    );
    expect(site.zones.map((z) => [z.name, z.trust, z.within])).to.deep.equal([
      ['world', 0, 'drop'],
      ['office', 1, 'allow'],
    ]);
    expect(site.interfaces.map((i) => [i.name, i.uplink, i.gateway.by])).to.deep.equal([
      ['line', true, 'address'],
      ['desk', false, 'none'],
      ['spare', true, 'learned'],
      ['idle', false, 'none'],
    ]);
  });

  it('follows a plug through switches to a port and tag, or says why it is lost', () => {
    const site =
      siteFrom(`switch a: at p3, native 1, carries 20 30, jack 1 tag 20, jack 2 tag 1, jack 3 tag 40, jack 4 tag 30
switch b: at a/4, jack 1 tag 1, jack 2 tag 7
switch c: at d/1, jack 1 tag 1
switch d: at c/1, jack 1 tag 1
station s1: at a/1
station s2: at a/2
station s3: at a/3
station s4: at b/1
station s5: at b/2
station s6: at a/9
station s7: at c/1
station s8: at x/1
`);
    const rows: Record<string, string> = {
      s1: 'p3 20',
      s2: 'p3 untagged',
      s3: 'tag-not-carried',
      s4: 'p3 30',
      s5: 'tag-not-carried',
      s6: 'jack-unknown',
      s7: 'switch-loop',
      s8: 'switch-unknown',
    };
    for (const s of site.stations) {
      const l = landingOf(site, s.plug);
      expect('port' in l ? `${l.port} ${l.tag ?? 'untagged'}` : l.lost, s.name).to.equal(rows[s.name]);
    }
  });

  it('supposes a circuit, a desk, a resolver and a far host only where the wiring is silent', () => {
    const bare = net(GOOD.replace(/^(circuit|station|far).*\n/gm, ''));
    expect(bare.wiring.circuits.map((c) => [c.supposed, formatIp(c.gateway!)])).to.deep.equal([
      [true, '198.51.100.17'],
    ]);
    expect(bare.wiring.stations.map((s) => [s.name, s.supposed, s.dhcp])).to.deep.equal([
      ['desk-desk', true, true],
    ]);
    expect(bare.wiring.fars.map((f) => [f.supposed, f.resolves])).to.deep.equal([
      [true, false],
      [true, true],
    ]);
    const full = net(GOOD);
    expect(
      [...full.wiring.circuits, ...full.wiring.stations, ...full.wiring.fars].filter((x) => x.supposed),
    ).to.deep.equal([]);
    const half = net(good(['station pc: at p2, address by dhcp\n', 'switch sw: at p2\n']));
    expect(half.wiring.stations, 'a described port is never supposed about').to.deep.equal([]);
    const dhcp = net('zone w: upstream\ninterface u: on p1, zone w, address by dhcp\n');
    expect(formatPrefix(dhcp.prospects.uplinks.get('u')!.address)).to.equal('198.18.0.100/24');
  });

  it('foresees leases: a keep first, else the lowest free address of the pool', () => {
    const { prospects } = net(
      `${good(['ping dns ssh https', 'ping dns ssh https, keeps .52 for 02:00:00:00:00:07'], ['station pc: at p2', 'switch s: at p2, jack 1 tag 1, jack 2 tag 1, jack 3 tag 1\nstation fixed: at s/3, address 10.61.20.50/24\nstation kept: at s/2, address by dhcp, mac 02:00:00:00:00:07\nstation pc: at s/1'])}`,
    );
    expect([...prospects.stations].map(([n, p]) => [n, formatIp(p.address)])).to.deep.equal([
      ['fixed', '10.61.20.50'],
      ['kept', '10.61.20.52'],
      ['pc', '10.61.20.51'],
    ]);
  });

  it('foresees leases behind two routers apart: who lends the same addresses elsewhere takes none away', () => {
    const { prospects } = net(`zone office:
interface one: on p3 tag 30, zone office, address 10.61.30.1/24
interface two: on p3 tag 40, zone office, table blue, address 10.61.30.1/24
table blue:
switch core: at p3, carries 30 40, jack 3 tag 30, jack 4 tag 40, jack 13 tag 130, jack 14 tag 140
router left: leg core/3 10.61.30.2/24, leg core tag 130 10.61.130.1/24 lends .50-.60, gateway 10.61.30.1
router right: leg core/4 10.61.30.2/24, leg core tag 140 10.61.130.1/24 lends .50-.60, gateway 10.61.30.1
station a: at core/13, address by dhcp
station b: at core/14, address by dhcp
`);
    expect([...prospects.stations.values()].map(formatPrefix)).to.deep.equal([
      '10.61.130.50/24',
      '10.61.130.50/24',
    ]);
  });

  it('counts no statement whose name could not be read', () => {
    const site = siteFrom('zone :\nzone :\ninterface : on p1\ncircuit :\ncircuit :\nstation :\n');
    expect([site.zones, site.interfaces, site.circuits, site.stations].map((l) => l.length)).to.deep.equal([
      0, 0, 0, 0,
    ]);
  });

  it('tells names that lead nowhere, mildly where only a wiring could know them', () => {
    const site = siteFrom(
      GOOD.replace(/^(circuit|station|far).*\n/gm, '') +
        'expect nobody reaches internet\nexpect office reaches zone offise\n',
    );
    expect(site.nameProblems.map((p) => [p.code, p.values.name, p.mild])).to.deep.equal([
      ['name-unknown', 'nobody', true],
      ['name-unknown', 'offise', false],
    ]);
    expect(site.nameProblems[1]!.proposal).to.equal('office');
  });
});
