import { expect } from 'chai';
import { diffSites } from '#core/change';
import { contextOf, findAll } from '#core/findings';
import { completeWiring, foresee } from '#core/site';
import { GOOD, good, siteFrom } from '#core/testkit';
import { boardOf, portOrder } from './model';
import type { Slab } from './model';

function board(draft: string, running = draft, more: { cut?: string[]; held?: string[] } = {}) {
  const [site, old] = [siteFrom(draft), siteFrom(running)];
  const wiring = completeWiring(site);
  return boardOf({
    site,
    running: old,
    wiring,
    prospects: foresee(site, wiring),
    changes: diffSites(old, site),
    findings: findAll(contextOf(site)).map((f) => ({ ...f, others: [] })),
    held: more.held ?? [],
    cut: more.cut ?? [],
  });
}
const slab = (b: ReturnType<typeof board>, name: string) => b.slabs.find((s) => s.name === name)!;

describe('the board', () => {
  it('has a column for every port in their order, slivers for the empty, and rows in the order of trust', () => {
    const b = board(`${GOOD}port p10:\nport p9: off, label "spare"\nport p3: speed 2500\n`);
    expect(b.columns.map((c) => [c.port, c.sliver, c.light, c.speed])).to.deep.equal([
      ['p1', false, 'up', ''],
      ['p2', false, 'up', ''],
      ['p3', true, 'none', '2.5G'],
      ['p9', true, 'off', ''],
      ['p10', true, 'none', ''],
    ]);
    expect(b.rows.map((r) => [r.name, r.about])).to.deep.equal([
      ['world', 'upstream'],
      ['office', '1 station'],
    ]);
    expect(b.columns[1]!.farEnd).to.equal('pc');
    expect(['p10', 'p2', 'eth1', 'p1'].sort(portOrder)).to.deep.equal(['eth1', 'p1', 'p2', 'p10']);
  });

  it('gives neighbouring zones another tint and another texture', () => {
    const b = board(Array.from({ length: 13 }, (_, i) => `zone z${i}:`).join('\n'));
    for (let i = 1; i < b.rows.length; i++) {
      expect(b.rows[i]!.tint).to.not.equal(b.rows[i - 1]!.tint);
      expect(b.rows[i]!.texture).to.not.equal(b.rows[i - 1]!.texture);
    }
  });

  it('draws each state of a slab by its own mark', () => {
    const rows: [string, Slab, Partial<Slab>][] = [
      [
        'written',
        slab(board(GOOD), 'desk'),
        { address: '10.61.20.1/24', how: 'written', tag: '—', draft: '', off: false, dark: false },
      ],
      [
        'learned',
        slab(
          board(
            good(
              ['address 198.51.100.18/29, gateway .17', 'address by dhcp'],
              ['block 198.51.100.16/29, gateway .17', 'lends 203.0.113.9-.12 in 203.0.113.8/29'],
            ),
          ),
          'line',
        ),
        { address: '203.0.113.9/29', how: 'learned' },
      ],
      [
        'supposed',
        slab(board('zone w: upstream\ninterface u: on p1, zone w, address by dhcp\n'), 'u'),
        { how: 'supposed' },
      ],
      [
        'no address',
        slab(board('zone a:\ninterface u: on p1, zone a\n'), 'u'),
        { how: 'none', address: 'no address' },
      ],
      [
        'new',
        slab(board(`${GOOD}interface lab: on p3, zone office, address 10.61.30.1/24\n`, GOOD), 'lab'),
        { draft: 'new' },
      ],
      [
        'changed',
        slab(board(good(['10.61.20.1/24', '10.61.20.1/25']), GOOD), 'desk'),
        { draft: 'changed', oldAddress: '10.61.20.1/24' },
      ],
      [
        'removed',
        slab(board(GOOD.replace(/^interface desk.*\n/m, ''), GOOD), 'desk'),
        { draft: 'removed', facts: [] },
      ],
      ['off', slab(board(good(['answers ping dns', 'off, answers ping dns'])), 'desk'), { off: true }],
      ['no cable', slab(board(GOOD, GOOD, { cut: ['p1'] }), 'line'), { dark: true }],
      ['held', slab(board(GOOD, GOOD, { held: ['interface/desk'] }), 'desk'), { held: true }],
      ['no zone', slab(board('interface u: on p1, address 10.0.0.1/24\n'), 'u'), { row: '' }],
      [
        'tagged',
        slab(board('zone a:\ninterface u: on p1 tag 20, zone a, address 10.0.0.1/24\n'), 'u'),
        { tag: '20' },
      ],
      [
        'bridge',
        slab(board('zone a:\ninterface u: bridge p1 p2, zone a, address 10.0.0.1/24\n'), 'u'),
        { tag: 'p1+p2', stubs: ['p2'] },
      ],
    ];
    for (const [what, got, want] of rows)
      for (const key of Object.keys(want) as (keyof Slab)[])
        expect(got[key], `${what}: ${key}`).to.deep.equal(want[key]);
  });

  it('says facts in a fixed order, and secondary addresses short', () => {
    expect(slab(board(GOOD), 'line').facts).to.deep.equal(['gw .17', '1st', 'ping', 'guard']);
    expect(slab(board(GOOD), 'desk').facts).to.deep.equal(['lends 150', 'ping dns ssh https']);
    const also = (text: string) =>
      slab(board(good([', gateway .17', `, also ${text}, gateway .17`])), 'line').also;
    expect(also('.19 .20')).to.equal('.19 .20');
    expect(also('.19-.22')).to.equal('4 (.19–.22)');
    expect(also('203.0.113.9/29')).to.equal('203.0.113.9/29');
  });
});
