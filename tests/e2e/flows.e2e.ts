/** What a newcomer and an administrator do, in the real page in Chromium. */
import { expect } from 'chai';
import { readFileSync, readdirSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { By, Key, PATIENCE, kept, openPage } from './browser';
import type { Page } from './browser';

let page: Page;
before(async () => (page = await openPage()));
after(() => page?.close());

const boxText = async () => {
  await page.click('view-text');
  return page.value('text-box.gate');
};
describe('First light', () => {
  it('takes a box from its carton to proven internet, kept and saved', async () => {
    await page.fresh();
    await page.driver.findElement(By.css('header button[aria-expanded]')).click();
    await page.driver.findElement(By.xpath("//button[contains(., 'First light')]")).click();
    await page.fill('password', 'clay and water 9');
    await page.fill('password-again', 'clay and water 9');
    await page.click('meet');
    await page.click('plug');
    await page.click('next');
    await page.fill('sheet', '198.51.100.18/29 gw 203.0.113.1 dns 192.0.2.53');
    await page.sees('first-light', /Ask the provider/);
    expect(await (await page.get('write-uplink')).isEnabled()).to.equal(false);
    await page.fill('sheet', '198.51.100.18/29 gw .17 dns 192.0.2.53');
    await page.sees('first-light', /198\.51\.100\.17/);
    await page.click('write-uplink');
    await page.sees('first-light', /10\.61\.\d+\.0\/24 is the next free one/);
    await page.click('write-inside');
    await page.sees('desks-say', /1 of 1 open a page/);
    await page.sees('sheet-only', /Proved against your sheet only/);
    await page.click('to-trial');
    await page.click('try');
    await page.sees('countdown', /^[12]:\d\d$/);
    await page.click('stay');
    await page.click('save-finish');
    await page.sees('box-state', /all agree/);
    await page.get('slab-office');
    const text = await boxText();
    for (const line of [
      'zone world: upstream',
      'zone office:',
      'passage office > world: allow',
      'leave any > world: as interface',
      'expect office reaches internet',
    ])
      expect(text).to.contain(line);
    expect(text).to.not.contain('clay and water');
  });
});

describe('the demo', () => {
  it('is mended by its findings, and its failing promise by a statement', async () => {
    await page.fresh();
    await page.sees('desks', /tills stop at resolver/);
    await page.click('findings-button');
    for (const code of ['lends-covers-box', 'names-unanswered', 'uplink-unwatched']) {
      await page.click(`mend-${code}`);
      await page.gone(`mend-${code}`);
    }
    await page.sees('desks', /\d+ of \d+ open a page; kilns, guests may not/);
    await page.sees('desks', /visitors reaches internet/);
    await page.say('passage visitors > world: allow tcp 80 443 dns');
    await page.driver.wait(
      async () => !/not kept/.test(await page.text('desks')),
      PATIENCE,
      'the promise stays broken',
    );
    await page.click('view-change');
    await page.sees('change', /new: passage visitors > world: allow/);
    await page.sees('change', /tills: answers ping dns \(was ping\)/);
  });

  it('fails over in a drill, once the first line is watched', async () => {
    await page.fresh();
    await page.click('view-proof');
    await page.click('deaden-northmoor');
    await page.sees('drill-banner', /northmoor dead beyond its gateway/);
    await page.sees('ladder-fibre', /nothing behind it does/);
    await page.sees('ladder-harbour', /stand-by/);
    await page.press(Key.ESCAPE);
    await page.sees('ladder-fibre', /seen outside as 198\.51\.100\.18/);
    await page.say('fibre watch 192.0.2.1 192.0.2.80');
    await page.click('deaden-northmoor');
    await page.sees('ladder-harbour', /^harbour[\s\S]*active/);
    await page.press(Key.ESCAPE);
  });

  it('answers a question from the say line, with the statement that decides', async () => {
    await page.say('phone-a to www.example tcp 443');
    await page.sees('say-answer', /visitors > world: no passage lets it pass/);
    await page.press(Key.ESCAPE);
  });
});

describe('a change', () => {
  it('that cuts the internet is seen in the strip before it is applied', async () => {
    await page.fresh();
    await page.sees('ladder-fibre', /seen outside/);
    await page.say('fibre gateway .20');
    await page.sees('ladder-fibre', /198\.51\.100\.20 does not answer ARP on p1[\s\S]*running: passes/);
    await page.sees('box-state', /draft differs in 1/);
    await page.control('z');
    await page.sees('ladder-fibre', /seen outside as 198\.51\.100\.18/);
  });

  it('on trial goes back by itself when nobody stays with it', async () => {
    await page.click('findings-button');
    await page.click('mend-lends-covers-box');
    await page.click('mend-names-unanswered');
    await page.click('findings-button');
    await page.say('passage visitors > world: allow tcp 443 dns');
    await page.driver.wait(
      async () => !/not kept/.test(await page.text('desks')),
      PATIENCE,
      'a promise is broken',
    );
    await page.click('view-change');
    await page.fill('trial-seconds', '600');
    await page.click('try');
    await page.sees('box-state', /on trial/);
    await page.later(601);
    await page.sees('went-back', /Went back by itself/);
    await page.sees('box-state', /draft differs in 3/);
  });

  it('on trial goes back on time although the page was away', async () => {
    await page.click('view-change');
    await page.fill('trial-seconds', '600');
    await page.click('try');
    await page.sees('box-state', /on trial/);
    await page.driver.get('about:blank');
    await page.later(601);
    await page.driver.get(page.origin);
    await page.sees('box-state', /draft differs in 3/);
    await page.click('view-change');
    await page.sees('went-back', /Went back by itself/);
  });
});

describe('the text', () => {
  it('survives a reload in mid-edit, with its undo, and counts as last readable meanwhile', async () => {
    await page.fresh();
    await page.click('slab-studio');
    await page.click('statement');
    await page.control(Key.END);
    await page.press(', leends .2');
    await page.sees('statement-fault', /expected a clause of interface/);
    await page.driver.wait(
      async () => (await kept(page)).some((text) => text.includes('leends')),
      PATIENCE,
      'what was typed is never stored',
    );
    await page.driver.navigate().refresh();
    await page.sees('slab-studio', /studio/);
    expect(await boxText()).to.contain('answers ping dns, leends .2');
    await page.sees('ladder-fibre', /seen outside/);
    await page.blur();
    for (let i = 0; i < 20 && /leends/.test(await boxText()); i++) {
      await page.blur();
      await page.control('z');
    }
    expect(await boxText()).to.not.contain('leends');
  });

  it('of a hand-written file comes back byte for byte but for the one statement edited on the board', async () => {
    const hand =
      '\ufeff# my office, by hand\r\nzone world: upstream   # outside\r\nzone office:\r\nzone lab:\r\n\r\ninterface  line :  on p1 , zone world,address by dhcp\r\ninterface desk: on p2, zone office, # the desks\r\n  address 10.61.20.1 mask 255.255.255.0,\r\n  answers ping ssh\r\n\r\n# the end';
    const file = join(page.downloads, 'hand.gate');
    writeFileSync(file, hand);
    await page.fresh();
    await page.openPaths(file);
    await page.sees('slab-desk', /10\.61\.20\.1\/24/);
    // By keyboard: to the slab, m, one row down, Enter.
    await page.click('slab-desk');
    await page.press('m', Key.ARROW_DOWN);
    await page.sees('move-preview', /zone lab|lab/);
    await page.press(Key.ENTER);
    await page.driver.findElement(By.css('header button[aria-expanded]')).click();
    writeFileSync(file, '');
    await page.driver.findElement(By.xpath("//button[contains(., 'Export …')]")).click();
    await page.click('export');
    const out = () => readdirSync(page.downloads).find((f) => /^hand-\d{4}-\d\d-\d\d\.hand\.gate$/.test(f));
    await page.driver.wait(() => out() !== undefined, PATIENCE, 'no download');
    // What runs travels along, since the draft is another.
    const runs = () => readdirSync(page.downloads).some((f) => f.endsWith('.hand.running.gate'));
    await page.driver.wait(runs, PATIENCE, 'what runs is not there');
    expect(readFileSync(join(page.downloads, out()!), 'utf8')).to.equal(
      hand
        .replace('zone office, # the desks', 'zone lab, # the desks')
        .replace('10.61.20.1 mask 255.255.255.0', '10.61.20.1/24'),
    );
  });

  it('in two tabs is led by one and followed by the other', async () => {
    await page.fresh();
    await page.sees('ladder-fibre', /seen outside/);
    const first = await page.driver.getWindowHandle();
    await page.driver.switchTo().newWindow('tab');
    await page.driver.get(page.origin);
    await page.sees('following', /open in another tab/);
    const second = await page.driver.getWindowHandle();
    await page.driver.switchTo().window(first);
    await page.say('zone annex:');
    await page.driver.switchTo().window(second);
    await page.sees('board', /annex/);
    await page.driver.close();
    await page.driver.switchTo().window(first);
  });
});

describe('the console of the page', () => {
  it('stays silent while names of two kinds are typed, and statements without a name', async () => {
    await page.fresh();
    await page.sees('ladder-fibre', /seen outside/);
    await page.driver.manage().logs().get('browser');
    await page.press('/');
    for (const part of ['expect studio reaches in', 'passage ti', 'zone :', 'interface lab: on p4 tag '])
      await page.fill('say', part);
    await page.press(Key.ESCAPE);
    await page.click('view-text');
    await (await page.get('text-box.gate')).click();
    await page.control(Key.END);
    await page.press(Key.ENTER, 'zone :', Key.ENTER, 'zone :', Key.ENTER, 'circuit :', Key.ENTER);
    await page.settled();
    for (const view of ['view-board', 'view-proof', 'view-change']) await page.click(view);
    const said = (await page.driver.manage().logs().get('browser'))
      .map((l) => l.message)
      .filter((m) => !m.includes('favicon'));
    expect(said).to.deep.equal([]);
  });
});

describe('trouble', () => {
  it('with storage of a newer version is told in words, and nothing there is touched', async () => {
    await page.forget();
    await page.driver.get(`${page.origin}/demo`);
    const version = (action: string) =>
      page.driver.executeAsyncScript<number>(`
        const done = arguments[arguments.length - 1];
        const request = indexedDB.open('jolly-gate'${action});
        request.onsuccess = () => { const v = request.result.version; request.result.close(); done(v); };
        request.onerror = () => done(-1);
      `);
    expect(await version(', 99')).to.equal(99);
    await page.driver.get(page.origin);
    await page.driver.wait(
      async () => /newer Jolly Gate/.test(await page.driver.findElement(By.css('body')).getText()),
      PATIENCE,
      'nothing is said',
    );
    await page.sees('slab-studio', /studio/);
    await page.say('studio also .2');
    await page.sees('slab-studio', /also \.2/);
    await page.driver.get(`${page.origin}/demo`);
    expect(await version('')).to.equal(99);
    await page.fresh();
  });

  it('with files that are none is told, and the open site stays', async () => {
    const input = () => page.driver.findElement(By.css('[data-testid="open-files"]'));
    const odd = join(page.downloads, 'odd.gate');
    writeFileSync(odd, Buffer.from([0x7a, 0xff, 0xfe, 0x00]));
    await (await input()).sendKeys(odd);
    await page.sees('notice', /odd\.gate is not UTF-8 text/);
    await page.get('slab-studio');
  });
});

describe('the board by pointer', () => {
  it('previews where a slab would drop, and writes it there', async () => {
    await page.fresh();
    await page.sees('ladder-fibre', /seen outside/);
    const slab = await page.get('slab-kilns');
    const target = await page.driver.findElement(
      By.css('[aria-label="Start an interface in visitors on p4"]'),
    );
    await page.driver.executeScript(
      `const [from, to] = arguments;
       const data = new DataTransfer();
       const fire = (at, type) => at.dispatchEvent(new DragEvent(type, { bubbles: true, cancelable: true, dataTransfer: data }));
       fire(from, 'dragstart'); fire(to, 'dragover');`,
      slab,
      target,
    );
    await page.sees('move-preview', /writes\s+interface kilns: on p4 tag 30, zone visitors/);
    await page.driver.executeScript(
      `arguments[0].dispatchEvent(new DragEvent('drop', { bubbles: true, cancelable: true, dataTransfer: new DataTransfer() }));`,
      target,
    );
    expect(await boxText()).to.contain('interface kilns: on p4 tag 30, zone visitors');
  });
});
