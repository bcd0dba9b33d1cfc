/** The ladder of an uplink: stage after stage from the cable to a web page, and the first that fails named. */
import { familyOf, formatIp, formatPrefix, mustIpv4, parseIp } from '#core/addr';
import type { Family, Ip, Prefix } from '#core/addr';
import { answerOf } from '#core/bench';
import type { Attempt, Bench, BoxInterface } from '#core/bench';
import { isLive, lookUp, shareBy } from '#core/semantics';
import type { Route } from '#core/semantics';
import { circuitsOf, describedPorts } from '#core/site';
import type { Interface } from '#core/site';
import { listeningFar, namedFar, targetBeyond } from './targets';
import type { StageCode, StageSeen, StageValues } from './told';

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
  readonly code: StageCode;
  readonly values: Readonly<Record<string, string | undefined>>;
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

  pass<C extends StageCode>(stage: S, code: C, values: StageValues[C], supposed = false): void {
    this.list.push({ stage, result: 'pass', code, values: { ...values }, ...(supposed ? { supposed } : {}) });
  }

  skip<C extends StageCode>(stage: S, code: C, values: StageValues[C]): void {
    this.list.push({ stage, result: 'skipped', code, values: { ...values } });
  }

  fail<C extends StageCode>(stage: S, code: C, values: StageValues[C]): void {
    this.list.push({ stage, result: 'fail', code, values: { ...values } });
    this.failed = stage;
  }

  /** All stages, what was not reached as skipped. */
  finish(): StageResult[] {
    const reached = new Set<string>(this.list.map((s) => s.stage));
    const values = { failed: this.failed ?? '' };
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
    active: route?.interface === iface.name || (family === 4 && sharesWith(bench, route, iface)),
    supposed: iface.ports.length > 0 && iface.ports.every((p) => !described.has(p)),
    stages: stages.finish(),
  };
}

/** Whether an uplink that lives takes a share of what goes by a default route. */
function sharesWith({ box }: Bench, usual: Route | undefined, { name }: Interface): boolean {
  const rule = shareBy(box.rules().shares, usual);
  return !!rule?.uplinks.some((u) => u.name === name) && isLive(box.states().get(name));
}

/** Why there is no address of a family: what was tried, and what came of it. */
function addressless(iface: Interface, family: Family, at: BoxInterface | undefined): StageSeen {
  const port = iface.ports[0] ?? '';
  const { name } = iface;
  if (family === 6) {
    const { slaac, dhcpv6 } = iface.auto6;
    if (at?.session && !at.session.link?.open6) return { code: 'address-no-session6', values: { port } };
    if (slaac) {
      const { duplicate, tries = 0 } = at?.autoconf ?? {};
      return duplicate === undefined
        ? { code: 'address-no-router', values: { tries: String(tries), port } }
        : { code: 'address-duplicate6', values: { address: formatIp(duplicate), interface: name } };
    }
    if (dhcpv6) return { code: 'address-no-lease6', values: { tries: String(at?.dhcpv6?.tries ?? 0), port } };
    return { code: 'address-none6', values: { interface: name } };
  }
  if (at?.dhcp) return { code: 'address-no-lease', values: { tries: String(at.dhcp.tries), port } };
  if (!at?.session || iface.dynamic !== 'pppoe') return { code: 'address-none', values: { interface: name } };
  const values = { tries: String(at.session.tries), port, user: iface.login?.user ?? '' };
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
function addressed(iface: Interface, shown: Prefix, at: BoxInterface | undefined): StageSeen {
  const { address } = shown;
  const values = { address: formatPrefix(shown) };
  const lease = at?.dhcp?.lease;
  if (address === lease?.address)
    return { code: 'address-lease', values: { ...values, seconds: String(lease.seconds) } };
  if (address === at?.session?.link?.address) return { code: 'address-session', values };
  const six = at?.dhcpv6?.lease;
  if (address === six?.address)
    return { code: 'address-lease', values: { ...values, seconds: String(six.seconds) } };
  if (at?.autoconf?.addresses.some((a) => a.address === address)) return { code: 'address-slaac', values };
  return iface.addresses.some((a) => a.prefix.address === address)
    ? { code: 'address-static', values }
    : { code: 'address-delegated', values };
}

function climb(bench: Bench, iface: Interface, family: Family, stages: Stages<StageName>): void {
  const { box, site } = bench;
  const name = iface.name;
  const bind = { bind: name };
  const at = box.interface(name);
  const port = iface.ports[0] ?? '';
  const circuit = circuitsOf(bench.wiring, iface)[0];
  const line = { interface: name, port, circuit: circuit?.name ?? '' };

  if (at?.rests) {
    for (const stage of UPLINK_STAGES) stages.skip(stage, 'resting', line);
    return;
  }
  if (iface.ports.some((p) => site.ports.get(p)?.off))
    return stages.fail('carrier', 'carrier-port-off', line);
  if (!at?.carrier) return stages.fail('carrier', circuit?.down ? 'carrier-down' : 'carrier-none', line);
  stages.pass('carrier', circuit ? 'carrier-up' : 'carrier-up-nothing', line);

  const state = box.states().get(name);
  const address = state?.addresses.find((a) => familyOf(a.address) === family);
  // An uplink that only has a prefix delegated needs no address of its own (RFC 7084 §4.2).
  const delegated = family === 6 ? at.dhcpv6?.lease?.delegated : undefined;
  const shown = address ?? delegated;
  if (!shown) {
    const { code, values } = addressless(iface, family, at);
    return stages.fail('address', code, values);
  }
  const how = addressed(iface, shown, at);
  stages.pass('address', how.code, how.values);

  const gateway = family === 4 ? state?.gateway : state?.gateway6;
  const question = at.session ? 'the line’s echo' : family === 4 ? 'ARP' : 'neighbour discovery';
  if (gateway === undefined)
    return stages.fail('gateway-neighbour', family === 4 ? 'gateway-none' : 'gateway-none6', {
      ...line,
      address: formatPrefix(shown),
    });
  const near = { ...line, gateway: formatIp(gateway), question };
  // A next hop on none of its subnets makes no route, as a kernel has it, whoever answers there.
  if (!box.routes().some((r) => r.interface === name && r.via === gateway && r.prefix.length === 0)) {
    const own = state!.addresses.filter((a) => familyOf(a.address) === family);
    const nets = own.map(formatPrefix).join(', ');
    return stages.fail('gateway-neighbour', 'gateway-no-route', { ...near, nets });
  }
  let answered: boolean | undefined;
  at.probe(gateway, (found) => (answered = found));
  bench.wait(() => answered !== undefined, 10_000);
  if (!answered)
    return stages.fail('gateway-neighbour', circuit ? 'neighbour-silent' : 'neighbour-nobody', near);
  stages.pass('gateway-neighbour', 'neighbour-answers', near);

  const ping = pingPatiently(bench, () => box.endpoints.ping(gateway, bind));
  const beyond = targetBeyond(bench, iface, family);
  const behind = { ...near, target: beyond === undefined ? '' : formatIp(beyond) };
  const far = beyond === undefined ? undefined : pingPatiently(bench, () => box.endpoints.ping(beyond, bind));
  if (ping.result === 'answered') stages.pass('gateway-ping', 'gateway-answers', near);
  else if (far?.result === 'answered') stages.skip('gateway-ping', 'gateway-quiet', near);
  else return stages.fail('gateway-ping', 'gateway-silent', near);
  if (!far) stages.skip('beyond-ping', 'beyond-nobody', behind);
  else if (far.result !== 'answered') return stages.fail('beyond-ping', 'beyond-silent', behind);
  else stages.pass('beyond-ping', 'beyond-answers', behind);

  const servers = [...at.names, ...(site.box?.names ?? []).map((n) => n.value)];
  if (!servers.length) return stages.fail('resolver', 'resolver-none', line);
  const wanted = namedFar(bench, family);
  const asked = { name: wanted.name, servers: servers.map(formatIp).join(', '), server: '' };
  let answer: ReturnType<typeof answerOf>;
  let supposed = false;
  for (const server of servers) {
    const attempt = box.endpoints.resolve(server, wanted.name, bind, undefined, family);
    bench.wait(() => attempt.done, 5000);
    answer = answerOf(attempt);
    if (!answer) continue;
    asked.server = formatIp(server);
    supposed = isSupposedResolver(bench, server);
    break;
  }
  if (!answer) return stages.fail('resolver', 'resolver-silent', asked);
  stages.pass('resolver', 'resolver-answers', asked, supposed);
  const resolved = answer.addresses[0];
  if (resolved === undefined) return stages.fail('name', 'name-unknown', asked);
  const found = { ...asked, resolved: formatIp(resolved) };
  stages.pass('name', 'name-resolves', found, supposed);

  const named = pingPatiently(bench, () => box.endpoints.ping(resolved, bind));
  if (named.result !== 'answered') return stages.fail('name-ping', 'name-silent', found);
  stages.pass('name-ping', 'name-answers', found);

  const mark = bench.newMark();
  const web = listeningFar(bench, family);
  if (!web) stages.skip('page', 'page-nobody', {});
  else {
    const opened = { page: `${web.name} tcp ${web.port}` };
    const page = box.endpoints.connect(web.address, web.port, FULL_SEGMENT[family], { ...bind, mark });
    bench.wait(() => page.done, 20_000);
    if (page.result !== 'answered')
      return stages.fail('page', page.opened ? 'page-stalls' : 'page-silent', opened);
    stages.pass('page', 'page-opens', { ...opened, octets: String(page.data?.length ?? 0) });
  }
  const seen = seenBy(bench, mark) ?? seenFrom(bench, resolved);
  if (seen === undefined) stages.skip('egress', 'egress-unknown', {});
  else stages.pass('egress', 'egress-seen', { seen: formatIp(seen) });
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
