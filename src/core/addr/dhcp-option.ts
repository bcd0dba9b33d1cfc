/** What a DHCP server tells its clients beside address, gateway and resolvers: options by name and by number (RFC 2132). */
import type { Ipv4 } from './ipv4';

/** The value of an option, by the form that its bytes have. */
export type OptionValue =
  | { readonly form: 'addresses'; readonly addresses: readonly Ipv4[] }
  | { readonly form: 'text'; readonly text: string }
  /** Domain names, one after another (RFC 3397 §2). */
  | { readonly form: 'names'; readonly names: readonly string[] }
  /** `octets`: 1, 2 or 4. */
  | { readonly form: 'number'; readonly value: number; readonly octets: 1 | 2 | 4 }
  | { readonly form: 'bytes'; readonly bytes: Uint8Array };

export interface DhcpOption {
  /** 1–254. */
  readonly code: number;
  readonly value: OptionValue;
}

/** Options that people call by name: the number, the form, and how many octets a number has. */
export const OPTION_NAMES = {
  /** RFC 2132 §8.3: time servers. */
  ntp: { code: 42, form: 'addresses' },
  /** RFC 3397: where names without a dot are looked up. */
  search: { code: 119, form: 'names' },
  /** RFC 2132 §3.17: the domain of the client. */
  domain: { code: 15, form: 'text' },
  /** RFC 2132 §9.4: the name or address of the server that boot files come from. */
  tftp: { code: 66, form: 'text' },
  /** RFC 2132 §9.5. */
  'boot-file': { code: 67, form: 'text' },
  /** RFC 5859: TFTP servers by address, as telephones ask. */
  'tftp-address': { code: 150, form: 'addresses' },
  /** RFC 2132 §8.4: what a maker defines. */
  vendor: { code: 43, form: 'bytes' },
  /** RFC 2132 §5.1. */
  mtu: { code: 26, form: 'number', octets: 2 },
  /** RFC 5417: controllers of access points. */
  controllers: { code: 138, form: 'addresses' },
} as const satisfies Readonly<
  Record<string, { code: number; form: OptionValue['form']; octets?: 1 | 2 | 4 }>
>;

export type OptionName = keyof typeof OPTION_NAMES;

/** Options that the protocol itself needs, or that pools say in words of their own. */
export const OWNED_OPTIONS: Readonly<Record<number, string>> = {
  1: 'the length of the address',
  3: '`gateway` of the pool',
  6: '`names` of the pool',
  50: 'the server',
  51: '`for` of the pool',
  52: 'the server',
  53: 'the server',
  54: 'the server',
  55: 'the client',
  56: 'the server',
  57: 'the client',
  58: '`for` of the pool',
  59: '`for` of the pool',
  61: 'the client',
  82: 'relays',
};

/** The name that people call an option by, else its number. */
export const optionName = (code: number): string =>
  (Object.keys(OPTION_NAMES) as OptionName[]).find((n) => OPTION_NAMES[n].code === code) ?? String(code);

/** A value as people write it. */
export function formatOptionValue(value: OptionValue, formatAddress: (a: Ipv4) => string): string {
  switch (value.form) {
    case 'addresses':
      return value.addresses.map(formatAddress).join(' ');
    case 'text':
      return value.text;
    case 'names':
      return value.names.join(' ');
    case 'number':
      return String(value.value);
    case 'bytes':
      return `0x${[...value.bytes].map((b) => b.toString(16).padStart(2, '0')).join('')}`;
  }
}
