/**
 * Drills on the bench and in namespaces: two uplinks, a desk that pings, a line that is really cut or dead behind its
 * gateway, and how long the pings stay away. `npm run lab:drills [SITES] [SEED]`.
 */
import { Seeded } from '#core/base';
import { mustIpv4 } from '#core/addr';
import { BEAT, runDrill } from '#core/proof/drills';
import { reachOf, siteFrom } from '#core/testkit';
import { Lab } from './lab';

export interface DrillSite {
  readonly text: string;
  readonly what: 'cut' | 'deaden';
  /** Seconds between two looks of a watch. */
  readonly every: number;
  readonly lost: number;
  readonly seconds: number;
}

/** What came of one drill on both, seconds of outage. */
export interface DrilledTwice extends DrillSite {
  readonly bench: number;
  readonly kernel: number;
}

/** When the line fails, milliseconds after the first ping. */
const AT = 2000;

/** Sites with two uplinks whose circuits hang on a switch each, so that the box keeps its light. */
export function drillSites(count: number, seed: number): DrillSite[] {
  const chance = new Seeded(seed);
  const pick = <T>(...of: readonly T[]): T => of[chance.below(of.length)]!;
  return Array.from({ length: count }, () => {
    const [every, lost] = [pick(1, 2, 3), pick(1, 2, 3)];
    const what = pick('cut', 'deaden');
    // A line that is cut is noticed by its gateway too, with or without a watch.
    const watched = what === 'deaden' || chance.below(2) > 0;
    const leave = pick(
      'leave any > world: as interface',
      'leave office > fibre: as 198.51.100.20\nleave any > world: as interface',
      'leave office > world: as interface',
    );
    return {
      what,
      every: watched ? every : 5,
      lost: watched ? lost : 3,
      seconds: Math.ceil(AT / 1000 + (watched ? every * (lost + 2) : 25) + 5),
      text: `zone world: upstream
zone office:
interface fibre: on p1, zone world, address 198.51.100.18/29, gateway .17${watched ? `, watch 192.0.2.1 every ${every}s lost ${lost}` : ''}
interface radio: on p2, zone world, address 203.0.113.18/29, gateway .17, priority ${pick(2, 7, 20)}
interface desk: on p3, zone office, address 10.61.20.1/24, answers ping
switch edge: at p1, jack 1 tag 1
switch mast: at p2, jack 1 tag 1
circuit fibre-line: at edge/1, block 198.51.100.16/29, gateway .17
circuit radio-line: at mast/1, block 203.0.113.16/29, gateway .17
station pc: at p3, address 10.61.20.10/24, gateway 10.61.20.1
passage office > world: allow${pick('', ' ping', ' ping, log')}
${leave}
far www.example: address 192.0.2.80, listens tcp 80
far noc.example: address 192.0.2.1
`,
    };
  });
}

/** Seconds of the longest stretch without an answer; also one that is too short to be called an outage. */
function longest(row: readonly { readonly at: number; readonly trip?: number }[]): number {
  let [most, run] = [0, 0];
  for (const { trip } of row) most = Math.max(most, (run = trip === undefined ? run + 1 : 0));
  return (most * BEAT) / 1000;
}

/** Runs one drill on the bench and with a kernel. */
export async function drillTwice(site: DrillSite): Promise<DrilledTwice> {
  const reach = reachOf(siteFrom(site.text));
  const { what, seconds } = site;
  const on = 'fibre-line';
  const run = runDrill(reach, { from: 'pc', to: 'www.example', seconds, acts: [{ at: AT, what, on }] });
  if ('fault' in run) throw new Error(JSON.stringify(run));
  const lab = new Lab(siteFrom(site.text), reach);
  try {
    const uplink = lab.build().site.interfaces.find((i) => i.name === 'fibre')!;
    const pings = await lab.ping('pc', mustIpv4('192.0.2.80'), seconds, { what, uplink, at: AT });
    const row = pings.map((p) => (p.answered ? { at: p.at, trip: 1 } : { at: p.at }));
    return { ...site, bench: longest(run.row), kernel: longest(row) };
  } finally {
    lab.destroy();
  }
}
