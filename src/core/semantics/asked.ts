/** What the service words of a promise ask for (notation, "What a promise says"). */
import type { ServiceItem, Services } from '#core/addr';

/** One thing asked for: all of its services, or for a protocol without a port some of them. */
export interface AskedService {
  readonly services: Services;
  /** One that passes will do: `tcp` alone is some port of it, which port 0 is not (RFC 6335 §6). */
  readonly some: boolean;
}

const isWhole = (item: ServiceItem): boolean =>
  (item.kind === 'ports' && item.first === 0 && item.last === 65535) ||
  (item.kind === 'proto' && (item.proto === 6 || item.proto === 17));

/** The whole of a protocol by the ports that somebody can listen on. */
const realPorts = (item: ServiceItem): ServiceItem =>
  item.kind === 'ports' || item.kind === 'proto'
    ? { kind: 'ports', proto: item.proto === 6 ? 6 : 17, first: 1, last: 65535 }
    : item;

/** What a promise names; `any` names no more than nothing at all. */
export const namedServices = (services: Services | undefined): Services | undefined =>
  services?.length && !services.some((s) => s.kind === 'any') ? services : undefined;

/**
 * The services of a promise to reach, each of which must pass: those it names, else those of the door that it is about;
 * undefined where any one will do.
 */
export function askedServices(
  said: Services | undefined,
  door?: Services,
): readonly AskedService[] | undefined {
  const services = namedServices(said) ?? namedServices(door);
  if (!services) return undefined;
  const whole = services.filter(isWhole);
  const rest = services.filter((s) => !isWhole(s));
  return [
    ...(rest.length ? [{ services: rest, some: false }] : []),
    ...whole.map((item) => ({ services: [realPorts(item)], some: true })),
  ];
}
