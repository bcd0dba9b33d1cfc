import { Key, openPage } from './browser';
const page = await openPage(4197);
const calm = (ms = 900) => page.driver.sleep(ms);
try {
  await page.fresh();
  await page.sees('desks', /open a page/);
  await page.click('view-subnets');
  await calm(1200);
  await page.shot('/tmp/s1.png');
  await page.click('renumber-studio');
  await calm();
  await page.shot('/tmp/s2.png');
  await page.press(Key.ESCAPE);
  await page.click('plan-button');
  await page.get('plan');
  await page.fill(
    'plan-text',
    'Bezeichnung;VLAN-ID;Netz;Gateway;DHCP;Zone\nStudio;20;10.61.20.0/24;10.61.20.1;50-199;studio\nTills;40;10.61.40.0/24;.1;20-60;tills\nLager;70;10.61.70.0/24;;50-100;lager\nbad;5000;10.61.71.0/24;;;\nbad2;71;10.61.72.0;;;',
  );
  await calm();
  await page.driver.executeScript("document.querySelector('[data-testid=plan]').scrollIntoView()");
  await page.shot('/tmp/s3.png');
} finally {
  await page.close();
}
