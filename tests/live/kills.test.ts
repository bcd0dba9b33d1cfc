/** Two hundred trials killed at random moments. `npm run kills:live` asks for as many as you like. */
import { expect } from 'chai';
import { noField } from './field';
import { anyKills, carryOut } from './kills';

describe('a trial that is killed', () => {
  it('leaves the box with what the rules of a trial say, and the seat gets in', async function () {
    this.timeout(900_000);
    // What happens once in many is what is looked for.
    this.retries(0);
    const why = noField();
    if (why !== undefined) {
      console.log(`    no box is killed: ${why}`);
      this.skip();
    }
    const { kills, wrong } = await carryOut(anyKills(200, 5), 12);
    expect(wrong).to.deep.equal([]);
    expect(kills).to.equal(200);
  });
});
