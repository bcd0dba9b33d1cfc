/** Eight tasks of the trade, each by pointer alone and by keyboard alone, without a word of the notation. */
import { expect } from 'chai';
import { spawnSync } from 'node:child_process';
import { readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { By, Key, keeps, openPage } from './browser';
import type { Page } from './browser';
import { Hand } from './hand';
import type { Way } from './hand';

let page: Page;
before(async () => (page = await openPage()));
after(() => page?.close());

/** No task takes more acts than these. */
const MOST_ACTS = 40;
const counts: string[] = [];
after(() => console.log(counts.map((c) => `    ${c}`).join('\n')));

const demo = async () => {
  await page.fresh();
  await page.sees('desks', /open a page/);
};
const holds = (...lines: readonly (string | RegExp)[]) => keeps(page, ...lines);
const noErrorsBut = async (...codes: readonly string[]) => {
  await page.click('findings-button');
  await page.get('findings');
  const said = await page.ask<string[]>(
    `[...document.querySelectorAll('[data-testid=findings] .ground-error')].map((e) => e.innerText)`,
  );
  await page.click('findings-button');
  expect(said.filter((s) => !codes.some((c) => s.includes(c)))).to.deep.equal([]);
};

const tasks: readonly [string, (hand: Hand) => Promise<void>][] = [
  [
    'from the carton to the internet',
    async (hand) => {
      await page.fresh();
      await page.get('box-state');
      await page.blur();
      await hand.go('site-menu');
      await hand.go('first-light-new');
      await hand.put('password', 'clay and water 9');
      await hand.put('password-again', 'clay and water 9');
      await hand.go('meet');
      await hand.go('plug');
      await hand.go('next');
      await hand.put('sheet-address', '198.51.100.18');
      await hand.put('sheet-length', '255.255.255.248');
      await hand.put('sheet-gateway', '198.51.100.17');
      await hand.put('sheet-names', '192.0.2.53');
      await hand.go('write-uplink');
      await hand.go('write-inside');
      await page.sees('sheet-only', /Proved against your sheet only/);
      await page.sees('desks-say', /1 of 1 open a page/);
      await hand.go('to-trial');
      await hand.go('try');
      await page.sees('countdown', /\d/);
      await hand.go('stay');
      await hand.go('save-finish');
      await page.sees('box-state', /all agree/);
    },
  ],
  [
    'a VLAN network with its pool and a reservation',
    async (hand) => {
      await demo();
      await hand.want('vlan', 'network');
      await hand.put('making-name', 'lab');
      await hand.write();
      await hand.want('reserve', 'reservation');
      await hand.put('making-interface', 'lab');
      await hand.put('making-mac', '02:61:00:00:70:07');
      await hand.write();
      await holds(
        'interface lab: on p3 tag 70, zone lab, address 10.61.70.1/24, lends .50-.199',
        /keeps (10\.61\.70)?\.\d+ for 02:61:00:00:70:07/,
        'carries 20 30 40 50 60 70',
        'passage lab > world: allow',
      );
      await noErrorsBut('guests', 'tills', 'visitors reaches');
    },
  ],
  [
    'a server published, and a network that leaves as another address',
    async (hand) => {
      await demo();
      await hand.want('port forward', 'publish');
      await hand.put('making-host', 'glaze-printer');
      await hand.write();
      await hand.want('source nat', 'leave-as');
      await hand.put('making-who', 'tills');
      await hand.put('making-address', '198.51.100.22');
      await hand.write();
      await holds(
        'door glaze-printer: 198.51.100.21 tcp 9100 > 10.61.20.20',
        'leave tills > fibre: as 198.51.100.22',
        'expect internet reaches door glaze-printer',
      );
    },
  ],
  [
    'a second uplink, watched and drilled',
    async (hand) => {
      await page.fresh();
      await page.get('box-state');
      await page.open({
        'one.gate': `box one: names 192.0.2.53, serves names\nport p1:\nport p2:\nport p3:\nzone world: upstream\nzone office:\ninterface line: on p1, zone world, address 198.51.100.18/29, gateway .17, guard\ninterface desk: on p2, zone office, address 10.61.20.1/24, lends .50-.199, answers ping dns ssh https\npassage office > world: allow\nleave any > world: as interface\ncircuit northmoor: at p1, block 198.51.100.16/29, gateway .17\ncircuit radio: at p3, lends 203.0.113.140-.180 in 203.0.113.128/26, gateway .129, names 192.0.2.53\nstation pc: at p2, address by dhcp, seat\nfar www.example: address 192.0.2.80, listens tcp 80 443\nfar dns1.example: address 192.0.2.53, resolves\n`,
      });
      await page.sees('desks', /1 of 1 open a page/);
      await hand.want('wan', 'uplink');
      await hand.put('making-name', 'radio');
      await hand.write();
      await page.sees('ladder-radio', /stand-by/);
      await holds('interface radio: on p3, zone world, address by dhcp, priority 2, watch 192.0.2.80');
      // The drill: the first line's cable is pulled on the bench, and the desk goes on by the second.
      if (hand.way === 'pointer') await hand.click('cut-p1');
      else {
        // From the slab that was just made to the head of the first port.
        await hand.arrowsTo('port-p1', Key.ARROW_UP, Key.ARROW_LEFT, Key.ARROW_LEFT);
        await hand.press('c');
      }
      await page.sees('drill-banner', /p1 cut/);
      await page.sees('ladder-radio', /active/);
      await page.sees('desks', /1 of 1 open a page/);
      await page.press(Key.ESCAPE);
    },
  ],
  [
    'a second subnet on a VLAN',
    async (hand) => {
      await demo();
      await hand.want('secondary', 'second-subnet');
      await hand.put('making-interface', 'studio');
      await hand.write();
      await holds(
        /interface studio: .*also 10\.61\.21\.1\/24.*lends .50-.199, lends 10\.61\.21\.10-10\.61\.21\.253/,
      );
      await noErrorsBut('guests', 'tills', 'visitors reaches');
    },
  ],
  [
    'a management port of its own, https moved, ssh from one network',
    async (hand) => {
      await demo();
      await hand.want('management', 'management');
      await hand.put('making-name', 'desk');
      await hand.put('making-https', '8443');
      await hand.put('making-ssh-from', '10.61.99.0/26');
      await hand.write();
      await holds(
        /interface desk: on p7, zone stewards, .*answers ping https 8443, answers ssh from 10\.61\.99\.0\/26/,
      );
    },
  ],
  [
    'a dmz',
    async (hand) => {
      await demo();
      await hand.want('dmz', 'network');
      await hand.put('making-name', 'bakery');
      await hand.put('making-role', 'dmz');
      await hand.write();
      await holds(
        'zone storefront: dmz zone bakery: dmz zone visitors',
        'passage bakery > world: allow dns ntp tcp 80 443',
      );
    },
  ],
  [
    'why a PC opens no page',
    async (hand) => {
      await demo();
      await hand.view('proof');
      await hand.go('why-till-1');
      await page.sees('answer', /till-1 to tidewater, udp 53: tills does not answer that/);
      await page.sees('asker-trouble', /till-1 stops at resolver/);
      await page.get('trace');
    },
  ],
];

for (const way of ['pointer', 'keyboard'] as readonly Way[])
  describe(`by ${way} alone`, () => {
    for (const [name, task] of tasks)
      it(name, async () => {
        const hand = new Hand(page, way);
        await task(hand);
        counts.push(`${name}, by ${way}: ${hand.acts} acts`);
        expect(hand.acts).to.be.at.most(MOST_ACTS);
      });
  });

describe('what comes in', () => {
  it('is offered to the reader that it is for: a sheet, a capture, a site into this one', async () => {
    await demo();
    const into = (name: string, data: string | Buffer) => {
      const path = join(page.downloads, name);
      writeFileSync(path, data);
      return path;
    };
    const give = async (path: string) => {
      await page.driver.findElement(By.css('[data-testid="open-files"]')).sendKeys(path);
      await page.get('incoming');
    };
    // A capture of a flow of the demo, made by the command line.
    const capture = join(page.downloads, 'web.pcapng');
    spawnSync(
      'node',
      [
        'bin/jolly-gate.js',
        'trace',
        'demo/box.gate',
        'demo/wiring.gate',
        '--from',
        'till-1',
        '--to',
        '192.0.2.80',
        '--service',
        'tcp 22',
        '--pcapng',
        capture,
      ],
      { stdio: 'ignore' },
    );
    await give(capture);
    await page.sees('capture-flows', /10\.61\.40\.20 → 192\.0\.2\.80\s+tcp 22/);
    await page.click('follow-0');
    await page.sees('answer', /tcp 22: .*(no passage|nothing lets)/i);
    // A file into the open site is one step that undo takes back.
    await page.click('view-board');
    await give(
      into(
        'box.gate',
        readFileSync('demo/box.gate', 'utf8')
          .replace('zone kilns:', 'zone ovens:')
          .replaceAll('zone kilns', 'zone ovens')
          .replace(/passage kilns/g, 'passage ovens')
          .replace(/expect kilns/g, 'expect ovens'),
      ),
    );
    await page.click('open-into');
    await page.get('zone-ovens');
    await page.control('z');
    await page.get('zone-kilns');
    // A sheet goes to First light, its password dots.
    await give(into('sheet.txt', 'Provider: PPPoE\nUsername: kiln@line.example\nPassword: tide-7\nVLAN 7\n'));
    await page.sees('incoming', /provider’s sheet/);
    expect(await page.text('incoming')).to.not.contain('tide-7');
    await page.click('sheet-take');
    await page.get('first-light');
  });
});
