import { expect } from 'chai';
import { diffSites } from '#core/change';
import { contextOf, findAll } from '#core/findings';
import { completeWiring, foresee } from '#core/site';
import { changed, GOOD, good, reachOf, siteFrom } from '#core/testkit';
import { boardOf, cellKey, densityOf, elide6, portOrder, steadyBoard } from './model';
import { commandOf, focusKey } from './keyboard';
import type { At, Held, Pressed } from './keyboard';
import { moveOf, writtenBy } from './moves';
import type { Slab, Steady } from './model';

function board(
  draft: string,
  running = draft,
  more: { cut?: string[]; held?: string[]; filter?: string; grouped?: boolean; steady?: Steady } = {},
) {
  const [site, old] = [siteFrom(draft), siteFrom(running)];
  const wiring = completeWiring(site);
  return boardOf({
    site,
    running: old,
    wiring,
    prospects: foresee(site, wiring),
    changes: diffSites(old, site),
    findings: findAll(contextOf(reachOf(site))).map((f) => ({ ...f, others: [] })),
    ...more,
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

describe('a crowded board', () => {
  const vlans = (count: number, zone = 'office') =>
    Array.from(
      { length: count },
      (_, i) =>
        `interface v${i}: on p3 tag ${count - i}, zone ${zone}, address 10.62.${i}.1/24, answers ping`,
    ).join('\n');
  const row = (b: ReturnType<typeof board>, name: string) => b.rows.find((r) => r.name === name)!;

  it('draws fewer slabs with more room', () => {
    expect([1, 4, 5, 10, 11, 24, 25, 400].map(densityOf)).to.deep.equal([
      'full',
      'full',
      'short',
      'short',
      'line',
      'line',
      'folded',
      'folded',
    ]);
    const b = board(`${GOOD}${vlans(20)}\n`);
    expect(row(b, 'office').density).to.equal('line');
    const column = b.columns.find((c) => c.port === 'p3')!;
    expect([column.abreast, column.width, column.tags.length]).to.deep.equal([4, 960, 20]);
    expect(
      b.cells
        .get(cellKey('office', 'p3'))!
        .map((s) => s.tag)
        .slice(0, 3),
      'by tag',
    ).to.deep.equal(['1', '2', '3']);
  });

  it('filters by any word, keeps heads, and counts what is wrong and hidden', () => {
    const b = board(
      `${GOOD}${vlans(5)}\ninterface bad: on p9, zone office, address 10.62.0.9/24\n`,
      undefined,
      {
        filter: 'v3 10.62',
      },
    );
    expect(b.slabs.map((s) => s.name)).to.deep.equal(['v3']);
    expect([row(b, 'office').shown, row(b, 'office').total]).to.deep.equal([1, 7]);
    expect(b.hidden.slabs).to.equal(7);
    expect(b.hidden.errors, 'the overlap of bad').to.be.greaterThan(0);
  });

  it('draws runs of small zones as one row on request', () => {
    const zones = Array.from({ length: 9 }, (_, i) => `zone z${i}:`).join('\n');
    const text = `${GOOD}${zones}\n${Array.from({ length: 9 }, (_, i) => `interface n${i}: on p3 tag ${i + 1}, zone z${i}, address 10.63.${i}.1/24`).join('\n')}\n`;
    expect(board(text).groupable).to.equal(10);
    const b = board(text, undefined, { grouped: true });
    expect(b.rows.map((r) => r.name)).to.deep.equal(['world', 'office–z8']);
    expect(b.cells.get(cellKey('office–z8', 'p3'))).to.have.length(9);
  });

  it('lays a bridge over neighbours, on a line of its own where something else is there', () => {
    const lanes = (text: string) =>
      board(`${GOOD}${text}\n`)
        .lanes.get('office')!
        .map((l) => [l.columns, l.across, l.level]);
    expect(lanes('interface w: bridge p3 p4, zone office')).to.deep.equal([[[2, 3], true, -1]]);
    expect(lanes('interface w: bridge p2 p3, zone office')).to.deep.equal([[[1, 2], true, 0]]);
    expect(lanes('interface w: bridge p2 p4, zone office\nport p3:')).to.deep.equal([[[1, 3], false, 0]]);
  });

  it('keeps what is unchanged the same value from drawing to drawing', () => {
    const steady = steadyBoard();
    const bridge = 'interface w: bridge p3 p4, zone office\n';
    const [one, two, other] = [
      GOOD + bridge,
      `${GOOD}${bridge}# more\n`,
      good(['10.61.20.1/24', '10.61.20.1/25']) + bridge,
    ].map((t) => board(t, t, { steady }));
    const parts = (b: ReturnType<typeof board>) => [
      b.rows,
      b.columns,
      b.cells.get(cellKey('world', 'p1')),
      b.lanes.get('office'),
      slab(b, 'desk'),
      b.cells.get(cellKey('office', 'p2')),
    ];
    const same = (a: ReturnType<typeof board>, b: ReturnType<typeof board>) =>
      parts(a).map((part, i) => part === parts(b)[i]);
    expect(same(one!, two!)).to.deep.equal([true, true, true, true, true, true]);
    expect(same(two!, other!)).to.deep.equal([true, true, true, true, false, false]);
    expect(other!.cells.get(cellKey('office', 'p2'))).to.deep.equal([slab(other!, 'desk')]);
  });

  it('leaves out the middle of a long IPv6 address', () => {
    expect(elide6('2001:db8::1/64')).to.equal('2001:db8::1/64');
    expect(elide6('2001:db8:100:200:300:400:500:1/64')).to.equal('2001:db8:…:500:1/64');
  });

  it('says which logins answer to a zone, with a mark where only some may', () => {
    const b = board(
      good(['answers ping dns ssh https', 'answers ssh, answers https 8443 from 10.61.20.0/28']),
    );
    expect([row(b, 'world').logins, row(b, 'office').logins]).to.deep.equal(['', 'ssh https 8443*']);
  });
});

describe('carrying over the board', () => {
  const text = `${GOOD}zone lab:\nport p5:\nswitch core: at p6, jack 1 tag 1\n`;
  const b = board(text);
  const site = siteFrom(text);
  const [rows, cols] = [b.rows.map((r) => r.name), b.columns.map((c) => c.port)];
  const at = (zone: string, port: string) => ({ row: rows.indexOf(zone), col: cols.indexOf(port) });
  const cases: [string, Parameters<typeof moveOf>[2], Parameters<typeof moveOf>[3], RegExp | undefined][] = [
    [
      'a slab to a zone and a port',
      { what: 'slabs', subjects: ['interface/desk'] },
      at('lab', 'p5'),
      /desk: on p5, zone lab/,
    ],
    [
      'two slabs',
      { what: 'slabs', subjects: ['interface/desk', 'interface/line'] },
      at('lab', 'p1'),
      /zone lab[\s\S]*zone lab/,
    ],
    ['a slab to where it is', { what: 'slabs', subjects: ['interface/desk'] }, at('office', 'p2'), undefined],
    [
      'a port onto a slab',
      { what: 'port', port: 'p5' },
      { ...at('office', 'p2'), subject: 'interface/desk' },
      /desk: bridge p2 p5/,
    ],
    ['a port onto nothing', { what: 'port', port: 'p5' }, at('lab', 'p2'), undefined],
    [
      'a port chosen for a slab',
      { what: 'bridge', subject: 'interface/line' },
      { row: -1, col: cols.indexOf('p5') },
      /line: bridge p1 p5/,
    ],
    [
      'a circuit to a port',
      { what: 'plug', subject: 'circuit/northmoor' },
      { row: -1, col: cols.indexOf('p5') },
      /northmoor: at p5/,
    ],
    ['a zone outwards', { what: 'zone', zone: 'lab' }, { row: 0, col: -1 }, undefined],
  ];
  for (const [what, carried, to, writes] of cases)
    it(what, () => {
      const move = moveOf(site, b, carried, to);
      const written = writtenBy(site, move.changes).join('\n');
      if (writes) expect(written).to.match(writes);
      else expect(written).to.equal('');
    });

  it('puts a zone where it is dropped', () => {
    const move = moveOf(site, b, { what: 'zone', zone: 'lab' }, { row: 0, col: -1 });
    const after = changed(text, move.changes);
    expect(siteFrom(after).zones.map((z) => z.name)).to.deep.equal(['lab', 'world', 'office']);
  });
});

describe('the board under the keyboard', () => {
  const text = good(
    ['zone office:\n', 'zone office:\nzone lab:\n'],
    ['passage office', 'interface cam: on p2 tag 30, zone office, address 10.61.30.1/24\npassage office'],
  );
  const b = board(`${text}port p3: off\n`);
  const [rows, cols] = [b.rows.map((r) => r.name), b.columns.map((c) => c.port)];
  const at = (zone: string, port: string, slab = 0): At => ({
    row: rows.indexOf(zone),
    col: cols.indexOf(port),
    slab,
  });
  const press = (here: At, key: string, more: Partial<Held> = {}, keys: Partial<Pressed> = {}) =>
    commandOf(
      b,
      { at: here, to: { row: 0, col: 0 }, selection: [], ...more },
      { key, altKey: false, ctrlKey: false, metaKey: false, ...keys },
    );

  it('goes by arrows through the slabs of a cell first, to the heads at the edges, and never off', () => {
    const walk = (start: At, keys: string) =>
      [...keys].reduce((here, k) => {
        const command = press(here, { u: 'ArrowUp', d: 'ArrowDown', l: 'ArrowLeft', r: 'ArrowRight' }[k]!);
        return command?.do === 'go' ? command.at : here;
      }, start);
    expect(focusKey(b, walk(at('office', 'p2'), 'd'))).to.equal('interface/cam');
    expect(walk(at('office', 'p2'), 'dd').row, 'then to the next row').to.equal(rows.indexOf('lab'));
    expect(focusKey(b, walk(at('office', 'p2'), 'ddu')), 'upwards the last slab comes first').to.equal(
      'interface/cam',
    );
    expect(focusKey(b, walk(at('world', 'p1'), 'u'))).to.equal('head/p1');
    expect(focusKey(b, walk(at('world', 'p1'), 'l'))).to.equal('zone/world');
    expect(walk(at('world', 'p1'), 'ululuuu'), 'the corner has no head').to.include({ row: -1, col: 0 });
    expect(walk(at('lab', 'p3'), 'rrdd')).to.include({ row: rows.length - 1, col: cols.length - 1 });
  });

  it('takes a key for what stands there: a slab, an empty cell, a zone, a head', () => {
    const desk = at('office', 'p2');
    expect(press(desk, 'm')).to.deep.include({
      do: 'carry',
      what: { what: 'slabs', subjects: ['interface/desk'] },
    });
    const both = ['interface/desk', 'interface/cam'];
    expect(press(desk, 'm', { selection: both })).to.deep.include({
      what: { what: 'slabs', subjects: both },
    });
    expect(
      press(desk, 'Delete', { selection: ['interface/line'] }),
      'what is selected elsewhere stays',
    ).to.deep.equal({
      do: 'remove',
      subjects: ['interface/desk'],
    });
    expect(press(desk, 'Enter')).to.deep.equal({ do: 'open', subject: 'interface/desk' });
    expect(press(at('lab', 'p3'), 'Enter')).to.deep.equal({ do: 'start' });
    expect([
      press(at('lab', 'p3'), 'm'),
      press(at('lab', 'p3'), 'b'),
      press(at('lab', 'p3'), 'Delete'),
    ]).to.deep.equal([undefined, undefined, undefined]);
    const zone = { row: rows.indexOf('office'), col: -1, slab: 0 };
    expect([press(zone, '-')?.do, press(zone, 'o')?.do, press(zone, 's')?.do]).to.deep.equal([
      'denser',
      'start-zone',
      'sift',
    ]);
    expect(press(zone, 'ArrowDown', {}, { altKey: true })).to.deep.include({
      do: 'shift-zone',
      zone: 'office',
    });
    const head = { row: -1, col: cols.indexOf('p1'), slab: 0 };
    expect(press(head, 'm')).to.deep.include({
      do: 'carry',
      what: { what: 'plug', subject: 'circuit/northmoor', tag: undefined },
    });
    expect(press(head, 'c')).to.deep.equal({ do: 'cut', port: 'p1' });
    expect(press(desk, 'c', {}, { ctrlKey: true }), 'copying is not for the board').to.equal(undefined);
  });

  it('while something is carried arrows move it, Enter lets it down, Escape lets it go, and no other key acts', () => {
    const desk = at('office', 'p2');
    const slabs = {
      carried: { what: 'slabs', subjects: ['interface/desk'] } as const,
      to: { row: 1, col: 1 },
    };
    expect(press(desk, 'ArrowUp', slabs)).to.deep.equal({ do: 'carry-on', to: { row: 0, col: 1 } });
    expect(press(desk, 'ArrowUp', { ...slabs, to: { row: 0, col: 1 } }), 'not onto the heads').to.deep.equal({
      do: 'carry-on',
      to: { row: 0, col: 1 },
    });
    const plug = {
      carried: { what: 'plug', subject: 'circuit/northmoor' } as const,
      to: { row: -1, col: 0 },
    };
    expect(press(desk, 'ArrowDown', plug), 'a plug goes from head to head').to.deep.equal({
      do: 'carry-on',
      to: plug.to,
    });
    expect([press(desk, 'Enter', slabs)?.do, press(desk, 'Escape', slabs)?.do]).to.deep.equal([
      'drop',
      'let-go',
    ]);
    expect([press(desk, 'Delete', slabs), press(desk, 'm', slabs)]).to.deep.equal([undefined, undefined]);
  });
});
