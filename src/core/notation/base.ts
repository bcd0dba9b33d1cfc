/** What the short addresses of a statement lean on (notation, "Short addresses"), found here and nowhere else. */
import { parseIp, parseIpv4 } from '#core/addr';
import type { Ip, Ipv4 } from '#core/addr';
import type { Clause } from './ast';
import type { Kind } from './grammar';
import type { Token } from './lexer';

/** The first address that a statement has in full. */
export interface Base {
  readonly address: Ipv4;
  /** Absent where the base has no length: then any short address fits. */
  readonly length?: number;
}

/** The clause whose address comes before any other of the statement. */
const OWN: Readonly<Partial<Record<Kind, string>>> = {
  circuit: 'block',
  interface: 'address',
  station: 'address',
};

/** The base of a statement, by its header and clauses; undefined where it has no full IPv4 address. */
export function baseOf(kind: Kind, header: readonly Token[], clauses: readonly Clause[]): Base | undefined {
  const own = clauses.find((c) => c.name === OWN[kind]);
  const found = (own && fullAddress(own.words, 1)) ?? firstAddress(header);
  if (found) return found;
  for (const clause of clauses) {
    const first = firstAddress(clause.words);
    if (first) return first;
  }
  return undefined;
}

/** The base that a clause has of its own: each leg of a router leans on its own address. */
export const clauseBase = (kind: Kind, clause: Clause): Base | undefined =>
  kind === 'router' && clause.name === 'leg' ? firstAddress(clause.words) : undefined;

function firstAddress(words: readonly Token[]): Base | undefined {
  for (let i = 0; i < words.length; i++) {
    const found = fullAddress(words, i);
    if (found) return found;
  }
  return undefined;
}

function fullAddress(words: readonly Token[], i: number): Base | undefined {
  const token = words[i];
  const digit = token?.kind === 'word' ? token.text.charCodeAt(0) : 0;
  if (!token || digit < 48 || digit > 57) return undefined;
  const match = /^([0-9.]+)(?:-[0-9.]+)?(?:\/([0-9]{1,2}))?$/.exec(token.text);
  const address = match ? parseIpv4(match[1]!) : undefined;
  if (address === undefined) return undefined;
  const length = match![2] === undefined ? undefined : Number(match![2]);
  if (length === undefined && words[i + 1]?.text === 'mask') {
    const mask = parseIpv4(words[i + 2]?.text ?? '');
    if (mask !== undefined) return { address, length: 32 - Math.log2((~mask >>> 0) + 1) };
  }
  return length !== undefined && length > 32 ? { address } : { address, length };
}

/** An address in full, or the octets missing in front (`.5`, `.20.5`) taken from the base. */
export function resolveShort(text: string, base: Ipv4 | undefined): Ip | undefined {
  if (text.charCodeAt(0) !== 46) return parseIp(text);
  if (base === undefined) return undefined;
  let dots = 0;
  for (let i = 0; i < text.length; i++) if (text.charCodeAt(i) === 46) dots++;
  if (dots > 3) return undefined;
  // Zeros stand for what is missing, so that the octets given are read as strictly as in a full address.
  const rest = parseIpv4(MISSING[dots]! + text);
  if (rest === undefined) return undefined;
  return (((base & (-1 << (8 * dots))) | rest) >>> 0) as Ipv4;
}

const MISSING = ['', '0.0.0', '0.0', '0'];
