import type { Brand } from '#core/base';

/** A 48-bit MAC address as an unsigned number. */
export type Mac = Brand<number, 'Mac'>;

/** Reads six groups of two hexadecimal digits with `:` or `-` between them; undefined for anything else. */
export function parseMac(text: string): Mac | undefined {
  if (!/^[0-9a-fA-F]{2}(:[0-9a-fA-F]{2}){5}$|^[0-9a-fA-F]{2}(-[0-9a-fA-F]{2}){5}$/.test(text))
    return undefined;
  return parseInt(text.replace(/[:-]/g, ''), 16) as Mac;
}

/** As parseMac, for constants: throws on anything it refuses. */
export function mustMac(text: string): Mac {
  const mac = parseMac(text);
  if (mac === undefined) throw new Error(`"${text}" is no MAC address`);
  return mac;
}

/** Lower-case pairs with colons. */
export const formatMac = (mac: Mac): string =>
  mac
    .toString(16)
    .padStart(12, '0')
    .replace(/(..)(?=.)/g, '$1:');

/** Reads a MAC address as anybody writes one: twelve hexadecimal digits, however they are set apart. */
export function parseAnyMac(text: string): Mac | undefined {
  const digits = text.replace(/[-:.\s]/g, '');
  return /^[0-9a-fA-F]{12}$/.test(digits) ? (parseInt(digits, 16) as Mac) : undefined;
}
