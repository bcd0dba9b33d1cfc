/** Which services a promise is tried with. */
import { PROTO, formatFlowService, sampleFlow } from '#core/addr';
import type { FlowService, Services } from '#core/addr';
import type { Bench } from '#core/bench';
import type { Who } from '#core/notation';
import type { Site } from '#core/site';
import { holdsItself, doorsAt } from './ends';

/** Services tried for a promise that names none: what the rules speak of, and the usual ones. */
export const MOST_SERVICES = 16;

/** Each item of a specification by one example; of a range both ends. */
export function examples(services: Services): FlowService[] {
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
export function somePorts(bench: Bench, services: Services): FlowService[] {
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
export const unlike = (services: readonly FlowService[]): FlowService[] => [
  ...new Map(services.map((s) => [formatFlowService(s), s])).values(),
];

/** What to try where a promise names no service; of one address also what its doors and the box may take. */
export function usualServices(bench: Bench, to?: Who): FlowService[] {
  const spot = to?.type === 'addresses' && holdsItself(bench, to.range.first);
  const all = [
    ...examples([{ kind: 'ping' }]),
    ...(to ? doorsAt(bench, to) : []).flatMap((d) => examples(d.services)),
    ...(spot ? [...bench.box.rules().answers.values()].flat() : []).flatMap((a) => examples(a.services)),
    ...spokenOf(bench.site),
    ...bench.wiring.stations.flatMap((s) => examples(s.listens)),
    { proto: PROTO.tcp, port: 443 },
    { proto: PROTO.udp, port: 53 },
  ].filter((s) => s.proto === PROTO.tcp || s.proto === PROTO.udp || s.echo);
  const unspoken = unspokenPorts(bench.site);
  return unlike([...unlike(all).slice(0, MOST_SERVICES - unspoken.length), ...unspoken]);
}

/** What the passages and sendings of a site speak of, by examples: asked for by many promises of one site. */
const spokenOf = once((site): readonly FlowService[] =>
  unlike([...site.passages, ...site.sends].flatMap((s) => examples(s.services))),
);

/** The lowest TCP and UDP port that no passage and no sending names: what a rule about the rest lets through. */
export const unspokenPorts = once((site): readonly FlowService[] => {
  const named = [...site.passages, ...site.sends].flatMap((s) => s.services);
  return [PROTO.tcp, PROTO.udp].flatMap((proto) => {
    const ranges = named
      .flatMap((s) => (s.kind === 'ports' && s.proto === proto ? [s] : []))
      .sort((a, b) => a.first - b.first);
    let port = 1;
    for (const range of ranges) if (range.first <= port) port = Math.max(port, range.last + 1);
    return port <= 65535 ? [{ proto, port }] : [];
  });
});

/** Reckons a value of a site when it is first asked for. */
function once<T extends object>(make: (site: Site) => T): (site: Site) => T {
  const made = new WeakMap<Site, T>();
  return (site) => {
    let value = made.get(site);
    if (!value) made.set(site, (value = make(site)));
    return value;
  };
}
