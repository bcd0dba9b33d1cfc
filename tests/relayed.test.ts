/**
 * A box that lies, by way of the page: whatever it answers damaged, the page hears a whole event or one sentence, and what it
 * makes of it can be kept in the browser and read again.
 */
import { expect } from 'chai';
import { readFileSync } from 'node:fs';
import * as v from 'valibot';
import type { RelayAsk, RelayEvent } from '#core/box';
import { damages, howMany, seedOr } from '#core/testkit';
import { Guard } from '../src/lib/server/live/guard';
import { LiveBox } from '../src/lib/server/live/box';
import { Relay } from '../src/lib/server/live/relay';
import type { Reply, Ssh } from '../src/lib/server/ssh/ssh';
import { newLink, toStored } from '../src/lib/session/box-link';
import { SiteSchema } from '../src/lib/session/db';
import { byInterface, handText, mirrored } from '../src/lib/session/mirror';

const RECORDED = JSON.parse(readFileSync('tests/corpus/answers.json', 'utf8')) as Record<string, string>;
const COUNT = howMany(500, 20_000);
const { one, damagedAnswer } = damages(seedOr(31));

const ASKS: readonly RelayAsk[] = [
  { what: 'log' },
  { what: 'flows' },
  { what: 'ping', to: '192.0.2.80', by: 'fibre' },
  { what: 'route', to: '192.0.2.80', by: 'desk' },
  { what: 'look-up', name: 'edge.example' },
];
/** How much longer what is told may be than what was answered. */
const BOUND = 30;

/** A shell that gives answers of a hinge, of which `isDamaged` says whether they are whole. */
class LyingShell {
  isDamaged = false;
  longest = 0;
  run(command: string): Promise<Reply> {
    const [, order = ''] = /jolly-gate-hinge ([a-z]+)/.exec(command) ?? [];
    const said = order === '' ? this.met : (RECORDED[order] ?? RECORDED.hello!);
    const out = this.isDamaged && order !== '' ? damagedAnswer(said) : said;
    this.longest = Math.max(this.longest, out.length);
    return Promise.resolve({ status: 0, out, err: '' } as Reply);
  }
  /** As root, with our hinge in its place or not: putting it there is answered alike. */
  private readonly met = 'uid=0\nfrom=10.61.20.50 22\n';
}

describe('what a page hears of a box that lies', () => {
  it(`is whole or one sentence, and can be kept: ${COUNT} looks and questions`, async function () {
    const shell = new LyingShell();
    let leave: () => void = () => undefined;
    let heard = 0;
    let refused = 0;
    let link = newLink([]);
    const page = (event: RelayEvent): void => {
      const told = JSON.stringify(event);
      expect(told.length, told.slice(0, 500)).to.be.below(BOUND * (shell.longest + 5000));
      if (event.what === 'lost') {
        refused++;
        expect(event, 'the sentence is ours').to.include({ why: 'nonsense' });
      }
      if (event.what !== 'seen') return;
      heard++;
      link = mirrored(link, event.sight, 'box.gate', heard * 1000, undefined);
      byInterface(handText(event.drift));
      const kept = { id: 'a', name: 'a', files: [], undo: [], redo: [], ...toStored(link, 0), updated: 0 };
      expect(v.is(SiteSchema, structuredClone(kept)), `it can be read again: ${told}`).to.equal(true);
    };
    let looks = 0;
    await new Promise<void>((over, reject) => {
      const failed = (error: unknown) => reject(error instanceof Error ? error : new Error(String(error)));
      const relay: Relay = new Relay(
        {
          guard: new Guard(['http://127.0.0.1:4173']),
          boxes: [{ name: 'edge', target: { host: '192.0.2.1' }, ssh: {}, practice: false }],
        },
        {
          box: () => new LiveBox(shell as unknown as Ssh),
          wait: async () => {
            try {
              // The first look is of a box that tells the truth.
              shell.isDamaged = true;
              const asked = await relay.ask('edge', one(ASKS));
              for (const line of asked!.lines) expect(line).to.be.a('string');
              if (++looks < COUNT) return;
            } catch (error) {
              failed(error);
            }
            leave();
            over();
          },
        },
      );
      leave = relay.watch('edge', (event) => {
        try {
          page(event);
        } catch (error) {
          failed(error);
        }
      })!;
    });
    expect(heard, 'most are still answers').to.be.above(COUNT / 5);
    expect(refused).to.be.above(COUNT / 10);
  });
});
