import { expect } from 'chai';
import { GOOD } from '#core/testkit';
import { remember } from './engine';
import { drill, whatIf } from './faults';

const files = [{ name: 'site.gate', text: GOOD }];
/** A clock that says at every look that the slice is over. */
const hasty = () => {
  let now = 0;
  return { clock: () => (now += 100), pause: () => Promise.resolve() };
};

describe('faults in the worker', () => {
  it('fill the board in slices, telling how far they are, as plain data', async () => {
    const told: string[] = [];
    const board = await whatIf(files, false, (done, of) => told.push(`${done}/${of}`), hasty(), remember());
    expect(board!.bearers.map((b) => b.name)).to.deep.equal(['pc']);
    expect(board!.rows.map((r) => r.outcomes[0]!.is)).to.deep.equal(['dead', 'dead', 'dead']);
    expect([told[0], told.at(-1)]).to.deep.equal(['0/3', '3/3']);
    expect(structuredClone(board)).to.deep.equal(board);
  });

  it('end without an answer once another board is asked for', async () => {
    const last = remember();
    const first = whatIf(files, false, () => {}, hasty(), last);
    const second = whatIf(files, true, () => {}, hasty(), last);
    expect(await first).to.equal(undefined);
    expect((await second)!.rows).to.have.length(3 + 2);
  });

  it('drill on texts, and say why where that cannot be', () => {
    const script = { from: 'pc', seconds: 3, acts: [{ at: 1000, what: 'cut' as const, on: 'p1' }] };
    const said = drill(files, script, remember());
    expect(said.ok && said.run.lost).to.be.within(19, 21);
    expect(structuredClone(said)).to.deep.equal(said);
    expect(drill(files, { ...script, from: 'x' }, remember())).to.deep.equal({
      ok: false,
      why: 'no station is called x, and it is not the box',
    });
  });
});
