/** What is typed is there afterwards: on a full disk, after a reload, in another zone of time, and wherever one goes back to. */
import { expect } from 'chai';
import { spawnSync } from 'node:child_process';
import { mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { PATIENCE, keeps, kept, openPage } from './browser';
import type { Page } from './browser';

let page: Page;
/** A disk of its own for the browser, where one may be mounted. */
const profile = mkdtempSync(join(tmpdir(), 'gate-disk-'));
const disk = spawnSync('mount', ['-t', 'tmpfs', '-o', 'size=100m', 'none', profile]);
before(async () => (page = await openPage({ profile })));
after(async () => {
  await page?.crash();
  spawnSync('umount', ['-l', profile]);
  rmSync(profile, { recursive: true, force: true });
});

const boxText = async (): Promise<string> => {
  await page.click('view-text');
  return page.value('text-box.gate');
};
/** Whether the database has it; one that does not answer in a while has it not. */
const isStored = (text: string): Promise<boolean> =>
  Promise.race([
    kept(page).then((texts) => texts.some((t) => t.includes(text))),
    new Promise<false>((resolve) => setTimeout(resolve, 5000, false)),
  ]);
const reload = async (): Promise<void> => {
  await page.driver.navigate().refresh();
  await page.get('box-state');
};

describe('what is typed', () => {
  it('is there on a full disk, after a reload too, and is kept once there is room', async function () {
    if (disk.status !== 0) this.skip();
    await page.fresh();
    await page.write('known first: 10.9.9.1');
    await keeps(page, 'known first');
    const filler = join(profile, 'filler');
    spawnSync('sh', ['-c', `head -c 200000000 /dev/zero >'${filler}'`]);
    await page.write('known second: 10.9.9.2');
    await page.sees('store-trouble', /Nothing is lost/);
    await page.write('known third: 10.9.9.3');
    expect(await isStored('known third')).to.equal(false);
    await reload();
    expect(await boxText()).to.match(/known first[^]*known second[^]*known third/);
    writeFileSync(filler, '');
    await reload();
    await page.driver.wait(() => isStored('known third'), PATIENCE, 'it is never kept');
    expect(await boxText()).to.match(/known first[^]*known second[^]*known third/);
  });

  it('is there after a reload where the database does not answer, and is kept once it does', async () => {
    await page.fresh();
    await page.write('known seventh: 10.9.9.7');
    await keeps(page, 'known seventh');
    // Whoever writes and is never done keeps everybody else from writing.
    await page.ask(`new Promise((held) => {
      indexedDB.open('jolly-gate').onsuccess = ({ target }) => {
        const sites = target.result.transaction('sites', 'readwrite').objectStore('sites');
        const hold = () => (sites.count().onsuccess = () => (held(), hold()));
        hold();
      };
    })`);
    await page.write('known eighth: 10.9.9.8');
    await page.sees('store-trouble', /Nothing is lost/);
    await page.write('known ninth: 10.9.9.9');
    await page.press('Escape');
    await reload();
    expect(await boxText()).to.match(/known seventh[^]*known eighth[^]*known ninth/);
    await keeps(page, 'known ninth');
    await page.gone('store-trouble');
  });

  it('is there after a reload in a browser that has no database, and is kept once it has one', async () => {
    await page.fresh();
    const { identifier } = await page.devtools<{ identifier: string }>(
      'Page.addScriptToEvaluateOnNewDocument',
      {
        source: `IDBFactory.prototype.open = () => { throw new DOMException('not here', 'SecurityError'); };`,
      },
    );
    await reload();
    await page.open({ 'mine.gate': 'box mine\n' });
    await page.write('known tenth: 10.9.9.10');
    await page.sees('store-trouble', /lives in this window/);
    await reload();
    expect(await page.text('site-menu')).to.contain('mine');
    await page.click('view-text');
    expect(await page.value('text-mine.gate')).to.contain('known tenth');
    await page.devtools('Page.removeScriptToEvaluateOnNewDocument', { identifier });
    await reload();
    await keeps(page, 'known tenth');
    await reload();
    await page.click('view-text');
    expect(await page.value('text-mine.gate')).to.contain('known tenth');
  });

  it('is there in a private window while it is open, and nowhere afterwards', async () => {
    for (const line of ['known fifth: 10.9.9.5', 'known sixth: 10.9.9.6']) {
      const alone = await openPage({ isPrivate: true });
      try {
        await alone.driver.get(alone.origin);
        await alone.get('box-state');
        expect((await kept(alone)).join('')).to.not.contain('known fifth');
        await alone.write(line);
        await keeps(alone, line);
        await alone.driver.navigate().refresh();
        await alone.get('box-state');
        expect((await kept(alone)).join('')).to.contain(line);
      } finally {
        await alone.close();
      }
    }
  });

  it('stays where one goes back and forward, and in another zone of time', async () => {
    await page.fresh();
    await page.write('known fourth: 10.9.9.4');
    await keeps(page, 'known fourth');
    for (const key of ['2', '4', '7']) await page.press(key);
    for (const go of ['back', 'back', 'back', 'forward', 'forward', 'back'] as const)
      await page.driver.navigate()[go]();
    await page.devtools('Emulation.setTimezoneOverride', { timezoneId: 'Pacific/Kiritimati' });
    await page.driver.get(page.origin);
    await page.get('box-state');
    expect(await boxText()).to.contain('known fourth: 10.9.9.4');
  });
});
