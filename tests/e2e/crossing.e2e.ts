/** Changes that touch the seat: what the crossing says before, and what becomes of it on trial. */
import { expect } from 'chai';
import { existsSync, readFileSync } from 'node:fs';
import { join } from 'node:path';
import { By, PATIENCE, openPage } from './browser';
import type { Page } from './browser';

let page: Page;
before(async () => (page = await openPage()));
after(() => page.close());

/** The demo without what stands in the way of a trial, so that the draft and what runs are the same. */
async function sound(): Promise<void> {
  await page.fresh();
  await page.sees('ladder-fibre', /seen outside/);
  await page.click('findings-button');
  await page.click('mend-lends-covers-box');
  await page.click('mend-names-unanswered');
  await page.click('findings-button');
  await page.write('passage visitors > world: allow tcp 443 dns');
  await page.click('view-change');
  await page.sees('crossing', /laptop keeps its way in/);
  await apply();
  await page.sees('box-state', /not saved|agree/);
}

async function apply(): Promise<void> {
  await page.tries();
  await page.sees('knock', /laptop is answered at/);
  await page.click('stay');
}

describe('the crossing', () => {
  before(sound);

  it('leads over an address held beside the old one, step by step, and the seat never loses the box', async () => {
    await page.write('console address 10.61.98.1/26');
    await page.sees('seat', /laptop cut off/);
    await page.click('view-change');
    await page.sees(
      'step-1',
      /console: address 10\.61\.98\.1\/26.*also 10\.61\.99\.1\/26 \(for the crossing only\)[\s\S]*keeps its way in: https:\/\/10\.61\.99\.1/,
    );
    await page.sees(
      'step-2',
      /At laptop: set 10\.61\.98\.10\/26, gateway 10\.61\.98\.1; then go on at https:\/\/10\.61\.98\.1/,
    );
    await page.tries('try-step-1');
    await page.sees('knock', /laptop is answered at https:\/\/10\.61\.99\.1/);
    await page.click('stay');
    // What is left: at the desk the PC gets its new address, which is written in the wiring.
    await page.sees('step-1', /At laptop: set 10\.61\.98\.10\/26/);
    await page.click('at-desk');
    await page.sees('step-1', /console: .*10\.61\.99\.1/);
    await page.sees('step-1', /keeps its way in: https:\/\/10\.61\.98\.1/);
    await apply();
    await page.sees('seat-line', /laptop comes in by https:\/\/10\.61\.98\.1/);
  });

  it('tried all at once loses the box, which hears nothing until the desk follows', async () => {
    await page.write('console address 10.61.97.1/26');
    await page.click('view-change');
    await page.fill('trial-seconds', '90');
    await page.tries();
    await page.sees('knock', /No answer from the box: laptop \(10\.61\.98\.10\/26 at p8\) has no way in/);
    expect(await (await page.get('stay')).isEnabled()).to.equal(false);
    await page.click('at-desk-0');
    await page.sees('knock', /laptop is answered at https:\/\/10\.61\.97\.1/);
    await page.click('stay');
    await page.sees('seat-line', /laptop comes in by https:\/\/10\.61\.97\.1/);
    await page.click('history-0');
    await page.sees('history-0', /console: address 10\.61\.97\.1\/26 \(was 10\.61\.98\.1\/26\)/);
  });

  it('warns before a reboot that would lose what is not saved, and starts what was', async () => {
    await page.click('reboot');
    await page.sees('change', /What the box runs is not saved/);
    await page.click('save');
    await page.sees('box-state', /agree/);
    await page.write('console answers ping https');
    await page.click('view-change');
    await page.tries();
    await page.sees('knock', /laptop is answered/);
    // The power goes in the middle of a trial: what was saved starts.
    await page.click('reboot');
    await page.click('reboot-anyway');
    await page.sees('box-state', /draft differs in 1/);
    await page.control('z');
    await page.sees('box-state', /agree/);
  });

  it('says when nothing at the desk would help, and the box goes back by itself', async () => {
    await page.write('console on p8 tag 99');
    await page.click('view-change');
    await page.sees('lockout', /nothing at laptop lets anybody in/);
    await page.fill('trial-seconds', '6');
    await page.tries();
    await page.sees('knock', /Nothing at the desk helps/);
    await page.sees('went-back', /Went back by itself/);
    await page.sees('seat', /laptop cut off/);
    await page.control('z');
    await page.sees('seat-line', /laptop comes in by https:\/\/10\.61\.97\.1/);
  });

  it('of two boxes changes the second first, says where both would be active, and hands its text out', async () => {
    await page.openPaths('tests/corpus/sites/ten-pair.gate');
    await page.sees('desks', /2 of 2 open a page/);
    await page.say('desk lends .50-.60');
    await page.click('view-change');
    await page.sees('standby', /^second, which stands by, comes first/);
    expect(await page.text('standby')).to.not.contain('both would be active');
    await page.say('desk virtual .1 id 21 with .3');
    await page.sees('standby-apart', /desk: .*both would be active.*off in the text of second/);
    await page.driver.findElement(By.css('header button[aria-expanded]')).click();
    await page.driver.findElement(By.xpath("//button[contains(., 'Export …')]")).click();
    await page.click('export-twin');
    await page.click('export');
    const file = join(page.downloads, 'second.gate');
    await page.driver.wait(() => existsSync(file), PATIENCE, 'no second text');
    expect(readFileSync(file, 'utf8')).to.match(
      /^box second: [^]*10\.61\.20\.3\/24, virtual 10\.61\.20\.1 id 21 with 10\.61\.20\.2/m,
    );
  });
});
