/** Names that the box resolves for itself: those of its records, and those that rules speak of. */
import type { Ip } from '#core/addr';
import type { Site } from './types';
import type { Wiring } from './wiring';

/** The names that the box answers for: a record without a dot is one of its domain. */
export const recordNames = (site: Site, name: string): readonly string[] => {
  const domain = site.box?.domain?.value;
  return name.includes('.') || domain === undefined ? [name] : [`${name}.${domain}`, name];
};

/** The record that a name is of. */
export const recordOf = (site: Site, name: string): Site['records'][number] | undefined =>
  site.records.find((r) => recordNames(site, r.name).includes(name));

/** The resolvers of their own that names of a domain are asked of; of several domains the longest counts. */
export const forwardedTo = (site: Site, name: string): readonly Ip[] | undefined =>
  (site.box?.forwards ?? [])
    .filter((f) => name === f.domain || name.endsWith(`.${f.domain}`))
    .sort((a, b) => b.domain.length - a.domain.length)[0]?.addresses;

/** The names that rules speak of, each once. */
export const namesAsked = (site: Site): readonly string[] => [
  ...new Set(site.knowns.flatMap((k) => k.dnsNames.map((n) => n.value))),
];

/**
 * What the names that rules speak of lead to, foreseen: to what a record says, else to the far host of that name, where
 * somebody who knows far hosts is asked. `resolvers` are those that the box has.
 */
export function foreseenNames(
  site: Site,
  wiring: Wiring,
  resolvers: readonly Ip[],
): ReadonlyMap<string, readonly Ip[]> {
  const knows = (server: Ip) =>
    wiring.fars.some((f) => f.resolves && f.addresses.includes(server)) ||
    wiring.circuits.some((c) => c.names.includes(server));
  return new Map(
    namesAsked(site).map((name) => {
      const record = recordOf(site, name);
      if (record) return [name, record.addresses.map((a) => a.value)];
      const asked = forwardedTo(site, name) ?? resolvers;
      const far = asked.some(knows) ? wiring.fars.find((f) => f.name === name) : undefined;
      return [name, far?.addresses ?? []];
    }),
  );
}
