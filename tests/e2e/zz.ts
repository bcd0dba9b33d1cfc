import { Key, openPage } from './browser';
const page = await openPage(4197);
const calm = (ms = 900) => page.driver.sleep(ms);
try {
  await page.fresh();
  await page.sees('desks', /open a page/);
  await page.click('view-ways-out');
  await calm(1500);
  await page.shot('/tmp/s1.png');
  await page.click('drill-run');
  await calm(2500);
  await page.driver.executeScript("document.querySelector('[data-testid=drill]').scrollIntoView()");
  await calm();
  await page.shot('/tmp/s2.png');
  await calm(4000);
  await page.driver.executeScript("document.querySelector('[data-testid=what-if]').scrollIntoView()");
  await calm();
  await page.shot('/tmp/s3.png');
  await page.driver.executeScript("document.querySelector('[data-testid=block-ledger]').scrollIntoView()");
  await calm();
  await page.shot('/tmp/s4.png');
} finally { await page.close(); }
