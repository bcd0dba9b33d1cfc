import { openPage } from './browser';
describe('look', () => {
  it('shots', async function () {
    this.timeout(120000);
    const page = await openPage(4799);
    await page.fresh();
    await page.click('site-menu');
    await page.click('demo-branch');
    await page.sees('desks', /9 of 9 open a page/);
    await page.shot('/tmp/look1.png');
    await page.click('view-ways-out').catch(async () => page.click('view-ways'));
    await new Promise((r) => setTimeout(r, 1500));
    await page.shot('/tmp/look2.png');
    await page.close?.();
  });
});
