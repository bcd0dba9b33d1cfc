import { expect } from 'chai';
import 'fake-indexeddb/auto';
import { openDB } from 'idb';
import type { FindingView } from '../../worker/protocol';
import { newLink, toStored } from './box-link';
import { Store } from './db';
import type { StoreTrouble, StoredSite } from './db';
import { clearJournal, newId, onlyJournalled, remembered, withJournal, writeJournal } from './keeping';
import { outcomeOf } from './outcome';

const site = (id: string, text: string, updated = 1000): StoredSite => ({
  id,
  name: id,
  files: [{ name: 'box.gate', text }],
  undo: [],
  redo: [],
  sheet: '',
  sheetRows: {},
  firstLight: false,
  ...toStored(newLink([{ name: 'box.gate', text }]), 0),
  updated,
});

/** Settings of a browser that keeps them, or refuses to. */
function settings(refuses = false) {
  const kept = new Map<string, string>();
  const guard = () => {
    if (refuses) throw new DOMException('full', 'QuotaExceededError');
  };
  (globalThis as { localStorage?: unknown }).localStorage = {
    getItem: (name: string) => (guard(), kept.get(name) ?? null),
    setItem: (name: string, value: string) => (guard(), void kept.set(name, value)),
    removeItem: (name: string) => (guard(), void kept.delete(name)),
    get length() {
      return kept.size;
    },
    key: (i: number) => [...kept.keys()][i] ?? null,
  };
  return kept;
}

describe('the journal beside the database', () => {
  after(() => delete (globalThis as { localStorage?: unknown }).localStorage);

  it('brings back an edit that the database had no time for, as one step that can be undone', () => {
    settings();
    const before = site('s', 'zone a:\n');
    expect(
      writeJournal({ ...before, files: [{ name: 'box.gate', text: 'zone b:\n' }], updated: 2000 }),
    ).to.equal(true);
    const after = withJournal(before);
    expect(after.files[0]!.text).to.equal('zone b:\n');
    expect(after.undo.map((s) => s.back[0]!.edits[0]!.text)).to.deep.equal(['zone a:\n']);
    expect(withJournal({ ...before, updated: 3000 }).files[0]!.text, 'what is newer stays').to.equal(
      'zone a:\n',
    );
    clearJournal(before.id);
    expect(withJournal(before)).to.equal(before);
  });

  it('finds what only it has, and nothing of a site that the database has', () => {
    const kept = settings();
    kept.set('jolly-gate site', 'b');
    kept.set('jolly-gate journal broken', '{');
    for (const id of ['a', 'b']) writeJournal(site(id, `zone ${id}:\n`, 2000));
    expect(onlyJournalled(new Set(['a']))).to.deep.equal([
      { id: 'b', name: 'b', files: [{ name: 'box.gate', text: 'zone b:\n' }], updated: 2000 },
    ]);
    clearJournal('b');
    expect(onlyJournalled(new Set(['a']))).to.deep.equal([]);
  });

  it('does without where settings are refused, and with what is no journal', () => {
    const kept = settings();
    kept.set('jolly-gate journal s', '{"files": 7}');
    expect(withJournal(site('s', 'x')).files[0]!.text).to.equal('x');
    kept.set('jolly-gate journal s', '{');
    expect(withJournal(site('s', 'x')).files[0]!.text).to.equal('x');
    settings(true);
    expect(remembered.set('a', 'b')).to.equal(false);
    expect(remembered.get('a')).to.equal(null);
    expect(writeJournal(site('s', 'x'))).to.equal(false);
    remembered.remove('a');
    expect(onlyJournalled(new Set())).to.deep.equal([]);
  });

  it('names things as nobody else does, on a page that is not secure too', () => {
    for (const secure of [true, false]) {
      (globalThis as { isSecureContext?: boolean }).isSecureContext = secure;
      const names = new Set(Array.from({ length: 50 }, newId));
      expect(names.size).to.equal(50);
      expect([...names].every((n) => /^[0-9a-f-]{32,36}$/.test(n))).to.equal(true);
    }
  });
});

describe('the database of sites', () => {
  it('gives back what it was given, leaves alone what it cannot read, and says so', async () => {
    const troubles: StoreTrouble[] = [];
    const store = (await Store.open((t) => troubles.push(t)))!;
    expect(await store.put(site('s', 'zone a:\n'))).to.equal(true);
    expect((await store.get('s'))!.files[0]!.text).to.equal('zone a:\n');
    const raw = await openDB('jolly-gate', 1);
    await raw.put('sites', { id: 'odd', name: 7 });
    expect((await store.all()).map((s) => s.id)).to.deep.equal(['s']);
    expect(troubles).to.deep.equal(['unreadable']);
    expect(await store.get('odd')).to.equal(undefined);
    expect(await raw.get('sites', 'odd'), 'it stays as it is').to.deep.equal({ id: 'odd', name: 7 });
    await store.remove('s');
    expect(await store.get('s')).to.equal(undefined);
    raw.close();
  });

  it('is left alone where a later version has written it', async () => {
    (await openDB('jolly-gate', 9)).close();
    const troubles: StoreTrouble[] = [];
    expect(await Store.open((t) => troubles.push(t))).to.equal(undefined);
    expect(troubles).to.deep.equal(['newer']);
  });
});

describe('what an edit brings', () => {
  it('is told by code and subject; what only the box knows does not go', () => {
    const f = (code: string, subject: string) => ({ code, subject }) as FindingView;
    const before = [f('no-zone', 'interface/a'), f('port-off', 'interface/b'), f('first-password', 'box/x')];
    const { comes, goes } = outcomeOf(before, [f('port-off', 'interface/b'), f('no-zone', 'interface/c')]);
    expect(comes.map((x) => x.subject)).to.deep.equal(['interface/c']);
    expect(goes.map((x) => x.subject)).to.deep.equal(['interface/a']);
  });
});
