import { openPage, Key, By } from './tests/e2e/browser';
const page = await openPage(4188);
const say = async (line: string) => { await page.driver.executeScript('document.activeElement?.blur()'); await page.press('/'); await page.fill('say', line); await page.press(Key.ENTER); };
try {
await page.fresh();
await page.sees('desks', /open a page/);
await say('interface lab: on p4, zone studio, address 10.61.24.1/24, lends .9-.99, answers ping dns');
await say('kilns off');
await say('studio address 10.61.20.1/25');
await say('zone annex:');
await page.click('slab-shop'); await page.click('remove');
await page.driver.sleep(900);
await page.shot('/tmp/a1.png');
await page.driver.executeScript("document.querySelector('[data-testid=board]').parentElement.scrollTop=400");
await page.click('slab-studio'); await page.driver.sleep(400);
await page.shot('/tmp/a2.png');
await page.press(Key.ESCAPE);
await page.driver.findElement(By.css('header button[aria-expanded]')).click();
await page.shot('/tmp/a3.png');
await page.driver.findElement(By.xpath("//button[contains(., 'First light')]")).click();
await page.fill('password', 'clay and water 9'); await page.fill('password-again', 'clay and water 9'); await page.click('meet');
await page.click('plug'); await page.driver.sleep(300); await page.shot('/tmp/a4.png');
await page.click('next'); await page.fill('sheet', '198.51.100.18/29 gw .17 dns 192.0.2.53'); await page.click('write-uplink');
await page.driver.sleep(300); await page.shot('/tmp/a5.png');
await page.click('write-inside'); await page.sees('desks-say', /open a page/); await page.shot('/tmp/a6.png');
for (const l of await page.driver.manage().logs().get('browser')) console.log(l.level.name, l.message);
} finally { await page.close(); }
