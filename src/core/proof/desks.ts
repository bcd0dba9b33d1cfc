/** The ladder of a desk behind the box: what the people there get, stage after stage. */
import { formatIp, formatPrefix } from '#core/addr';
import type { Family } from '#core/addr';
import { answerOf } from '#core/bench';
import type { Attempt, Bench, Host } from '#core/bench';
import { claimantAt, interfaceFor } from '#core/site';
import type { Interface, Station } from '#core/site';
import { endOf, isForbidden } from './explain';
import type { EndStep } from './explain';
import { FULL_SEGMENT, Stages, pingPatiently, seenBy, isSupposedResolver } from './ladder';
import type { StageResult } from './ladder';
import { listeningFar, namedFar, targetBeyond } from './targets';
import { endValues } from './told';
import type { StageCode, StageValues } from './told';

export const DESK_STAGES = [
  'address',
  'gateway-ping',
  'beyond-ping',
  'resolver',
  'name',
  'name-ping',
  'page',
  'egress',
] as const;
export type DeskStage = (typeof DESK_STAGES)[number];

export interface DeskLadder {
  readonly interface: string;
  readonly station: string;
  readonly supposed: boolean;
  readonly stages: readonly StageResult[];
}

/** The stations that count as desks: on the segment of an inside interface, and not off. */
export function desksOf(bench: Bench): { station: Station; iface: Interface }[] {
  return bench.wiring.stations.flatMap((station) => {
    if (station.off || station.name.startsWith(PROBE)) return [];
    const iface = interfaceFor(bench.site, bench.wiring, station) ?? claimantAt(bench.site, station.landing);
    return iface && !iface.uplink ? [{ station, iface }] : [];
  });
}

/** Names of probes begin so; no station of a site can, since a name begins with a letter. */
export const PROBE = '~';

export function deskLadder(bench: Bench, station: Station, iface: Interface): DeskLadder {
  const stages = new Stages<DeskStage>(DESK_STAGES);
  const host = bench.hosts.get(station.name);
  if (host) climb(bench, host, iface, stages);
  return {
    interface: iface.name,
    station: station.name,
    supposed: station.supposed,
    stages: stages.finish(),
  };
}

function climb(bench: Bench, host: Host, iface: Interface, stages: Stages<DeskStage>): void {
  const desk = { station: host.name, interface: iface.name };
  // A desk with both families is asked about IPv4, as most of what it opens is there.
  const address = host.address ?? host.addresses6[0];
  const family: Family = host.address || !address ? 4 : 6;
  if (!host.nic.carrier) return stages.fail('address', 'desk-no-carrier', desk);
  if (!address) {
    const code = !host.dhcp
      ? 'desk-no-address'
      : iface.off
        ? 'desk-interface-off'
        : iface.pools.length
          ? bench.box.interface(iface.name)?.server?.full(bench.scheduler.now)
            ? 'desk-pool-full'
            : 'desk-no-lease'
          : iface.relays.length
            ? 'desk-no-lease'
            : 'desk-nobody-lends';
    return stages.fail('address', code, { ...desk, tries: String(host.dhcp?.tries ?? 0) });
  }
  const settled = { ...desk, address: formatPrefix(address) };
  const made = family === 6 && !host.setup.address6;
  stages.pass('address', made ? 'desk-slaac' : host.dhcp ? 'desk-lease' : 'desk-static', settled);

  /** Runs one attempt with a mark; tells what became of it. */
  const tried = (begin: (mark: number) => Attempt): { attempt: Attempt; end?: EndStep; mark: number } => {
    let mark = 0;
    const attempt = pingPatiently(bench, () => begin((mark = bench.newMark())));
    return { attempt, end: attempt.result === 'answered' ? undefined : endOf(bench, mark), mark };
  };
  /** Settles a stage whose attempt was not answered; returns whether the climb goes on. */
  const unanswered = <C extends StageCode>(
    stage: DeskStage,
    end: EndStep | undefined,
    code: C,
    values: StageValues[C],
  ): boolean => {
    if (end && isForbidden(end)) {
      stages.skip(stage, 'not-permitted', endValues(end));
      return true;
    }
    if (end) stages.fail(stage, 'desk-stopped', endValues(end));
    else stages.fail(stage, code, values);
    return false;
  };

  const gateway = family === 4 ? host.gateway : host.gateway6;
  if (gateway === undefined) return stages.fail('gateway-ping', 'desk-no-gateway', desk);
  const near = {
    ...desk,
    gateway: formatIp(gateway),
    question: family === 6 ? 'neighbour discovery' : 'ARP',
  };
  const ping = tried((mark) => host.endpoints.ping(gateway, { mark }));
  if (ping.attempt.result === 'answered') stages.pass('gateway-ping', 'gateway-answers', near);
  else if (ping.end?.code === 'box-silent') stages.skip('gateway-ping', 'gateway-no-ping', desk);
  else if (!unanswered('gateway-ping', ping.end, 'gateway-silent', near)) return;

  const beyond = targetBeyond(bench, undefined, family);
  if (beyond === undefined) stages.skip('beyond-ping', 'beyond-nobody', {});
  else {
    const behind = { ...near, target: formatIp(beyond) };
    const far = tried((mark) => host.endpoints.ping(beyond, { mark }));
    if (far.attempt.result === 'answered') stages.pass('beyond-ping', 'beyond-answers', behind);
    else if (!unanswered('beyond-ping', far.end, 'beyond-silent', behind)) return;
  }

  const servers = host.names;
  const wanted = namedFar(bench, family);
  const asked = { ...desk, name: wanted.name, servers: servers.map(formatIp).join(', '), server: '' };
  let resolved;
  // A machine that may not go out needs no resolver; one that may is lost without.
  const mayGoOut = !stages.list.some((s) => s.stage === 'beyond-ping' && s.code === 'not-permitted');
  if (!servers.length && mayGoOut) return stages.fail('resolver', 'desk-no-names', desk);
  let answer: ReturnType<typeof answerOf>;
  let supposed = false;
  let end: EndStep | undefined;
  for (const server of servers) {
    const mark = bench.newMark();
    // The box may have to try several resolvers of its own before it answers.
    const attempt = host.endpoints.resolve(server, wanted.name, { mark }, 5000, family);
    bench.wait(() => attempt.done, 8000);
    answer = answerOf(attempt);
    if (answer) {
      asked.server = formatIp(server);
      supposed = isSupposedResolver(bench, server);
      break;
    }
    end ??= endOf(bench, mark);
  }
  if (answer) {
    stages.pass('resolver', 'resolver-answers', asked, supposed);
    resolved = answer.addresses[0];
    if (resolved === undefined) return stages.fail('name', 'name-unknown', asked);
    const found = { ...asked, resolved: formatIp(resolved) };
    stages.pass('name', 'name-resolves', found, supposed);
    const address = resolved;
    const named = tried((mark) => host.endpoints.ping(address, { mark }));
    if (named.attempt.result === 'answered') stages.pass('name-ping', 'name-answers', found);
    else if (!unanswered('name-ping', named.end, 'name-silent', found)) return;
  } else {
    if (!servers.length) stages.skip('resolver', 'desk-needs-no-names', desk);
    else if (!unanswered('resolver', end, 'resolver-silent', asked)) return;
    stages.skip('name', 'no-resolver', {});
    stages.skip('name-ping', 'no-resolver', {});
  }

  const web = listeningFar(bench, family);
  const mark = bench.newMark();
  if (!web) stages.skip('page', 'page-nobody', {});
  else {
    const opened = { page: `${web.name} tcp ${web.port}` };
    const page = host.endpoints.connect(web.address, web.port, FULL_SEGMENT[family], { mark });
    bench.wait(() => page.done, 20_000);
    if (page.result === 'answered')
      stages.pass('page', 'page-opens', { ...opened, octets: String(page.data?.length ?? 0) });
    else if (!unanswered('page', endOf(bench, mark), page.opened ? 'page-stalls' : 'page-silent', opened))
      return;
  }
  const seen = seenBy(bench, mark);
  if (seen === undefined) stages.skip('egress', 'egress-unknown', {});
  else stages.pass('egress', 'egress-seen', { seen: formatIp(seen) });
}
