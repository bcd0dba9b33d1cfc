/**
 * Tasks of the page's main thread over 50 ms while the views of a site of 400 interfaces are opened and used, printed
 * and never asserted: `npm run measure:views`, after a build. First 400 VLANs behind one uplink, then the wide site:
 * 12 tables, 3,000 passages and 200 doors.
 */
import { Key, openPage } from '../e2e/browser';
import { large, wide } from './large';
import { longTasks, watchTasks } from './long-tasks';

const page = await openPage();

/** Clicks without a pointer's way there, so that nothing but the page itself is counted. */
const click = (id: string) =>
  page.driver.executeScript(`document.querySelector('[data-testid="${id}"]').click()`);
const type = async (id: string, ...letters: string[]) => {
  for (const letter of letters) await (await page.get(id)).sendKeys(letter);
};
/** A page further down in every frame, to the end. */
const scroll = () =>
  page.driver.executeAsyncScript(`
    const done = arguments[0];
    const main = document.querySelector('main');
    let frames = 0;
    const go = () => {
      main.scrollTop += 300;
      if (frames++ < 120) requestAnimationFrame(go);
      else done();
    };
    go();`);

/** What is done, and how long the page then rests, in ms. */
const STEPS: readonly (readonly [string, () => Promise<unknown>, number])[] = [
  ['Ways out', () => click('view-ways-out'), 12_000],
  ['a drill', () => click('drill-run'), 8000],
  ['every two faults', () => click('pairs'), 8000],
  ['Subnets', () => click('view-subnets'), 6000],
  ['filtered', () => type('subnet-filter', 'v', '3', '8'), 2000],
  ['unfiltered', () => type('subnet-filter', Key.BACK_SPACE, Key.BACK_SPACE, Key.BACK_SPACE), 4000],
  ['scrolled', scroll, 2000],
  ['address plan', () => click('plan-button'), 4000],
  ['Board', () => click('view-board'), 5000],
  ['book', () => click('site-menu').then(() => click('open-book')), 6000],
  ...['passage', 'proof', 'state', 'change', 'text'].map(
    (view) => [view, () => click(`view-${view}`), 6000] as const,
  ),
];

try {
  const sites = {
    '400 VLANs': large(400),
    'wide site':
      wide() +
      'station pc: at p2 tag 100, address 10.64.0.10/24, gateway .1\nfar web.example: address 192.0.2.80, listens tcp 443\n',
  };
  for (const [name, text] of Object.entries(sites)) {
    await page.fresh();
    await watchTasks(page.driver);
    const told = async (step: string, rest: number) => {
      await page.driver.sleep(rest);
      console.log(`${name}, ${step}: ${await longTasks(page.driver)}`);
    };
    await page.open({ 'site.gate': text });
    await told('opened from a file', 12_000);
    for (const [step, act, rest] of STEPS) {
      // A drill needs a desk.
      if (step === 'a drill' && !text.includes('station')) continue;
      await act();
      await told(step, rest);
    }
  }
} finally {
  await page.close();
}
