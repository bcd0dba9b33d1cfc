/** Promises put to the bench: every station and far host that stands for either side, probes where nobody sits. */
import {
  PROTO,
  contains,
  familyOf,
  formatFlowService,
  formatIp,
  isIpv4,
  rangeContains,
  sampleFlow,
} from '#core/addr';
import type { FlowService, Ip, Services } from '#core/addr';
import { readPacket } from '#core/bench';
import type { Attempt, Bench, Step } from '#core/bench';
import type { ExpectStatement, Who } from '#core/notation';
import { FAMILIES, becauseOf, judgeOnSets } from '#core/reach';
import type { Place, Point, Reach } from '#core/reach';
import { addressesFor, askedServices, kindOf, lookUp, namedServices, outsideOf } from '#core/semantics';
import type { DoorRule } from '#core/semantics';
import type { Interface } from '#core/site';
import { UNREACHABLE } from '#core/wire';
import { interfaceAt, interfaceNamed, networksOf, stationsOf, zoneNamed } from '#core/site';
import { askFor } from './asking';
import type { Endpoints } from './asking';
import { endOf, isEnd } from './explain';
import { seenBy } from './ladder';
import { interfacesOf } from './probes';
import { PROBE, stepValues } from './desks';

export interface PromiseResult {
  readonly statement: ExpectStatement;
  readonly result: 'pass' | 'fail';
  readonly code: string;
  readonly values: Readonly<Record<string, string>>;
}

/** One place that packets come from or go to, with all its addresses at the moment. */
interface End {
  readonly name: string;
  readonly addresses: readonly Ip[];
  readonly far?: boolean;
  /** The interface behind which, and behind another router, it is. */
  readonly behind?: string;
  /** How it begins a flow; absent where nobody is that could. */
  readonly begin?: (to: Ip, service: FlowService, mark: number) => Attempt;
}

/** One address of an end that is asked for. Behind another router inside nobody is that could answer. */
interface Target {
  readonly behind?: string;
  readonly name: string;
  readonly address: Ip;
}

/** Services tried for a promise that names none: what the rules speak of, and the usual ones. */
const MOST_SERVICES = 16;

/** The ends that stand for a WHO: its stations and probes, or far hosts. */
function endsOf(bench: Bench, reach: Reach, who: Who): End[] {
  const { site, wiring } = bench;
  const { prospects } = bench.model;
  const station = (name: string): End[] => {
    const host = bench.hosts.get(name);
    // Where no interface takes what it sends, nobody sits.
    const seat = wiring.stations.find((s) => s.name === name);
    return host && seat && interfaceAt(site, seat.landing)
      ? [{ name, addresses: host.addresses.map((a) => a.address), begin: beginner(bench, host.endpoints) }]
      : [];
  };
  const far = (name: string): End[] => {
    const host = bench.fars.get(name);
    return host
      ? [{ name, addresses: host.setup.addresses, far: true, begin: beginner(bench, host.endpoints) }]
      : [];
  };
  /** Where no network is, nobody can be. */
  const nowhere = () => !FAMILIES.some((family) => reach.places(who, family).length);
  const behind = (address: Ip): string | undefined =>
    FAMILIES.flatMap((family) => reach.places(who, family)).find(
      (p) => p.beyond && !p.at.uplink && p.addresses.has(address),
    )?.at.name;
  const loud = () => wiring.fars.filter((f) => !f.silent).flatMap((f) => far(f.name));
  if (who.type === 'internet') return loud();
  if (who.type === 'name') {
    const kind = kindOf(site, who);
    if (kind === 'station') return station(who.name);
    if (kind === 'far') return far(who.name);
    if (kind === 'door') {
      const door = bench.box.rules().doors.find((d) => d.statement.name === who.name);
      return door ? [{ name: `door ${who.name}`, addresses: [door.outside] }] : [];
    }
    if (kind === 'known') {
      const set = addressesFor(site, wiring, prospects, who);
      const held = wiring.stations.filter((s) => {
        return bench.hosts.get(s.name)?.addresses.some((a) => set.has(a.address));
      });
      // A known is its addresses: what else a host has is somebody else's.
      const known = (end: End): End => ({ ...end, addresses: end.addresses.filter((a) => set.has(a)) });
      if (held.length) return held.flatMap((s) => station(s.name)).map(known);
      if (nowhere()) return [];
      return set.ranges
        .slice(0, 4)
        .map((r) => ({ name: who.name, addresses: [r.first], behind: behind(r.first) }));
    }
    const upstream = kind === 'zone' && zoneNamed(site, who.name)?.upstream;
    const inside = interfacesOf(site, prospects, who).flatMap((i) =>
      stationsOf(wiring, i).flatMap((s) => station(s.name)),
    );
    return upstream ? [...inside, ...loud()] : inside;
  }
  if (who.type === 'addresses') {
    const held = [...bench.hosts.values()].filter((h) =>
      h.addresses.some((a) => rangeContains(who.range, a.address)),
    );
    const fars = wiring.fars.filter((f) => f.addresses.some((a) => rangeContains(who.range, a)));
    const inRange = (end: End): End => ({
      ...end,
      addresses: end.addresses.filter((a) => rangeContains(who.range, a)),
    });
    const ends = [...held.flatMap((h) => station(h.name)), ...fars.flatMap((f) => far(f.name))];
    const first = who.range.first;
    const own = holdsItself(bench, first) || doorsAt(bench, who).length > 0;
    if (!ends.length && !own && nowhere()) return [];
    // Who else is on a provider's line is outside, as far hosts are.
    const beside =
      !own &&
      site.interfaces.some((i) => i.uplink && networksOf(i, prospects).some((n) => contains(n, first)));
    return ends.length
      ? ends.map(inRange)
      : [{ name: formatIp(first), addresses: [first], far: beside, behind: behind(first) }];
  }
  return site.interfaces.flatMap((i) => stationsOf(wiring, i).flatMap((s) => station(s.name)));
}

/** In which a connection that was asked for is closed on both sides, milliseconds. */
const ENDING = 500;

/** How a host that is there asks. */
const beginner =
  (bench: Bench, endpoints: Endpoints): NonNullable<End['begin']> =>
  (to, service, mark) =>
    askFor(bench, endpoints, to, service, { mark });

/**
 * How somebody behind another router inside asks, where no machine is: the packet is put on the line of the interface
 * by which it would come, and what the box sends back to it is the answer.
 */
function remote(bench: Bench, at: Interface, source: Ip): NonNullable<End['begin']> {
  const echo: FlowService = { proto: isIpv4(source) ? PROTO.icmp : PROTO.icmp6, echo: true };
  return (destination, service, mark) => {
    const attempt: Attempt = { done: false, result: 'waiting' };
    bench.forge(at.name, { source, destination, service: service.echo ? echo : service }, mark);
    bench.scheduler.after(4000, () => {
      const back = bench
        .stepsOf(mark)
        .filter((s) => s.node === bench.box.name && s.interface === at.name)
        .find((s) => (s.code === 'departed' || s.code === 'no-neighbour') && s.packet.destination === source);
      const read = back && readPacket(back.packet);
      const inner = read?.inner;
      attempt.result = !inner
        ? 'silence'
        : (inner.protocol === 'tcp' && inner.tcp.rst) || (read.about && isRefusal(inner))
          ? 'refused'
          : read.about
            ? 'unreachable'
            : 'answered';
      attempt.done = true;
    });
    return attempt;
  };
}

const isRefusal = (inner: ReturnType<typeof readPacket>['inner']): boolean =>
  inner.protocol === 'icmp' &&
  inner.icmp.type === 'unreachable' &&
  (inner.icmp.code === UNREACHABLE.port || inner.icmp.code === UNREACHABLE.protocol);

/** Those behind other routers inside that a WHO speaks of, one for each route or known host that leads there. */
const remotesOf = (bench: Bench, reach: Reach, who: Who): End[] =>
  FAMILIES.flatMap((family) => reach.places(who, family))
    .filter((p) => p.beyond && !p.at.uplink && !p.far)
    .map(({ at, addresses }) => {
      const source = addresses.ranges[0]!.first;
      return {
        name: formatIp(source),
        addresses: [source],
        behind: at.name,
        begin: remote(bench, at, source),
      };
    });

interface Try {
  readonly from: End;
  readonly to: Target;
  readonly service: FlowService;
  readonly mark: number;
  readonly attempt: Attempt;
}

/**
 * The addresses of the ends that a source can speak to: those of its families. Nobody asks itself, or somebody in
 * another table who has its own address; two far hosts speak to each other without the box, as do two behind one router.
 */
const targetsFor = (from: End, ends: readonly End[]): Target[] =>
  ends
    .filter((to) => to.name !== from.name && !(from.far && to.far))
    .filter((to) => from.behind === undefined || to.behind !== from.behind)
    .flatMap((to) => to.addresses.map((address) => ({ name: to.name, address, behind: to.behind })))
    .filter((t) => from.addresses.some((a) => familyOf(a) === familyOf(t.address)))
    .filter((t) => !from.addresses.includes(t.address));

function begin(bench: Bench, from: End, to: Target, service: FlowService): Try | undefined {
  if (!from.begin) return undefined;
  const mark = bench.newMark();
  return { from, to, service, mark, attempt: from.begin(to.address, service, mark) };
}

const finishAll = (bench: Bench, tries: readonly Try[]): void => {
  bench.wait(() => tries.every((t) => t.attempt.done), 10_000);
};

/** Whether the box sent it on to the router behind which its target would be. */
const sentBehind = (bench: Bench, t: Sent): boolean =>
  t.to.behind !== undefined &&
  bench
    .stepsOf(t.mark)
    .some(
      (s: Step) =>
        s.node === bench.box.name &&
        s.interface === t.to.behind &&
        (s.code === 'departed' || s.code === 'no-neighbour') &&
        s.packet.destination === t.to.address,
    );

/** A packet that was sent to somebody. */
type Sent = Pick<Try, 'to' | 'mark'>;

/** Whether the packet reached the target at its place. */
const arrived = (bench: Bench, t: Sent): boolean =>
  bench.stepsOf(t.mark).some((s: Step) => s.code === 'received' && s.node === t.to.name);

/** Who has an address on the bench. */
const holding = (bench: Bench, address: Ip): string[] => [
  ...[...bench.hosts.values()]
    .filter((h) => h.addresses.some((a) => a.address === address))
    .map((h) => h.name),
  ...[...bench.fars.values()].filter((f) => f.setup.addresses.includes(address)).map((f) => f.name),
];

/** The hosts that a target means: itself; of one that is an address only, those who have it. */
const meantBy = (bench: Bench, { name, address }: Target): readonly string[] =>
  bench.hosts.has(name) || bench.fars.has(name) ? [name] : holding(bench, address);

const received = (bench: Bench, t: Sent, by: readonly string[] | undefined): boolean =>
  bench.stepsOf(t.mark).some((s: Step) => s.code === 'received' && !!by?.includes(s.node));

/** The places on a provider's line: nobody is put there, but whoever is may send what they like. */
const strangersOf = (reach: Reach, who: Who): Place[] =>
  FAMILIES.flatMap((family) => reach.places(who, family)).filter(
    (p) => p.at.uplink && !p.beyond && !p.station,
  );

/** The same as those who are asked for, of a zone or interface: a host or an address is asked for as what it is. */
const beyondOf = (bench: Bench, reach: Reach, who: Who): End[] =>
  who.type === 'name' && ['zone', 'interface'].includes(kindOf(bench.site, who) ?? '')
    ? remotesOf(bench, reach, who).map(({ begin: _, ...end }) => end)
    : [];

/** Those who might be on a provider's line that a WHO speaks of: whoever it is, packets may not get there. */
const linesOf = (reach: Reach, who: Who): End[] =>
  strangersOf(reach, who).map(({ at, addresses }) => ({
    name: `the line of ${at.name}`,
    addresses: [addresses.ranges[0]!.first],
    far: true,
  }));

type Witness = Point & { readonly arrival: { readonly name: string } };

/** Puts a flow on a line, whoever sends it, and waits for what becomes of it. */
function forge(bench: Bench, witness: Witness, mark = bench.newMark()): readonly Step[] {
  if (bench.forge(witness.arrival.name, witness, mark)) bench.scheduler.pass(4000);
  return bench.stepsOf(mark);
}

/** Whether a try left by the uplink that carries the default route of where it arrived. */
function byActive(bench: Bench, t: Try, target: Ip): boolean {
  const own = bench.stepsOf(t.mark).filter((s) => s.node === bench.box.name);
  const arrival = own.find((s) => s.code === 'arrived')?.interface;
  const table = interfaceNamed(bench.site, arrival)?.table ?? 'main';
  return (
    own.find((s) => s.code === 'routed')?.interface === lookUp(bench.box.routes(), table, target)?.interface
  );
}

/** Whether such a flow gets through the box, or where one address is asked for, to the box itself. */
const forged = (bench: Bench, witness: Witness, single: boolean): boolean =>
  forge(bench, witness).some(
    (s) =>
      s.code === 'departed' ||
      (single && s.code === 'box-answers') ||
      (s.code === 'no-neighbour' && s.node === bench.box.name),
  );

/** The source that such a flow shows as it leaves the box. */
const leftAs = (bench: Bench, witness: Witness): Ip | undefined =>
  forge(bench, witness).find((s) => s.node === bench.box.name && s.code === 'departed')?.packet.source;

/** The step at which the box stops such a flow, or undefined where it lets it out. */
function stoppedAt(bench: Bench, witness: Witness): Step | undefined {
  const steps = forge(bench, witness);
  return steps.some((s) => s.code === 'departed') ? undefined : steps.find(isEnd);
}

/** Whether it went through a door, and was not answered by the box itself. */
const opened = (bench: Bench, t: Sent, door: DoorRule): boolean =>
  bench.stepsOf(t.mark).some((s: Step) => s.code === 'door-opens' && s.statement === door.statement);

/**
 * Whether a packet left by one uplink and came back in by another: what the internet does with it on the way is
 * nothing that the box could promise.
 */
function wentAround(bench: Bench, t: Sent): boolean {
  const own = bench.stepsOf(t.mark).filter((s) => s.node === bench.box.name);
  const gone = own.findIndex((s) => s.code === 'departed');
  if (gone < 0) return false;
  return own.slice(gone).some((s, i, rest) => {
    const next = rest[i + 1]?.code;
    const known = next === 'known-back' || next === 'known-forward';
    return s.code === 'arrived' && !known && readPacket(s.packet).starts;
  });
}

/** Whether the box has an address. */
const holdsItself = (bench: Bench, address: Ip): boolean =>
  [...bench.box.states().values()].some((s) => s.addresses.some((a) => a.address === address));

/** What the box itself answers to a try: the word of the statement that lets it. */
const answeredByBox = (bench: Bench, t: Sent): string | undefined =>
  bench.stepsOf(t.mark).find((s: Step) => s.code === 'box-answers' && s.node === bench.box.name)?.detail;

/** Whether the box serves what a try asked it for: names and the time of day want more than any bytes as a question. */
function served(bench: Bench, t: Try): boolean {
  const { box } = bench.site;
  const word = answeredByBox(bench, t);
  return (word === 'dns' && !!box?.servesNames) || (word === 'time' && !!box?.servesTime);
}

const isAddress = (who: Who): who is Extract<Who, { type: 'addresses' }> =>
  who.type === 'addresses' && who.range.first === who.range.last;

/** The doors at a WHO that is one address: who asks for that gets to whom they lead. */
const doorsAt = (bench: Bench, who: Who): readonly DoorRule[] =>
  isAddress(who) ? bench.box.rules().doors.filter((d) => d.outside === who.range.first) : [];

/** Whether the target sent anything back, or wanted to and had no way. */
const spoke = (bench: Bench, t: Try): boolean =>
  bench
    .stepsOf(t.mark)
    .some((s: Step) => (s.code === 'sent' || s.code === 'host-no-gateway') && s.node === t.to.name);

/** Each item of a specification by one example; of a range both ends. */
function examples(services: Services): FlowService[] {
  return services.flatMap((item): FlowService[] =>
    item.kind === 'ports' && item.first !== item.last
      ? [
          { proto: item.proto, port: Math.max(1, item.first) },
          { proto: item.proto, port: item.last },
        ]
      : [sampleFlow([item])],
  );
}

/** Ports of a protocol that are worth a try where any of them will do: what the rules and hosts speak of, and both ends. */
function somePorts(bench: Bench, services: Services): FlowService[] {
  const proto = services[0]!.kind === 'ports' || services[0]!.kind === 'proto' ? services[0]!.proto : 0;
  const spoken = [
    ...bench.wiring.stations.flatMap((s) => s.listens),
    ...bench.wiring.fars.flatMap((f) => f.listens),
    ...bench.site.passages.flatMap((p) => p.services),
    ...bench.box.rules().doors.flatMap((d) => d.services),
    ...[...bench.box.rules().answers.values()].flat().flatMap((a) => a.services),
  ];
  const tried = examples(spoken).filter((s) => s.proto === proto && s.port !== undefined);
  const ends = [1, 80, 443, 53, 65535].map((port): FlowService => ({ proto, port }));
  return unlike([...tried, ...ends]);
}

/** Each of them once. */
const unlike = (services: readonly FlowService[]): FlowService[] => [
  ...new Map(services.map((s) => [formatFlowService(s), s])).values(),
];

/** What to try where a promise names no service; of one address also what its doors and the box may take. */
function usualServices(bench: Bench, to?: Who): FlowService[] {
  const spot = to?.type === 'addresses' && holdsItself(bench, to.range.first);
  const all = [
    ...examples([{ kind: 'ping' }]),
    ...(to ? doorsAt(bench, to) : []).flatMap((d) => examples(d.services)),
    ...(spot ? [...bench.box.rules().answers.values()].flat() : []).flatMap((a) => examples(a.services)),
    ...bench.site.passages.flatMap((p) => examples(p.services)),
    ...bench.site.sends.flatMap((s) => examples(s.services)),
    ...bench.wiring.stations.flatMap((s) => examples(s.listens)),
    { proto: PROTO.tcp, port: 443 },
    { proto: PROTO.udp, port: 53 },
  ].filter((s) => s.proto === PROTO.tcp || s.proto === PROTO.udp || s.echo);
  const unspoken = unspokenPorts(bench);
  return unlike([...unlike(all).slice(0, MOST_SERVICES - unspoken.length), ...unspoken]);
}

/** The lowest TCP and UDP port that no passage and no sending names: what a rule about the rest lets through. */
function unspokenPorts(bench: Bench): FlowService[] {
  const named = [...bench.site.passages, ...bench.site.sends].flatMap((s) => s.services);
  return [PROTO.tcp, PROTO.udp].flatMap((proto) => {
    const ranges = named
      .flatMap((s) => (s.kind === 'ports' && s.proto === proto ? [s] : []))
      .sort((a, b) => a.first - b.first);
    let port = 1;
    for (const range of ranges) if (range.first <= port) port = Math.max(port, range.last + 1);
    return port <= 65535 ? [{ proto, port }] : [];
  });
}

/** A promise judged by the reach alone, where there is no time to put it to the bench. */
export function reckon(reach: Reach, statement: ExpectStatement): PromiseResult {
  const sets = judgeOnSets(reach, statement);
  if (!sets) return { statement, result: 'fail', code: 'promise-unread', values: {} };
  return sets.holds
    ? { statement, result: 'pass', code: 'promise-reckoned', values: {} }
    : { statement, result: 'fail', code: 'promise-reckoned-not', values: becauseOf(sets) };
}

/** Puts one promise to a bench that has booted. */
export function judge(bench: Bench, statement: ExpectStatement, reach: Reach): PromiseResult {
  const { promise } = statement;
  const fail = (code: string, values: Record<string, string> = {}): PromiseResult => ({
    statement,
    result: 'fail',
    code,
    values,
  });
  const pass = (code: string, values: Record<string, string> = {}): PromiseResult => ({
    statement,
    result: 'pass',
    code,
    values,
  });
  if (!promise) return fail('promise-unread');
  bench.box.forgetPassing();
  const { site } = bench;
  const doorOf = (who: Who): DoorRule | undefined => {
    if (who.type !== 'name' || kindOf(site, who) !== 'door') return undefined;
    return bench.box.rules().doors.find((d) => d.statement.name === who.name);
  };
  const sources = [
    ...endsOf(bench, reach, promise.from).filter((e) => e.begin),
    ...remotesOf(bench, reach, promise.from),
  ];
  const strangers = promise.says === 'never-reaches' ? strangersOf(reach, promise.from) : [];
  if (!sources.length && !strangers.length) return fail('promise-no-source', { from: textOf(promise.from) });
  const homeless = sources.find((s) => !s.addresses.length);
  if (promise.says !== 'never-reaches' && homeless)
    return fail('promise-no-address', { station: homeless.name });
  const told = (t: Try): Record<string, string> => {
    const end = endOf(bench, t.mark);
    return {
      from: t.from.name,
      to: t.to.name,
      address: formatIp(t.to.address),
      service: formatFlowService(t.service),
      result: t.attempt.result,
      ...(end ? stepValues(end) : { why: '' }),
    };
  };
  switch (promise.says) {
    case 'reaches': {
      const targets = [...endsOf(bench, reach, promise.to), ...beyondOf(bench, reach, promise.to)];
      if (!targets.length) return fail('promise-no-target', { to: textOf(promise.to) });
      const door = doorOf(promise.to);
      const doors = door ? [door] : doorsAt(bench, promise.to);
      // Who was put there for another question does not serve.
      const behind = (d: DoorRule) => holding(bench, d.inside).filter((name) => !name.startsWith(PROBE));
      // At an address of the box or of a door whoever answers is who is asked for.
      const whoever =
        isAddress(promise.to) &&
        (holdsItself(bench, promise.to.range.first) || doors.some((d) => behind(d).length > 0));
      const strict =
        promise.to.type === 'name' &&
        ['station', 'far', 'known', 'door'].includes(kindOf(site, promise.to) ?? '');
      const parts = askedServices(promise.services, door?.services);
      const named = parts !== undefined;
      let count = 0;
      const empty = targets.find((t) => !t.addresses.length);
      if (empty) return fail('promise-no-address', { station: empty.name });
      for (const from of sources)
        for (const to of targetsFor(from, targets)) {
          count++;
          const good = (t: Try) => {
            if (sentBehind(bench, t)) return true;
            if (wentAround(bench, t)) return false;
            const by = doors.find((d) => opened(bench, t, d));
            if (by ? !received(bench, t, behind(by)) : door) return false;
            // A door amid a network may lead to somebody else, who answers.
            const theirs = by ?? (whoever || received(bench, t, meantBy(bench, t.to)));
            return (
              (t.attempt.result === 'answered' && !!theirs) ||
              served(bench, t) ||
              // A refusal by the target itself shows that the packet got there and back.
              (((!strict && !by) || !named) &&
                t.attempt.result === 'refused' &&
                (!!by || arrived(bench, t))) ||
              // A target that says nothing was still reached; one whose answer is lost on the way was not.
              (!strict && !by && arrived(bench, t) && !spoke(bench, t))
            );
          };
          /** Puts services one after another; where some will do, until one is good, else until one is not. */
          const failing = (services: readonly FlowService[], some: boolean): Try | undefined => {
            let bad: Try | undefined;
            for (const service of services) {
              // What went before must end, and must not be taken for the flow that an answer belongs to.
              bench.scheduler.pass(ENDING);
              bench.box.forgetPassing();
              const t = begin(bench, from, to, service);
              if (!t) continue;
              finishAll(bench, [t]);
              // A question for a neighbour outlives what it was asked for.
              if (to.behind !== undefined && !good(t)) bench.scheduler.pass(4000);
              const got = good(t);
              if (got && some) return undefined;
              if (!got) bad ??= t;
              if (bad && !some) return bad;
            }
            return bad;
          };
          const bad = named
            ? parts
                .map((p) => failing(p.some ? somePorts(bench, p.services) : examples(p.services), p.some))
                .find((t) => t !== undefined)
            : failing(usualServices(bench, promise.to), true);
          if (bad) return fail('promise-not-reached', told(bad));
        }
      if (!count) return fail('promise-no-pair');
      // Where nobody can sit, behind another router, the flow that the reach points to is put on the line.
      const sets = judgeOnSets(reach, statement);
      const stopped = sets?.why?.why === 'box' && sets.witness && stoppedAt(bench, sets.witness);
      if (stopped)
        return fail('promise-not-reached', {
          from: formatIp(sets.witness.source),
          to: textOf(promise.to),
          address: formatIp(sets.witness.destination),
          service: formatFlowService(sets.witness.service),
          ...stepValues(stopped),
        });
      return pass('promise-reached', { count: String(count) });
    }
    case 'never-reaches': {
      const targets = [
        ...endsOf(bench, reach, promise.to),
        ...linesOf(reach, promise.to),
        ...beyondOf(bench, reach, promise.to),
      ];
      if (!targets.length) return fail('promise-no-target', { to: textOf(promise.to) });
      const named = namedServices(promise.services);
      const services = named ? examples(named) : usualServices(bench, promise.to);
      const tries = sources.flatMap((from) =>
        targetsFor(from, targets).flatMap((to) => services.flatMap((s) => begin(bench, from, to, s) ?? [])),
      );
      finishAll(bench, tries);
      // Doors into it count as ways in.
      const through = bench.box.rules().doors.flatMap((d) => {
        // In two tables there may be two with that address.
        const behind = targets.filter((t) => t.addresses.includes(d.inside));
        if (!behind.length) return [];
        const own = d.services.filter((s) => s.kind !== 'any');
        const open = named || !own.length ? services.flatMap((s) => outsideOf(d, s) ?? []) : examples(own);
        return open.flatMap((service) =>
          sources.flatMap((from) => {
            const other = behind.find((b) => b.name !== from.name);
            const at = other ? [{ name: other.name, addresses: [d.outside] }] : [];
            return targetsFor(from, at).flatMap((to): { t: Try; by: DoorRule }[] => {
              const t = begin(bench, from, to, service);
              return t ? [{ t, by: d }] : [];
            });
          }),
        );
      });
      finishAll(
        bench,
        through.map((x) => x.t),
      );
      const sent = (sources.length ? [] : strangers).flatMap(({ at, addresses }) => {
        const source = addresses.ranges[0]!.first;
        return targetsFor({ name: '', addresses: [source], far: true }, targets).flatMap((to) =>
          services.map((service) => {
            const mark = bench.newMark();
            forge(bench, { arrival: at, source, destination: to.address, service }, mark);
            return { from: formatIp(source), to, service, mark, line: at.name };
          }),
        );
      });
      if (!tries.length && !through.length && !sent.length) return fail('promise-no-pair');
      const door = doorOf(promise.to);
      const led = (t: Sent, d: DoorRule) =>
        opened(bench, t, d) && received(bench, t, holding(bench, d.inside));
      const spots = doorsAt(bench, promise.to);
      const single = isAddress(promise.to);
      const got = (t: Sent) =>
        wentAround(bench, t)
          ? false
          : door
            ? led(t, door)
            : arrived(bench, t) ||
              sentBehind(bench, t) ||
              spots.some((d) => led(t, d)) ||
              // One address may be the box's own.
              (single && answeredByBox(bench, t) !== undefined);
      // The service said is the one inside: another door at the same address may make another of it.
      const fitting = through.filter((x) => !named || opened(bench, x.t, x.by));
      const leak = [...tries, ...fitting.map((x) => x.t)].find(got);
      if (leak) return fail('promise-leak', told(leak));
      // What no host would send: somebody on a line may, so the flow that the reach points to is put there.
      const stray = sent.find(got);
      if (stray)
        return fail('promise-leak-forged', {
          from: stray.from,
          to: textOf(promise.to),
          address: formatIp(stray.to.address),
          service: formatFlowService(stray.service),
          line: stray.line,
        });
      const witness = judgeOnSets(reach, statement)?.witness;
      if (witness && forged(bench, witness, single))
        return fail('promise-leak-forged', {
          from: formatIp(witness.source),
          to: textOf(promise.to),
          address: formatIp(witness.destination),
          service: formatFlowService(witness.service),
          line: witness.arrival.name,
        });
      return pass('promise-sealed', { count: String(tries.length + through.length + sent.length) });
    }
    case 'leaves-as': {
      const targets = [...bench.fars.values()]
        .filter((f) => !f.silent)
        .flatMap((f) =>
          f.setup.addresses.filter((a) => familyOf(a) === familyOf(promise.address)).slice(0, 1),
        );
      if (!targets.length) return fail('promise-no-target', { to: 'internet' });
      const insiders = sources.filter((s) => !bench.fars.has(s.name));
      const speaking = insiders.filter((s) =>
        s.addresses.some((a) => familyOf(a) === familyOf(promise.address)),
      );
      if (!speaking.length) return fail('promise-no-pair');
      for (const from of speaking) {
        let seen: Ip | undefined;
        let first: Try | undefined;
        // Any service that gets out will do: rules may let only some through.
        const asked = usualServices(bench).flatMap((service) =>
          targets.map((target) => ({ service, target })),
        );
        for (const { service, target } of asked) {
          const t = begin(bench, from, { name: 'internet', address: target }, service);
          if (!t) continue;
          finishAll(bench, [t]);
          first ??= t;
          const now = seenBy(bench, t.mark);
          // The active uplink counts before one that a statement of sending chose.
          const usual = byActive(bench, t, target);
          if (now !== undefined && (usual || seen === undefined)) seen = now;
          if (now !== undefined && usual) break;
        }
        if (seen === undefined) return fail('promise-not-reached', first ? told(first) : {});
        if (seen !== promise.address)
          return fail('promise-other-address', {
            from: from.name,
            seen: formatIp(seen),
            wanted: formatIp(promise.address),
          });
      }
      // Where nobody can sit, behind another router, the flow that the reach points to is put on the line.
      const witness = judgeOnSets(reach, statement)?.witness;
      const left = witness && leftAs(bench, witness);
      if (left !== undefined && left !== promise.address)
        return fail('promise-other-address', {
          from: formatIp(witness!.source),
          seen: formatIp(left),
          wanted: formatIp(promise.address),
        });
      return pass('promise-leaves-as', { wanted: formatIp(promise.address) });
    }
    case 'answers-ping': {
      const iface = interfaceNamed(site, promise.interface.name);
      const own = iface && bench.box.states().get(iface.name)?.addresses;
      if (!iface || !own?.length) return fail('promise-no-target', { to: promise.interface.name });
      let count = 0;
      for (const from of sources)
        for (const { address } of own) {
          if (!isIpv4(address) || !from.addresses.some(isIpv4)) continue;
          const t = begin(bench, from, { name: iface.name, address }, { proto: PROTO.icmp, echo: true });
          if (!t) continue;
          finishAll(bench, [t]);
          count++;
          // A door may take the ping and somebody else answer it, or it may go around by the internet to another table.
          const own = bench.stepsOf(t.mark).filter((s) => s.node === bench.box.name);
          const said = own.find((s) => s.code !== 'arrived' && s.code !== 'door-closed');
          const by = own.find((s) => s.code === 'arrived')?.interface;
          // The same address in another table is another interface's.
          const itself = said?.code === 'box-answers' && interfaceNamed(site, by)?.table === iface.table;
          if (t.attempt.result !== 'answered' || !itself) return fail('promise-no-ping', told(t));
        }
      return count ? pass('promise-pings', { count: String(count) }) : fail('promise-no-pair');
    }
  }
}

const textOf = (who: Who): string =>
  who.type === 'name' ? who.name : who.type === 'addresses' ? formatIp(who.range.first) : who.type;
