/** What the service words of a promise ask for (notation, "What a promise says"). */
import type { ServiceItem, Services } from '#core/addr';

/** One thing asked for: all of its services, or for a protocol without a port some of them. */
export interface AskedService {
  readonly services: Services;
  /** One that passes will do: `tcp` alone is some port of it. */
  readonly some: boolean;
}

const isWhole = (item: ServiceItem): boolean =>
  (item.kind === 'ports' && item.first === 0 && item.last === 65535) ||
  (item.kind === 'proto' && (item.proto === 6 || item.proto === 17));

/** The services of a promise to reach, each of which must pass; undefined where any one will do, which `any` says too. */
export function askedServices(services: Services | undefined): readonly AskedService[] | undefined {
  if (!services?.length || services.some((s) => s.kind === 'any')) return undefined;
  const whole = services.filter(isWhole);
  const rest = services.filter((s) => !isWhole(s));
  return [
    ...(rest.length ? [{ services: rest, some: false }] : []),
    ...whole.map((item) => ({ services: [item], some: true })),
  ];
}
