/** Generated sites applied one over the other. `npm run pairs:live` asks hundreds. */
import { expect } from 'chai';
import { howMany, seedOr } from '#core/testkit';
import { noField } from './field';
import { askPairs } from './pairs';

describe('one text applied over another', () => {
  it('leaves nothing of ours, touches nothing of others, and loses no packet that both allow', async function () {
    const why = noField();
    if (why !== undefined) {
      console.log(`    no texts are applied: ${why}`);
      this.skip();
    }
    expect(await askPairs(howMany(6, 120), seedOr(3))).to.deep.equal([]);
  });
});
