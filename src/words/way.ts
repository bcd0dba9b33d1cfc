/** Where an address is reached from here, in a sentence. */
import { formatIp, formatPrefix } from '#core/addr';
import type { PassedOver, Whereabouts } from '#core/semantics';

const BECAUSE: Readonly<Record<PassedOver['because'], string>> = {
  unusable: 'is not usable',
  shorter: 'is less exact',
  distance: 'is farther',
  priority: 'stands by',
  order: 'comes later in the file',
  shared: 'takes its share of the sources',
};

/** `203.0.113.9 goes by fibre to 198.51.100.17 (0.0.0.0/0 of table main); harbour stands by`. */
export function wayText(way: Whereabouts): string {
  const to = formatIp(way.destination);
  const { taken } = way;
  const others = way.passedOver
    .filter((p) => p.route.interface !== undefined)
    .map((p) => `${p.route.interface} (${formatPrefix(p.route.prefix)}) ${BECAUSE[p.because]}`);
  const rest = others.length ? `; ${others.join(', ')}` : '';
  if (!taken) return `no usable route of table ${way.table} leads to ${to}${rest}`;
  const by = `(${formatPrefix(taken.prefix)} of table ${way.table})`;
  if (taken.interface === undefined) return `${to} is dropped by a route ${by}${rest}`;
  const hop = taken.via === undefined ? 'straight' : `to ${formatIp(taken.via)}`;
  return `${to} goes by ${taken.interface}, ${hop} ${by}${rest}`;
}
