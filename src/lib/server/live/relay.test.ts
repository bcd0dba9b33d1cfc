/** Live boxes for pages: asked once for all of them, only while one looks, and for a day without growing. */
import { expect } from 'chai';
import { setFlagsFromString } from 'node:v8';
import { runInNewContext } from 'node:vm';
import type { RelayEvent } from '#core/box';
import { modelFrom } from '#core/testkit';
import { generationOf } from '#core/linux';
import { Guard } from './guard';
import { NotReached } from './box';
import type { LiveBox } from './box';
import { Relay } from './relay';

const TEXT = `zone world: upstream
zone office:
interface fibre: on p1, zone world, address 198.51.100.18/29, gateway .17
interface desk: on p2, zone office, address 10.61.20.1/24, answers ssh
`;
const RUNS = generationOf(modelFrom(TEXT), [{ name: 'box.gate', text: TEXT }]).id;
const hello = (uptime: number, running = RUNS) => ({
  hinge: 'a',
  boot: 'b',
  uptime,
  kernel: '6.1',
  systemd: true,
  running,
  startup: 'none',
  tools: [],
  others: [] as string[],
});
const counters = Array.from({ length: 400 }, (_, i) => ({
  counter: { comment: `passage a${i % 40} > world`, packets: i, bytes: i * 100 },
}));

/** A box that answers what it is asked, and counts how many questions are open at a time. */
class FakeBox {
  looks = 0;
  open = 0;
  most = 0;
  reached = true;
  others: readonly string[] = [];
  at?: string;
  client?: string;
  readonly asked: string[] = [];
  meet = () => Promise.resolve();
  letsIn = () => Promise.resolve(this.reached);
  knock = () => Promise.resolve(this.reached ? hello(this.looks) : undefined);
  async order(kind: string, words: readonly string[]): Promise<unknown> {
    this.most = Math.max(this.most, ++this.open);
    await Promise.resolve();
    this.open--;
    if (!this.reached) throw new NotReached('timeout', '');
    if (words[0] !== 'state' && words[0] !== 'ladder') this.asked.push(words.join(' '));
    const ok = { ok: true, box: hello(this.looks) };
    switch (kind) {
      case 'state':
        this.looks++;
        return {
          heard: 'answer',
          answer: {
            ...ok,
            busy: false,
            text: TEXT,
            ...Object.fromEntries(
              ['link', 'addr', 'route4', 'route6', 'rule4', 'rule6', 'neigh', 'tables'].map((k) => [k, []]),
            ),
            counters: { nftables: counters },
            leases: '',
            dead: '',
            part: '',
            restored: '',
            named: '',
            settings: '',
            drifted: this.looks % 2 ? '' : '+ address p2 10.61.20.9/24',
          },
        };
      case 'ladder':
        return {
          heard: 'answer',
          answer: { ok: true, stages: 'carrier pass p1\naddress pass 198.51.100.18/29' },
        };
      case 'adopt':
        ok.box.others.push(...this.others);
        return { heard: 'answer', answer: { ...ok, text: TEXT, strangers: ['p2', 'br9'] } };
      default:
        return { heard: 'answer', answer: ok };
    }
  }
}

/** A relay over one fake box, whose time is passed by `rounds`: after so many waits everybody has left. */
function relayOver(box: FakeBox, wait: () => Promise<void>): Relay {
  const handoff = {
    guard: new Guard(['http://127.0.0.1:4173']),
    boxes: [{ name: 'edge', target: { host: '192.0.2.1' }, ssh: {}, practice: false }],
  };
  return new Relay(handoff, { box: () => box as unknown as LiveBox, wait });
}

setFlagsFromString('--expose_gc');
/** What is not used any more is taken away first: only what is kept counts. */
const gc = runInNewContext('gc') as () => void;

/** Looks a day has, at one every 0.7 s. */
const DAY = Math.floor(86_400 / 0.7);

describe('the relay of live boxes', () => {
  it('asks a box once for all pages, only while one looks, and for a day without growing', async function () {
    this.timeout(240_000);
    const box = new FakeBox();
    const leave: (() => void)[] = [];
    let waits = 0;
    let early = 0;
    const size = () => {
      gc();
      return process.memoryUsage().heapUsed;
    };
    const seen: Record<string, number> = {};
    let end: () => void = () => undefined;
    const over = new Promise<void>((resolve) => (end = resolve));
    const relay = relayOver(box, async () => {
      waits++;
      if (waits === 2000) early = size();
      if (waits % 500 === 0) await new Promise((resolve) => setImmediate(resolve));
      if (waits === LOOKS) {
        for (const l of leave) l();
        end();
      }
    });
    // A page comes and goes all day long beside three that stay.
    for (let i = 0; i < 3; i++)
      leave.push(relay.watch('edge', (e) => (seen[e.what] = (seen[e.what] ?? 0) + 1))!);
    relay.watch('edge', () => undefined)!();
    await over;
    await new Promise((resolve) => setImmediate(resolve));
    const grown = (size() - early) / 1024 / 1024;
    expect(box.looks).to.equal(LOOKS);
    expect(seen.seen).to.equal(3 * LOOKS);
    // Both ladders of an uplink would be asked at once; nothing else ever is.
    expect(box.most).to.be.at.most(2);
    expect(grown, 'megabytes that a day leaves behind').to.be.lessThan(3);
    const looked = box.looks;
    await new Promise((resolve) => setTimeout(resolve, 20));
    expect(box.looks, 'after the last page has gone').to.equal(looked);
  });
  const LOOKS = Number(process.env.LOOKS ?? Math.floor(DAY / 10));

  it('tells that a box is lost and why, and that it is there again', async () => {
    const box = new FakeBox();
    const told: RelayEvent['what'][] = [];
    let waits = 0;
    let leave: () => void = () => undefined;
    const over = new Promise<void>((resolve) => {
      const relay = relayOver(box, () => {
        waits++;
        box.reached = waits < 2 || waits > 4;
        if (waits === 7) {
          leave();
          resolve();
        }
        return Promise.resolve();
      });
      leave = relay.watch('edge', (e) => {
        if (told.at(-1) !== e.what && e.what !== 'ladder') told.push(e.what);
        if (e.what === 'lost') expect(e).to.deep.include({ why: 'timeout' });
      })!;
    });
    await over;
    expect(told).to.deep.equal(['seen', 'lost', 'seen']);
  });

  it('carries orders by their words, and none that the page could not have meant', async () => {
    const box = new FakeBox();
    const relay = relayOver(box, () => Promise.resolve());
    expect(relay.order('other', { do: 'save' })).to.equal(undefined);
    expect(await relay.order('edge', { do: 'stay' })).to.deep.equal({ ok: true });
    expect(await relay.order('edge', { do: 'extend', seconds: 60 })).to.deep.equal({ ok: true });
    expect(box.asked.filter((w) => w !== 'hello').map((w) => w.replace(/ \w{16}$/, ' ORDER'))).to.deep.equal([
      `stay ${RUNS} ORDER`,
      `extend ${RUNS} 60 ORDER`,
    ]);
    const files = [{ name: 'box.gate', text: TEXT.replace('answers ssh', 'answers ping') }];
    const tried = (overrule: string[], base: string | null = TEXT) =>
      relay.order('edge', { do: 'try', files, seconds: 60, overrule, base })!;
    expect(await tried([], 'another text')).to.deep.include({ ok: false, code: 'changed-meanwhile' });
    expect(await tried([])).to.deep.include({ ok: false, code: 'errors' });
    box.client = '10.61.20.50';
    // Whoever configures a device of the text hinders it; a file of another device, or of none, does not.
    box.others = ['networkd - /etc/systemd/network/9.network', 'ifupdown p7 /etc/network/interfaces'];
    const overruled = ['no-way-in', 'leave-missing', 'seat-cut'];
    expect(await tried(overruled)).to.have.property('code', 'lockout');
    box.others = [...box.others, 'client - dhcpcd', 'client p2 dhclient'];
    expect(await tried(overruled)).to.deep.include({ code: 'others', devices: ['p2'] });
    expect(await relay.order('edge', { do: 'take', devices: ['p2', 'p3'] })).to.deep.equal({ ok: true });
    expect(box.asked.at(-1)).to.match(/^take p2,p3 \w{16}$/);
    overruled.push('others');
    expect(await tried(overruled)).to.deep.include({
      ok: false,
      code: 'lockout',
    });
  });

  it('gives its token once, and only to who has the link', () => {
    const guard = new Guard(['http://127.0.0.1:4173', 'http://localhost:4173']);
    const caller = (authorization: string | null) => ({
      host: 'localhost:4173',
      origin: 'http://localhost:4173',
      site: 'same-origin',
      type: 'application/json; charset=utf-8',
      authorization,
    });
    expect(guard.refuses(caller(null))).to.equal(undefined);
    // Either name of this host, but not one on a page of the other.
    expect(guard.refuses({ ...caller(null), origin: 'http://127.0.0.1:4173' })?.status).to.equal(403);
    expect(guard.enter('guess')).to.equal(undefined);
    const { link } = guard;
    const token = guard.enter(link!);
    expect([guard.link, guard.enter(link!)]).to.deep.equal([undefined, undefined]);
    expect(guard.knows(caller(`Bearer ${token}`))).to.equal(true);
    for (const bad of [null, '', 'Bearer', `Basic ${token}`, `Bearer ${token}x`, `Bearer ${link}`])
      expect(guard.knows(caller(bad)), String(bad)).to.equal(false);
  });
});
