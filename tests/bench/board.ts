/**
 * The board of a large site by Chromium's own tracing, printed and never asserted: `npm run measure:board`, after a
 * build. Scrolls for some seconds, then writes some edits, and says what the main thread and the compositor did.
 */
import { writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { By, Key, openPage } from '../e2e/browser';
import { large, wide } from './large';
import { longTasks, watchTasks } from './long-tasks';

interface TraceEvent {
  readonly name: string;
  readonly ph: string;
  readonly ts: number;
  readonly dur?: number;
  readonly pid: number;
  readonly tid: number;
  readonly args?: { readonly name?: string };
}

const page = await openPage({ traced: 'toplevel,blink.user_timing' });
const key = (e: TraceEvent) => `${e.pid}/${e.tid}`;

/** Everything traced, once it has been handed over. */
async function traced(): Promise<TraceEvent[]> {
  await page.driver.sleep(3000);
  const entries = await page.driver.manage().logs().get('performance');
  return entries.flatMap((entry) => {
    const { message } = JSON.parse(entry.message) as { message: { method: string; params: TraceEvent } };
    return message.method === 'Tracing.dataCollected' ? [message.params] : [];
  });
}

const mark = (name: string) => page.driver.executeScript(`performance.mark('${name}')`);

/** What the main thread did between two marks of the page. */
function between(events: readonly TraceEvent[], from: string, to: string): string {
  const start = events.find((e) => e.name === from);
  const end = events.find((e) => e.name === to);
  if (!start || !end) return 'not traced';
  const tasks = events
    .filter(
      (e) => key(e) === key(start) && /RunTask$/.test(e.name) && e.dur && e.ts >= start.ts && e.ts <= end.ts,
    )
    .map((e) => e.dur! / 1000)
    .sort((a, b) => b - a);
  const longest = tasks.slice(0, 3).map((t) => t.toFixed(1));
  return `main thread: ${tasks.length} tasks, longest ${longest.join(', ')} ms, over 50 ms: ${tasks.filter((t) => t > 50).length}`;
}

/** Says some edits on the say line, each from Enter to the slab that shows it, on the page's own clock. */
async function edits(
  slab: string,
  say: (i: number) => string,
  shown: (i: number) => string,
): Promise<string> {
  const took: number[] = [];
  for (let i = 0; i < 5; i++) {
    await page.press('/');
    // Key by key, as hands do: the driver would press all of them in one task.
    for (const letter of say(i)) await page.press(letter);
    await page.driver.executeScript(`
      const slab = () => document.querySelector('[data-testid="slab-${slab}"]')?.textContent ?? '';
      window.said = undefined;
      addEventListener('keydown', (e) => {
        if (e.key !== 'Enter') return;
        const start = performance.now();
        const look = () => slab().includes('${shown(i)}') ? (window.said = performance.now() - start) : requestAnimationFrame(look);
        requestAnimationFrame(look);
      }, { once: true, capture: true });`);
    await page.press(Key.ENTER);
    await page.driver.wait(
      () => page.driver.executeScript<boolean>('return window.said !== undefined'),
      5000,
    );
    took.push(await page.driver.executeScript<number>('return window.said'));
    await page.driver.sleep(2500);
  }
  return took.map((t) => t.toFixed(0)).join(', ');
}

try {
  await page.fresh();
  const file = join(page.downloads, 'large.gate');
  writeFileSync(file, large(400));
  await (await page.driver.findElement(By.css('[data-testid="open-files"]'))).sendKeys(file);
  await page.sees('slab-v0', /v0/);
  await page.driver.sleep(4000);
  await mark('scroll from');

  // Scrolling: a step in every frame, counted by the frames that the page really got.
  const frames = await page.driver.executeAsyncScript<number[]>(`
    const done = arguments[arguments.length - 1];
    const main = document.querySelector('main');
    const times = [];
    const start = performance.now();
    const step = (now) => {
      times.push(now);
      const t = (now - start) / 1000;
      main.scrollTo(Math.abs(Math.sin(t / 2)) * 2500, Math.abs(Math.sin(t)) * (main.scrollHeight - main.clientHeight));
      if (t < 4) requestAnimationFrame(step); else done(times);
    };
    requestAnimationFrame(step);`);
  const gaps = frames
    .slice(1)
    .map((t, i) => t - frames[i]!)
    .sort((a, b) => b - a);
  await mark('scroll to');
  const span = (frames[frames.length - 1]! - frames[0]!) / 1000;
  const took = await edits(
    'v0',
    (i) => `v0 address 10.99.${i}.1/24`,
    (i) => `10.99.${i}.1`,
  );
  writeFileSync(join(page.downloads, 'wide.gate'), wide());
  await (
    await page.driver.findElement(By.css('[data-testid="open-files"]'))
  ).sendKeys(join(page.downloads, 'wide.gate'));
  await page.sees('slab-up0', /up0/);
  await page.driver.sleep(9000);
  await watchTasks(page.driver);
  const tookWide = await edits(
    'v0',
    (i) => `v0 address 10.99.${i}.1/24`,
    (i) => `10.99.${i}.1`,
  );
  const long = await longTasks(page.driver);
  const events = await traced();
  console.log(
    `400 VLANs, scrolling ${span.toFixed(1)} s: ${(frames.length / span).toFixed(1)} frames a second, longest gap ${gaps[0]!.toFixed(1)} ms; ${between(events, 'scroll from', 'scroll to')}`,
  );
  console.log(`400 VLANs, an edit to its slab on screen: ${took} ms`);
  console.log(
    `40 zones, 400 interfaces, 3,000 passages, 200 doors: an edit to its slab: ${tookWide} ms; tasks over 50 ms: ${long}`,
  );
} finally {
  await page.close();
}
