/** The ladder of an uplink: stage after stage from the cable to a web page, and the first that fails named. */
import { formatIp, formatPrefix, isIpv4 } from '#core/addr';
import type { Ipv4 } from '#core/addr';
import { answerOf } from '#core/bench';
import type { Attempt, Bench } from '#core/bench';
import { lookUp } from '#core/semantics';
import { circuitsOf, describedPorts } from '#core/site';
import type { Interface } from '#core/site';
import { listeningFar, namedFar, targetBeyond } from './targets';

/** The stages of an uplink, in order (notation, "The command line"). */
export const UPLINK_STAGES = [
  'carrier',
  'address',
  'gateway-neighbour',
  'gateway-ping',
  'beyond-ping',
  'resolver',
  'name',
  'name-ping',
  'page',
  'egress',
] as const;
export type StageName = (typeof UPLINK_STAGES)[number];

/** What was seen at one stage: a code with values, made into a sentence by `words`. */
export interface StageResult {
  readonly stage: StageName;
  readonly result: 'pass' | 'fail' | 'skipped';
  readonly code: string;
  readonly values: Readonly<Record<string, string>>;
}

export interface UplinkLadder {
  readonly interface: string;
  readonly family: 'ipv4';
  /** Whether it carries the default route of its table at the moment. */
  readonly active: boolean;
  /** Whether its circuit is a supposition. */
  readonly supposed: boolean;
  readonly stages: readonly StageResult[];
}

/** Tries of a ping before silence is believed: a circuit may lose packets. */
export const PING_TRIES = 3;
/** Octets of a full-size segment on Ethernet. */
export const FULL_SEGMENT = 1460;

/** Collects stages; after the first failure the rest are skipped. */
export class Stages<S extends StageName> {
  readonly list: StageResult[] = [];
  failed?: S;

  constructor(private readonly order: readonly S[]) {}

  pass(stage: S, code: string, values: Record<string, string> = {}): void {
    this.list.push({ stage, result: 'pass', code, values });
  }

  skip(stage: S, code: string, values: Record<string, string> = {}): void {
    this.list.push({ stage, result: 'skipped', code, values });
  }

  fail(stage: S, code: string, values: Record<string, string> = {}): void {
    this.list.push({ stage, result: 'fail', code, values });
    this.failed = stage;
  }

  /** All stages, what was not reached as skipped. */
  finish(): StageResult[] {
    const reached = new Set<string>(this.list.map((s) => s.stage));
    const values: Record<string, string> = { failed: this.failed ?? '' };
    const rest = this.order
      .filter((stage) => !reached.has(stage))
      .map((stage): StageResult => ({ stage, result: 'skipped', code: 'after-failure', values }));
    return [...this.list, ...rest];
  }
}

/** Pings up to PING_TRIES times, until one is answered. */
export function pingPatiently(bench: Bench, ping: () => Attempt): Attempt {
  let attempt = ping();
  for (let i = 1; ; i++) {
    bench.wait(() => attempt.done, 5000);
    if (attempt.result !== 'silence' || i >= PING_TRIES) return attempt;
    attempt = ping();
  }
}

/** Runs the ladder of one uplink, all its probes bound to the interface. */
export function uplinkLadder(bench: Bench, iface: Interface): UplinkLadder {
  const { box, site } = bench;
  const stages = new Stages<StageName>(UPLINK_STAGES);
  climb(bench, iface, stages);
  const route = lookUp(box.routes(), iface.table, targetBeyond(bench, iface) ?? (0x08080808 as Ipv4));
  const described = describedPorts(site);
  return {
    interface: iface.name,
    family: 'ipv4',
    active: route?.interface === iface.name,
    supposed: iface.ports.length > 0 && iface.ports.every((p) => !described.has(p)),
    stages: stages.finish(),
  };
}

function climb(bench: Bench, iface: Interface, stages: Stages<StageName>): void {
  const { box, site } = bench;
  const name = iface.name;
  const bind = { bind: name };
  const port = iface.ports[0] ?? '';
  const values: Record<string, string> = { interface: name, port };
  const circuit = circuitsOf(bench.wiring, iface)[0];
  if (circuit) values.circuit = circuit.name;

  if (iface.ports.some((p) => site.ports.get(p)?.off))
    return stages.fail('carrier', 'carrier-port-off', values);
  if (!box.hasCarrier(name))
    return stages.fail('carrier', circuit?.down ? 'carrier-down' : 'carrier-none', values);
  stages.pass('carrier', circuit ? 'carrier-up' : 'carrier-up-nothing', values);

  const address = box.states().get(name)?.addresses[0];
  if (!address) {
    const client = box.clientOf(name);
    if (client) return stages.fail('address', 'address-no-lease', { ...values, tries: String(client.tries) });
    return stages.fail('address', iface.dynamic ? 'address-pppoe' : 'address-none', values);
  }
  values.address = formatPrefix(address);
  const lease = box.leaseOf(name);
  if (lease) stages.pass('address', 'address-lease', { ...values, seconds: String(lease.seconds) });
  else stages.pass('address', 'address-static', values);

  const gateway = box.states().get(name)?.gateway;
  if (gateway === undefined || !isIpv4(gateway))
    return stages.fail('gateway-neighbour', 'gateway-none', values);
  values.gateway = formatIp(gateway);
  let mac: number | undefined | 'waiting' = 'waiting';
  box.probe(name, gateway, (found) => (mac = found));
  bench.wait(() => mac !== 'waiting', 10_000);
  if (mac === undefined || mac === 'waiting')
    return stages.fail('gateway-neighbour', circuit ? 'neighbour-silent' : 'neighbour-nobody', values);
  stages.pass('gateway-neighbour', 'neighbour-answers', values);

  const near = pingPatiently(bench, () => box.endpoints.ping(gateway, bind));
  const beyond = targetBeyond(bench, iface);
  values.target = beyond === undefined ? '' : formatIp(beyond);
  const far = beyond === undefined ? undefined : pingPatiently(bench, () => box.endpoints.ping(beyond, bind));
  if (near.result === 'answered') stages.pass('gateway-ping', 'gateway-answers', values);
  else if (far?.result === 'answered') stages.skip('gateway-ping', 'gateway-quiet', values);
  else return stages.fail('gateway-ping', 'gateway-silent', values);
  if (!far) stages.skip('beyond-ping', 'beyond-nobody', values);
  else if (far.result !== 'answered') return stages.fail('beyond-ping', 'beyond-silent', values);
  else stages.pass('beyond-ping', 'beyond-answers', values);

  const servers = [
    ...box.namesOf(name).map((server) => ({ server, options: bind })),
    ...(site.box?.names ?? []).flatMap((n) => (isIpv4(n.value) ? [{ server: n.value, options: bind }] : [])),
  ];
  if (!servers.length) return stages.fail('resolver', 'resolver-none', values);
  const wanted = namedFar(bench);
  values.name = wanted.name;
  values.servers = servers.map((s) => formatIp(s.server)).join(', ');
  let answer: ReturnType<typeof answerOf>;
  for (const { server, options } of servers) {
    const attempt = box.endpoints.resolve(server, wanted.name, options);
    bench.wait(() => attempt.done, 5000);
    answer = answerOf(attempt);
    if (!answer) continue;
    values.server = formatIp(server);
    break;
  }
  if (!answer) return stages.fail('resolver', 'resolver-silent', values);
  stages.pass('resolver', 'resolver-answers', values);
  const resolved = answer.addresses[0];
  if (resolved === undefined) return stages.fail('name', 'name-unknown', values);
  values.resolved = formatIp(resolved);
  stages.pass('name', 'name-resolves', values);

  const named = pingPatiently(bench, () => box.endpoints.ping(resolved, bind));
  if (named.result !== 'answered') return stages.fail('name-ping', 'name-silent', values);
  stages.pass('name-ping', 'name-answers', values);

  const mark = bench.newMark();
  const web = listeningFar(bench);
  if (!web) stages.skip('page', 'page-nobody', values);
  else {
    values.page = `${web.name} tcp ${web.port}`;
    const page = box.endpoints.connect(web.address, web.port, FULL_SEGMENT, { ...bind, mark });
    bench.wait(() => page.done, 20_000);
    if (page.result !== 'answered')
      return stages.fail('page', page.opened ? 'page-stalls' : 'page-silent', values);
    stages.pass('page', 'page-opens', { ...values, octets: String(page.data?.length ?? 0) });
  }
  const seen = seenBy(bench, mark) ?? seenFrom(bench, resolved);
  if (seen === undefined) stages.skip('egress', 'egress-unknown', values);
  else stages.pass('egress', 'egress-seen', { ...values, seen: formatIp(seen) });
}

/** The source address that the far side saw of a followed packet. */
export function seenBy(bench: Bench, mark: number): Ipv4 | undefined {
  for (const far of bench.fars.values()) {
    const seen = far.seen.find((s) => s.mark === mark);
    if (seen) return seen.source;
  }
  return undefined;
}

/** The source address that one far host saw last. */
function seenFrom(bench: Bench, address: Ipv4): Ipv4 | undefined {
  for (const far of bench.fars.values())
    if (far.setup.addresses.includes(address)) return far.seen[far.seen.length - 1]?.source;
  return undefined;
}
