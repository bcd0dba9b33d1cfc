import { expect } from 'chai';
import { factoryBox } from '#core/change';
import type { StoredSite } from './db';
import { forgetSecretsOf } from './forgetting';

const file = (text: string) => [{ name: 'box.gate', text }];
const line = (secret: string) =>
  file(`interface line: pppoe on p1 user "u" secret "${secret}", zone world # not secret: "old ${secret}"\n`);
const bare = file('interface line: pppoe on p1 user "u", zone world\n');

const kept = (changes: Partial<StoredSite>): StoredSite => ({
  id: 'a',
  name: 'a',
  files: bare,
  undo: [],
  redo: [],
  box: { ...factoryBox([]), running: bare, startup: bare, history: [] } as StoredSite['box'],
  done: [],
  agreed: bare,
  sheet: '',
  sheetRows: {},
  firstLight: false,
  hadContact: false,
  updated: 1,
  ...changes,
});
const { box } = kept({});
const step = (forward: string, back: string) => ({
  label: 'x',
  at: 1,
  forward: [{ file: 'box.gate', edits: [{ start: 0, end: 0, text: forward }] }],
  back: [{ file: 'box.gate', edits: [{ start: 0, end: 0, text: back }] }],
});

describe('forgetting secrets', () => {
  const places: [string, Partial<StoredSite>][] = [
    ['the draft', { files: line('tide-7') }],
    ['what runs', { box: { ...box, running: line('tide-7') } }],
    ['start-up', { box: { ...box, startup: line('tide-7') } }],
    [
      'what a trial goes back to',
      { box: { ...box, trial: { id: 't', before: line('tide-7'), since: 1, until: 2, note: '' } } },
    ],
    ['the history', { box: { ...box, history: [{ at: 1, note: '', files: line('tide-7') }] } }],
    [
      'what was before in the history',
      { box: { ...box, history: [{ at: 1, note: '', files: bare, before: line('tide-7') }] } },
    ],
    ['what the box agreed to', { agreed: line('tide-7') }],
    ['steps that could be undone', { undo: [step('zone a:\n', ' secret "tide-7"')] }],
    ['steps that could be done again', { redo: [step(' secret "tide-7"', '')] }],
    ['a corrected row of a sheet', { sheetRows: { user: 'u', secret: 'tide-7' } }],
    ['a sheet', { sheet: 'PPPoE\nUsername: u@line.example\nPassword: tide-7\n' }],
    [
      'a sheet that says two',
      { sheet: 'PPPoE\nUsername: u@line.example\nPassword: tide-7\nPassword: tide-77\n' },
    ],
  ];
  for (const [where, changes] of places)
    it(`takes them out of ${where}`, () => {
      const { site, taken } = forgetSecretsOf(kept(changes));
      expect(JSON.stringify(site)).to.not.contain('tide-7');
      expect(taken).to.be.greaterThan(0);
      expect([site.undo, site.redo], 'steps made for the text with the secret').to.deep.equal([[], []]);
    });

  it('leaves a site without secrets as it is, with what can be undone', () => {
    const site = kept({ undo: [step('zone a:\n', '')], sheet: 'The password is sent by letter.' });
    expect(forgetSecretsOf(site)).to.deep.equal({ site, taken: 0 });
  });
});
