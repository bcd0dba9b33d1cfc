import { expect } from 'chai';
import { ledSites, linkTabs } from './tabs';
import type { TabLink, TabWorld } from './tabs';

const turn = () => new Promise((go) => setTimeout(go, 2));
type Grant = (lock: Lock | null) => unknown;

/** Locks as a browser has them: one holder a name, a queue, and who steals one makes the holder's promise fail. */
class Locks {
  private readonly held = new Map<string, { end: (why?: Error) => void }>();
  private readonly queue: { name: string; go: () => void }[] = [];

  query = () => Promise.resolve({ held: [...this.held.keys()].map((name) => ({ name })), pending: [] });

  request = (name: string, a: LockOptions | Grant, b?: Grant): Promise<unknown> => {
    const [options, grant] = typeof a === 'function' ? [{}, a] : [a, b!];
    if (options.ifAvailable && this.held.has(name)) return Promise.resolve(grant(null));
    return new Promise((resolve, reject) => {
      const go = () => {
        const mine = {
          end: (why?: Error) => {
            if (this.held.get(name) === mine) this.held.delete(name);
            if (why) reject(why);
            else resolve(undefined);
            const next = this.queue.findIndex((q) => q.name === name);
            if (next >= 0 && !this.held.has(name)) this.queue.splice(next, 1)[0]!.go();
          },
        };
        this.held.set(name, mine);
        void Promise.resolve(grant({ name, mode: 'exclusive' })).then(() => mine.end());
      };
      const holder = this.held.get(name);
      if (options.steal && holder) {
        const waiting = this.queue.splice(0);
        holder.end(new Error('stolen'));
        this.queue.push(...waiting);
        go();
      } else if (holder) this.queue.push({ name, go });
      else go();
    });
  };
}

/** Tabs on one site in one browser. */
function browser(locks: Locks | undefined = new Locks()) {
  const open = new Set<EventTarget>();
  const world: TabWorld = {
    locks: locks,
    patience: 10,
    channel: () => {
      const end = new EventTarget();
      open.add(end);
      return Object.assign(end, {
        postMessage: (data: unknown) => {
          for (const other of open)
            if (other !== end)
              queueMicrotask(() => other.dispatchEvent(new MessageEvent('message', { data })));
        },
        close: () => open.delete(end),
      }) as unknown as BroadcastChannel;
    },
  };
  const tab = (written: () => Promise<unknown> = () => Promise.resolve()) => {
    const seen = { leads: undefined as boolean | undefined, changes: 0, written: 0 };
    const link: TabLink = linkTabs(
      's1',
      (leads) => (seen.leads = leads),
      () => seen.changes++,
      () => (seen.written++, written()),
      world,
    );
    return { seen, link };
  };
  return { tab, world };
}

describe('tabs on one site', () => {
  it('the first leads, the others follow what it stores, and the next leads when it is closed', async () => {
    const { tab, world } = browser();
    const [a, b, c] = [tab(), tab(), tab()];
    await turn();
    expect([a.seen.leads, b.seen.leads, c.seen.leads]).to.deep.equal([true, false, false]);
    expect([...(await ledSites(world))]).to.deep.equal(['s1']);
    a.link.announce();
    await turn();
    expect([a.seen.changes, b.seen.changes, c.seen.changes]).to.deep.equal([0, 1, 1]);
    a.link.close();
    await turn();
    expect([b.seen.leads, c.seen.leads]).to.deep.equal([true, false]);
  });

  it('who is asked gives over once all is written, and follows from then on', async () => {
    const { tab } = browser();
    let finish: () => void = () => undefined;
    const a = tab(() => new Promise<void>((done) => (finish = done)));
    const b = tab();
    await turn();
    b.link.takeOver();
    await turn();
    expect([a.seen.written, a.seen.leads, b.seen.leads], 'still writing').to.deep.equal([1, true, false]);
    finish();
    await turn();
    expect([a.seen.leads, b.seen.leads, b.seen.changes > 0]).to.deep.equal([false, true, true]);
    await new Promise((go) => setTimeout(go, 20));
    expect([a.seen.leads, b.seen.leads], 'nothing is taken twice').to.deep.equal([false, true]);
    a.link.takeOver();
    await new Promise((go) => setTimeout(go, 20));
    expect([a.seen.leads, b.seen.leads], 'and back').to.deep.equal([true, false]);
  });

  it('one that hangs is taken from', async () => {
    const { tab } = browser();
    const a = tab(() => new Promise(() => undefined));
    const b = tab();
    await turn();
    b.link.takeOver();
    await new Promise((go) => setTimeout(go, 30));
    expect([a.seen.leads, b.seen.leads]).to.deep.equal([false, true]);
  });

  it('where a browser has no locks every tab leads', async () => {
    const { tab, world } = browser();
    const lone = { ...world, locks: undefined };
    let leads: boolean | undefined;
    linkTabs(
      's1',
      (l) => (leads = l),
      () => undefined,
      () => Promise.resolve(),
      lone,
    ).takeOver();
    expect(leads).to.equal(true);
    expect([...(await ledSites(lone))]).to.deep.equal([]);
    tab().link.close();
  });
});
