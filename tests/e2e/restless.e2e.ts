/** Hands that know nothing: random keys and clicks in every field and view lose nothing, and nothing throws. */
import { expect } from 'chai';
import { howMany } from '../seed';
import { By, Key, openPage, PATIENCE } from './browser';
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

const state = () =>
  page.driver.executeScript<{ files: { name: string; text: string }[]; undo: number }>(
    `return new Promise((ok) => { const open = indexedDB.open('jolly-gate'); open.onsuccess = () => {
       const all = open.result.transaction('sites').objectStore('sites').getAll();
       all.onsuccess = () => { const id = localStorage.getItem('jolly-gate site');
         const site = all.result.find((s) => s.id === id); ok({ files: site.files, undo: site.undo.length }); open.result.close(); };
     }; })`,
  );

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
    const undo = () => page.driver.findElement(By.css('[aria-label="Undo"]'));
    let fields = 0;
    const top = () =>
      page.driver.executeScript(
        'const m = document.querySelector("main"); m.scrollTop = 0; m.scrollLeft = 0',
      );
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
      const count = await page.driver.executeScript<number>(
        `document.querySelectorAll('[data-testid=slip] details').forEach((d) => (d.open = true));
         return document.querySelectorAll('[data-testid=fields] input:not([type=checkbox])').length`,
      );
      for (let n = 0; n < count; n++) {
        const field = (
          await page.driver.findElements(By.css('[data-testid=fields] input:not([type=checkbox])'))
        )[n]!;
        const before = await field.getAttribute('value');
        await page.driver.executeScript('arguments[0].focus()', field);
        await page.control('a');
        await page.press('a/?f1m', Key.BACK_SPACE, 'o');
        const told = `${thing}, field ${await field.getAttribute('id')}`;
        expect(await field.getAttribute('value'), told).to.equal('a/?f1o');
        expect(await (await undo()).isEnabled(), `${told}: it acted`).to.equal(false);
        await page.press(Key.ESCAPE);
        expect(await field.getAttribute('value'), `${told}: Escape`).to.equal(before);
        expect((await page.all('slip')).length, `${told}: the slip is there`).to.equal(1);
        fields++;
      }
      await page.press(Key.TAB);
      expect(await (await undo()).isEnabled(), thing).to.equal(false);
      expect(
        (await page.all('say')).length +
          (await page.all('findings')).length +
          (await page.all('glossary')).length,
      ).to.equal(0);
    }
    expect(fields).to.be.greaterThan(40);
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
      await page.driver.wait(async () => (await state()).files.length > 0, PATIENCE);
      const start = await state();
      const next = chance(seed);
      const did: string[] = [];
      for (let i = 0; i < ACTS; i++) {
        if (next(100) < 62) {
          const key = KEYS[next(KEYS.length)]!;
          did.push(`key ${key}`);
          await page.press(key).catch(() => undefined);
        } else {
          const shown = (
            await page.driver.findElements(
              By.css('button, input:not([type=file]), select, textarea, summary, [role=option], [data-at]'),
            )
          ).filter(Boolean);
          const it = shown[next(shown.length)];
          if (!it) continue;
          try {
            const text = `${await it.getText()} ${(await it.getAttribute('aria-label')) ?? ''} ${(await it.getAttribute('title')) ?? ''}`;
            if (SPARED.test(text)) continue;
            did.push(`click ${text.trim().slice(0, 40) || (await it.getAttribute('id'))}`);
            await page.driver.executeScript('arguments[0].focus(); arguments[0].click()', it);
          } catch {
            // It went while it was looked at.
          }
        }
      }
      const thrown = await page.driver.executeScript<string[]>('return window.thrown');
      expect(thrown, did.slice(-12).join(' · ')).to.deep.equal([]);
      // Whatever was done, undo leads back to the first byte.
      await page.driver.executeScript(
        'document.querySelectorAll("dialog[open]").forEach((d) => d.close()); document.activeElement?.blur()',
      );
      for (let i = 0; i < 4; i++) await page.press(Key.ESCAPE);
      await page.driver.executeScript(`document.activeElement?.blur()`);
      for (let n = 0; n < 400; n++) {
        const undo = await page.driver.findElement(By.css('[aria-label="Undo"]'));
        if (!(await undo.isEnabled())) break;
        await page.driver.executeScript('arguments[0].click()', undo);
      }
      const same = async () => JSON.stringify((await state()).files) === JSON.stringify(start.files);
      await page.driver.wait(same, PATIENCE, `it does not come back: ${did.slice(-20).join(' · ')}`);
    });
});
