/**
 * `npm run kills [TIMES]`, after a build: the browser is killed in mid-edit, on the demo and on a site of 400 VLANs. Each
 * edit that the database once had must be there afterwards, and the text must be what was said and nothing else.
 */
import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { large } from '../bench/large';
import { openPage, PATIENCE, kept } from './browser';

const times = Number(process.argv[2] ?? 200);
/** Every how many kills the next site is begun: a text must not grow without end. */
const ROUND = 25;

const numbersIn = (text: string): number[] =>
  [...text.matchAll(/^known k(\d+): 10\.9\.9\.9$/gm)].map((m) => Number(m[1]));
const without = (text: string): string => text.replace(/^known k\d+: 10\.9\.9\.9\r?\n/gm, '').trimEnd();

/** Kills the browser `kills` times on one site; what was wrong. */
async function round(kills: number, text?: string): Promise<string[]> {
  const wrong: string[] = [];
  const profile = mkdtempSync(join(tmpdir(), 'gate-kills-'));
  let page = await openPage({ profile, serving: [] });
  try {
    await page.driver.get(page.origin);
    await page.get('box-state');
    if (text !== undefined) {
      await page.open({ 'large.gate': text });
      await page.driver.wait(
        async () => (await kept(page)).includes(text),
        PATIENCE,
        'the large site is not kept',
      );
    }
    const mine = (texts: readonly string[]) =>
      texts.find((t) => (text === undefined ? /^box tidewater/m.test(t) : t.length > 10_000)) ?? '';
    // On a busy machine the page is there before its site is kept for the first time.
    await page.driver.wait(async () => mine(await kept(page)) !== '', PATIENCE, 'the site is never kept');
    const base = without(mine(await kept(page)));
    let next = 0;
    for (let kill = 0; kill < kills; kill++) {
      // One edit that the database has, and one that is killed on its way.
      const sure = next++;
      await page.write(`known k${sure}: 10.9.9.9`);
      await page.driver.wait(
        async () => numbersIn(mine(await kept(page))).includes(sure),
        PATIENCE,
        `k${sure} is never kept`,
      );
      await page.write(`known k${next++}: 10.9.9.9`);
      await page.driver.sleep((kill * 37) % 300);
      const port = Number(new URL(page.origin).port);
      await page.crash();
      page = await openPage({ profile, serving: [], port });
      await page.driver.get(page.origin);
      await page.get('box-state');
      const after = mine(await kept(page));
      const numbers = numbersIn(after);
      for (let k = 0; k < next; k++) {
        const times = numbers.filter((n) => n === k).length;
        // The first of each pair was acknowledged; the second may have been too late.
        if (times > 1 || (k % 2 === 0 && times !== 1))
          wrong.push(`kill ${kill}: k${k} stands ${times} times`);
      }
      if (without(after) !== base) wrong.push(`kill ${kill}: the rest of the text is another`);
      if (wrong.length) break;
    }
  } finally {
    await page.crash();
    rmSync(profile, { recursive: true, force: true, maxRetries: 20 });
  }
  return wrong;
}

const start = Date.now();
const wrong: string[] = [];
let done = 0;
for (let i = 0; done < times && !wrong.length; i++) {
  const kills = Math.min(ROUND, times - done);
  wrong.push(...(await round(kills, i % 2 ? large(400) : undefined)));
  done += kills;
  console.log(
    `${done} kills in ${((Date.now() - start) / 1000).toFixed(0)} s: ${wrong.join('; ') || 'nothing is lost'}`,
  );
}
process.exitCode = wrong.length ? 1 : 0;
