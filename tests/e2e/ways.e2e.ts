/** Failover, the public block, subnets and the plan, as an administrator works on them: by pointer alone, by keyboard alone. */
import { expect } from 'chai';
import { existsSync, readFileSync, readdirSync } from 'node:fs';
import { join } from 'node:path';
import { By, Key, PATIENCE, keeps, keptText, openPage } from './browser';
import type { Page } from './browser';
import { Hand } from './hand';

describe('ways out and subnets', () => {
  let page: Page;
  before(async () => (page = await openPage()));
  after(() => page?.close());

  const demo = async () => {
    await page.fresh();
    await page.sees('desks', /open a page/);
    await top();
  };
  /** The draft as it is kept. */
  const draft = () => keptText(page);
  const holds = (...pieces: readonly (string | RegExp)[]) => keeps(page, ...pieces);
  const focus = (id: string) =>
    page.driver.executeScript(`document.querySelector('[data-testid="${id}"]').focus()`);
  /** The keyboard begins at the top of the page again. */
  const top = () => page.blur();
  const carry = async (id: string, by: number) => {
    const handle = await page.get(id);
    await page.driver.executeScript('arguments[0].scrollIntoView({ block: "center" })', handle);
    await page.driver
      .actions()
      .move({ origin: handle })
      .press()
      .move({ origin: handle, x: Math.round(by / 2) })
      .move({ origin: handle, x: by })
      .release()
      .perform();
  };

  for (const way of ['pointer', 'keyboard'] as const)
    it(`by ${way}: uplinks are watched, drilled and put in order; the outage is read, and kept as a promise`, async () => {
      await demo();
      const hand = new Hand(page, way);
      await hand.view('ways-out');
      await hand.go('drill-run');
      await page.sees('drill-sum-draft', /350 lost; 35 s without an answer, from 5 s on/);
      await page.sees('what-if-board', /northmoor dead[^]*nothing behind northmoor answers/);
      await top();
      await hand.put('watch-fibre', '192.0.2.1');
      await page.press(Key.ENTER);
      await holds(
        /guard, note "contract with Northmoor, block of eight", watch 192\.0\.2\.1|watch 192\.0\.2\.1/,
      );
      await hand.go('drill-run');
      const said = await page.sees(
        'drill-sum-draft',
        /, (1[0-9]|20)[.\d]* s without an answer|; (1[0-9]|20)[.\d]* s without/,
      );
      const lost = Number(/, (\d+) lost/.exec(said)![1]);
      expect(lost).to.be.greaterThan(90).and.lessThan(220);
      await page.sees('drill-marks', /fibre counts as dead: no watch answers[^]*fibre is used again/);
      const chart = await page.get('drill-chart');
      await page.driver.wait(async () => (await chart.getAttribute('data-drawn')) === 'yes', PATIENCE);
      expect(await chart.getAttribute('aria-label')).to.contain('without an answer');
      if (way === 'pointer') {
        const before = await page.text('acts');
        await page.driver.executeScript('arguments[0].scrollIntoView({ block: "center" })', chart);
        await page.driver.actions().move({ origin: chart, x: 100 }).click().perform();
        await page.driver.wait(async () => (await page.text('acts')) !== before, PATIENCE, 'no act was set');
        // What is set up stays, whatever is cleared or looked at meanwhile.
        const acts = await page.text('acts');
        await page.fill('drill-seconds', '');
        await page.fill('drill-from', '');
        await page.click('drill-run');
        await page.sees('drill', /a drill takes from 1 to 600 seconds/);
        await page.fill('drill-seconds', '90');
        await page.fill('drill-from', 'wheel-pc');
        await page.press(Key.TAB);
        await page.click('view-board');
        await page.click('view-ways-out');
        expect(await page.text('acts')).to.equal(acts);
      }
      await hand.go('drill-promise');
      await holds('expect wheel-pc reaches internet while dead northmoor');
      // What was weak is not any more: the board says so of the draft beside what runs.
      await page.sees('what-if-board', /northmoor dead[^]*harbour after \d+ s/);
      if (way === 'pointer') await hand.click('earlier-harbour');
      else {
        await focus('pipe-name-harbour');
        await page.driver.actions().keyDown(Key.ALT).sendKeys(Key.ARROW_UP).keyUp(Key.ALT).perform();
      }
      await holds(/interface harbour:[^]*priority 1\b/, /interface fibre:[^]*priority 2\b/);
    });

  for (const way of ['pointer', 'keyboard'] as const)
    it(`by ${way}: five public addresses serve three purposes from the ledger`, async () => {
      await demo();
      await page.open({
        'block.gate': `box one: names 192.0.2.53, serves names
zone world: upstream
zone office:
zone guests:
interface line: on p1, zone world, address 198.51.100.18/28, gateway .17, guard
interface desk: on p2, zone office, address 10.61.20.1/24, lends .50-.199, answers ping dns ssh https
interface cafe: on p3, zone guests, address 10.61.30.1/24, lends .50-.199, answers ping dns
passage office > world: allow
passage guests > world: allow
leave any > world: as interface
circuit northmoor: at p1, block 198.51.100.16/28, gateway .17, names 192.0.2.53
station web: at p2, address 10.61.20.5/24, gateway 10.61.20.1, listens tcp 443
station till: at p3, address 10.61.30.5/24, gateway 10.61.30.1, listens tcp 9100
far www.example: address 192.0.2.80, listens tcp 80 443
far dns1.example: address 192.0.2.53, resolves
`,
      });
      await page.sees('desks', /open a page/);
      const hand = new Hand(page, way);
      await top();
      await hand.view('ways-out');
      for (const [address, host] of [
        ['198.51.100.19', 'web'],
        ['198.51.100.20', 'till'],
      ] as const) {
        await top();
        await hand.go(`ledger-publish-${address}`);
        await page.get('maker');
        await hand.put('making-host', host);
        await hand.write();
      }
      for (const [address, who] of [
        ['198.51.100.21', 'office'],
        ['198.51.100.22', 'guests'],
      ] as const) {
        await top();
        await hand.go(`ledger-leave-${address}`);
        await page.get('maker');
        await hand.put('making-who', who);
        await hand.write();
      }
      await top();
      await hand.go('ledger-also-198.51.100.23');
      await holds(
        'door web: 198.51.100.19 https > 10.61.20.5',
        'door till: 198.51.100.20 tcp 9100 > 10.61.30.5',
        'leave office > line: as 198.51.100.21',
        'leave guests > line: as 198.51.100.22',
        'also 198.51.100.23/28',
      );
      await page.sees(
        'block-ledger',
        /198\.51\.100\.19[^]*door[^]*198\.51\.100\.23[^]*secondary[^]*198\.51\.100\.24[^]*free/,
      );
    });

  for (const way of ['pointer', 'keyboard'] as const)
    it(`by ${way}: a pool is stretched, a network widened, given a second subnet, renumbered and cloned`, async () => {
      await demo();
      const hand = new Hand(page, way);
      await hand.view('subnets');
      await page.sees('count-studio', /150 lent/);
      if (way === 'pointer') await carry('pool-last-studio', 60);
      else {
        await focus('pool-last-studio');
        await hand.press(Key.ARROW_RIGHT, Key.ARROW_RIGHT, Key.ENTER);
      }
      await holds(/lends \.50-\.2\d\d,/);
      // A half-carried end is given back.
      await focus('pool-first-studio');
      await page.press(Key.ARROW_LEFT, Key.ESCAPE);
      if (way === 'pointer') await carry('end-kilns', 24);
      else {
        await focus('end-kilns');
        await hand.press('+', Key.ENTER);
      }
      await page.sees('capacity', /room for 62 now, 126 after/);
      await page.sees('by-hand', /kiln-one/);
      await hand.go('write-network');
      await holds('address 10.61.30.1/25');
      await top();
      await hand.put('subnet-filter', 'tills');
      await hand.go('second-tills');
      await page.get('maker');
      await hand.write();
      await holds(/interface tills:[^]*\balso /);
      await top();
      await hand.put('subnet-filter', 'glaze');
      await hand.go('renumber-glaze');
      await hand.put('new-subnet', '10.61.23.0/26');
      await page.press(Key.ENTER);
      await holds('address 10.61.23.1/26, lends .20-.40');
      await top();
      await hand.put('subnet-filter', 'kilns');
      await hand.go('clone-kilns');
      await hand.put('clone-tag', '35');
      await page.press(Key.ENTER);
      await holds(
        'interface kilns2: on p3 tag 35, zone kilns2',
        'passage kilns2 > world: allow https, to clayhouse',
        /carries .*\b35/,
      );
    });

  for (const way of ['pointer', 'keyboard'] as const)
    it(`by ${way}: a plan of sixty VLANs comes in, three rows are told wrong, and one undo takes it back`, async () => {
      await demo();
      const hand = new Hand(page, way);
      await hand.view('subnets');
      await hand.go('plan-button');
      const rows = Array.from({ length: 60 }, (_, i) => `net${i};${200 + i};10.62.${i}.0/24;50-199;studio`);
      rows[7] = 'net7;5000;10.62.7.0/24;;';
      rows[20] = 'net20;220;10.62.20.0;;';
      rows[33] = 'net33;233;10.62.34.0/24;10.99.0.1-10.99.0.9;';
      await page.fill('plan-text', ['Netzname;VLAN-ID;Netz;DHCP;Zone', ...rows].join('\n'));
      const bad = await page.sees('plan-bad', /line 35/);
      expect(bad).to.match(/line 9[^]*5000[^]*line 22[^]*no length[^]*line 35[^]*10\.99\.0\.1/);
      await page.sees('plan-sum', /57 only in the sheet/);
      await hand.go('plan-take-all');
      await holds(
        'interface net0: on p3 tag 200',
        'interface net59: on p3 tag 259, zone studio, address 10.62.59.1/24, lends .50-.199',
        /carries .* 200 201/,
      );
      await page.sees('plan-sum', /57 are the same already/);
      await top();
      await page.control('z');
      await page.driver.wait(async () => !(await draft()).includes('net0'), PATIENCE, 'it is not undone');
    });

  it('prints the site book, and saves it as one file', async () => {
    await demo();
    await page.click('site-menu');
    await page.click('open-book');
    // Nothing that is far below is laid out before somebody goes there, so it is read as it stands in the page.
    await page.driver.wait(
      async () =>
        /Site book of Tidewater Kiln[^]*fault desk 01632 960118[^]*holds[^]*expect studio reaches internet/.test(
          await page.ask<string>(`document.querySelector('[data-testid="book"]')?.textContent ?? ''`),
        ),
      PATIENCE,
      'the book is not whole',
    );
    const pdf = Buffer.from(
      await (page.driver as unknown as { printPage(options: object): Promise<string> }).printPage({}),
      'base64',
    ).toString('latin1');
    expect(pdf.startsWith('%PDF')).to.equal(true);
    expect((pdf.match(/\/Type\s*\/Page\b/g) ?? []).length, 'pages').to.be.greaterThan(2);
    await page.click('book-save');
    const saved = join(page.downloads, 'tidewater-kiln-book.html');
    await page.driver.wait(() => existsSync(saved), PATIENCE, readdirSync(page.downloads).join());
    const html = readFileSync(saved, 'utf8');
    expect(html)
      .to.match(/^<!doctype html>/)
      .and.contain('Doors')
      .and.not.contain('slip and glaze');
    expect(await page.driver.findElements(By.css('.book table'))).to.have.length.greaterThan(5);
  });
});
