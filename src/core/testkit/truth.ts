/** Asks bench and reach the same about flows drawn at random, and says where they differ. */
import { PROTO, formatFlowService, formatIp, isIpv4, parseIp } from '#core/addr';
import type { FlowService, Ip } from '#core/addr';
import { Bench } from '#core/bench';
import { bootBench, judge } from '#core/proof';
import { modelOf } from '#core/model';
import { Reach, becauseOf, has, judgeOnSets, shownOf } from '#core/reach';
import type { Outcome } from '#core/reach';
import { addressesOf } from '#core/site';
import type { Interface, Site } from '#core/site';
import { Seeded } from '#core/base';

export interface Disagreement {
  readonly flow: string;
  readonly bench: string;
  readonly reach: string;
}

/** One service of every kind that generated rules speak of. */
export const ASKED_SERVICES: readonly FlowService[] = [
  { proto: PROTO.icmp, echo: true },
  { proto: PROTO.tcp, port: 22 },
  { proto: PROTO.tcp, port: 80 },
  { proto: PROTO.tcp, port: 443 },
  { proto: PROTO.tcp, port: 8002 },
  { proto: PROTO.tcp, port: 8443 },
  { proto: PROTO.udp, port: 53 },
  { proto: PROTO.udp, port: 1500 },
  { proto: 50 },
];

const ODD = [
  '10.61.1.10',
  '10.61.2.10',
  '10.61.2.15',
  '10.61.3.77',
  '10.61.1.200',
  '10.61.11.5',
  '10.70.1.1',
  '10.99.0.1',
  '192.0.2.80',
  '192.0.2.90',
  '203.0.113.77',
  '198.51.100.17',
  '198.51.100.19',
  '198.51.100.20',
  '198.51.100.22',
  '203.0.113.19',
  '127.0.0.1',
  '224.0.0.5',
  '255.255.255.255',
  '2001:db8:61:1::10',
  '2001:db8:61:2::77',
  '2001:db8:ffff::80',
  '2001:db8:1::9',
  'fd00::1',
].map((a) => parseIp(a)!);

const CODES = new Set<string>([
  'own-source',
  'no-route-back',
  'guard',
  'box-answers',
  'box-silent',
  'send-never',
  'no-route',
  'dropped',
  'dropped-default',
  'dropped-within',
  'rejected',
  'left-never',
]);

/** `count` flows through one site, asked of both; every disagreement in words. */
export function compareAtBox(site: Site, seed: number, count: number): Disagreement[] {
  const chance = new Seeded(seed);
  const { follower, model } = new Reach(modelOf(site));
  const bench = new Bench(model, { seed }).boot();
  const { prospects } = model;
  const own = site.interfaces.flatMap((i) => addressesOf(i, prospects).map((a) => a.address));
  const held = [...prospects.stations.values(), ...prospects.stations6.values()].map((p) => p.address);
  const pool = [...ODD, ...own, ...held];
  const draw = <T>(list: readonly T[]): T => list[chance.below(list.length)]!;
  const out: Disagreement[] = [];
  const live = site.interfaces.filter((i) => !i.off);
  for (let i = 0; i < count; i++) {
    const arrival = draw(live);
    const destination = draw(pool);
    const source = draw(pool.filter((a) => isIpv4(a) === isIpv4(destination)));
    const picked = draw(ASKED_SERVICES);
    const service = picked.echo && !isIpv4(source) ? { proto: PROTO.icmp6, echo: true } : picked;
    const mark = bench.newMark();
    bench.forge(arrival.name, { source, destination, service }, mark);
    const mine = reachSays(follower, arrival, source, destination, service);
    // Neighbours that nobody is take their time; an outcome at the box does not.
    bench.scheduler.pass(mine.startsWith('departed') ? 4000 : 1);
    const theirs = benchSays(bench, mark);
    if (theirs !== undefined && mine !== theirs)
      out.push({
        flow: `${formatIp(source)} > ${formatIp(destination)} ${formatFlowService(service)} by ${arrival.name}`,
        bench: theirs,
        reach: mine,
      });
  }
  return out;
}

const line = (s: { line: number } | undefined): string => (s ? ` line ${s.line}` : '');

function reachSays(
  follower: Reach['follower'],
  arrival: Interface,
  source: Ip,
  destination: Ip,
  service: FlowService,
): string {
  const hits = follower
    .follow(arrival, isIpv4(source) ? 4 : 6)
    .filter((o) => has(o.flows, { source, destination, service }));
  if (hits.length !== 1) return `${hits.length} outcomes`;
  const o: Outcome = hits[0]!;
  if (o.end !== 'departed') return `${o.end}${CODES.has(o.end) ? line(o.statement) : ''}`;
  const port = service.port === undefined ? '' : ` port ${service.port + (o.shift ?? 0)}`;
  return `departed by ${o.departure!.name} from ${formatIp(shownOf(o, source))} to ${formatIp(o.door?.inside ?? destination)}${port}${line(o.statement)}`;
}

/** Undefined where the flow was known already, as those of protocols without ports soon are. */
function benchSays(bench: Bench, mark: number): string | undefined {
  const steps = bench.stepsOf(mark).filter((s) => s.node === bench.box.name);
  if (steps[1]?.code === 'known-forward' || steps[1]?.code === 'known-back') return undefined;
  // What comes first is about the flow itself; later steps are about its answer.
  const gone = steps.find((s) => CODES.has(s.code) || s.code === 'departed' || s.code === 'no-neighbour');
  if (gone && CODES.has(gone.code)) return `${gone.code}${line(gone.statement)}`;
  if (!gone) return steps.some((s) => s.code === 'arrived') ? 'nowhere' : 'not-spoken';
  const passed = steps.find((s) => s.code === 'passed' || s.code === 'passed-within');
  const { packet } = gone;
  const port =
    packet.protocol === PROTO.tcp || packet.protocol === PROTO.udp
      ? ` port ${(packet.payload[2]! << 8) | packet.payload[3]!}`
      : '';
  return `departed by ${gone.interface} from ${formatIp(packet.source)} to ${formatIp(packet.destination)}${port}${line(passed?.statement)}`;
}

/** Every promise of a site, asked of both; every disagreement in words. */
export function comparePromises(site: Site): Disagreement[] {
  const reach = new Reach(modelOf(site));
  const { bench } = bootBench(reach);
  return site.expects.flatMap((statement) => {
    const sets = judgeOnSets(reach, statement);
    const real = judge(bench, statement, reach);
    if (!sets || (real.result === 'pass') === sets.holds) return [];
    return [
      {
        flow: statement.subject,
        bench: `${real.result} ${real.code} ${JSON.stringify(real.values)}`,
        reach: sets.holds ? 'holds' : `fails ${JSON.stringify(becauseOf(sets))}`,
      },
    ];
  });
}
