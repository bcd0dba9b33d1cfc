/** Every sort of interface, built and moved in the real page: by keyboard alone, by pointer, and on ready sites. */
import { expect } from 'chai';
import { readFileSync, readdirSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { By, Key, PATIENCE, keptSites, marked, openPage } from './browser';
import type { Page } from './browser';

let page: Page;
before(async () => (page = await openPage()));
after(() => page?.close());

const openFile = (path: string) => page.openPaths(path);
/** A box with an uplink's block, a trunk and two plain ports, and nothing configured. */
const BARE = `box plain: names 192.0.2.53, time 192.0.2.123, serves names
port p1:
port p3:
port p5:
port p6:
zone world: upstream
zone office:
passage office > world: allow
leave any > world: as interface
circuit northmoor: at p1, block 198.51.100.16/29, gateway .17
switch core: at p3, carries 10 20 30 40, jack 1 tag 10, jack 2 tag 20, jack 3 tag 30, jack 4 tag 40
station pc: at core/2, address by dhcp
station mate: at p6, address by dhcp
far www.example: address 192.0.2.80, listens tcp 80 443
far dns1.example: address 192.0.2.53, resolves
`;
const begin = async () => {
  await page.fresh();
  const file = join(page.downloads, 'bare.gate');
  writeFileSync(file, BARE);
  await openFile(file);
  await page.get('zone-office');
};
const text = async () => {
  await page.click('view-text');
  return page.value('text-bare.gate');
};
const LINE =
  'interface line: on p1, zone world, address 198.51.100.18/29, also .19-.22, gateway .17, answers ping, guard';
const vlan = (tag: number) =>
  `interface v${tag}: on p3 tag ${tag}, zone office, address 10.61.${tag}.1/24, lends .50-.199, answers ping dns ssh`;
const WALL =
  'interface wall: on p5, zone office, address 10.61.90.1/24, lends .50-.199, answers ping dns ssh';
const builtRight = async () => {
  await page.sees('ladder-line', /seen outside as 198\.51\.100\.18/);
  await page.sees('desks', /2 of 2 open a page/);
  const written = await text();
  for (const line of [LINE, ...[10, 20, 30, 40].map(vlan), WALL.replace('on p5', 'bridge p5 p6')])
    expect(written).to.contain(line);
};

describe('a trunk of four VLANs, a bridge, and a block of five addresses', () => {
  const focused = (what: string) =>
    page.holds(`document.activeElement${what}`, 'the focus is not where it should be');
  /** Says a line, and takes it. */
  const write = async (line: string) => {
    await page.press('/');
    await page.get('say');
    await focused(`?.dataset.testid === 'say'`);
    await page.control('a');
    await page.press(line, Key.ENTER);
    await page.gone('say');
    // The keyboard is back on the board by itself.
    await focused(`?.dataset.at !== undefined`);
  };

  it('by keyboard alone', async () => {
    await begin();
    await page.blur();
    // From nowhere an arrow begins at the first crossing, world on p1.
    await page.press(Key.ARROW_DOWN);
    await write(LINE);
    await page.press(Key.ARROW_DOWN, Key.ARROW_RIGHT);
    await write(vlan(10));
    for (const tag of [20, 30, 40]) await write(vlan(tag));
    await page.press(Key.ARROW_RIGHT);
    await write(WALL);
    // b, then the port to bridge with.
    await page.press('b', Key.ARROW_RIGHT);
    await page.sees('move-preview', /writes\s+interface wall: bridge p5 p6/);
    await page.press(Key.ENTER);
    await page.sees('slab-wall', /p5\+p6/);
    await builtRight();
  });

  it('by pointer', async () => {
    await begin();
    for (const line of [LINE, ...[10, 20, 30, 40].map(vlan), WALL]) {
      await page.driver.findElement(By.css('header button.btn-ghost .key')).click();
      await page.fill('say', line);
      await page.click('say-write');
    }
    const [port, slab] = [await page.get('port-p6'), await page.get('slab-wall')];
    await page.driver.executeScript(
      `const [from, to] = arguments;
       const data = new DataTransfer();
       const fire = (at, type) => at.dispatchEvent(new DragEvent(type, { bubbles: true, cancelable: true, dataTransfer: data }));
       fire(from, 'dragstart'); fire(to, 'dragover');`,
      port,
      slab,
    );
    await page.sees('move-preview', /writes\s+interface wall: bridge p5 p6/);
    await page.driver.executeScript(
      `arguments[0].dispatchEvent(new DragEvent('drop', { bubbles: true, cancelable: true, dataTransfer: new DataTransfer() }));`,
      slab,
    );
    await page.sees('slab-wall', /p5\+p6/);
    await builtRight();
  });
});

describe('cables', () => {
  it('a PC moved to another jack takes a lease of that network', async () => {
    await page.fresh();
    await page.sees('desks', /open a page/);
    await page.click('plug-core');
    await page.sees('jack-1', /wheel-pc 10\.61\.20\.50/);
    const jack = await page.get('jack-of-wheel-pc');
    await jack.findElement(By.css('option[value="6"]')).click();
    await page.sees('jack-6', /wheel-pc 10\.61\.40\.2\d/);
    await page.control('z');
    await page.sees('jack-1', /wheel-pc 10\.61\.20\.50/);
    await page.press(Key.ESCAPE);
  });

  it('a circuit is plugged into another port by keys, and a cut is a drill that writes nothing', async () => {
    await page.ask(`document.querySelector('[data-at="head/p2"]').focus()`);
    await page.press('m', Key.ARROW_RIGHT, Key.ARROW_RIGHT, Key.ARROW_RIGHT);
    await page.sees('move-preview', /writes\s+circuit harbourline: at p5/);
    await page.press(Key.ESCAPE);
    await page.press('c');
    await page.sees('drill-banner', /p2 cut/);
    await page.sees('box-state', /all agree/);
    await page.press('c');
    await page.sees('ladder-harbour', /seen outside/);
  });
});

describe('many at once', () => {
  it('are selected, changed by one clause, copied as text and pasted with free names', async () => {
    await page.fresh();
    await page.sees('desks', /open a page/);
    await page.click('slab-shop');
    await page.press(Key.ESCAPE);
    await page.press(' ', Key.ARROW_DOWN, ' ', Key.ARROW_DOWN, ' ');
    await page.fill('for-all', 'mtu 1400');
    await page.press(Key.ENTER);
    for (const name of ['shop', 'guests', 'tills'])
      expect(
        await page.driver.executeScript<string>(
          'return document.getElementById(arguments[0].getAttribute("aria-describedby")).textContent',
          await page.get(`slab-${name}`),
        ),
      ).to.contain('mtu 1400');
    const copied = await page.driver.executeScript<string>(`
      const data = new DataTransfer();
      document.activeElement.blur();
      document.dispatchEvent(new ClipboardEvent('copy', { clipboardData: data, bubbles: true, cancelable: true }));
      return data.getData('text/plain');`);
    expect(copied.match(/^interface /gm)).to.have.length(3);
    await page.driver.executeScript(
      `const data = new DataTransfer();
       data.setData('text/plain', arguments[0]);
       window.dispatchEvent(new ClipboardEvent('paste', { clipboardData: data, bubbles: true, cancelable: true }));`,
      copied,
    );
    await page.get('slab-shop-2');
    await page.sees('notice', /Pasted 3 statements; names that were taken: shop is shop-2/);
    await page.control('z');
    await page.gone('slab-shop-2');
  });

  it('stay as they are where too much is pasted, wherever, and where a folder is dropped', async () => {
    const told = async (what: string, then: RegExp) => {
      await page.driver.executeScript(
        `const data = new DataTransfer();
         data.setData('text/plain', 'zone x:\\n'.repeat(1300000));
         const at = ${what};
         at.dispatchEvent(new ClipboardEvent('paste', { clipboardData: data, bubbles: true, cancelable: true, composed: true }));`,
      );
      await page.sees('notice', then);
    };
    const tooMuch = /What was pasted has \d+\.\d MB; at most 5 MB can be opened here/;
    await told('document.body', tooMuch);
    await page.say('studio also');
    await told('document.querySelector("[data-testid=say]")', tooMuch);
    await page.click('view-text');
    const editor = `${marked('text-box.gate')}[0]?.shadowRoot?.querySelector('.cm-content')`;
    await page.holds(editor, 'no editor');
    await told(editor, tooMuch);
    expect((await page.value('text-box.gate')).length).to.be.below(20_000);
    await page.driver.executeScript(
      `const file = new File([], 'sites'); file.arrayBuffer = () => Promise.reject(new DOMException('gone', 'NotFoundError'));
       const event = new Event('drop', { bubbles: true, cancelable: true });
       event.dataTransfer = { files: [file] };
       window.dispatchEvent(event);`,
    );
    await page.sees('notice', /sites is a folder, or cannot be read/);
    await page.click('view-board');
    expect(await page.count('slab-studio')).to.equal(1);
  });

  it('are filtered by typing, and what is wrong and hidden is told', async () => {
    await page.press(Key.ESCAPE);
    await page.fill('filter', 'studio');
    await page.sees('filter-says', /2 of 10[\s\S]*2\s*errors[\s\S]*hidden/);
    expect(await page.count('slab-tills')).to.equal(0);
    await page.press(Key.ESCAPE);
    await page.get('slab-tills');
  });
});

describe('ready sites', () => {
  const ladders: readonly (readonly [file: string, uplink: string, seen: RegExp, desks: RegExp])[] = [
    ['nine-one-armed', 'ladder-line', /198\.51\.100\.18/, /1 of 1 open a page/],
    ['nine-tables', 'ladder-line', /198\.51\.100\.18/, /2 of 2 open a page/],
    ['nine-pppoe', 'ladder-line', /203\.0\.113\.7/, /1 of 1 open a page/],
    ['nine-ipv6', 'ladder-line-6', /2001:db8:1:0:/, /1 of 1 open a page/],
  ];
  for (const [file, ladder, seen, desks] of ladders)
    it(file, async () => {
      await openFile(`tests/corpus/sites/${file}.gate`);
      await page.sees(ladder, seen);
      await page.sees('desks', desks);
      await page.sees('findings-button', /^\s*(■\s*)?(error\s*)?0/);
    });

  it('the demo of the branch: aggregation, an access point on one jack, a router inside, a host by its suffix', async () => {
    await page.fresh();
    await page.click('site-menu');
    await page.click('demo-branch');
    await page.sees('desks', /9 of 9 open a page/);
    await page.sees('findings-button', /^\s*(■\s*)?(error\s*)?0/);
    // One column for both cables; one of them may go.
    expect(await page.text('port-core')).to.contain('core');
    expect(await page.driver.findElements(By.css('[data-testid=port-p5]'))).to.have.length(0);
    await page.click('plug-core');
    await page.sees('jack-7', /30, tagged 31 40.*potter, shed, guest.*switch ap/s);
    await page.sees('jack-3', /130.*behind old-halls.*names-old/s);
    // The access point moves to another jack, and everybody behind it goes without a network.
    await (await page.get('jack-of-ap')).findElement(By.xpath("./option[. = '2']")).click();
    await page.sees('desks', /[0-8] of 9 open a page/);
    await page.control('z');
    await page.sees('desks', /9 of 9 open a page/);
    // Two lines share, and the third rests until both are dead.
    await page.sees('desks', /5 networks as 198\.51\.100\.200.*3 networks as 203\.0\.113\.18/s);
    await page.click('view-ways-out');
    await page.sees('share-cable', /takes 1 of 2 sources/);
    await page.sees('pipe-mast', /resting.*on-demand.*rests while another uplink lives/s);
    await page.click('cut-fibre');
    await page.click('cut-cable');
    await page.sees('pipe-mast', /active.*198\.51\.100\.130/s);
    await page.click('cut-fibre');
    await page.click('cut-cable');
    await page.sees('pipe-mast', /resting/);
    await page.click('view-board');
    // A router without its way back is told, and mended.
    await page.blur();
    await page.write('old-halls gateway 10.61.139.3');
    await page.click('findings-button');
    await page.sees(
      'findings',
      /router old-halls sends everything to 10\.61\.139\.3, but hall there has 10\.61\.139\.1/,
    );
    await page.click('findings-button');
    await page.control('z');
    await page.click('view-state');
    await page.click('section-station');
    await (await page.get('station')).findElement(By.xpath("./option[. = 'clay-press']")).click();
    await page.sees(
      'station-settings',
      /option boot-file.*press\.0.*option search.*saltmarsh\.example tidewater\.example/s,
    );
  });

  it('an export leaves the secret of a login out, and opening it gives the one at hand back', async () => {
    await openFile('tests/corpus/sites/nine-pppoe.gate');
    await page.sees('ladder-line', /203\.0\.113\.7/);
    await page.driver.findElement(By.css('header button[aria-expanded]')).click();
    await page.driver.findElement(By.xpath("//button[contains(., 'Export …')]")).click();
    await page.click('export');
    const named = () =>
      readdirSync(page.downloads).find((f) => /^nine-pppoe-[\d-]+\.nine-pppoe\.gate$/.test(f));
    await page.driver.wait(() => named() !== undefined, PATIENCE);
    const file = join(page.downloads, named()!);
    const exported = readFileSync(file, 'utf8');
    expect(exported).to.contain('user "kiln@example", zone world').and.contain('pppoe "kiln@example" ""');
    await openFile(file);
    await page.sees('ladder-line', /seen outside as 203\.0\.113\.7/);
  });

  it('forgets the secrets of every site in all that the browser keeps, and of no other', async () => {
    const site = readFileSync('tests/corpus/sites/nine-pppoe.gate', 'utf8');
    // In quotes, as JSON writes them: the demo's clay is no secret.
    const secret = JSON.stringify(/secret ("[^"]+")/.exec(site)![1]!).slice(1, -1);
    const kept = async () =>
      JSON.stringify(await keptSites(page)) + (await page.ask<string>('JSON.stringify({ ...localStorage })'));
    await page.fresh();
    await openFile('tests/corpus/sites/nine-pppoe.gate');
    await page.sees('ladder-line', /203\.0\.113\.7/);
    await openFile('tests/corpus/sites/nine-tables.gate');
    await page.sees('desks', /2 of 2 open a page/);
    await page.driver.wait(async () => (await kept()).includes(secret), PATIENCE);
    await page.driver.findElement(By.css('header button[aria-expanded]')).click();
    // By the driver: while the browser asks, the page answers nothing.
    await (await page.get('forget-secrets')).click();
    await page.driver.switchTo().alert().accept();
    await page.driver.wait(async () => !(await kept()).includes(secret), PATIENCE);
    expect(await kept(), 'nothing else went').to.contain('user \\"kiln@example\\"');
  });
});

describe('the text in its editor', () => {
  it('offers what fits, mends in the margin, folds a zone, and goes to the board and back', async () => {
    await page.fresh();
    await page.sees('desks', /open a page/);
    await page.click('slab-tills');
    await page.click('to-text');
    /** How many of these the editor, which has a tree of its own, shows. */
    const inside = (css: string) =>
      `${marked('text-box.gate')}[0].shadowRoot.querySelectorAll('${css}').length`;
    await page.holds(inside('.cm-activeLine'), 'no line is the one to write in');
    await page.holds(`${inside('.cm-lint-marker-error')} > 0`, 'nothing is marked');
    await page.control(Key.END);
    await page.press(Key.ENTER, 'interface lab: on p7, zone st');
    await page.holds(inside('.cm-tooltip-autocomplete'), 'no offer');
    // The editor takes no key for an offer that has stood for less than 75 ms: nobody has read it yet.
    await page.driver.sleep(200);
    await page.press(Key.TAB);
    const value = () => page.value('text-box.gate');
    expect(await value()).to.match(/interface lab: on p7, zone (storefront|studio|stewards)/);
    await page.click('fold-zone-studio');
    await page.holds(`${inside('.cm-foldPlaceholder')} > 1`, 'nothing folded');
    await page.ask(`${marked('text-box.gate')}[0].click()`);
    await page.control('z');
    await page.click('view-board');
    await page.get('slab-studio');
  });
});
