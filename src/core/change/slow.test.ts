import { expect } from 'chai';
import { formatIp, formatPrefix, parseIp } from '#core/addr';
import { Bench } from '#core/bench';
import { contextOf, findAll } from '#core/findings';
import { parseDocument } from '#core/notation';
import { modelOf } from '#core/model';
import { Reach } from '#core/reach';
import { buildSite } from '#core/site';
import { slowLine, slowRest } from '#words';
import { slowCrossings } from './index';

const WIRING = `circuit northmoor: at p1, block 198.51.100.16/29, gateway .17
switch desk: at p2, jack 1 tag 1, jack 2 tag 1, jack 3 tag 1
station wheel: at desk/1, address by dhcp
station printer: at desk/2, address 10.61.20.9/24, gateway 10.61.20.1
far www.example: address 192.0.2.80
`;
const BOX = `box tide: names 192.0.2.53
zone world: upstream
zone studio:
interface fibre: on p1, zone world, address 198.51.100.18/29, gateway .17
interface studio: on p2, zone studio, address 10.61.20.1/24, lends .50-.199 for 12h gateway .1,
  keeps .20 for 02:61:00:00:20:20 "glaze printer", answers ping ssh
leave any > world: as interface
passage studio > world: allow
`;
const modelFrom = (box: string, wiring = WIRING) =>
  modelOf(buildSite([parseDocument(box, 'box'), parseDocument(wiring, 'wiring')]));
const DRAFT = BOX.replace(
  '10.61.20.1/24, lends .50-.199 for 12h gateway .1',
  '10.61.40.1/23, lends .50-.99 for 12h',
).replace(/keeps .*printer", /, '');

describe('the slow crossing', () => {
  const [slow] = slowCrossings(modelFrom(BOX), modelFrom(DRAFT).site);

  it('shortens leases, keeps the old address beside the new one, and then lets it go', () => {
    expect(slow!.steps.map((s) => slowLine(slow!, s))).to.deep.equal([
      'studio: leases of 5 min from now on; then wait 12 h, until the last long one is gone',
      'studio: 10.61.40.1/23, with 10.61.20.1/24 beside it; then wait 5 min, until everybody has renewed',
      'studio: 10.61.20.1/24 goes, and leases are as long as the draft says',
    ]);
    expect(slowRest(slow!)).to.deep.equal([
      'Set by hand while both addresses are there: printer (into 10.61.40.1/23).',
      'Addresses kept before and not in the draft: glaze printer.',
    ]);
    expect(slow!.steps[0]!.box).to.contain('lends .50-.199 for 5m gateway .1');
    for (const { box } of slow!.steps)
      expect(
        findAll(contextOf(new Reach(modelFrom(box, '')))).flatMap((f) =>
          f.severity === 'error' ? [f.code] : [],
        ),
      ).to.deep.equal([]);
  });

  it('has both addresses carry traffic on the bench, and nobody with the old one behind the end', () => {
    const pings = (box: string) => {
      const bench = new Bench(modelFrom(box)).boot();
      return ['wheel', 'printer'].map((name) => {
        const host = bench.hosts.get(name)!;
        const attempt = host.endpoints.ping(parseIp('192.0.2.80')!, {});
        bench.wait(() => attempt.done, 10_000);
        const [own] = host.addresses;
        return `${own ? formatIp(own.address).replace(/\.\d+$/, '') : 'none'} ${attempt.result === 'answered' ? 'answered' : 'lost'}`;
      });
    };
    expect(slow!.steps.map((s) => pings(s.box))).to.deep.equal([
      ['10.61.20 answered', '10.61.20 answered'],
      ['10.61.40 answered', '10.61.20 answered'],
      ['10.61.40 answered', '10.61.20 lost'],
    ]);
  });

  it('is offered where somebody holds a lease and the address goes, and nowhere else', () => {
    const offered = (draft: string, running = BOX) =>
      slowCrossings(modelFrom(running), modelFrom(draft).site).map(
        (s) => `${s.interface} ${formatPrefix(s.was)}`,
      );
    expect(offered(DRAFT)).to.deep.equal(['studio 10.61.20.1/24']);
    expect(offered(BOX)).to.deep.equal([]);
    expect(offered(DRAFT.replace('/23,', '/23, also 10.61.20.1/24,'))).to.deep.equal([]);
    expect(offered(DRAFT, BOX.replace(/lends [^,]*,/, ''))).to.deep.equal([]);
    // With short leases there already, the first step is done.
    expect(slowCrossings(modelFrom(slow!.steps[0]!.box), modelFrom(DRAFT).site)[0]!.steps).to.have.length(2);
  });
});
