import { expect } from 'chai';
import fc from 'fast-check';
import { factoryBox, stepBox } from '#core/change';
import type { BoxEvent, BoxState } from '#core/change';
import { ATTEMPTS, deviceOf, receive, send } from './index';

const files = (text: string) => [{ name: 'box.gate', text }];
const fresh = (): BoxState => stepBox(factoryBox(files('a')), { do: 'set-password' }, 0).state;
const tried: BoxEvent = { do: 'try', id: 't', files: files('b'), seconds: 60, note: '' };

describe('the box behind messages that can be lost', () => {
  it('carries an order out once, though its answer was lost and it is sent again', () => {
    const device = send(deviceOf(fresh()), { id: '1', event: tried }, 0, () => true).device;
    const stay = { id: '2', event: { do: 'stay', id: 't' } } as const;
    const once = send(device, stay, 10, (direction, _, attempt) => direction === 'there' || attempt > 0);
    expect([once.answer?.refused, once.device.state.history.length]).to.deep.equal([undefined, 1]);
    // The same order by a new connection is told the same; another one is refused.
    expect(receive(once.device, stay, 20).answer.refused).to.equal(undefined);
    expect(receive(once.device, { ...stay, id: '3' }, 20).answer.refused).to.equal('no-trial');
  });

  it('does not answer over a way that its own change has cut, and goes back on time', () => {
    const cut = (_: string, state: BoxState) => state.running[0]!.text === 'a';
    const lost = send(deviceOf(fresh()), { id: '1', event: tried }, 0, cut);
    expect(lost.answer).to.equal(undefined);
    expect(lost.device.state.running).to.deep.equal(files('b'));
    expect(send(lost.device, { id: '2', event: { do: 'go-back' } }, 10, cut).answer).to.equal(undefined);
    // The first thing it hears after its time shows that it went back by itself.
    const later = receive(lost.device, { id: '3', event: { do: 'tick' } }, 61_000);
    expect(later.answer.state.running).to.deep.equal(files('a'));
    expect(later.answer.state.last?.what).to.equal('went-back');
  });

  it('takes nothing that was made for another running configuration', () => {
    const event: BoxEvent = { ...tried, base: files('a') };
    const changed = receive(
      deviceOf(fresh()),
      { id: '0', event: { do: 'replace', files: files('c'), by: 'console' } },
      5,
    );
    const told = receive(changed.device, { id: '1', event }, 10);
    expect([told.answer.refused, told.answer.state.running]).to.deep.equal(['changed-meanwhile', files('c')]);
    const again = receive(told.device, { id: '2', event: { ...event, base: files('c') } }, 20);
    expect(again.answer.refused).to.equal(undefined);
    const during = receive(
      again.device,
      { id: '3', event: { do: 'replace', files: files('d'), by: 'x' } },
      30,
    );
    expect(during.answer.refused).to.equal('trial-running');
  });

  it('is as if every order that arrived had arrived once, whatever is lost', () => {
    const event: fc.Arbitrary<BoxEvent> = fc.oneof(
      fc.constantFrom('b', 'c').map((x): BoxEvent => ({ ...tried, files: files(x) })),
      fc.constantFrom<BoxEvent>(
        { do: 'stay', id: 't' },
        { do: 'go-back' },
        { do: 'save' },
        { do: 'reboot' },
        { do: 'extend', id: 't', seconds: 30 },
      ),
    );
    const losses = fc.array(fc.boolean(), { minLength: 2 * ATTEMPTS, maxLength: 2 * ATTEMPTS });
    fc.assert(
      fc.property(fc.array(fc.tuple(event, losses, fc.nat(40_000)), { maxLength: 12 }), (orders) => {
        let device = deviceOf(fresh());
        let plain = fresh();
        let now = 0;
        for (const [i, [e, lost, wait]] of orders.entries()) {
          now += wait;
          const gone = (direction: string, attempt: number) =>
            lost[attempt * 2 + Number(direction === 'back')]!;
          const sent = send(device, { id: String(i), event: e }, now, (d, _, n) => !gone(d, n));
          device = sent.device;
          const arrived = [0, 1, 2].some((n) => !gone('there', n));
          const straight = arrived ? stepBox(plain, e, now) : { state: plain };
          plain = straight.state;
          expect(device.state).to.deep.equal(plain);
          if (sent.answer) expect(sent.answer).to.include({ state: device.state, refused: straight.refused });
        }
      }),
    );
  });
});
