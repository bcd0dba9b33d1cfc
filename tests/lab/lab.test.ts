/**
 * Generated sites told to a Linux kernel in network namespaces: what arrives where, as whom, and who answers, must be
 * what the reach says. `npm run lab` asks hundreds. Without the rights it is skipped, and says so.
 */
import { expect } from 'chai';
import { howMany, seedOr, siteFrom } from '#core/testkit';
import { drillSites, drillTwice } from './drills';
import { Pace } from './pace';
import { compareWithKernel, sitesFor, whyNot } from './lab';

describe('a Linux kernel told the same', () => {
  it('does the same with every flow', function () {
    const why = whyNot();
    if (why !== undefined) {
      console.log(`    the kernel is not asked: ${why}`);
      this.skip();
    }
    for (const text of sitesFor(howMany(5, 60), seedOr(4)))
      expect(compareWithKernel(siteFrom(text)).differ, text).to.deep.equal([]);
  });

  it('does the same for an office with a door, two tables and a translating line', function () {
    if (whyNot() !== undefined) this.skip();
    const text = `zone world: upstream
zone shop: dmz
zone office:
zone guests: within drop
table blue:
interface fibre: on p1, zone world, address 198.51.100.18/29, gateway .17, answers ping, guard
interface radio: on p2, zone world, table blue, address 203.0.113.18/29, gateway .17, answers ping
interface shop-net: on p3, zone shop, address 10.61.50.1/24, answers ping
interface office-net: on p4, zone office, address 10.61.20.1/24, also 10.61.21.1/24, answers ping ssh
interface guest-net: on p5, zone guests, table blue, address 10.61.60.1/24, answers dns
circuit fibre-line: at p1, block 198.51.100.16/29, gateway .17
circuit radio-line: at p2, block 203.0.113.16/29, gateway .17, translating
station server: at p3, address 10.61.50.10/24, gateway 10.61.50.1, listens tcp 8443
station pc: at p4, address 10.61.20.10/24, gateway 10.61.20.1
station phone: at p5, address 10.61.60.10/24, gateway 10.61.60.1, silent
passage office > world: allow
passage office > shop: allow tcp 443 8443 ping
passage guests > world: allow tcp 80 443 udp 53
passage shop > world: reject
leave office > fibre: as 198.51.100.20
leave any > world: as interface
door orders: 198.51.100.19 tcp 443 > 10.61.50.10 tcp 8443
far www.example: address 192.0.2.80, listens tcp 80 443
`;
    const { flows, differ } = compareWithKernel(siteFrom(text));
    expect(differ).to.deep.equal([]);
    expect(flows).to.be.greaterThan(150);
  });

  it('does the same when an uplink falls silent, for whom it carried and whom it did not', function () {
    if (whyNot() !== undefined) this.skip();
    const text = `zone world: upstream
zone office:
zone guests:
zone tills:
interface fibre: on p1, zone world, address 198.51.100.18/29, gateway .17, watch 192.0.2.80
interface radio: on p2, zone world, address 203.0.113.18/29, gateway .17, priority 2
interface office-net: on p4, zone office, address 10.61.20.1/24, answers ping
interface guest-net: on p5, zone guests, address 10.61.60.1/24
interface till-net: on p6, zone tills, address 10.61.30.1/24
circuit fibre-line: at p1, block 198.51.100.16/29, gateway .17
circuit radio-line: at p2, block 203.0.113.16/29, gateway .17
station pc: at p4, address 10.61.20.10/24, gateway 10.61.20.1
station phone: at p5, address 10.61.60.10/24, gateway 10.61.60.1
station till: at p6, address 10.61.30.10/24, gateway 10.61.30.1
passage office > world: allow
passage guests > world: allow
passage tills > world: allow
send guests by fibre else never:
send tills tcp 443 by radio:
leave office > fibre: as 198.51.100.20
leave any > world: as interface
far www.example: address 192.0.2.80, listens tcp 80 443
`;
    const { again, moved, differ } = compareWithKernel(siteFrom(text));
    expect(differ).to.deep.equal([]);
    expect(again).to.be.greaterThan(60);
    // The office's and the rest of the tills' go by the other line; the guests' nowhere.
    expect(moved).to.be.greaterThan(3);
  });

  it('does the same for two tables with the same addresses on tags of one port', function () {
    if (whyNot() !== undefined) this.skip();
    const text = `zone world: upstream
zone office:
zone lab:
table blue:
interface fibre: on p1, zone world, address 198.51.100.18/29, gateway .17, answers ping, guard
interface radio: on p2, zone world, table blue, address 203.0.113.18/29, gateway .17
interface bare: on p3, zone office, address 10.61.1.1/24, also 10.61.11.1/24, answers ping ssh
interface tagged: on p3 tag 30, zone lab, table blue, address 10.61.1.1/24, answers ping
interface other: on p3 tag 40 pcp 5, zone lab, table blue, address 10.61.4.1/24, answers ping
circuit fibre-line: at p1, block 198.51.100.16/29, gateway .17
circuit radio-line: at p2, block 203.0.113.16/29, gateway .17
switch core: at p3, native 1, carries 30 40, jack 1 tag 1, jack 2 tag 30, jack 3 tag 40
station pc: at core/1, address 10.61.1.10/24, gateway 10.61.1.1
station bench-pc: at core/2, address 10.61.1.10/24, gateway 10.61.1.1
station oven: at core/3, address 10.61.4.10/24, gateway 10.61.4.1
passage office > world: allow
passage lab > world: allow tcp 80 443 ping
passage lab > lab: allow
leave any > world: as interface
door shop: 203.0.113.19 tcp 443 > 10.61.1.10 tcp 8443
door orders: 198.51.100.19 tcp 443 > 10.61.1.10 tcp 8443
far www.example: address 192.0.2.80, listens tcp 80 443
`;
    const { flows, tagged, differ } = compareWithKernel(siteFrom(text));
    expect(differ).to.deep.equal([]);
    expect(flows).to.be.greaterThan(200);
    expect(tagged).to.be.greaterThan(100);
  });

  it('shows one IPv6 prefix as another, with the subnet or the host taking the difference', function () {
    if (whyNot() !== undefined) this.skip();
    const site = (leave: string) => `zone world: upstream
zone office:
interface fibre: on p1, zone world, address6 2001:db8:1::2/64, gateway6 2001:db8:1::1, answers ping
interface cable: on p2, zone world, address6 2001:db8:2::2/64, gateway6 2001:db8:2::1, priority 2, answers ping
interface desk: on p3, zone office, address6 fd61:20:30:1::1/64, answers ping
interface lab: on p4, zone office, address6 fd61:20:30:fff0::1/64, answers ping
circuit fibre-line: at p1, block6 2001:db8:1::/64, routes 2001:db8:2200::/48 via 2001:db8:1::2
circuit cable-line: at p2, block6 2001:db8:2::/64
passage office > world: allow
passage world > office: allow
leave ${leave}
station pc: at p3, address6 fd61:20:30:1::50/64, gateway6 fd61:20:30:1::1
station oven: at p4, address6 fd61:20:30:fff0:ffff:fe00::9/64, gateway6 fd61:20:30:fff0::1
far www.example: address 2001:db8:ffff::80, listens tcp 80 443
`;
    for (const leave of [
      'fd61:20:30::/48 > world: as 2001:db8:2200::/48',
      'fd61:20:30:1::/64 > fibre: as 2001:db8:2200:77::/64',
      'fd61:20:30:fff0::/60 > world: as 2001:db8:2200:10::/60',
    ])
      expect(compareWithKernel(siteFrom(site(leave))).differ, leave).to.deep.equal([]);
  });

  it('does the same again in another table when main has lost its way out, and for what was asked before', function () {
    if (whyNot() !== undefined) this.skip();
    const text = `zone world: upstream
zone office:
zone guests:
zone shop: within drop
interface fibre: on p1, zone world, address 198.51.100.18/29, gateway .17, address6 2001:db8:1::2/64, gateway6 2001:db8:1::1, answers ping
circuit fibre-line: at p1, block 198.51.100.16/29, gateway .17, block6 2001:db8:1::/64, routes 2001:db8:61::/48 via 2001:db8:1::2
interface radio: on p2, zone world, address 203.0.113.18/29, gateway .17, priority 2, answers ping ssh from office-net 192.0.2.80
circuit radio-line: at p2, block 203.0.113.16/29, gateway .17
switch core: at p3, carries 20 30, jack 2 tag 20, jack 3 tag 30
interface office-net: on p5, zone office, address 10.61.1.1/24, address6 2001:db8:61:1::1/64, advertises
station office-pc: at p5, address 10.61.1.10/16, gateway 10.61.1.1, listens any
interface guests-net: on p3 tag 20, zone guests, table blue, address 10.61.1.1/24, address6 2001:db8:61:1::1/64, advertises, lends .50-.60, answers https 8443 dns, answers ping from printer
station guests-pc: at core/2, address by dhcp, silent
interface shop-net: on p3 tag 30, zone shop, table blue, address 10.61.3.1/24, address6 2001:db8:61:3::1/64, advertises, answers https 8443 dns, answers ping from printer
station shop-pc: at core/3, address 10.61.3.10/24, gateway 10.61.3.1
known printer: 10.61.1.10
passage guests > office: allow tcp 1-65535
passage shop > any: allow tcp udp, to 192.0.2.0/24
passage office > world: allow ping
leave any > world: as interface
door d0: 10.61.2.50 tcp 443 > printer on office-net, from any
far www.example: address 192.0.2.80 2001:db8:ffff::80, listens tcp 80 443
table blue: route 0.0.0.0/0 via 198.51.100.17 on fibre
`;
    const { again, differ } = compareWithKernel(siteFrom(text));
    expect(differ).to.deep.equal([]);
    expect(again).to.be.greaterThan(50);
  });

  it('loses the line as long as the bench foretells, within a watch interval', async function () {
    if (whyNot() !== undefined) this.skip();
    const [site] = drillSites(30, 3).filter((d) => d.what === 'deaden' && d.every === 2 && d.lost === 2);
    const pace = new Pace();
    const { bench, kernel, every } = await drillTwice(site!);
    const stretch = pace.stretch();
    expect(bench).to.be.greaterThan(every);
    expect(kernel, `a round takes ${stretch.toFixed(1)} s here`).to.be.within(
      bench - every,
      (bench + every) * stretch,
    );
  });
});
