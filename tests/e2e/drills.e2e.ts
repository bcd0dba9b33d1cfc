/** Drills on a live box: what the crossing foresees, what a trial finds, and what others do meanwhile. */
import { expect } from 'chai';
import { writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { CALM, PATIENCE, marked, openPage } from './browser';
import type { Page } from './browser';

let page: Page;
before(async () => (page = await openPage()));
after(() => page.close());

const BOX = `box tide: names 192.0.2.53
zone world: upstream
zone studio:
zone stewards: management
interface fibre: on p1, zone world, address 198.51.100.18/29, gateway .17, answers ping, guard, priority 1
interface radio: on p3, zone world, address 203.0.113.2/29, gateway .1, answers ping, guard, priority 2
interface studio: on p2, zone studio, address 10.61.20.1/24, lends .50-.199, answers ping
interface console: on p8, zone stewards, address 10.61.99.1/24, answers ping ssh https
passage studio > world: allow
leave any > world: as interface
`;
const WIRING = `circuit northmoor: at p1, block 198.51.100.16/29, gateway .17, names 192.0.2.53
circuit harbour: at p3, block 203.0.113.0/29, gateway .1, names 192.0.2.53
station laptop: at p8, address 10.61.99.10/24, gateway 10.61.99.1, seat
station wheel: at p2, address by dhcp
far www.example: address 192.0.2.80, listens tcp 80 443
far dns1.example: address 192.0.2.53, resolves
`;

/** Opens a draft of the box, and lets what it runs be the box above. */
async function differs(...edits: readonly (readonly [string | RegExp, string])[]): Promise<void> {
  const draft = edits.reduce((text, [was, now]) => {
    expect(text).to.match(
      typeof was === 'string' ? new RegExp(was.replace(/[.*+?^$()|[\]\\]/g, '\\$&')) : was,
    );
    return text.replace(was, now);
  }, BOX);
  await page.open({ 'box.gate': draft, 'wiring.gate': WIRING });
  await page.sees('ladder-fibre', /fibre/);
  await page.click('view-change');
  await elsewhere(BOX);
  await page.click('overrule-drift');
  await page.sees('crossing', /laptop/);
}

async function elsewhere(text: string): Promise<void> {
  const path = join(page.downloads, 'console.gate');
  writeFileSync(path, text);
  await (await page.get('changed-elsewhere')).sendKeys(path);
}

describe('a live box', () => {
  before(() => page.fresh());

  it('has the port of the seat put into a bridge, step by step', async () => {
    await differs(
      [/interface console.*\n/, ''],
      ['on p2,', 'bridge p2 p8,'],
      ['199, answers ping', '199, answers ping ssh'],
    );
    await page.sees('crossing', /At laptop: set 10\.61\.20\.10\/24/);
    expect(await page.count('lockout')).to.equal(0);
    // Each step that is told to the box is tried and stays; what is to be done at the desk is done there.
    const says = () => page.text('change');
    for (;;) {
      // What can be done is there once the way is found anew.
      await page.holds(
        `${CALM} || /No difference/.test(${marked('change')}[0].innerText)`,
        'no crossing is found',
      );
      const before = await says();
      if (before.includes('No difference')) break;
      if (await page.count('at-desk')) await page.click('at-desk');
      else if (await page.count('try-step-1')) {
        await page.tries('try-step-1');
        await page.sees('knock', /laptop is answered at/);
        await page.click('stay');
      }
      await page.driver.wait(async () => (await says()) !== before, PATIENCE, `still: ${before}`);
    }
    await page.sees('seat-line', /laptop comes in by ssh 10\.61\.20\.1/);
  });

  it('foresees for a management interface turned into a tag where the cable has to go', async () => {
    await differs(['on p8', 'on p8 tag 99'], ['199, answers ping', '199, answers ping https']);
    await page.sees('crossing', /move the cable to p2 in place of wheel, then set 10\.61\.20\.10\/24/);
    expect(await page.count('lockout')).to.equal(0);
  });

  it('refuses to lose its last login unless that is overruled by name', async () => {
    await differs([' ssh https', '']);
    await page.sees('lockout', /nothing at laptop lets anybody in/);
    await page.sees('step-1', /no more|is cut off|loses/);
    expect(await (await page.get('try')).isEnabled()).to.equal(false);
    await page.sees('change', /overrule\s+(seat-cut|no-way-in)/);
  });

  it('has two uplinks swapped: the seat stays, the ladders say what broke, and it goes back', async () => {
    await differs(['fibre: on p1', 'fibre: on p9'], ['radio: on p3', 'radio: on p1'], ['on p9', 'on p3']);
    await page.tries();
    await page.sees('knock', /laptop is answered at https:\/\/10\.61\.99\.1/);
    await page.sees('checks', /✕ fibre:/);
    await page.sees('checks', /✕ radio:/);
    await page.sees('worse', /does not now: fibre, radio/);
    await page.sees('stay', /Stay all the same/);
    await page.click('go-back');
    await page.sees('box-state', /draft differs in 2/);
  });

  it('goes back on time though its page was closed in the middle of a trial', async () => {
    await differs(['allow\n', 'allow ping\n']);
    await page.fill('trial-seconds', '600');
    await page.tries();
    await page.get('countdown');
    await page.driver.get('about:blank');
    await page.later(601);
    await page.driver.get(page.origin);
    await page.click('view-change');
    await page.sees('went-back', /Went back by itself/);
    await page.sees('box-state', /draft differs in 1/);
  });

  it('is told by one tab at a time', async () => {
    await differs(['allow\n', 'allow ping\n']);
    const first = await page.driver.getWindowHandle();
    await page.driver.switchTo().newWindow('tab');
    await page.driver.get(page.origin);
    await page.sees('following', /open in another tab/);
    await page.click('view-change');
    expect(await (await page.get('try')).isEnabled()).to.equal(false);
    const second = await page.driver.getWindowHandle();
    await page.driver.switchTo().window(first);
    await page.tries();
    await page.get('countdown');
    // The other tab sees the trial, and can only follow it until it takes over.
    await page.driver.switchTo().window(second);
    await page.get('countdown');
    expect(await (await page.get('go-back')).isEnabled()).to.equal(false);
    await page.click('take-over');
    await page.click('go-back');
    await page.sees('box-state', /draft differs in 1/);
    await page.driver.close();
    await page.driver.switchTo().window(first);
    await page.sees('box-state', /draft differs in 1/);
  });

  it('was changed by somebody else, which is adopted, with both sides where they clash', async () => {
    await page.open({ 'box.gate': BOX, 'wiring.gate': WIRING });
    await page.sees('ladder-fibre', /fibre/);
    await page.write('studio lends .60-.99');
    await page.write('fibre priority 3');
    await page.click('view-change');
    await elsewhere(BOX.replace('zone world: up', 'zone world: upp'));
    await page.sees('elsewhere-fault', /console\.gate, line 2: expected .*upstream/);
    await elsewhere(BOX.replace('.50-.199', '.50-.150').replace('allow\n', 'allow ping\n'));
    await page.sees('drift', /lends \.50-\.150 \(was \.50-\.199\)/);
    expect(await (await page.get('try')).isEnabled()).to.equal(false);
    await page.sees(
      'clash-0',
      /interface studio was changed on both sides[\s\S]*\.50-\.199[\s\S]*\.50-\.150[\s\S]*\.60-\.99/,
    );
    await page.click('take-theirs-0');
    await page.gone('clash-0');
    await page.click('adopt');
    await page.gone('drift');
    await page.sees('box-state', /draft differs in 1/);
    await page.tries();
    await page.click('stay');
    await page.sees('box-state', /not saved|agree/);
  });
});
