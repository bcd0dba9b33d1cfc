/** The ladder of an uplink: stage after stage from the cable to a web page, and the first that fails named. */
import { familyOf, formatIp, formatPrefix, mustIpv4, parseIp } from '#core/addr';
import type { Family, Ip } from '#core/addr';
import { answerOf } from '#core/bench';
import type { Attempt, Bench, BoxInterface } from '#core/bench';
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
  /** It rests on somebody that is only supposed to be there. */
  readonly supposed?: true;
}

export interface UplinkLadder {
  readonly interface: string;
  readonly family: 'ipv4' | 'ipv6';
  /** Whether it carries the default route of its table at the moment. */
  readonly active: boolean;
  /** Whether its circuit is a supposition. */
  readonly supposed: boolean;
  readonly stages: readonly StageResult[];
}

/** Tries of a ping before silence is believed: a circuit may lose packets. */
export const PING_TRIES = 3;
/** Octets of a full-size segment on Ethernet, by family; less goes where an end says that it takes less. */
export const FULL_SEGMENT: Readonly<Record<Family, number>> = { 4: 1460, 6: 1440 };

/** Collects stages; after the first failure the rest are skipped. */
export class Stages<S extends StageName> {
  readonly list: StageResult[] = [];
  failed?: S;

  constructor(private readonly order: readonly S[]) {}

  pass(stage: S, code: string, values: Record<string, string> = {}, supposed = false): void {
    this.list.push({ stage, result: 'pass', code, values, ...(supposed ? { supposed } : {}) });
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

/** Which families an uplink is asked about: IPv4 unless it only speaks IPv6, then IPv6 where it does. */
export function familiesOf(iface: Interface): Family[] {
  const four = iface.dynamic !== undefined || iface.addresses.some((a) => familyOf(a.prefix.address) === 4);
  return [...(four || !iface.speaks6 ? [4 as const] : []), ...(iface.speaks6 ? [6 as const] : [])];
}

/** Runs the ladder of one uplink and family, all its probes bound to the interface. */
export function uplinkLadder(bench: Bench, iface: Interface, family: Family): UplinkLadder {
  const { box, site } = bench;
  const stages = new Stages<StageName>(UPLINK_STAGES);
  climb(bench, iface, family, stages);
  const somewhere = family === 4 ? mustIpv4('192.0.2.1') : parseIp('2001:db8::1')!;
  const route = lookUp(box.routes(), iface.table, targetBeyond(bench, iface, family) ?? somewhere);
  const described = describedPorts(site);
  return {
    interface: iface.name,
    family: family === 4 ? 'ipv4' : 'ipv6',
    active: route?.interface === iface.name,
    supposed: iface.ports.length > 0 && iface.ports.every((p) => !described.has(p)),
    stages: stages.finish(),
  };
}

/** Why there is no address of a family: what was tried, and what came of it. */
function addressless(
  iface: Interface,
  family: Family,
  at: BoxInterface | undefined,
): { code: string; values: Record<string, string> } {
  if (family === 6) {
    const { slaac, dhcpv6 } = iface.auto6;
    if (at?.session && !at.session.link?.open6) return { code: 'address-no-session6', values: {} };
    if (slaac) {
      const { duplicate, tries = 0 } = at?.autoconf ?? {};
      return duplicate === undefined
        ? { code: 'address-no-router', values: { tries: String(tries) } }
        : { code: 'address-duplicate6', values: { address: formatIp(duplicate) } };
    }
    if (dhcpv6) return { code: 'address-no-lease6', values: { tries: String(at?.dhcpv6?.tries ?? 0) } };
    return { code: 'address-none6', values: {} };
  }
  if (at?.dhcp) return { code: 'address-no-lease', values: { tries: String(at.dhcp.tries) } };
  if (!at?.session || iface.dynamic !== 'pppoe') return { code: 'address-none', values: {} };
  const values = { tries: String(at.session.tries), user: iface.login?.user ?? '' };
  switch (at.session.failure) {
    case 'refused':
      return { code: 'address-refused', values };
    case 'nobody':
      return { code: 'address-no-concentrator', values };
    default:
      return { code: 'address-no-session', values };
  }
}

/** How the address of a family was got. */
function addressed(
  iface: Interface,
  address: Ip,
  at: BoxInterface | undefined,
): { code: string; values: Record<string, string> } {
  const lease = at?.dhcp?.lease;
  if (address === lease?.address)
    return { code: 'address-lease', values: { seconds: String(lease.seconds) } };
  if (address === at?.session?.link?.address) return { code: 'address-session', values: {} };
  const six = at?.dhcpv6?.lease;
  if (address === six?.address) return { code: 'address-lease', values: { seconds: String(six.seconds) } };
  if (at?.autoconf?.addresses.some((a) => a.address === address))
    return { code: 'address-slaac', values: {} };
  return iface.addresses.some((a) => a.prefix.address === address)
    ? { code: 'address-static', values: {} }
    : { code: 'address-delegated', values: {} };
}

function climb(bench: Bench, iface: Interface, family: Family, stages: Stages<StageName>): void {
  const { box, site } = bench;
  const name = iface.name;
  const bind = { bind: name };
  const at = box.interface(name);
  const port = iface.ports[0] ?? '';
  const values: Record<string, string> = { interface: name, port };
  const circuit = circuitsOf(bench.wiring, iface)[0];
  if (circuit) values.circuit = circuit.name;

  if (iface.ports.some((p) => site.ports.get(p)?.off))
    return stages.fail('carrier', 'carrier-port-off', values);
  if (!at?.carrier) return stages.fail('carrier', circuit?.down ? 'carrier-down' : 'carrier-none', values);
  stages.pass('carrier', circuit ? 'carrier-up' : 'carrier-up-nothing', values);

  const state = box.states().get(name);
  const address = state?.addresses.find((a) => familyOf(a.address) === family);
  // An uplink that only has a prefix delegated needs no address of its own (RFC 7084 §4.2).
  const delegated = family === 6 ? at.dhcpv6?.lease?.delegated : undefined;
  const shown = address ?? delegated;
  if (!shown) {
    const { code, values: more } = addressless(iface, family, at);
    return stages.fail('address', code, { ...values, ...more });
  }
  values.address = formatPrefix(shown);
  const how = addressed(iface, shown.address, at);
  stages.pass('address', how.code, { ...values, ...how.values });

  const gateway = family === 4 ? state?.gateway : state?.gateway6;
  values.question = at.session ? 'the line’s echo' : family === 4 ? 'ARP' : 'neighbour discovery';
  if (gateway === undefined)
    return stages.fail('gateway-neighbour', family === 4 ? 'gateway-none' : 'gateway-none6', values);
  values.gateway = formatIp(gateway);
  // A next hop on none of its subnets makes no route, as a kernel has it, whoever answers there.
  if (!box.routes().some((r) => r.interface === name && r.via === gateway && r.prefix.length === 0)) {
    values.nets = state!.addresses
      .filter((a) => familyOf(a.address) === family)
      .map(formatPrefix)
      .join(', ');
    return stages.fail('gateway-neighbour', 'gateway-no-route', values);
  }
  let answered: boolean | undefined;
  at.probe(gateway, (found) => (answered = found));
  bench.wait(() => answered !== undefined, 10_000);
  if (!answered)
    return stages.fail('gateway-neighbour', circuit ? 'neighbour-silent' : 'neighbour-nobody', values);
  stages.pass('gateway-neighbour', 'neighbour-answers', values);

  const near = pingPatiently(bench, () => box.endpoints.ping(gateway, bind));
  const beyond = targetBeyond(bench, iface, family);
  values.target = beyond === undefined ? '' : formatIp(beyond);
  const far = beyond === undefined ? undefined : pingPatiently(bench, () => box.endpoints.ping(beyond, bind));
  if (near.result === 'answered') stages.pass('gateway-ping', 'gateway-answers', values);
  else if (far?.result === 'answered') stages.skip('gateway-ping', 'gateway-quiet', values);
  else return stages.fail('gateway-ping', 'gateway-silent', values);
  if (!far) stages.skip('beyond-ping', 'beyond-nobody', values);
  else if (far.result !== 'answered') return stages.fail('beyond-ping', 'beyond-silent', values);
  else stages.pass('beyond-ping', 'beyond-answers', values);

  const servers = [...at.names, ...(site.box?.names ?? []).map((n) => n.value)];
  if (!servers.length) return stages.fail('resolver', 'resolver-none', values);
  const wanted = namedFar(bench, family);
  values.name = wanted.name;
  values.servers = servers.map(formatIp).join(', ');
  let answer: ReturnType<typeof answerOf>;
  let supposed = false;
  for (const server of servers) {
    const attempt = box.endpoints.resolve(server, wanted.name, bind, undefined, family);
    bench.wait(() => attempt.done, 5000);
    answer = answerOf(attempt);
    if (!answer) continue;
    values.server = formatIp(server);
    supposed = isSupposedResolver(bench, server);
    break;
  }
  if (!answer) return stages.fail('resolver', 'resolver-silent', values);
  stages.pass('resolver', 'resolver-answers', values, supposed);
  const resolved = answer.addresses[0];
  if (resolved === undefined) return stages.fail('name', 'name-unknown', values);
  values.resolved = formatIp(resolved);
  stages.pass('name', 'name-resolves', values, supposed);

  const named = pingPatiently(bench, () => box.endpoints.ping(resolved, bind));
  if (named.result !== 'answered') return stages.fail('name-ping', 'name-silent', values);
  stages.pass('name-ping', 'name-answers', values);

  const mark = bench.newMark();
  const web = listeningFar(bench, family);
  if (!web) stages.skip('page', 'page-nobody', values);
  else {
    values.page = `${web.name} tcp ${web.port}`;
    const page = box.endpoints.connect(web.address, web.port, FULL_SEGMENT[family], { ...bind, mark });
    bench.wait(() => page.done, 20_000);
    if (page.result !== 'answered')
      return stages.fail('page', page.opened ? 'page-stalls' : 'page-silent', values);
    stages.pass('page', 'page-opens', { ...values, octets: String(page.data?.length ?? 0) });
  }
  const seen = seenBy(bench, mark) ?? seenFrom(bench, resolved);
  if (seen === undefined) stages.skip('egress', 'egress-unknown', values);
  else stages.pass('egress', 'egress-seen', { ...values, seen: formatIp(seen) });
}

/** Whether a resolver is there only because somebody asks it: no far host is written with it, and no circuit names it. */
export const isSupposedResolver = (bench: Bench, address: Ip): boolean =>
  bench.wiring.fars.some((f) => f.supposed && f.resolves && f.addresses.includes(address)) &&
  !bench.wiring.circuits.some((c) => !c.supposed && c.names.includes(address));

/** The source address that the far side saw of a followed packet. */
export function seenBy(bench: Bench, mark: number): Ip | undefined {
  for (const far of bench.fars.values()) {
    const seen = far.seen.find((s) => s.mark === mark);
    if (seen) return seen.source;
  }
  return undefined;
}

/** The source address that one far host saw last. */
function seenFrom(bench: Bench, address: Ip): Ip | undefined {
  for (const far of bench.fars.values())
    if (far.setup.addresses.includes(address)) return far.seen[far.seen.length - 1]?.source;
  return undefined;
}
