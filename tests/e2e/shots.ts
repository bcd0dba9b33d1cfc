/** Takes the pictures of the README from the demo data: `npm run build && npm run shots`. */
import { noField } from '../../src/lib/server/practice/field';
import { By, Key, openPage, PATIENCE } from './browser';
import { BOX, WIRING, linkOf } from './practice';

const page = await openPage(4196);
const to = (name: string) => page.shot(`docs/screenshots/${name}.png`);
const calm = () => page.driver.sleep(700);
try {
  await page.fresh();
  await page.sees('desks', /open a page/);
  await calm();
  await to('board');
  await page.click('slab-tills');
  await page.click('findings-button');
  await calm();
  await to('findings');
  await page.click('findings-button');
  await page.click('plug-core');
  await page.sees('jack-1', /wheel-pc 10/);
  await calm();
  await to('jacks');
  await page.click('slab-guests');
  await calm();
  await to('slip');
  await page.press(Key.ESCAPE);
  await page.click('slab-fibre');
  await page.click('ledger-publish-198.51.100.21');
  await page.fill('making-host', 'shopserver');
  await page.press(Key.TAB);
  await calm();
  await to('publish');
  await page.press(Key.ESCAPE);
  await page.press(Key.ESCAPE);
  await page.click('wants-button');
  await calm();
  await to('wants');
  await page.press(Key.ESCAPE);
  await page.press('/');
  await page.fill('say', 'tills answers ping dns');
  await calm();
  await to('say-line');
  await page.press(Key.ESCAPE);
  await page.click('view-passage');
  await page.click('focus-studio');
  await page.click('ribbon-studio-storefront');
  await calm();
  await to('passage');
  await page.click('focus-everyone');
  await page.click('to-storefront');
  await calm();
  await to('everyone');
  await page.click('view-proof');
  await page.get('reach-table');
  await calm();
  await to('reach');
  await page.fill('ask-from', 'phone-a');
  await page.fill('ask-to', 'www.example');
  await page.press(Key.ENTER);
  await page.sees('answer', /no passage/);
  await calm();
  await to('proof');
  await page.click('findings-button');
  for (const code of ['lends-covers-box', 'names-unanswered', 'uplink-unwatched'])
    await page.click(`mend-${code}`);
  await page.click('findings-button');
  await page.press('/');
  await page.fill('say', 'passage visitors > world: allow tcp 80 443 dns');
  await page.press(Key.ENTER);
  await page.driver.wait(async () => !/not kept/.test(await page.text('desks')), PATIENCE);
  await page.click('view-change');
  await page.sees('change', /tills: answers/);
  await page.click('try');
  await page.sees('countdown', /\d/);
  await calm();
  await to('change');
  await page.click('go-back');
  await page.press('/');
  await page.fill('say', 'console address 10.61.98.1/26');
  await page.press(Key.ENTER);
  await page.sees('crossing', /At laptop: set/);
  await calm();
  await to('crossing');
  await page.control('z');
  await page.click('view-text');
  await page.driver.sleep(1500);
  await calm();
  await to('text');
  await page.driver.executeScript("localStorage.setItem('jolly-gate theme','lantern')");
  await page.driver.navigate().refresh();
  await page.sees('desks', /open a page/);
  await page.click('view-board');
  await page.press('/');
  await page.fill('say', 'fibre gateway .20');
  await page.press(Key.ENTER);
  await page.sees('ladder-fibre', /does not answer ARP/);
  await calm();
  await to('board-lantern');
  await page.driver.executeScript("localStorage.setItem('jolly-gate theme','daylight')");
  await page.driver.navigate().refresh();
  await page.sees('desks', /open a page/);
  await page.driver.findElement(By.css('header button[aria-expanded]')).click();
  await page.driver.findElement(By.xpath("//button[contains(., 'First light')]")).click();
  await page.fill('password', 'clay and water 9');
  await page.fill('password-again', 'clay and water 9');
  await page.click('meet');
  await page.click('plug');
  await page.click('next');
  await page.fill(
    'sheet',
    'Northmoor fibre, block 198.51.100.16/29\nGateway .17, usable .18-.22\nDNS 192.0.2.53 and 192.0.2.54\n',
  );
  await calm();
  await to('first-light');
} finally {
  await page.close();
}

const why = noField(['dnsmasq']);
if (why !== undefined) console.log(`no pictures of a live box: ${why}`);
else {
  const live = await openPage(4198, undefined, undefined, ['--practice']);
  try {
    await live.fresh();
    await live.open({ 'box.gate': BOX, 'wiring.gate': WIRING });
    await live.driver.get('about:blank');
    await live.driver.get(linkOf(live));
    await live.click('connect-practice');
    await live.click('accept-key');
    await live.click('take-live');
    await live.sees('live-chip', /s ago/);
    await live.click('view-change');
    await live.tries();
    await live.sees('knocks', /lets a new connection in/);
    await live.sees('live-fibre', /passes/);
    await live.click('stay');
    await live.sees('box-state', /not saved/);
    await live.click('save');
    await live.write('studio answers ping dns');
    await live.write('passage studio > stewards: allow ping');
    await live.tries();
    await live.sees('knocks', /lets a new connection in/);
    await live.driver.sleep(2500);
    await live.shot('docs/screenshots/change-live.png');
    await live.click('go-back');
    await live.control('z');
    await live.control('z');
    await live.click('view-state');
    await live.fill('where-to', '203.0.113.9');
    await live.fill('ping-to', '192.0.2.80');
    await live.click('ping');
    await live.sees('ping-sum', /[4-9] of/);
    await live.driver.sleep(1500);
    await live.shot('docs/screenshots/state.png');
  } finally {
    await live.close();
  }
}
