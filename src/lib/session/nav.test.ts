import { expect } from 'chai';
import type { Nav as NavOf } from './nav.svelte';

/** The compiler's marks stand for the values themselves here: what is tested is the way about, not its being drawn. */
const plain = Object.assign(<T>(value: T): T => value, { raw: <T>(value: T): T => value });

describe('the way about', () => {
  let nav: NavOf;
  let toggled: (list: readonly string[], item: string) => readonly string[];
  before(async () => {
    (globalThis as { $state?: unknown }).$state = plain;
    const made = await import('./nav.svelte');
    toggled = made.toggled;
    nav = new made.Nav();
  });

  it('another site is entered with nothing of the last one, and First light is shown just where it is under way', () => {
    nav.select('interface/desk', 'interface/lab');
    nav.tickOff('line one');
    nav.focusZone = 'office';
    nav.view = 'proof';
    nav.enter(false);
    expect([nav.selection, nav.ticked, nav.focusZone, nav.view]).to.deep.equal([[], [], undefined, 'proof']);
    nav.enter(true);
    expect(nav.view).to.equal('first-light');
    nav.enter(false);
    expect(nav.view).to.equal('board');
  });

  it('opens the say line with a line, begins what is wanted, shows a statement in the text, and ticks off and back', () => {
    nav.say('zone lab:');
    expect(nav.saying).to.equal('zone lab:');
    nav.say();
    expect(nav.saying).to.equal('');
    // What is wanted takes the place of what was said, and is for the thing at hand.
    nav.select('interface/desk');
    nav.want();
    expect(nav.wanting).to.deep.equal({ subject: 'interface/desk' });
    nav.want('port/p3');
    expect(nav.wanting).to.deep.equal({ subject: 'port/p3' });
    nav.make('network', { port: 'p3' });
    expect([nav.saying, nav.wanting, nav.making]).to.deep.equal([
      undefined,
      undefined,
      { id: 'network', place: { port: 'p3' }, put: {} },
    ]);
    nav.show({ file: 'box.gate', start: 42 });
    expect([nav.view, nav.reveal]).to.deep.equal(['text', { file: 'box.gate', offset: 42 }]);
    expect(toggled(toggled(['a'], 'b'), 'a')).to.deep.equal(['b']);
  });
});
