/**
 * The names that rules speak of, a line each: `KNOWN NAME RESOLVERS`. Resolvers are asked in order, joined by commas,
 * `learned` among them for those that uplinks are told; `@ADDRESSES` are what a record of the box itself says.
 */
import { formatIp } from '#core/addr';
import { forwardedTo, recordOf } from '#core/site';
import type { Told } from './told';

/** The lines of `names`. */
export const nameLines = ({ site, live }: Told): string[] => {
  const uplinks = live.filter((i) => i.uplink);
  const usual = [
    ...uplinks.flatMap((i) => i.names.addresses.map(formatIp)),
    ...(uplinks.some((i) => i.names.learned) ? ['learned'] : []),
    ...(site.box?.names ?? []).map((n) => formatIp(n.value)),
  ];
  const by = (name: string): string => {
    const record = recordOf(site, name);
    if (record) return `@${record.addresses.map((a) => formatIp(a.value)).join(',')}`;
    return (forwardedTo(site, name)?.map(formatIp) ?? usual).join(',') || '-';
  };
  return site.knowns.flatMap((k) => k.dnsNames.map(({ value }) => `${k.name} ${value} ${by(value)}`));
};
