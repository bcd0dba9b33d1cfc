/** What is typed is there afterwards: on a full disk, after a reload, in another zone of time, and wherever one goes back to. */
import { expect } from 'chai';
import { spawnSync } from 'node:child_process';
import { mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { isDeep } from '#core/testkit';
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
const isStored = async (text: string): Promise<boolean> => (await kept(page)).some((t) => t.includes(text));

describe('what is typed', () => {
  // Chromium does not take a full disk the same way each time: two of ten runs never ended.
  const whole = isDeep ? it : () => undefined;
  whole('is there on a full disk, after a reload too, and is kept once there is room', async function () {
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
    await page.driver.navigate().refresh();
    await page.get('box-state');
    expect(await boxText()).to.match(/known first[^]*known second[^]*known third/);
    writeFileSync(filler, '');
    await page.driver.navigate().refresh();
    await page.get('box-state');
    await page.driver.wait(() => isStored('known third'), PATIENCE, 'it is never kept');
    expect(await boxText()).to.match(/known first[^]*known second[^]*known third/);
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
    const devtools = page.driver as unknown as {
      sendDevToolsCommand(name: string, args: object): Promise<void>;
    };
    await devtools.sendDevToolsCommand('Emulation.setTimezoneOverride', { timezoneId: 'Pacific/Kiritimati' });
    await page.driver.get(page.origin);
    await page.get('box-state');
    expect(await boxText()).to.contain('known fourth: 10.9.9.4');
  });
});
