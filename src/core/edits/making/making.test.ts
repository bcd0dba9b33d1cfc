import { expect } from 'chai';
import fc from 'fast-check';
import { readFileSync } from 'node:fs';
import { contextOf, findAll } from '#core/findings';
import { modelOf } from '#core/model';
import { applyEdits, parseDocument } from '#core/notation';
import { prove } from '#core/proof';
import { Reach } from '#core/reach';
import { buildSite } from '#core/site';
import type { Site } from '#core/site';
import { GOOD, anySite, howMany, siteFrom } from '#core/testkit';
import { gestureAt } from './index';
import type { GestureId, Place } from './index';

const demo = buildSite(
  ['box', 'wiring'].map((n) => parseDocument(readFileSync(`demo/${n}.gate`, 'utf8'), `${n}.gate`)),
);
const findings = (site: Site) => findAll(contextOf(new Reach(modelOf(site))));

/** Asks as somebody would who puts in only what is given, and writes. */
function wanted(site: Site, id: GestureId, put: Record<string, string> = {}, place: Place = {}) {
  const { asks, values, made } = gestureAt(id, modelOf(site), place, put);
  const after = made.ok
    ? buildSite(
        site.documents.map((d) =>
          parseDocument(
            made.changes.filter((c) => c.file === d.file).reduce((t, c) => applyEdits(t, c.edits), d.text),
            d.file,
          ),
        ),
        site.today,
      )
    : undefined;
  return { values, asks, made, after };
}
function written(site: Site, id: GestureId, put: Record<string, string> = {}, place: Place = {}) {
  const { values, made, after } = wanted(site, id, put, place);
  if (!made.ok || !after) throw new Error(JSON.stringify(made));
  return { ...made, values, after };
}
const errorsOf = (site: Site) =>
  findings(site)
    .filter((f) => f.severity === 'error')
    .map((f) => `${f.code} ${f.subject}`);
const order = (site: Site, kind: string) =>
  site.statements.filter((s) => s.kind === kind).map((s) => s.source);

describe('what is wanted in one gesture', () => {
  it('a VLAN network: the tag that the switch carries, a free subnet, its pool, and what may pass', () => {
    const bare = buildSite(
      demo.documents.map((d) =>
        parseDocument(
          d.text.replace(/interface kilns:.*\n/, '').replace(/, gateway 10.61.30.1, names 10.61.30.1/, ''),
          d.file,
        ),
      ),
    );
    const { values: said, after, statements } = written(bare, 'network', { zone: 'lab', name: 'lab' });
    expect([said['port'], said['tag'], said['own'], said['pool']]).to.deep.equal([
      'p3',
      '30',
      '10.61.30.1/24',
      '.50-.199',
    ]);
    expect(statements).to.deep.equal([
      'zone lab:',
      'interface lab: on p3 tag 30, zone lab, address 10.61.30.1/24, lends .50-.199, answers ping dns',
      'passage lab > world: allow',
    ]);
    expect(after.zones.map((z) => z.name)).to.deep.equal([
      'world',
      'storefront',
      'visitors',
      'tills',
      'kilns',
      'studio',
      'lab',
      'stewards',
    ]);
    expect(errorsOf(after).filter((e) => e.includes('lab'))).to.deep.equal([]);
  });

  it('the first network of a site that has nothing opens pages: a line by DHCP, and then it', () => {
    const line = written(siteFrom(''), 'uplink').after;
    const { after, statements } = written(line, 'network');
    expect(statements).to.deep.equal([
      'zone office:',
      'interface office: on p2, zone office, address 10.61.10.1/24, lends .50-.199, answers ping dns',
      'passage office > world: allow',
      'box edge: serves names',
    ]);
    expect(errorsOf(after).filter((e) => !e.startsWith('no-way-in'))).to.deep.equal([]);
    const desk = prove(new Reach(modelOf(after))).desks[0]!;
    expect(desk.stages.find((s) => s.stage === 'page')?.result).to.equal('pass');
  });

  it('a tag that the switch lacks is carried and given to a jack; a dmz stands between upstream and inside', () => {
    const { after } = written(demo, 'network', {
      tag: '70',
      zone: 'bakery',
      role: 'dmz',
      jack: '10',
      name: 'bakery',
    });
    const core = after.switches[0]!;
    expect(core.carries.map((c) => c.value)).to.deep.equal([20, 30, 40, 50, 60, 70]);
    expect(core.jacks.find((j) => j.value.jack === 10)?.value.tag).to.equal(70);
    expect(after.zones.map((z) => z.name).slice(0, 4)).to.deep.equal([
      'world',
      'storefront',
      'bakery',
      'visitors',
    ]);
    expect(order(after, 'passage').filter((p) => p.includes('bakery'))).to.deep.equal([
      'passage bakery > world: allow dns ntp tcp 80 443',
    ]);
  });

  it('a published service: a free address, the station’s lease kept, a door that the world reaches', () => {
    const put = { host: 'glaze-printer', services: 'tcp 9100', name: 'printer' };
    const { values, statements, after } = written(demo, 'publish', put);
    expect(values['outside']).to.equal('198.51.100.21');
    expect(statements).to.deep.equal([
      'door printer: 198.51.100.21 tcp 9100 > 10.61.20.20 tcp 9100'.replace(
        ' tcp 9100 > 10.61.20.20 tcp 9100',
        ' tcp 9100 > 10.61.20.20',
      ),
      'expect internet reaches door printer',
    ]);
    expect(errorsOf(after)).to.deep.equal(errorsOf(demo));
    const lent = written(demo, 'publish', { host: 'wheel-pc', name: 'wheel', services: 'tcp 443' });
    expect(lent.statements[1]).to.match(
      /^interface studio: keeps 10\.61\.20\.\d+ for [0-9a-f:]+ "wheel-pc"$/,
    );
  });

  it('leaving as another address stands before what takes everybody, and is promised', () => {
    const { after } = written(demo, 'leave-as', { who: 'tills', address: '198.51.100.21' });
    const leaves = order(after, 'leave');
    expect(
      leaves.indexOf('leave tills > fibre: as 198.51.100.21') <
        leaves.indexOf('leave any > world: as interface'),
    ).to.equal(true);
    expect(after.leaves.some((l) => l.subject === 'leave/tills>fibre#1')).to.equal(true);
    expect(errorsOf(after)).to.deep.equal(errorsOf(demo));
    expect(order(after, 'expect').includes('expect tills leaves as 198.51.100.21')).to.equal(true);
  });

  it('a second uplink is later in the order and watched; a PPPoE one asks for its login', () => {
    const site = siteFrom(GOOD);
    const put = { port: 'p3', name: 'second' };
    const { statements } = written(site, 'uplink', put);
    expect(statements).to.deep.equal([
      'interface second: on p3, zone world, address by dhcp, priority 2, watch 192.0.2.80, answers ping, guard',
    ]);
    expect(wanted(site, 'uplink', { ...put, mode: 'pppoe' }).made).to.deep.include({
      ok: false,
      ask: 'user',
    });
    expect(
      written(site, 'uplink', { ...put, mode: 'pppoe', user: 'a "b"', secret: 'x' }).statements[0],
    ).to.include('pppoe on p3 user "a \\"b\\"" secret "x"');
  });

  it('a second subnet, a management port, a reservation from a lease', () => {
    const two = written(demo, 'second-subnet', {}, { interface: 'studio' });
    expect(
      two.after.interfaces.find((i) => i.name === 'studio')!.addresses.map((a) => a.prefix.length),
    ).to.deep.equal([24, 24]);
    expect(two.statements[1]).to.match(/lends 10\.61\.21\.10-10\.61\.21\.253$/);
    const desk = written(demo, 'management', {
      port: 'p7',
      https: '8443',
      'ssh-from': '10.61.99.0/26',
      name: 'desk',
    });
    expect(desk.statements).to.deep.include('port p7:');
    expect(desk.after.interfaces.find((i) => i.name === 'desk')!.statement.source).to.include(
      'answers ping https 8443, answers ssh from 10.61.99.0/26',
    );
    const kept = written(demo, 'reservation', {}, { interface: 'studio', label: 'bench-pc' });
    expect(kept.statements[0]).to.match(/^interface studio: keeps 10\.61\.20\.51 for .* "bench-pc"$/);
    const out = wanted(demo, 'reservation', { address: '10.9.9.9' }, { interface: 'studio' });
    expect(out.made).to.deep.include({ ok: false, ask: 'address' });
  });

  it('a passage of few stands before one of many that would decide first', () => {
    const site = siteFrom(
      GOOD.replace(
        'passage office > world: allow',
        'passage office > world: reject tcp 25\npassage any > any: drop',
      ),
    );
    const { after, made } = wanted(site, 'passage', { from: 'office', to: 'world', services: 'tcp 443' });
    expect(made.ok && made.subject).to.equal('passage/office>world#1');
    expect(order(after!, 'passage')[0]).to.equal('passage office > world: allow tcp 443');
  });

  it('what is not given is asked for by its own field, and bad values are refused where they stand', () => {
    const cases: [GestureId, Record<string, string>, string][] = [
      ['network', { own: '10.61.30.1' }, 'own'],
      ['network', { own: '10.61.30.0/24' }, 'own'],
      ['network', { name: 'Lab' }, 'name'],
      ['network', { name: 'studio' }, 'name'],
      ['network', { zone: 'any' }, 'zone'],
      ['publish', { host: '' }, 'host'],
      ['publish', { host: 'nobody' }, 'host'],
      ['leave-as', { address: '1.2.3' }, 'address'],
      ['uplink', { mode: 'static', own: '', port: 'p7' }, 'own'],
      ['reservation', { mac: '02:61' }, 'mac'],
      ['known', {}, 'lead-addresses'],
      ['expect', {}, 'head-from'],
      ['far', { name: 'WWW', 'address-addresses': '192.0.2.7' }, 'name'],
    ];
    for (const [id, put, ask] of cases) {
      const { made } = wanted(demo, id, put, { interface: 'studio' });
      expect(made.ok ? 'written' : made.ask, `${id} ${JSON.stringify(put)}`).to.equal(ask);
    }
    expect(wanted(demo, 'network', { pool: '.50-', name: 'lab' }).made.ok).to.equal(false);
    expect(wanted(demo, 'network', { answers: 'ping, off', name: 'lab' }).made.ok, 'a comma').to.equal(false);
  });

  it('writes what can be read, and shows it, into sites that no generator makes', () => {
    const odd: readonly (readonly string[])[] = [
      [''],
      ['# nothing'],
      ['zone world: upstream'],
      [
        '\ufeffzone world: upstream\r\nzone a:\r\ninterface d: on p2, zone a, # c\r\n  address 10.0.0.1 mask 255.255.255.0 # c\r\n',
      ],
      ['zone world: upstream\n', 'passage any > any: drop\n', 'station s: at p9, address by dhcp\n'],
      [
        'zone a: upstream\nzone b:\ninterface a: on p1, zone a, address by dhcp\ninterface b: on p2, zone b, address 10.0.0.1/24\nknown b: 10.0.0.7\nstation b: at p2, address by dhcp\n',
      ],
      [
        'zone a\ninterface b on p1\ninterface c: on p2, zone a, address 10.0.0.300/24, lends .5\nfoo bar: x\n',
      ],
      [
        'interface a: on p1, address 10.0.0.1/8\ninterface b: on p2, address 172.16.0.1/12\ninterface c: on p3, address 192.168.0.1/16\n',
      ],
    ];
    const put = {
      'lead-addresses': '10.0.0.9',
      'head-from': 'a',
      'head-to': 'b',
      'head-who': 'any',
      'head-interface': 'l',
      mac: '02:61:00:00:00:01',
    };
    const written = new Map<string, number>();
    for (const [n, texts] of odd.entries()) {
      const site = buildSite(texts.map((t, i) => parseDocument(t, `f${i}.gate`)));
      for (const id of [
        'network',
        'uplink',
        'management',
        'zone',
        'reservation',
        'second-subnet',
        'passage',
        'send',
        'expect',
        'known',
        'table',
        'box',
        'station',
        'far',
      ] as const) {
        const { made, after } = wanted(site, id, put);
        if (!made.ok || !after) continue;
        written.set(id, (written.get(id) ?? 0) + 1);
        const broken = (s: Site) => s.statements.filter((x) => x.broken).length;
        expect(broken(after), `${id} in ${n}`).to.equal(broken(site));
        expect(
          after.statements.some((s) => s.subject === made.subject),
          `${id} in ${n} shows ${made.subject}`,
        ).to.equal(true);
        const [text] = after.documents.map((d) => d.text);
        if (texts[0]!.includes('\r\n')) expect(text, `${id} in ${n}`).to.not.match(/[^\r]\n/);
      }
    }
    // Nothing is there, and still a line and a network can begin.
    for (const id of ['uplink', 'zone', 'send', 'expect', 'known'])
      expect(written.get(id), id).to.equal(odd.length);
    expect(written.get('network')).to.equal(odd.length - 1);
  });

  it('with what it suggests alone it brings no error into any site, and writes what can be read', () => {
    const ids = [
      'network',
      'second-subnet',
      'reservation',
      'uplink',
      'management',
      'zone',
      'passage',
    ] as const;
    fc.assert(
      fc.property(anySite(), fc.constantFrom(...ids), (text, id) => {
        const site = siteFrom(text);
        const { made, after } = wanted(site, id);
        if (!made.ok || !after) return;
        expect(after.statements.filter((s) => s.broken).length).to.equal(
          site.statements.filter((s) => s.broken).length,
        );
        // What a site's own leaves and passages do to a new network, and what its uplinks lack, is told there.
        const ofOld = (code: string) =>
          code === 'no-default-route' ||
          (code === 'leave-missing' &&
            (site.leaves.length > 0 || site.passages.some((p) => p.from.name === 'any')));
        const had = new Set(findings(site).map((f) => f.code));
        const fresh = findings(after).filter(
          (f) => f.severity === 'error' && !had.has(f.code) && !ofOld(f.code),
        );
        expect(
          fresh.map((f) => `${f.code} ${f.subject}`),
          `${id}: ${made.statements.join('\n')}`,
        ).to.deep.equal([]);
      }),
      { numRuns: howMany(50, 150) },
    );
  });
});
