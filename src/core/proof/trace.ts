/** One flow followed stage by stage through every node, there and back. */
import { contains, familyOf, formatIp, isIpv4, parseIp, sampleFlow } from '#core/addr';
import type { Family, FlowService, Ip, Ipv6, Services } from '#core/addr';
import type { Attempt, Bench, Step, Tap } from '#core/bench';
import type { Statement, Who } from '#core/notation';
import { KINDS, isFarName } from '#core/notation';
import type { Model } from '#core/model';
import type { Reach } from '#core/reach';
import { kindOf, knownRanges, whoNow } from '#core/semantics';
import { interfaceNamed, networksOf, stationsOf, zoneNamed } from '#core/site';
import type { Site, Station } from '#core/site';
import { askFor } from './asking';
import { endOf } from './explain';
import { interfacesOf, probeOn } from './probes';
import { bootBench } from './prove';
import type { Drill } from './prove';
import { targetBeyond } from './targets';

export type Verdict = 'answered' | 'delivered' | 'dropped' | 'rejected' | 'unroutable' | 'unresolved';

export interface Trace {
  readonly verdict: Verdict;
  /** The statement that decided, where one did. */
  readonly decided?: Statement;
  /** The source address that the target saw. */
  readonly seenAs?: Ip;
  /** The interface by which the flow left the box. */
  readonly out?: string;
  readonly steps: readonly Step[];
  /** Who was asked, by name, and where. */
  readonly from: string;
  readonly to: string;
  readonly service: FlowService;
}

/** Why a trace cannot be made. */
export interface TraceFault {
  readonly what: 'unknown' | 'no-address' | 'no-place' | 'service' | 'wrong-drill';
  readonly name: string;
}

export interface TraceQuestion {
  readonly from: string;
  readonly to: string;
  /** Absent: ping. */
  readonly service?: Services;
  readonly drill?: Drill;
  readonly tap?: Tap;
}

/** Reads an end as anything a promise may name, or an address. */
export function readEnd(site: Site, text: string): Who | undefined {
  const at = { start: 0, end: text.length, line: 1, column: 1 };
  const trimmed = text.trim();
  if (trimmed === 'internet') return { type: 'internet', at };
  const of = /^(\S+)\s+of\s+(\S+)$/.exec(trimmed);
  const suffix = of ? parseIp(of[1]!) : undefined;
  if (typeof suffix === 'bigint' && of)
    return { type: 'suffix', suffix, interface: { name: of[2]!, at }, at };
  const address = parseIp(trimmed);
  if (address !== undefined) return { type: 'addresses', range: { first: address, last: address }, at };
  const [first = '', second] = trimmed.split(/\s+/);
  const kind = KINDS.find((k) => k === first);
  const who: Who =
    kind && second ? { type: 'name', kind, name: second, at } : { type: 'name', name: first, at };
  return isFarName(who.name) && (kindOf(site, who) || who.name === 'box' || who.name === site.box?.name)
    ? who
    : undefined;
}

type Asker =
  | { readonly at: 'host'; readonly name: string; readonly probe?: Station }
  | { readonly at: 'far'; readonly name: string }
  | { readonly at: 'box'; readonly interface?: string; readonly address?: Ip }
  | { readonly at: 'address'; readonly address: Ip };

/** Where an end is: the first station of a zone, else a probe in it. */
function placeOf(model: Model, who: Who, towards: boolean): Asker | TraceFault {
  const { site, wiring, prospects } = model;
  if (who.type === 'suffix')
    return { what: 'no-address', name: `${formatIp(who.suffix as Ipv6)} of ${who.interface.name}` };
  const name = who.type === 'name' ? who.name : who.type;
  const loud = wiring.fars.filter((f) => !f.silent);
  const firstFar = loud.find((f) => f.addresses.some(isIpv4)) ?? loud[0];
  if (who.type === 'internet' || who.type === 'any')
    return firstFar ? { at: 'far', name: firstFar.name } : { what: 'no-place', name };
  if (who.type === 'addresses') {
    const address = who.range.first;
    const { stations, stations6 } = prospects;
    const station = wiring.stations.find(
      (s) =>
        !s.off && (stations.get(s.name)?.address === address || stations6.get(s.name)?.address === address),
    );
    if (station) return { at: 'host', name: station.name };
    const own = site.interfaces.find((i) => i.addresses.some((a) => a.prefix.address === address));
    if (own) return { at: 'box', interface: own.name, address };
    const far = wiring.fars.find((f) => f.addresses.includes(address));
    if (far) return { at: 'far', name: far.name };
    if (towards) return { at: 'address', address };
    const iface = site.interfaces.find(
      (i) => !i.off && !i.uplink && networksOf(i, prospects).some((n) => contains(n, address)),
    );
    const probe = iface && probeOn(iface, model, address);
    return probe ? { at: 'host', name: probe.name, probe } : { what: 'no-place', name: formatIp(address) };
  }
  const kind = kindOf(site, who);
  switch (kind) {
    case 'station':
      return { at: 'host', name };
    case 'far':
      return { at: 'far', name };
    case 'interface':
      if (towards || interfaceNamed(site, name)!.uplink) return { at: 'box', interface: name };
      break;
    case 'door': {
      const door = model.rules.doors.find((d) => d.name === name);
      return door ? { at: 'address', address: door.outside } : { what: 'no-address', name: `door ${name}` };
    }
    case 'known': {
      const [range] = knownRanges(
        prospects,
        site.knowns.find((k) => k.name === name),
      );
      return range
        ? placeOf(
            model,
            { type: 'addresses', range: { first: range.first, last: range.first }, at: who.at },
            towards,
          )
        : { what: 'no-address', name };
    }
    case undefined:
      return { at: 'box' };
    case 'zone':
      break;
  }
  const interfaces = interfacesOf(site, prospects, who);
  for (const iface of interfaces) {
    const sitting = stationsOf(wiring, iface).find((s) => !s.off);
    if (sitting) return { at: 'host', name: sitting.name };
  }
  const zone = zoneNamed(site, name);
  if (zone?.upstream && firstFar) return { at: 'far', name: firstFar.name };
  for (const iface of interfaces) {
    const probe = probeOn(iface, model);
    if (probe) return { at: 'host', name: probe.name, probe };
  }
  return { what: 'no-place', name };
}

/** Follows one flow. The site is booted afresh, so that the answer depends on nothing that went before. */
export function traceFlow(reach: Reach, question: TraceQuestion): Trace | TraceFault {
  const { model } = reach;
  const { site } = model;
  const now = (text: string) => {
    const who = readEnd(site, text);
    return who && whoNow(site, model.prospects, who);
  };
  const fromWho = now(question.from);
  if (!fromWho) return { what: 'unknown', name: question.from };
  const toWho = now(question.to);
  if (!toWho) return { what: 'unknown', name: question.to };
  const from = placeOf(model, fromWho, false);
  if ('what' in from) return from;
  const to = placeOf(model, toWho, true);
  if ('what' in to) return to;
  const service = sampleFlow(question.service ?? [{ kind: 'ping' }]);
  const probes = [from, to].flatMap((p) => (p.at === 'host' && p.probe ? [p.probe] : []));
  const { bench, wrong } = bootBench(reach, question.drill, { probes, tap: question.tap });
  if (wrong.length) return { what: 'wrong-drill', name: wrong[0]! };
  // An address that was asked for settles the family; else IPv4 where both ends have it.
  const said = [fromWho, toWho].flatMap((w) => (w.type === 'addresses' ? [familyOf(w.range.first)] : []))[0];
  const families = (said ? [said] : ([4, 6] as const)).filter((f) => speaks(bench, from, f));
  const target = families.map((f) => addressOf(bench, to, fromWho, f)).find((a) => a !== undefined);
  const names = { from: nameOf(bench, from), to: nameOf(bench, to) };
  if (!families.length) return { what: 'no-address', name: names.from };
  if (target === undefined) return { what: 'no-address', name: names.to };
  const mark = bench.newMark();
  const begun = start(bench, from, target, service, mark);
  if (!begun) return { what: 'no-address', name: names.from };
  bench.wait(() => begun.done, 30_000);
  // A question for a neighbour outlives a ping: its end tells why there was silence.
  if (begun.result === 'silence') bench.scheduler.pass(4000);
  const asker = from.at === 'host' || from.at === 'far' ? from.name : bench.box.name;
  return { ...verdictOf(bench, mark, begun, to, asker), ...names, service };
}

const nameOf = (bench: Bench, place: Asker): string =>
  place.at === 'box'
    ? bench.box.name
    : place.at === 'address'
      ? formatIp(place.address)
      : place.name.replace(/^~/, 'probe on ');

const speaks = (bench: Bench, place: Asker, family: Family): boolean =>
  place.at === 'host'
    ? !!bench.hosts.get(place.name)?.addresses.some((a) => familyOf(a.address) === family)
    : place.at === 'far'
      ? !!bench.fars.get(place.name)?.setup.addresses.some((a) => familyOf(a) === family)
      : true;

function addressOf(bench: Bench, place: Asker, from: Who, family: Family): Ip | undefined {
  const inFamily = (a: Ip) => familyOf(a) === family;
  switch (place.at) {
    case 'host':
      return bench.hosts
        .get(place.name)
        ?.addresses.map((a) => a.address)
        .find(inFamily);
    case 'far':
      return bench.fars.get(place.name)?.setup.addresses.find(inFamily);
    case 'address':
      return inFamily(place.address) ? place.address : undefined;
    case 'box': {
      if (place.address !== undefined) return place.address;
      const states = bench.box.states();
      const asked = place.interface ?? (from.type === 'name' ? from.name : '');
      const own = states.get(asked) ?? [...states.values()].find((s) => s.addresses.length);
      return own?.addresses.map((a) => a.address).find(inFamily) ?? targetBeyond(bench, undefined, family);
    }
  }
}

function start(
  bench: Bench,
  from: Asker,
  target: Ip,
  service: FlowService,
  mark: number,
): Attempt | undefined {
  const host = from.at === 'host' ? bench.hosts.get(from.name) : undefined;
  const far = from.at === 'far' ? bench.fars.get(from.name) : undefined;
  if (from.at === 'host' && !host?.addresses.length) return undefined;
  const ends = host?.endpoints ?? far?.endpoints ?? (from.at === 'box' ? bench.box.endpoints : undefined);
  if (!ends) return undefined;
  const options = { mark, bind: from.at === 'box' ? from.interface : undefined };
  return askFor(bench, ends, target, service, options);
}

function verdictOf(
  bench: Bench,
  mark: number,
  attempt: Attempt,
  to: Asker,
  from: string,
): Pick<Trace, 'verdict' | 'decided' | 'seenAs' | 'out' | 'steps'> {
  const steps = bench.stepsOf(mark);
  const end = endOf(bench, mark);
  const departed = steps.find((s) => s.code === 'departed');
  const target = to.at === 'host' || to.at === 'far' ? to.name : to.at === 'box' ? bench.box.name : '';
  // At an address, as through a door, whoever it is got it if the first packet was taken in.
  const asked = steps.find((s) => s.code === 'sent' || s.code === 'arrived')?.packet.protocol;
  const arrival = steps.find(
    (s) =>
      s.code === 'received' && (target ? s.node === target : s.node !== from && s.packet.protocol === asked),
  );
  const passed = steps.find(
    (s) => s.code === 'passed' || s.code === 'passed-within' || s.code === 'box-answers',
  );
  const common = {
    steps,
    out: steps.find((s) => s.code === 'routed')?.interface ?? departed?.interface,
    seenAs: arrival?.packet.source,
  };
  if (attempt.result === 'answered') return { ...common, verdict: 'answered', decided: passed?.statement };
  const verdict: Verdict = !end
    ? arrival
      ? 'delivered'
      : attempt.result === 'no-route'
        ? 'unroutable'
        : 'dropped'
    : end.code === 'rejected'
      ? 'rejected'
      : end.code === 'no-route' ||
          end.code === 'host-no-gateway' ||
          end.code === 'provider-no-route' ||
          end.code === 'cloud-no-route' ||
          end.code === 'router-no-route'
        ? 'unroutable'
        : end.code === 'no-neighbour'
          ? 'unresolved'
          : 'dropped';
  return { ...common, verdict, decided: end ? end.statement : passed?.statement };
}
