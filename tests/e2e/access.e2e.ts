/** The page for those who do not see it, or see it otherwise: every view, both themes, forced colours, twice the size. */
import { expect } from 'chai';
import { readFileSync } from 'node:fs';
import { createRequire } from 'node:module';
import { memo } from '#core/base';
import { isDeep } from '#core/testkit';
import { Key, openPage } from './browser';
import type { Page } from './browser';

const AXE = readFileSync(createRequire(import.meta.url).resolve('axe-core/axe.min.js'), 'utf8');

let page: Page;
before(async () => (page = await openPage()));
after(() => page?.close());

interface Violation {
  readonly id: string;
  readonly impact: string;
  readonly nodes: readonly {
    readonly html: string;
    readonly target: readonly string[];
    readonly failureSummary: string;
  }[];
}

/** What a place is asked, and what a theme alone can change. */
const ALL = "['wcag2a', 'wcag2aa', 'wcag21a', 'wcag21aa', 'best-practice']";
const COLOURS = "{ type: 'rule', values: ['color-contrast', 'link-in-text-block'] }";

/** What is seriously wrong on the page as it stands. */
async function violations(only: string): Promise<string[]> {
  if (!(await page.driver.executeScript<boolean>('return "axe" in window')))
    await page.driver.executeScript(AXE);
  const found = await page.driver.executeAsyncScript<Violation[]>(
    `const done = arguments[arguments.length - 1];
     axe.run(document, { runOnly: ${only}, resultTypes: ['violations'] })
       .then((r) => done(r.violations.filter((v) => ['serious', 'critical'].includes(v.impact))), (e) => done([{ id: String(e), impact: '', nodes: [] }]));`,
  );
  return found.flatMap((v) =>
    v.nodes.map(
      (n) =>
        `${v.id}: ${n.target.join(' ')} — ${n.html.slice(0, 160)} — ${n.failureSummary.split('\n')[1] ?? ''}`,
    ),
  );
}

/** Every place that somebody can be, and how they get there from the demo. */
const places: readonly [string, () => Promise<void>][] = [
  ['the board', () => page.click('view-board')],
  ['a slab in the slip', () => page.click('slab-studio')],
  ['an uplink in the slip', () => page.click('slab-fibre')],
  ['a switch in the slip', () => page.click('plug-core')],
  ['a form of what is wanted', () => page.click('slip-want-network')],
  [
    'the list of what can be wanted',
    async () => {
      await page.press(Key.ESCAPE);
      await page.click('wants-button');
      await page.get('wants-sieve');
    },
  ],
  [
    'the say line',
    async () => {
      await page.press(Key.ESCAPE);
      await page.say('port forward');
      await page.click('wants-button');
      await page.press(Key.ESCAPE);
      await page.blur();
      await page.press('/');
      await page.fill('say', 'studio lends .50-.99');
    },
  ],
  [
    'keys and words',
    async () => {
      await page.press(Key.ESCAPE);
      await page.blur();
      await page.press('?');
      await page.get('glossary');
    },
  ],
  [
    'the findings',
    async () => {
      await page.press(Key.ESCAPE);
      await page.click('findings-button');
    },
  ],
  [
    'passage',
    async () => {
      await page.click('findings-button');
      await page.click('view-passage');
    },
  ],
  ['everyone', () => page.click('focus-everyone')],
  [
    'ways out, drilled',
    async () => {
      await page.click('view-ways-out');
      await page.click('drill-run');
      await page.sees('drill-marks', /northmoor/);
      await page.sees('what-if-board', /dead/);
    },
  ],
  [
    'subnets with a plan',
    async () => {
      await page.click('view-subnets');
      await page.click('renumber-studio');
      await page.click('plan-button');
      await page.fill('plan-text', 'name;vlan;subnet\nstudio;20;10.61.20.0/24\nloft;70;10.61.70.0');
      await page.sees('plan-bad', /no length/);
    },
  ],
  [
    'the site book',
    async () => {
      await page.click('site-menu');
      await page.click('open-book');
      await page.get('book');
    },
  ],
  ['state', () => page.click('view-state')],
  ['proof', () => page.click('view-proof')],
  [
    'a trace',
    async () => {
      await page.click('why-till-1');
      await page.get('trace');
    },
  ],
  [
    'change',
    async () => {
      await page.say('studio also .3');
      await page.click('view-change');
      await page.sees('change', /also/);
    },
  ],
  ['the text', () => page.click('view-text')],
  ['the site menu', () => page.click('site-menu')],
  [
    'First light',
    async () => {
      await page.click('first-light-new');
      await page.get('password');
    },
  ],
];

/** How the page is shown, switched where it stands. */
const modes = {
  daylight: { theme: 'daylight', colours: 'none' },
  lantern: { theme: 'lantern', colours: 'none' },
  'forced colours': { theme: 'daylight', colours: 'active' },
} as const;
type Mode = keyof typeof modes;

const show = async (mode: Mode): Promise<void> => {
  const { theme, colours } = modes[mode];
  await page.driver.executeScript(`document.documentElement.dataset.theme = '${theme}'`);
  await page.devtools('Emulation.setEmulatedMedia', {
    features: [{ name: 'forced-colors', value: colours }],
  });
  await page.settled();
};

describe('every view', () => {
  const wrong = new Map<Mode, Set<string>>();
  // Everybody goes the same way once. In a sample each place is shown in one mode, all modes by turns.
  before(async () => {
    await page.fresh();
    await page.sees('desks', /open a page/);
    const all = Object.keys(modes) as Mode[];
    for (const [n, [place, go]] of places.entries()) {
      await go();
      for (const [k, mode] of (isDeep ? all : [all[n % all.length]!]).entries()) {
        await show(mode);
        const found = memo(wrong, mode, () => new Set());
        for (const v of await violations(k === 0 ? ALL : COLOURS)) found.add(`${place}: ${v}`);
      }
    }
    await show('daylight');
  });
  for (const mode of Object.keys(modes) as Mode[])
    it(`has nothing seriously wrong for who cannot see or point, in ${mode}`, () => {
      expect([...wrong.get(mode)!].slice(0, 12)).to.deep.equal([]);
    });

  it('keeps its head in one row and half of the height for the board, at 1280 by 800 and at twice the size', async () => {
    await page.devtools('Emulation.setEmulatedMedia', { features: [] });
    for (const [width, height] of [
      [1280, 800],
      [640, 400],
    ] as const) {
      await page.devtools('Emulation.setDeviceMetricsOverride', {
        width,
        height,
        deviceScaleFactor: 1,
        mobile: false,
      });
      await page.fresh();
      await page.sees('strip', /open a page/);
      const size = () =>
        page.driver.executeScript<{ head: number; wide: number; board: number; left: number[] }>(
          `const box = (s) => document.querySelector(s).getBoundingClientRect();
           return { head: box('header').height, wide: document.querySelector('header').scrollWidth, board: box('main').height,
             left: [...document.querySelectorAll('header > *')].map((e) => Math.round(e.getBoundingClientRect().left)) };`,
        );
      const before = await size();
      expect(before.head, `${width}: one row`).to.be.at.most(48);
      expect(before.wide, `${width}: nothing runs out of it`).to.be.at.most(width);
      expect(before.board, `${width}: the board`).to.be.at.least(height / 2);
      // Whatever is told in it, nothing in it moves.
      await page.say('studio also .3');
      await page.settled();
      const after = await size();
      expect([after.head, after.left], `${width}: it moved`).to.deep.equal([before.head, before.left]);
    }
    await page.devtools('Emulation.clearDeviceMetricsOverride', {});
  });
});
