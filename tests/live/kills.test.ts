/** Trials killed at random moments. `npm run kills:live` asks for as many as you like. */
import { expect } from 'chai';
import { howMany, seedOr } from '#core/testkit';
import { noField } from './field';
import { anyKills, carryOut } from './kills';

describe('a trial that is killed', () => {
  it('leaves the box with what the rules of a trial say, and the seat gets in', async function () {
    const why = noField();
    if (why !== undefined) {
      console.log(`    no box is killed: ${why}`);
      this.skip();
    }
    const count = howMany(8, 200);
    const { kills, wrong } = await carryOut(anyKills(count, seedOr(5)), 3);
    expect(wrong).to.deep.equal([]);
    expect(kills).to.equal(count);
  });
});
