/** Hands that know nothing: random keys and clicks in every field and view lose nothing, and nothing throws. */
import { expect } from 'chai';
import { howMany } from '#core/testkit';
import { Key, PATIENCE, keptOpen, openPage } from './browser';
import type { Page } from './browser';

let page: Page;
before(async () => (page = await openPage()));
after(() => page?.close());

/** Acts of each seed. */
const ACTS = 200;
const SEEDS = [11, 12, 13].slice(0, howMany(1, 3));

/** A small generator that gives the same acts for the same seed. */
const chance = (seed: number) => {
  let s = seed;
  return (below: number) => {
    s = (s * 1103515245 + 12345) & 0x7fffffff;
    return Math.floor((s / 0x7fffffff) * below) % below;
  };
};

const KEYS = [
  'a',
  'b',
  'c',
  'f',
  'm',
  'n',
  'o',
  's',
  'x',
  '1',
  '2',
  '3',
  '4',
  '5',
  '6',
  '8',
  '.',
  '7',
  ',',
  '#',
  '"',
  ' ',
  '-',
  '+',
  '?',
  '/',
  Key.ENTER,
  Key.ESCAPE,
  Key.TAB,
  Key.ARROW_DOWN,
  Key.ARROW_UP,
  Key.ARROW_LEFT,
  Key.ARROW_RIGHT,
  Key.BACK_SPACE,
  Key.DELETE,
  Key.HOME,
];
/** What is not for random hands: it leaves the page, or asks the browser itself. */
const SPARED = /Forget|Open |Export|Download|pcapng|new site|New site|afresh|Take over|print|Daylight/i;

describe('a field', () => {
  it('takes keys and does nothing else with them, and Escape gives back what was there', async () => {
    await page.fresh();
    await page.sees('desks', /open a page/);
    const NO_UNDO = `document.querySelector('[aria-label="Undo"]').disabled`;
    const FIELDS = `[...document.querySelectorAll('[data-testid=fields] input:not([type=checkbox])')]`;
    const shown = (...ids: string[]) =>
      page.ask<number>(
        `document.querySelectorAll(${JSON.stringify(ids.map((id) => `[data-testid=${id}]`).join())}).length`,
      );
    let fields = 0;
    const top = () =>
      page.ask(`Object.assign(document.querySelector('main'), { scrollTop: 0, scrollLeft: 0 }).scrollTop`);
    for (const thing of [
      'slab-studio',
      'slab-garden',
      'plug-core',
      'zone-visitors',
      'port-p1',
      'plug-throwing-pc',
    ]) {
      await top();
      await page.click(thing);
      const count = await page.ask<number>(
        `(document.querySelectorAll('[data-testid=slip] details').forEach((d) => (d.open = true)), ${FIELDS}.length)`,
      );
      // Each third one is a sample, every kind of field in it.
      for (let n = 0; n < count; n += howMany(3, 1)) {
        const field = `${FIELDS}[${n}]`;
        const [before, id] = await page.ask<[string, string]>(
          `(${field}.focus(), [${field}.value, ${field}.id])`,
        );
        await page.control('a');
        await page.press('a/?f1m', Key.BACK_SPACE, 'o');
        const told = `${thing}, field ${id}`;
        const typed = await page.ask(`[${field}.value, ${NO_UNDO}]`);
        expect(typed, `${told}: its text, and that nothing is done`).to.deep.equal(['a/?f1o', true]);
        await page.press(Key.ESCAPE);
        expect(await page.ask(`${field}.value`), `${told}: Escape`).to.equal(before);
        expect(await shown('slip'), `${told}: the slip is there`).to.equal(1);
        fields++;
      }
      await page.press(Key.TAB);
      expect(await page.ask(NO_UNDO), thing).to.equal(true);
      expect(await shown('say', 'findings', 'glossary')).to.equal(0);
    }
    expect(fields).to.be.greaterThan(howMany(13, 40));
  });
});

describe('random hands', () => {
  for (const seed of SEEDS)
    it(`lose nothing that undo does not bring back, and nothing throws (seed ${seed})`, async () => {
      await page.fresh();
      await page.sees('desks', /open a page/);
      await page.driver.executeScript(
        // That sizes are told in the next frame is a notice of the browser (Resize Observer, section 3.4.5): nothing is thrown.
        `window.thrown = []; window.addEventListener('error', (e) => /^ResizeObserver loop/.test(e.message) || window.thrown.push(e.message + ' ' + (e.error?.stack ?? '')));
         window.addEventListener('unhandledrejection', (e) => window.thrown.push(String(e.reason?.stack ?? e.reason)));
         window.confirm = () => false;`,
      );
      await page.driver.wait(async () => (await keptOpen(page)) !== undefined, PATIENCE);
      const start = await keptOpen(page);
      const next = chance(seed);
      const did: string[] = [];
      for (let i = 0; i < ACTS; i++) {
        if (next(100) < 62) {
          const key = KEYS[next(KEYS.length)]!;
          did.push(`key ${key}`);
          await page.press(key).catch(() => undefined);
        } else {
          const what = await page.ask<string>(
            `(() => {
               const all = document.querySelectorAll('button, input:not([type=file]), select, textarea, summary, [role=option], [data-at]');
               const it = all[${next(1e6)} % all.length];
               const text = [it?.innerText, it?.getAttribute('aria-label'), it?.title].join(' ');
               if (!it || ${SPARED}.test(text)) return '';
               it.focus();
               it.click();
               return text.trim().slice(0, 40) || it.id || it.tagName;
             })()`,
          );
          if (what) did.push(`click ${what}`);
        }
      }
      const thrown = await page.driver.executeScript<string[]>('return window.thrown');
      expect(thrown, did.slice(-12).join(' · ')).to.deep.equal([]);
      // Whatever was done, undo leads back to the first byte.
      await page.driver.executeScript(
        'document.querySelectorAll("dialog[open]").forEach((d) => d.close()); document.activeElement?.blur()',
      );
      for (let i = 0; i < 4; i++) await page.press(Key.ESCAPE);
      await page.blur();
      const undone = `(() => { const undo = document.querySelector('[aria-label="Undo"]'); if (!undo.disabled) undo.click(); return undo.disabled; })()`;
      for (let n = 0; n < 400 && !(await page.ask(undone)); n++);
      const same = async () => JSON.stringify((await keptOpen(page))?.files) === JSON.stringify(start?.files);
      await page.driver.wait(same, PATIENCE, `it does not come back: ${did.slice(-20).join(' · ')}`);
    });
});
