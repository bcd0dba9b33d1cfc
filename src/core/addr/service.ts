/**
 * Services: what a flow is for, by protocol and destination port. A specification is a list of items; a flow
 * is in it when one item takes it.
 */

/** Protocol numbers as assigned by IANA ("Protocol Numbers", RFC 5237). */
export const PROTO = { icmp: 1, tcp: 6, udp: 17, icmp6: 58 } as const;

/** One item of a service specification. Ports are 0–65535, both ends included. */
export type ServiceItem =
  | { readonly kind: 'any' }
  | { readonly kind: 'ports'; readonly proto: 6 | 17; readonly first: number; readonly last: number }
  | { readonly kind: 'ping' }
  | { readonly kind: 'icmp' }
  | { readonly kind: 'proto'; readonly proto: number };

/** One or more items; never empty. */
export type Services = readonly ServiceItem[];

export const ANY_SERVICE: Services = [{ kind: 'any' }];
export const PING: Services = [{ kind: 'ping' }];

const ports = (proto: 6 | 17, port: number): ServiceItem => ({
  kind: 'ports',
  proto,
  first: port,
  last: port,
});

/** The names that stand for services; port numbers from the IANA registry (RFC 6335). */
export const NAMED_SERVICES: Readonly<Record<string, Services>> = {
  any: ANY_SERVICE,
  ping: PING,
  icmp: [{ kind: 'icmp' }],
  ssh: [ports(6, 22)],
  http: [ports(6, 80)],
  https: [ports(6, 443)],
  dns: [ports(17, 53), ports(6, 53)],
  ntp: [ports(17, 123)],
  snmp: [ports(17, 161)],
};

/** What a flow is for: its protocol and, for TCP and UDP, the destination port; `echo` for an ICMP echo request. */
export interface FlowService {
  readonly proto: number;
  readonly port?: number;
  readonly echo?: boolean;
}

/** Whether the services take a flow of this kind. */
export function serviceTakes(services: Services, flow: FlowService): boolean {
  return services.some((item) => {
    switch (item.kind) {
      case 'any':
        return true;
      case 'ping':
        return flow.echo === true;
      case 'icmp':
        return flow.proto === PROTO.icmp || flow.proto === PROTO.icmp6;
      case 'proto':
        return flow.proto === item.proto;
      case 'ports':
        return flow.proto === item.proto && flow.port! >= item.first && flow.port! <= item.last;
    }
  });
}

/** Whether every flow of `inner` is taken by one item of `outer` each (exact for items that are no unions). */
export function servicesWithin(inner: Services, outer: Services): boolean {
  return inner.every((item) =>
    outer.some((cover) => {
      if (cover.kind === 'any') return true;
      if (item.kind === 'any') return false;
      if (item.kind === 'ping') return cover.kind === 'ping' || cover.kind === 'icmp';
      if (item.kind === 'icmp') return cover.kind === 'icmp';
      if (item.kind === 'proto') return cover.kind === 'proto' && cover.proto === item.proto;
      if (cover.kind === 'proto') return cover.proto === item.proto;
      return (
        cover.kind === 'ports' &&
        cover.proto === item.proto &&
        cover.first <= item.first &&
        cover.last >= item.last
      );
    }),
  );
}

/** A flow that the first item takes, for asking about a specification by example. ICMP is asked by echo. */
export function sampleFlow(services: Services): FlowService {
  const item = services[0]!;
  switch (item.kind) {
    case 'any':
    case 'ping':
    case 'icmp':
      return { proto: PROTO.icmp, echo: true };
    case 'proto':
      return { proto: item.proto };
    case 'ports':
      return { proto: item.proto, port: item.first };
  }
}

/** The services in the notation, named where a name says exactly that. */
export function formatServices(services: Services): string {
  const words: string[] = [];
  let proto = '';
  const rest = [...services];
  while (rest.length) {
    const named = Object.entries(NAMED_SERVICES).find(
      ([, items]) => items.length <= rest.length && items.every((item, i) => sameItem(item, rest[i]!)),
    );
    if (named) {
      words.push(named[0]);
      rest.splice(0, named[1].length);
      proto = '';
      continue;
    }
    const item = rest.shift()!;
    if (item.kind === 'proto') {
      words.push(`proto ${item.proto}`);
      proto = '';
    } else if (item.kind === 'ports') {
      const name = item.proto === PROTO.tcp ? 'tcp' : 'udp';
      if (proto !== name) words.push(name);
      proto = name;
      if (item.first === 0 && item.last === 65535) proto = '';
      else words.push(item.first === item.last ? `${item.first}` : `${item.first}-${item.last}`);
    }
  }
  return words.join(' ');
}

function sameItem(a: ServiceItem, b: ServiceItem): boolean {
  if (a.kind === 'ports' && b.kind === 'ports')
    return a.proto === b.proto && a.first === b.first && a.last === b.last;
  if (a.kind === 'proto' && b.kind === 'proto') return a.proto === b.proto;
  return a.kind === b.kind;
}

/** A flow's service in words: `ping`, `tcp 443`, `proto 50`. */
export function formatFlowService(flow: FlowService): string {
  if (flow.echo) return 'ping';
  if (flow.proto === PROTO.tcp) return `tcp ${flow.port}`;
  if (flow.proto === PROTO.udp) return `udp ${flow.port}`;
  return flow.proto === PROTO.icmp || flow.proto === PROTO.icmp6 ? 'icmp' : `proto ${flow.proto}`;
}
