/** A sheet that somebody corrects or writes field by field: each row beside what was read, and judged anew. */
import { formatIp, isIpv4, lengthOfMask, networkOf, parseIp, parseIpv4, parsePrefix } from '#core/addr';
import { judge, statementFor } from './handoff';
import type { Contradiction, Handoff, HandoffOptions, SheetFound } from './handoff';

/** A row of the ledger. */
export type SheetField =
  | 'kind'
  | 'address'
  | 'length'
  | 'also'
  | 'gateway'
  | 'onlink'
  | 'names'
  | 'network'
  | 'block'
  | 'time'
  | 'vlan'
  | 'user'
  | 'secret'
  | 'mtu'
  | 'address6'
  | 'auto6'
  | 'gateway6';

export type Corrections = Readonly<Partial<Record<SheetField, string>>>;

export interface Corrected extends Handoff {
  /** Rows whose value is none; what was read there counts as absent. */
  readonly faults: readonly SheetField[];
}

/** The rows that a line of a kind has, in the order of the ledger. */
export function sheetFields(kind: SheetFound['kind']): readonly SheetField[] {
  const own: readonly SheetField[] =
    kind === 'static'
      ? ['address', 'length', 'also', 'gateway', 'onlink']
      : kind === 'pppoe'
        ? ['user', 'secret']
        : [];
  return ['kind', ...own, 'vlan', 'names', 'block', 'time', 'mtu', 'address6', 'auto6', 'gateway6'];
}

/** What a row says as text; empty where the sheet does not say. */
export function sheetText(found: SheetFound, field: SheetField): string {
  const value = found[field];
  if (value === undefined || value === false) return '';
  if (field === 'length') return `/${found.length}`;
  return Array.isArray(value) ? value.join(' ') : value === true ? 'onlink' : String(value);
}

/** The sheet as read, with what somebody put into its rows instead. */
export function correctSheet(
  read: Handoff,
  corrections: Corrections,
  options: HandoffOptions = {},
): Corrected {
  const fields = Object.keys(corrections) as SheetField[];
  if (!fields.length) return { ...read, faults: [] };
  const faults: SheetField[] = [];
  const found: { -readonly [K in keyof SheetFound]: SheetFound[K] } = { ...read.found };
  for (const field of fields) {
    const text = corrections[field]!.trim();
    if (field !== 'kind') delete found[field];
    if (text === '') continue;
    if (!put(found, field, text)) faults.push(field);
  }
  // Of a line of one address the gateway can only be on the link itself.
  if (
    found.kind === 'static' &&
    found.length === 32 &&
    found.gateway !== undefined &&
    !fields.includes('onlink')
  )
    found.onlink = true;
  const { missing, contradictions } = judge(found);
  const kept = read.contradictions.filter((c) => !isJudged(c) && !isSettled(c, fields));
  return {
    found,
    missing,
    contradictions: [...kept, ...contradictions],
    statement: statementFor(found, options),
    faults,
  };
}

/** Puts a row's text into what is found; false where it is no value of it. */
function put(
  found: { -readonly [K in keyof SheetFound]: SheetFound[K] },
  field: SheetField,
  text: string,
): boolean {
  const list = text.split(/[\s,]+/).filter(Boolean);
  const addresses = (family?: 4) => {
    const all = list.map(parseIp);
    return all.length > 0 && all.every((a) => a !== undefined && (family === undefined || isIpv4(a)))
      ? all.map((a) => formatIp(a!))
      : undefined;
  };
  const number = (least: number, most: number) => {
    const n = /^\d+$/.test(text) ? Number(text) : NaN;
    return n >= least && n <= most ? n : undefined;
  };
  switch (field) {
    case 'kind':
      if (text !== 'static' && text !== 'dhcp' && text !== 'pppoe') return false;
      found.kind = text;
      return true;
    case 'address': {
      // Who writes the length behind the address has said both.
      const [address = '', length] = text.split('/');
      if (parseIpv4(address) === undefined) return false;
      found.address = address;
      return length === undefined || put(found, 'length', length);
    }
    case 'length': {
      const mask = parseIpv4(text);
      const length =
        mask === undefined ? Number(/^\/?(\d{1,2})$/.exec(text)?.[1] ?? NaN) : lengthOfMask(mask);
      if (length === undefined || !(length >= 1 && length <= 32)) return false;
      found.length = length;
      return true;
    }
    case 'gateway':
      return parseIpv4(text) !== undefined && ((found.gateway = text), true);
    case 'gateway6': {
      const address = parseIp(text);
      return address !== undefined && !isIpv4(address) && ((found.gateway6 = formatIp(address)), true);
    }
    case 'onlink':
      found.onlink = true;
      return true;
    case 'names':
    case 'time': {
      const all = addresses();
      return !!all && ((found[field] = all), true);
    }
    case 'also': {
      const good =
        list.length > 0 &&
        list.every((a) => {
          const [first = '', last] = a.split('-');
          return last === undefined
            ? !!parsePrefix(a)
            : parseIpv4(first) !== undefined && parseIpv4(last) !== undefined;
        });
      return good && ((found.also = list), true);
    }
    case 'network':
    case 'block': {
      const prefix = parsePrefix(text);
      return !!prefix && networkOf(prefix).address === prefix.address && ((found[field] = text), true);
    }
    case 'vlan': {
      const tag = number(1, 4094);
      return tag !== undefined && ((found.vlan = tag), true);
    }
    case 'mtu': {
      const bytes = number(68, 65535);
      return bytes !== undefined && ((found.mtu = bytes), true);
    }
    case 'user':
    case 'secret':
      found[field] = text;
      return true;
    case 'address6': {
      const prefix = parsePrefix(text);
      return !!prefix && !isIpv4(prefix.address) && ((found.address6 = text), true);
    }
    case 'auto6':
      if (text !== 'slaac' && text !== 'dhcpv6' && text !== 'slaac and dhcpv6') return false;
      found.auto6 = text;
      return true;
  }
}

const JUDGED: ReadonlySet<Contradiction['code']> = new Set([
  'gateway-outside',
  'gateway-is-address',
  'address-not-host',
  'usable-outside',
  'address-outside-network',
  'address-outside-usable',
]);

/** Whether it is found again from the rows as they are now. */
const isJudged = (c: Contradiction): boolean => JUDGED.has(c.code);

/** Rows whose correction settles a contradiction of the sheet. */
const SETTLED_BY: Readonly<Partial<Record<Contradiction['code'], readonly SheetField[]>>> = {
  'mask-twice': ['length'],
  'mask-invalid': ['length'],
  'length-invalid': ['length'],
  'gateway-twice': ['gateway'],
  'address-twice': ['address'],
  'vlan-twice': ['vlan'],
  'vlan-invalid': ['vlan'],
  'user-twice': ['user'],
  'secret-twice': ['secret'],
  'mtu-twice': ['mtu'],
  'mtu-invalid': ['mtu'],
  'octet-invalid': ['address', 'gateway', 'names'],
  'block-not-network': ['block'],
  'routed-elsewhere': ['block', 'address'],
};

/** Whether a row is one of those that a contradiction of the sheet is about: what is put there settles it. */
export const isDoubted = ({ contradictions }: Handoff, field: SheetField): boolean =>
  contradictions.some((c) => SETTLED_BY[c.code]?.includes(field));

const isSettled = (c: Contradiction, fields: readonly SheetField[]): boolean =>
  !!SETTLED_BY[c.code]?.some((f) => fields.includes(f));
