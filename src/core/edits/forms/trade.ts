/** Values as people of the trade write them, turned into the notation's form. What is not understood stays as it is. */
import { formatMac, formatPrefix, lengthOfMask, parseIp, parseAnyMac, parseIpv4 } from '#core/addr';
import type { Slot } from './form';

/** A value of a slot in the notation's form: `443/tcp` is `tcp 443`, `50-199` is `.50-.199`, a mask is a length. */
export function fromTrade(slot: Pick<Slot, 'takes' | 'many'>, text: string): string {
  const value = text.trim().replace(/[‐-―]/g, '-');
  switch (slot.takes) {
    case 'range':
      return value
        .replace(/\s*-\s*/g, '-')
        .split(/[\s,;]+/)
        .map((r) => r.replace(/^(\d{1,3})-(\d{1,3})$/, '.$1-.$2'))
        .join(' ');
    case 'own':
    case 'prefix':
      return withLength(listed(value, slot.many && !/\bmask\b/.test(value)));
    case 'mac':
      return macOf(value);
    case 'services':
      return servicesOf(value);
    case 'tag':
      return listed(value.replace(/\b(?:vlan|tag|id)\s*/gi, ''), slot.many);
    case 'address':
    case 'who':
    case 'answer':
      return listed(value, slot.many);
    case 'day':
      return value.replace(/^(\d{1,2})\.\s*(\d{1,2})\.\s*(\d{4})$/, (_, d: string, m: string, y: string) =>
        [y, m.padStart(2, '0'), d.padStart(2, '0')].join('-'),
      );
    case 'text':
    case 'secret':
      return text;
    default:
      return value;
  }
}

/** Commas between values that stand one after another. */
const listed = (value: string, many: boolean | undefined): string =>
  many
    ? value
        .split(/[\s,;]+/)
        .filter(Boolean)
        .join(' ')
    : value;

/** An address with a dotted mask behind it: `10.0.0.1 255.255.255.0`, `10.0.0.1/255.255.255.0`, `10.0.0.1 mask …`. */
function withLength(value: string): string {
  const said = /^(\S+?)(?:\s*\/\s*|\s+(?:mask\s+|netmask\s+)?)([\d.]+)$/i.exec(value);
  const address = said ? parseIp(said[1]!) : undefined;
  if (!said || address === undefined) return value;
  const mask = parseIpv4(said[2]!);
  const length = mask === undefined ? Number(said[2]) : lengthOfMask(mask);
  // A second address is no mask: what stands there is left for the reader to refuse.
  return length === undefined || !Number.isInteger(length) || (mask === undefined && !value.includes('/'))
    ? value
    : formatPrefix({ address, length });
}

/** Twelve hexadecimal digits, however they are set apart. */
function macOf(value: string): string {
  const mac = parseAnyMac(value);
  return mac === undefined ? value : formatMac(mac);
}

/** `443/tcp`, `TCP:443`, a port alone; several of them. */
function servicesOf(value: string): string {
  const words = value
    .toLowerCase()
    .replace(/\b(tcp|udp)\s*[/:]\s*(?=\d)/g, '$1 ')
    .replace(/(\d[\d-]*)\s*\/\s*(tcp|udp)\b/g, '$2 $1')
    .split(/[\s,;]+/)
    .filter(Boolean);
  return /^\d/.test(words[0] ?? '') ? ['tcp', ...words].join(' ') : words.join(' ');
}
