/** What a live box runs, as the page knows it: whose doing it is, and how long a trial has. */
import { expect } from 'chai';
import type { Sight } from '#core/box';
import { newLink } from './box-link';
import type { BoxLink } from './box-link';
import { mirrored, sameLink } from './mirror';
import type { Tried } from './mirror';

const files = (text: string) => [{ name: 'box.gate', text }];
const sight = (text: string | null, more: Partial<Sight['box']> = {}): Sight => ({
  box: {
    hinge: 'h',
    boot: 'b',
    uptime: 1,
    kernel: '6.1',
    systemd: true,
    running: text === null ? 'none' : 'aa',
    startup: 'none',
    tools: [],
    others: [],
    ...more,
  },
  busy: false,
  text,
  ports: [],
  routes: [],
  neighbours: [],
  leases: [],
  names: [],
  hits: [],
  dead: [],
  part: '',
  restored: [],
});
const trial = (left: number) => ({ trial: { order: 'o', generation: 'aa', before: 'none', left } });
const texts = ({ device: { state }, agreed }: BoxLink) => [state.running[0]!.text, agreed[0]?.text];

describe('the mirror of a live box', () => {
  const start = newLink(files('a\n'));

  it('has what runs there, whether or not its last line end came along', () => {
    expect(mirrored(start, sight('a'), 'box.gate', 0, undefined).device.state.running).to.equal(
      start.device.state.running,
    );
    expect(texts(mirrored(start, sight('b'), 'box.gate', 0, undefined))).to.deep.equal(['b\n', 'a\n']);
    const none = mirrored(start, sight(null), 'box.gate', 0, undefined);
    expect(texts(none)).to.deep.equal(['', 'a\n']);
  });

  it('agrees with what was tried from here, keeps its time, and remembers it once it stays', () => {
    const tried: Tried = { files: files('b\n'), before: files('a\n'), note: 'why' };
    const on = mirrored(start, sight('b', trial(60)), 'box.gate', 1000, tried);
    expect(texts(on)).to.deep.equal(['b\n', 'b\n']);
    expect(on.device.state.trial).to.deep.include({
      id: 'o',
      until: 61_000,
      note: 'why',
      before: files('a\n'),
    });
    // The box tells whole seconds: its time does not jump by them.
    const later = mirrored(on, sight('b', trial(58)), 'box.gate', 2400, tried);
    expect([later.device.state.trial?.until, sameLink(on, later)]).to.deep.equal([61_000, true]);
    const longer = mirrored(on, sight('b', trial(120)), 'box.gate', 2400, tried);
    expect(longer.device.state.trial?.until).to.equal(122_400);
    const stays = mirrored(later, sight('b'), 'box.gate', 9000, tried);
    expect(stays.device.state.trial).to.equal(undefined);
    expect(stays.device.state.history).to.deep.equal([
      { at: 9000, note: 'why', files: files('b\n'), before: files('a\n') },
    ]);
    const saved = mirrored(stays, sight('b', { startup: 'aa' }), 'box.gate', 9500, undefined);
    expect(saved.device.state.startup).to.equal(saved.device.state.running);
  });

  it('tells a trial that ran out from one that was taken back', () => {
    const tried: Tried = { files: files('b\n'), before: files('a\n'), note: '' };
    const on = mirrored(start, sight('b', trial(60)), 'box.gate', 0, tried);
    const last = (why: string) => ({ last: { what: 'went-back' as const, why, generation: 'aa', at: 1 } });
    const out = mirrored(on, sight('a', last('timer')), 'box.gate', 60_000, tried);
    expect([texts(out), out.device.state.last]).to.deep.equal([
      ['a\n', 'a\n'],
      { what: 'went-back', at: 60_000 },
    ]);
    expect(mirrored(on, sight('a'), 'box.gate', 5000, tried).device.state.last).to.equal(undefined);
  });

  it('knows its own trial again after the page was loaded anew', () => {
    const tried: Tried = { files: files('b\n'), before: files('a\n'), note: 'why' };
    const on = mirrored(start, sight('b', trial(60)), 'box.gate', 0, tried);
    // What was tried from here is forgotten with the page; the link is kept.
    const stays = mirrored(on, sight('b'), 'box.gate', 9000, undefined);
    expect(texts(stays)).to.deep.equal(['b\n', 'b\n']);
    expect(stays.device.state.history).to.have.length(1);
    expect(texts(mirrored(on, sight('a'), 'box.gate', 9000, undefined))).to.deep.equal(['a\n', 'a\n']);
  });

  it('does not agree with what somebody else told the box, on trial or not', () => {
    expect(texts(mirrored(start, sight('c'), 'box.gate', 0, undefined))).to.deep.equal(['c\n', 'a\n']);
    const theirs = mirrored(start, sight('c', trial(30)), 'box.gate', 0, undefined);
    expect([texts(theirs), theirs.device.state.trial?.id]).to.deep.equal([['c\n', 'a\n'], 'o']);
  });
});
