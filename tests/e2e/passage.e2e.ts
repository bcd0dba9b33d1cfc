/** What may pass, how it leaves, which doors are open: written in the real page, and proved there. */
import { execFileSync } from 'node:child_process';
import { expect } from 'chai';
import { existsSync, readdirSync, statSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { Key, marked, openPage, PATIENCE } from './browser';
import type { Page } from './browser';

let page: Page;
before(async () => (page = await openPage()));
after(() => page?.close());

/** An office with its networks and cables, and no word yet about what may pass. */
const SILENT = `box plain: names 192.0.2.53, time 192.0.2.123, serves names
zone world: upstream
zone share: dmz
zone visitors:
zone office:
zone lab:
interface line: on p1, zone world, address 198.51.100.18/29, gateway .17, answers ping, guard
interface dmz: on p2, zone share, address 10.61.50.1/24, answers ping
interface guests: on p3, zone visitors, address 10.61.60.1/24, lends .50-.199, answers dns
interface desk: on p4, zone office, address 10.61.20.1/24, lends .50-.199, answers ping dns ssh https
interface bench: on p5, zone lab, address 10.61.30.1/24, lends .50-.199, answers ping dns
circuit northmoor: at p1, block 198.51.100.16/29, gateway .17
station fileserver: at p2, address 10.61.50.10/24, gateway 10.61.50.1, listens tcp 8022
station phone: at p3, address by dhcp
station pc: at p4, address by dhcp
station rig: at p5, address by dhcp
far www.example: address 192.0.2.80, listens tcp 80 443
far dns1.example: address 192.0.2.53, resolves
`;

const kept = (what: RegExp) => page.sees('desks', what);

/** Zones enough for more pairs of them than promises are kept up, and doors into one that are too many to draw each. */
const MANY = [
  'box wide: names 192.0.2.53',
  'zone world: upstream',
  'interface up0: on p1, zone world, address 198.51.100.18/29, gateway .17, guard',
  ...Array.from({ length: 39 }, (_, i) => [
    `zone z${i}:`,
    `interface v${i}: on p2 tag ${100 + i}, zone z${i}, address 10.64.${i}.1/24, answers ping`,
  ]).flat(),
  ...Array.from({ length: 9 }, (_, d) => `door d${d}: 198.51.100.18 tcp ${4000 + d} > 10.64.1.10 tcp 443`),
  'leave any > world: as interface',
  '',
].join('\n');

describe('what may pass', () => {
  it('is built for an office with a published file server, from gaps and the say line', async () => {
    await page.fresh();
    const file = join(page.downloads, 'silent.gate');
    writeFileSync(file, SILENT);
    await page.openPaths(file);
    await page.get('zone-office');
    await page.click('view-passage');
    await page.click('focus-office');
    // What the place of the zone suggests is there to accept; a gap begins a statement of one's own.
    await page.sees('suggested', /passage office > world: allow/);
    await page.click('gap-office-world');
    await page.sees('making-text', /passage office > world: allow\s+leave office > world: as interface/);
    await page.press(Key.ENTER);
    await page.sees('ribbon-office-world', /nothing passes|everything/);
    for (const line of [
      'passage lab > world: allow',
      'passage visitors > world: allow tcp 80 443 dns',
      'passage office > share: allow tcp 8022',
      'leave office > line: as 198.51.100.20',
      'leave lab > line: as 198.51.100.21',
      'leave any > world: as interface',
      'door files: 198.51.100.19 tcp 2222 > 10.61.50.10 tcp 8022',
    ])
      await page.write(line);
    const promises = [
      'expect internet reaches door files',
      'expect office reaches door files',
      'expect share never reaches office',
      'expect share never reaches internet',
      'expect visitors reaches internet tcp 443',
      'expect visitors never reaches office',
      'expect visitors never reaches lab',
      'expect visitors never reaches share',
      'expect office leaves as 198.51.100.20',
      'expect lab leaves as 198.51.100.21',
      'expect line answers ping from office',
      'expect dmz answers ping from office',
      'expect guests answers ping from office',
      'expect bench answers ping from office',
    ];
    for (const line of promises) await page.write(line);
    await page.click('view-proof');
    await page.holds(`${marked('promise')}.length === ${promises.length}`, 'not all promises are told');
    await kept(/\d+ of \d+ open a page/);
    expect(await page.text('desks')).to.not.match(/not kept/);
    await page.sees('cell-office-internet', /everything\s+as 198\.51\.100\.20/);
    await page.sees('cell-visitors-internet', /names web/);
    await page.sees('cell-internet-files', /tcp 2222/);
    await page.sees('cell-share-office', /^·$/);
  });

  it('is followed from a cell, there and back, with its frames for other tools', async () => {
    await page.fill('ask-from', 'pc');
    await page.fill('ask-to', '198.51.100.19');
    await page.fill('ask-service', 'tcp 2222');
    await page.press(Key.ENTER);
    await page.sees('answer', /pc to 198\.51\.100\.19, tcp 2222: answered/);
    const steps = await page.text('trace');
    expect(steps)
      .to.match(/the door leads to 10\.61\.50\.10/)
      .and.match(/fileserver/);
    await page.click('pcapng');
    const found = () => readdirSync(page.downloads).find((f) => f.endsWith('.pcapng'));
    await page.driver.wait(() => !!found() && statSync(join(page.downloads, found()!)).size > 200, PATIENCE);
    if (existsSync('/usr/bin/tshark')) {
      const fields = [
        '-T',
        'fields',
        '-e',
        'frame.interface_name',
        '-e',
        'tcp.dstport',
        '-e',
        'frame.comment',
      ];
      const out = execFileSync('tshark', [
        '-r',
        join(page.downloads, found()!),
        '-Y',
        'tcp',
        ...fields,
      ]).toString();
      expect(out)
        .to.match(/p4\t2222\t/)
        .and.match(/p2\t8022\tplain: \S/);
    }
    await page.click('cell-share-office');
    await page.sees('answer', /fileserver to pc, ping: share > office: no passage lets it pass/);
    await page.say('why can fileserver not open www.example');
    await page.sees('say-answer', /fileserver to www\.example, tcp 443: share > world: no passage/);
    await page.click('say-trace');
    await page.sees('trace', /fileserver/);
  });

  it('turns a cell into a promise with one key, and holds the whole reach while something risky is tried', async () => {
    await page.press(Key.ESCAPE);
    const cell = await page.get('cell-lab-office');
    await cell.sendKeys('p');
    await page.sees('notice', /Promised: expect lab never reaches office/);
    await page.click('freeze');
    await page.get('thaw');
    await page.write('passage lab > office: allow ssh');
    await kept(/2 promises not kept|promises? not kept: lab/);
    await page.click('thaw');
    await kept(/1 promise not kept: lab never reaches office/);
    await page.click('findings-button');
    await page.sees('findings', /lab never reaches office.* does not hold: .* reaches .* with/);
    await page.click('findings-button');
  });

  it('says what each statement takes, and what moving one would change before it is moved', async () => {
    await page.click('view-passage');
    await page.click('focus-lab');
    await page.click('ribbon-lab-office');
    await page.sees('behind', /passage lab > office: allow ssh\s+lets pass tcp 22|ssh/);
    await page.write('passage lab > office: drop tcp');
    await page.sees('takes-1', /swallows .*what line \d+ left/);
    await page.click('earlier-1');
    await page.sees('move', /move line \d+ before line \d+:\s+lab no longer reaches office with ssh/);
    await page.click('move-do');
    await page.sees('ribbon-lab-office', /nothing passes/);
    await page.sees('takes-1', /nothing: line \d+ took all of it/);
    await page.click('view-proof');
    await page.fill('log-filter', 'share');
    await page.sees('log', /share → office|share/);
  });

  it('shows everyone on both sides, and tells the ribbons of one in words', async () => {
    await page.click('view-passage');
    await page.click('focus-everyone');
    await page.sees('everyone', /\d+ ribbons, dashed through doors/);
    await page.click('to-share');
    await page.sees('everyone', /who may come to share/);
    await page.sees('gap-world-share', /nothing else passes/);
    await page.click('from-office');
    await page.sees('everyone', /where office may go/);
    await page.click('ribbon-office-world');
    await page.sees('behind', /office → world[^]*passage office > world/);
    await page.click('gap-office-lab');
    await page.sees('making-text', /passage office > lab: allow/);
    await page.press(Key.ESCAPE);
  });

  it('freezes what is shown, and says when that would be more than can be kept up', async () => {
    const file = join(page.downloads, 'wide.gate');
    writeFileSync(file, MANY);
    await page.fresh();
    await page.openPaths(file);
    await page.sees('slab-up0', /up0/);
    await page.click('view-passage');
    await page.click('focus-world');
    // Eight doors into one zone are a number until somebody asks.
    await page.click('doors-world-z1');
    await page.get('door-d8');
    await page.click('view-proof');
    await page.sees('cell-z1-z1', /./);
    await page.click('freeze');
    await page.sees('notice', /That would be \d{4} promises, and 500 are the most/);
    await page.fill('reach-filter', 'z12');
    await page.click('freeze');
    await page.get('thaw');
    await page.holds(`${marked('promise')}.length > 40`, 'the promises are not told');
    await page.click('thaw');
    await page.get('freeze');
  });
});
