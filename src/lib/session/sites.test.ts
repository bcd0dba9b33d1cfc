import { expect } from 'chai';
import type { StoredSite } from './db';
import { Sites } from './sites';

const site = (id: string, text: string) => ({ id, files: [{ name: 'box.gate', text }] }) as StoredSite;
const textOf = (s: StoredSite | undefined) => s?.files[0]!.text;

/** Sites over a store that answers when it is told to, with all that is written of them. */
function bench(full = false) {
  const stored = new Map<string, StoredSite>();
  const journal = new Map<string, StoredSite>();
  const waiting: (() => void)[] = [];
  const kept: string[] = [];
  const world = { full, puts: [] as string[] };
  const sites = new Sites(
    {
      all: () => Promise.resolve([...stored.values()]),
      ids: () => Promise.resolve([...stored.keys()]),
      get: (id) => Promise.resolve(stored.get(id)),
      put: (s) => {
        world.puts.push(textOf(s)!);
        if (!world.full) stored.set(s.id, s);
        return new Promise((done) => waiting.push(() => done(!world.full)));
      },
      remove: (id) => Promise.resolve(void stored.delete(id)),
    },
    {
      write: (s) => void journal.set(s.id, s),
      clear: (id) => void journal.delete(id),
    },
    () => Promise.resolve(),
    (s) => kept.push(textOf(s)!),
  );
  /** Lets the store finish what it was given, until nothing waits. */
  const settle = async () => {
    for (let i = 0; i < 20; i++) {
      await Promise.resolve();
      waiting.shift()?.();
    }
    await sites.settled();
  };
  return { sites, stored, journal, kept, world, settle };
}

describe('keeping sites', () => {
  it('writes one at a time, and of what came meanwhile only the newest', async () => {
    const { sites, stored, kept, world, settle } = bench();
    void sites.save(site('a', '1'));
    await Promise.resolve();
    for (const text of ['2', '3', '4']) void sites.save(site('a', text));
    void sites.save(site('b', 'x'));
    await settle();
    expect(world.puts.filter((t) => t !== 'x')).to.deep.equal(['4']);
    expect([textOf(stored.get('a')), textOf(stored.get('b'))]).to.deep.equal(['4', 'x']);
    expect(kept).to.include.members(['4', 'x']);
    expect(sites.isUnkept).to.equal(false);
  });

  it('has an edit that came while the one before was written, written behind it', async () => {
    const { sites, stored, world, settle } = bench();
    void sites.save(site('a', '1'));
    // The store has it in hand and is not done.
    for (let i = 0; i < 5; i++) await Promise.resolve();
    expect(world.puts).to.deep.equal(['1']);
    void sites.save(site('a', '2'));
    expect(sites.isUnkept).to.equal(true);
    await settle();
    expect([world.puts, textOf(stored.get('a')), sites.isUnkept]).to.deep.equal([['1', '2'], '2', false]);
  });

  it('journals what is not kept yet when the window goes, and nothing that is', async () => {
    const { sites, journal, settle } = bench();
    void sites.save(site('a', '1'));
    sites.flush();
    expect(textOf(journal.get('a'))).to.equal('1');
    await settle();
    expect(journal.size, 'kept: no journal').to.equal(0);
    sites.flush();
    expect(journal.size).to.equal(0);
  });

  it('holds in memory what cannot be kept, of every site, until there is room again', async () => {
    const { sites, stored, world, journal, settle } = bench(true);
    stored.set('a', site('a', 'old'));
    void sites.save(site('a', 'new'));
    void sites.save(site('b', 'only here'));
    await settle();
    expect(sites.isUnkept).to.equal(true);
    expect([...journal.keys()], 'the window may go').to.have.members(['a', 'b']);
    expect([textOf(await sites.get('a')), textOf(await sites.get('b'))]).to.deep.equal(['new', 'only here']);
    expect((await sites.all()).map((s) => textOf(s))).to.have.members(['new', 'only here']);
    world.full = false;
    void sites.save(site('a', 'newer'));
    await settle();
    expect([textOf(stored.get('a')), textOf(await sites.get('a'))]).to.deep.equal(['newer', 'newer']);
    await sites.remove('b');
    expect((await sites.all()).map((s) => s.id)).to.deep.equal(['a']);
    expect([...journal.keys()], 'what was forgotten does not come back').to.deep.equal([]);
  });

  it('works without any store, in this window only', async () => {
    const sites = new Sites(
      undefined,
      { write: () => undefined, clear: () => undefined },
      () => Promise.resolve(),
      () => expect.fail('nothing is kept'),
    );
    await sites.save(site('a', '1'));
    expect([textOf(await sites.get('a')), sites.isUnkept, (await sites.all()).length]).to.deep.equal([
      '1',
      true,
      1,
    ]);
  });
});
