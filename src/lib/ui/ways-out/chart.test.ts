import { expect } from 'chai';
import type { DrillRun, Outcome, WhatIf } from '#core/proof/drills';
import { drillOption, heightFor, secondsOf, seenIn } from './chart';
import type { Look } from './chart';
import { columnsOf, drillOf, outcomesOn } from './plan';

const LOOK: Look = {
  ink: '#000',
  quiet: '#555',
  line: '#ccc',
  ground: '#fff',
  lost: '#a00',
  first: '#044',
  second: '#850',
  mono: 'mono',
};
const beat = (at: number, trip?: number, seen?: string) => ({ at, trip, seen });
const run: DrillRun = {
  from: 'pc',
  to: '192.0.2.80',
  seconds: 3,
  acts: [{ at: 1000, what: 'cut', on: 'p1' }],
  row: Array.from({ length: 30 }, (_, i) => beat(i * 100, i >= 10 && i < 20 ? undefined : 12)),
  fresh: [beat(0, 12, '198.51.100.18'), beat(1000), beat(2000, 22, '203.0.113.140')],
  lost: 10,
  outages: [{ from: 1000, to: 2000, lost: 10 }],
  noticed: [],
  spent: false,
};

interface Option {
  readonly grid: readonly { readonly top: number; readonly height: number }[];
  readonly series: readonly {
    readonly type: string;
    readonly data: readonly (readonly [number, unknown])[];
    readonly lineStyle?: { readonly type: string };
    readonly markLine?: { readonly data: readonly { readonly xAxis: number }[] };
  }[];
}

describe('the chart of a drill', () => {
  it('draws trips with gaps, lost pings, who is seen, and marks; a second run apart from the first without colour', () => {
    const runs = [
      { name: 'draft', run },
      { name: 'running', run: { ...run, fresh: [beat(0, 12, '198.51.100.18')] } },
    ];
    const option = drillOption(runs, [{ at: 1000, text: 'cut p1', who: 'done' }], LOOK) as unknown as Option;
    const [trips, lost, seen, other] = option.series;
    expect(trips!.data.filter(([, trip]) => trip === null)).to.have.length(10);
    expect(lost!.data.map(([at]) => at)).to.deep.equal([1, 1.1, 1.2, 1.3, 1.4, 1.5, 1.6, 1.7, 1.8, 1.9]);
    expect(seen!.data).to.deep.equal([
      [0, '198.51.100.18'],
      [1, 'nobody'],
      [2, '203.0.113.140'],
    ]);
    expect(trips!.markLine!.data[0]!.xAxis).to.equal(1);
    expect([trips!.lineStyle!.type, other!.lineStyle!.type]).to.deep.equal(['solid', 'dashed']);
    expect(seenIn(runs)).to.deep.equal(['198.51.100.18', 'nobody', '203.0.113.140']);
    const { top, height } = option.grid.at(-1)!;
    expect(heightFor(runs)).to.be.greaterThan(top + height);
  });

  it('says the same second by second', () => {
    expect(secondsOf(run)).to.deep.equal([
      { second: 0, sent: 10, lost: 0, trip: 12, seen: '198.51.100.18' },
      { second: 1, sent: 10, lost: 10, trip: undefined, seen: 'nobody' },
      { second: 2, sent: 10, lost: 0, trip: 12, seen: '203.0.113.140' },
    ]);
  });

  it('drills a fault of the board with time to see what goes back', () => {
    const plan = drillOf({ cut: ['p1'], dead: ['harbour'] }, { from: 'pc', to: '', seconds: 30, acts: [] });
    expect(plan.acts.map((a) => `${a.at} ${a.what} ${a.on}`)).to.deep.equal([
      '5000 cut p1',
      '5000 deaden harbour',
      '40000 restore p1',
      '40000 restore harbour',
    ]);
  });
});

describe('the columns of the what-if board', () => {
  const on = (by: string): Outcome => ({ is: 'on', after: 0, by, seen: '' });
  const dead: Outcome = { is: 'dead' };
  const desks = (n: number) =>
    Array.from({ length: n }, (_, i) => ({ kind: 'desk' as const, name: `pc${i}`, behind: `net${i >> 1}` }));

  it('hold the desks of a network that fare alike, and name those that do not', () => {
    const board: WhatIf = {
      bearers: [...desks(4), { kind: 'door', name: 'orders' }],
      rows: [
        {
          fault: { cut: ['p1'], dead: [] },
          outcomes: [on('a'), on('a'), on('a'), dead, dead],
          spent: false,
        },
      ],
    };
    expect(columnsOf(board).map((c) => c.name)).to.deep.equal(['net0', 'pc2', 'pc3', 'door orders']);
    expect(outcomesOn(board, { cut: ['p1'], dead: [] })(board.bearers[4])).to.equal(dead);
    expect(outcomesOn(board, { cut: ['p2'], dead: [] })(board.bearers[4])).to.equal(undefined);
  });

  it('are few, however many networks fare alike', () => {
    const bearers = desks(400);
    const outcomes = bearers.map((_, i) => (i < 2 ? dead : on('a')));
    const columns = columnsOf({
      bearers,
      rows: [{ fault: { cut: ['p1'], dead: [] }, outcomes, spent: false }],
    });
    expect(columns.map((c) => c.name)).to.deep.equal(['net0', 'net1 +198']);
    expect(columns.reduce((sum, c) => sum + c.bearers.length, 0)).to.equal(400);
  });
});
