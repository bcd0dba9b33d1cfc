/** Reads a provider's sheet as people get it: free text, a mail, a table. Says what it found, lacks and contradicts. */
import {
  broadcastOf,
  contains,
  formatIp,
  formatPrefix,
  hostRange,
  isIpv4,
  lengthOfMask,
  networkOf,
  parseIpv4,
  parsePrefix,
  rangeContains,
} from '#core/addr';
import type { Ipv4, Prefix, Range } from '#core/addr';
import { layOut, printString } from '#core/notation';
import { labelsIn, plain } from './labels';
import type { Field } from './labels';

/** What a sheet says. Absent: it does not say. */
export interface Found {
  readonly kind: 'static' | 'dhcp' | 'pppoe';
  readonly address?: string;
  readonly length?: number;
  readonly gateway?: string;
  readonly names?: readonly string[];
  /** The provider's block or subnet, where it is named. */
  readonly network?: string;
  /** Addresses the customer may use. */
  readonly usable?: string;
  /** A further block, routed to the customer. */
  readonly block?: string;
  readonly time?: readonly string[];
  readonly vlan?: number;
  readonly user?: string;
  readonly secret?: string;
  readonly mtu?: number;
  readonly ipv6?: readonly string[];
}

/** One thing on the sheet that does not fit another. */
export interface Contradiction {
  readonly code:
    | 'gateway-outside'
    | 'gateway-is-address'
    | 'address-not-host'
    | 'mask-twice'
    | 'mask-invalid'
    | 'usable-outside'
    | 'address-outside-network'
    | 'address-outside-usable';
  readonly values: Readonly<Record<string, string>>;
}

export interface Handoff {
  readonly found: Found;
  /** Names of fields: `address`, `length`, `gateway`, `names`, `user`, `secret`. */
  readonly missing: readonly string[];
  readonly contradictions: readonly Contradiction[];
  /** The statement it would write. */
  readonly statement: string;
}

export interface HandoffOptions {
  /** The name of the interface, its port and zone. */
  readonly name?: string;
  readonly port?: string;
  readonly zone?: string;
}

/** A value met in the text, with the label it stands behind. */
interface Value {
  readonly field?: Field;
  readonly address: Ipv4;
  readonly length?: number;
  readonly last?: Ipv4;
}

const DASH = '(?:-|–|—|\\bto\\b|\\bbis\\b|\\ba\\b|\\bà\\b|\\bhasta\\b|\\.\\.\\.?)';
const QUAD = '(?<![\\d.])\\d{1,3}(?:\\.\\d{1,3}){3}(?![\\d]|\\.\\d)';
const SHORT = '(?<![\\w.])\\.\\d{1,3}(?![\\w.]*\\d)';
const VALUE = new RegExp(
  `(${QUAD})\\s*(?:/\\s*(\\d{1,2})(?!\\d))?(?:\\s*${DASH}\\s*(${QUAD}|\\.?\\d{1,3}(?![\\d.])))?|(${SHORT})(?:\\s*${DASH}\\s*(\\.?\\d{1,3})(?![\\d.]))?|(?<![\\w/.])/(\\d{1,2})(?!\\d|/)`,
  'g',
);

/** Reads a sheet. Never throws; an empty sheet misses everything. */
export function readHandoff(text: string, options: HandoffOptions = {}): Handoff {
  const lines = text.replace(/\r/g, '').split('\n');
  const values: Value[] = [];
  let base: Ipv4 | undefined;
  const lengths: { length: number; written: string }[] = [];
  const contradictions: Contradiction[] = [];
  const words = new Map<Field, string>();
  let carried: Field | undefined;
  let header: { field: Field; cell: number }[] = [];
  for (const raw of lines) {
    const line = plain(raw);
    const labels = labelsIn(line);
    const cells = cellsOf(raw);
    const labelCells = cells.map((cell) => labelsIn(plain(cell.text))[0]?.field);
    const hasValue = /\d{1,3}\.\d{1,3}\.\d{1,3}|(?<![\w.])\.\d/.test(raw);
    // A row of labels without values heads the columns below it.
    if (!hasValue && cells.length > 1 && labelCells.filter((f) => f && f !== 'ignore').length > 1) {
      header = labelCells.flatMap((field, cell) => (field ? [{ field, cell }] : []));
      continue;
    }
    if (raw.trim() === '') {
      carried = undefined;
      continue;
    }
    readWords(raw, line, words);
    const inColumns = header.length > 1 && cells.length >= header.length && labels.length === 0;
    for (const match of raw.matchAll(VALUE)) {
      const at = match.index;
      const cell = cells.findIndex((c) => at >= c.start && at < c.end);
      const before = labels.filter((l) => l.end <= at);
      const label = before[before.length - 1];
      // "198.51.100.17 (gateway)" and "198.51.100.17 is your gateway": the label may follow.
      const behind = labels.find((l) => {
        if (l.start < at + match[0].length) return false;
        const between = line.slice(at + match[0].length, l.start);
        const named =
          /^\s*[(=]\s*$|^\s*,?\s*(?:is|as|ist|als|est|es|comme|como)\s+(?:your|the|our|ihr|votre|su|el|la|le|der|das)?\s*$/.test(
            between,
          );
        // Or the label ends the line, with nothing behind it that it could announce.
        return named || (/^\s*$/.test(between) && !/\d/.test(line.slice(l.end)));
      });
      let field = label?.field ?? (inColumns ? header.find((h) => h.cell === cell)?.field : undefined);
      if (!field && behind) field = behind.field;
      if (!field && labels.length === 0 && carried) field = carried;
      if (field === 'vlan' || field === 'mtu' || field === 'ignore') field = undefined;
      const [, quad, length, to, short, shortTo, bareLength] = match;
      if (bareLength !== undefined) {
        const number = Number(bareLength);
        if (number <= 32 && number >= 8) lengths.push({ length: number, written: `/${number}` });
        continue;
      }
      const first = quad === undefined ? shortOf(short!, base) : parseIpv4(quad);
      if (first === undefined) continue;
      const isMask = field === 'mask' || (field === undefined && looksLikeMask(first));
      if (isMask || (looksLikeMask(first) && field !== 'gateway')) {
        const maskLength = lengthOfMask(first);
        if (maskLength === undefined)
          contradictions.push({ code: 'mask-invalid', values: { mask: formatIp(first) } });
        else lengths.push({ length: maskLength, written: formatIp(first) });
        continue;
      }
      base ??= first;
      const end = to ?? shortTo;
      const last =
        end === undefined
          ? undefined
          : end.includes('.') && !end.startsWith('.')
            ? parseIpv4(end)
            : shortOf(end.startsWith('.') ? end : `.${end}`, first);
      values.push({ field, address: first, length: length === undefined ? undefined : Number(length), last });
    }
    const open = labels[labels.length - 1];
    carried = open && !hasValue ? open.field : labels.length ? undefined : carried;
    if (hasValue && open) carried = open.field === 'names' ? 'names' : undefined;
  }
  return assemble(text, values, lengths, words, contradictions, options);
}

interface Cell {
  readonly text: string;
  readonly start: number;
  readonly end: number;
}

/** The cells of a table row: divided by tabs, bars, semicolons, or runs of spaces. */
function cellsOf(raw: string): Cell[] {
  const out: Cell[] = [];
  let at = 0;
  for (const part of raw.split(/(\t+|\s*\|\s*|\s*;\s*|\s{2,})/)) {
    const isGap = /^(\t+|\s*\|\s*|\s*;\s*|\s{2,})$/.test(part);
    if (!isGap && part.trim() !== '') out.push({ text: part, start: at, end: at + part.length });
    at += part.length;
  }
  return out;
}

/** Reads values that are no addresses: a user, a password, a VLAN, an MTU. */
function readWords(raw: string, line: string, words: Map<Field, string>): void {
  for (const label of labelsIn(line)) {
    const rest = raw.slice(label.end);
    if (label.field === 'vlan' || label.field === 'mtu') {
      const number = /^\W{0,6}(?:id|tag|is|ist|=|:)?\W{0,4}(\d{1,5})\b(?!\.?\d)/i.exec(rest)?.[1];
      if (number !== undefined && !words.has(label.field)) words.set(label.field, number);
    } else if (label.field === 'user' || label.field === 'secret') {
      const word =
        /^\s*(?:[:=\t|]|\bis\b|\bist\b|\best\b|\bes\b)?\s*"([^"]+)"/.exec(rest)?.[1] ??
        /^(?:\s*(?:[:=|]|\bis\b|\bist\b|\best\b|\bes\b)\s*|\t+|\s{2,})(\S+)/.exec(rest)?.[1];
      if (word !== undefined && !words.has(label.field)) words.set(label.field, word.replace(/[,;]$/, ''));
    }
  }
}

/** A short address with the base's leading octets. */
function shortOf(text: string, base: Ipv4 | undefined): Ipv4 | undefined {
  if (base === undefined) return undefined;
  const octet = Number(text.slice(1));
  return octet <= 255 ? ((base - (base & 255) + octet) as Ipv4) : undefined;
}

const looksLikeMask = (address: Ipv4): boolean => address >>> 24 === 255;

function assemble(
  text: string,
  values: readonly Value[],
  lengths: readonly { length: number; written: string }[],
  words: ReadonlyMap<Field, string>,
  given: readonly Contradiction[],
  options: HandoffOptions,
): Handoff {
  const contradictions = [...given];
  const of = (field: Field) => values.filter((v) => v.field === field);
  const lower = plain(text);
  const user = words.get('user');
  const kind: Found['kind'] =
    /pppoe/.test(lower) || (user !== undefined && words.has('secret'))
      ? 'pppoe'
      : !values.some(
            (v) =>
              v.field === 'address' ||
              v.field === 'gateway' ||
              v.field === 'usable' ||
              v.field === 'network' ||
              !v.field,
          ) && /\bdhcp\b|automatic|automatisch|automatique|automatica|dynami|dinamic/.test(lower)
        ? 'dhcp'
        : 'static';
  const routed = of('routed').find((v) => v.length !== undefined);
  const networkValue =
    of('network').find((v) => v.length !== undefined || lengths.length) ?? of('network')[0];
  const gateway = of('gateway')[0]?.address;
  const usableValue = of('usable')[0] ?? of('network').find((v) => v.last !== undefined);
  const unlabelled = values.filter((v) => !v.field);
  const names = unique([...of('names').map((v) => v.address)]);
  const time = unique(of('time').map((v) => v.address));
  const addressValue =
    of('address')[0] ??
    unlabelled.find((v) => v.length !== undefined && v.address !== gateway && !isNetwork(v)) ??
    unlabelled.find((v) => v.address !== gateway && v.length === undefined && !v.last);
  const known = [addressValue?.length, ...lengths.map((l) => l.length), networkValue?.length].filter(
    (l): l is number => l !== undefined,
  );
  const length = known[0];
  const different = known.find((l) => l !== length);
  if (different !== undefined)
    contradictions.push({
      code: 'mask-twice',
      values: { first: `/${length}`, second: `/${different}` },
    });
  const net: Prefix<Ipv4> | undefined = networkOrNothing(
    networkValue,
    addressValue ?? (gateway === undefined ? undefined : { address: gateway }),
    length,
  );
  const usable = usableRange(usableValue, gateway);
  let address = addressValue?.last === undefined ? addressValue?.address : undefined;
  const rangeAddress = addressValue?.last === undefined ? undefined : usableRange(addressValue, gateway);
  const range = usable ?? rangeAddress;
  if (
    address === undefined ||
    (net && address === net.address && length !== undefined && length < 31 && !of('address').length)
  )
    address = range
      ? firstBut(range, gateway)
      : net && gateway !== undefined
        ? firstBut(hostRange(net), gateway)
        : address;
  check(contradictions, { address, gateway, length, net, range });
  const isStatic = kind === 'static';
  const found: Found = {
    kind,
    ...(isStatic && address !== undefined ? { address: formatIp(address) } : {}),
    ...(isStatic && length !== undefined ? { length } : {}),
    ...(isStatic && gateway !== undefined ? { gateway: formatIp(gateway) } : {}),
    ...(names.length ? { names: names.map(formatIp) } : {}),
    ...(net && networkValue ? { network: formatPrefix(net) } : {}),
    ...(range ? { usable: `${formatIp(range.first)}-${formatIp(range.last)}` } : {}),
    ...(routed?.length === undefined ? {} : { block: `${formatIp(routed.address)}/${routed.length}` }),
    ...(time.length ? { time: time.map(formatIp) } : {}),
    ...numberOf('vlan', words),
    ...(user === undefined ? {} : { user }),
    ...(words.has('secret') ? { secret: words.get('secret')! } : {}),
    ...numberOf('mtu', words),
    ...ipv6Of(text),
  };
  const missing = isStatic
    ? [
        ...(address === undefined ? ['address'] : []),
        ...(length === undefined ? ['length'] : []),
        ...(gateway === undefined ? ['gateway'] : []),
        ...(names.length ? [] : ['names']),
      ]
    : kind === 'pppoe'
      ? [...(user === undefined ? ['user'] : []), ...(words.has('secret') ? [] : ['secret'])]
      : [];
  return { found, missing, contradictions, statement: statementFor(found, options) };
}

const unique = (list: readonly Ipv4[]): Ipv4[] => [...new Set(list)];

const numberOf = (
  field: 'vlan' | 'mtu',
  words: ReadonlyMap<Field, string>,
): { vlan?: number; mtu?: number } => {
  const text = words.get(field);
  return text === undefined ? {} : { [field]: Number(text) };
};

function ipv6Of(text: string): { ipv6?: string[] } {
  const found = [...text.matchAll(/(?<![\w:.])[0-9a-fA-F]{1,4}:[0-9a-fA-F:]*:[0-9a-fA-F:]*(?:\/\d{1,3})?/g)]
    .map((m) => m[0])
    .filter((t) => parsePrefix(t.includes('/') ? t : `${t}/128`) !== undefined);
  return found.length ? { ipv6: [...new Set(found)] } : {};
}

const isNetwork = (v: Value): boolean =>
  v.length !== undefined &&
  v.length < 31 &&
  networkOf({ address: v.address, length: v.length }).address === v.address;

function networkOrNothing(
  named: Value | undefined,
  address: { readonly address: Ipv4 } | undefined,
  length: number | undefined,
): Prefix<Ipv4> | undefined {
  const from = named ?? address;
  const by = named?.length ?? length;
  return from && by !== undefined && by <= 32 ? networkOf({ address: from.address, length: by }) : undefined;
}

function usableRange(value: Value | undefined, gateway: Ipv4 | undefined): Range<Ipv4> | undefined {
  if (!value) return undefined;
  if (value.last !== undefined)
    return value.last >= value.address ? { first: value.address, last: value.last } : undefined;
  if (value.length !== undefined) return hostRange({ address: value.address, length: value.length });
  return value.address === gateway ? undefined : { first: value.address, last: value.address };
}

function firstBut(range: Range<Ipv4>, gateway: Ipv4 | undefined): Ipv4 | undefined {
  const first = range.first === gateway ? ((range.first + 1) as Ipv4) : range.first;
  return first <= range.last ? first : undefined;
}

function check(
  out: Contradiction[],
  it: {
    readonly address?: Ipv4;
    readonly gateway?: Ipv4;
    readonly length?: number;
    readonly net?: Prefix<Ipv4>;
    readonly range?: Range<Ipv4>;
  },
): void {
  const { address, gateway, length, net, range } = it;
  if (address !== undefined && length !== undefined) {
    const own = networkOf({ address, length });
    if (gateway !== undefined && gateway !== address && length < 31 && !contains(own, gateway))
      out.push({
        code: 'gateway-outside',
        values: { gateway: formatIp(gateway), network: formatPrefix(own) },
      });
    if (length < 31 && (address === own.address || address === broadcastOf(own)))
      out.push({
        code: 'address-not-host',
        values: { address: formatIp(address), network: formatPrefix(own) },
      });
    if (net && !contains(net, address))
      out.push({
        code: 'address-outside-network',
        values: { address: formatIp(address), network: formatPrefix(net) },
      });
    if (range && (!contains(own, range.first) || !contains(own, range.last)))
      out.push({
        code: 'usable-outside',
        values: { usable: `${formatIp(range.first)}-${formatIp(range.last)}`, network: formatPrefix(own) },
      });
  }
  if (address !== undefined && gateway === address)
    out.push({ code: 'gateway-is-address', values: { gateway: formatIp(gateway) } });
  if (address !== undefined && range && !rangeContains(range, address) && isIpv4(address))
    out.push({
      code: 'address-outside-usable',
      values: { address: formatIp(address), usable: `${formatIp(range.first)}-${formatIp(range.last)}` },
    });
}

/** The statement that a sheet's findings make; what is missing is left out. */
export function statementFor(found: Found, options: HandoffOptions = {}): string {
  const { name = 'uplink', port = 'p1', zone = 'world' } = options;
  const tag = found.vlan === undefined ? '' : ` tag ${found.vlan}`;
  const clauses: string[] = [];
  if (found.kind === 'pppoe') {
    const user = found.user === undefined ? '' : ` user ${printString(found.user)}`;
    const secret = found.secret === undefined ? '' : ` secret ${printString(found.secret)}`;
    clauses.push(`pppoe on ${port}${tag}${user}${secret}`);
  } else clauses.push(`on ${port}${tag}`);
  clauses.push(`zone ${zone}`);
  if (found.kind === 'dhcp') clauses.push('address by dhcp');
  else if (found.kind === 'pppoe') clauses.push('address by pppoe');
  else if (found.address !== undefined)
    clauses.push(`address ${found.address}${found.length === undefined ? '' : `/${found.length}`}`);
  if (found.gateway !== undefined) clauses.push(`gateway ${found.gateway}`);
  if (found.block !== undefined) clauses.push(`block ${found.block} routed`);
  if (found.names?.length) clauses.push(`names ${found.names.join(' ')}`);
  if (found.mtu !== undefined) clauses.push(`mtu ${found.mtu}`);
  return layOut(`interface ${name}:`, clauses);
}
