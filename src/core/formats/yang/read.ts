/** JSON after YANG, ours or another's, read into statements. What has no place in the notation is listed. */
import { extend } from '#core/base';
import * as v from 'valibot';
import { isIpv4, parseIp, rangeContains } from '#core/addr';
import {
  KINDS,
  isName,
  isReserved,
  layOut,
  nameLike,
  oneLine,
  parseDocument,
  printString,
} from '#core/notation';
import type { StatementOf } from '#core/notation';

// A line of text: a line feed would begin a statement of its own.
const LINE = v.pipe(
  v.string(),
  v.check((text) => oneLine(text) === text, 'text of one line'),
);
const AddressSchema = v.looseObject({
  ip: v.pipe(
    v.string(),
    v.check((text) => parseIp(text) !== undefined, 'an IP address'),
  ),
  'prefix-length': v.pipe(v.number(), v.integer(), v.minValue(0), v.maxValue(128)),
});
const Addresses = v.optional(v.array(AddressSchema), []);
const InterfaceSchema = v.looseObject({
  name: LINE,
  description: v.optional(LINE),
  type: v.optional(v.string(), ''),
  enabled: v.optional(v.boolean(), true),
  'ietf-ip:ipv4': v.optional(
    v.looseObject({ mtu: v.optional(v.pipe(v.number(), v.integer())), address: Addresses }),
  ),
  'ietf-ip:ipv6': v.optional(v.looseObject({ address: Addresses })),
  'jolly-gate:clause': v.optional(v.array(LINE)),
});
const StatementSchema = v.object({
  number: v.optional(v.number()),
  kind: v.picklist(KINDS),
  head: LINE,
  clause: v.optional(v.array(LINE), []),
});
const DocumentSchema = v.looseObject({
  'ietf-interfaces:interfaces': v.optional(
    v.looseObject({ interface: v.optional(v.array(InterfaceSchema), []) }),
  ),
  'jolly-gate:site': v.optional(v.looseObject({ statement: v.optional(v.array(StatementSchema), []) })),
});
type ReadInterface = v.InferOutput<typeof InterfaceSchema>;

export type YangRead =
  | { readonly ok: true; readonly text: string; readonly left: readonly string[] }
  | { readonly ok: false; readonly where: string; readonly why: string };

/** Reads a document; says where one that cannot be read is wrong. */
export function readYang(json: string): YangRead {
  let value: unknown;
  try {
    // A byte order mark is no part of the document (RFC 8259 §8.1).
    value = JSON.parse(json.replace(/^\ufeff/, ''));
  } catch (error) {
    return { ok: false, where: '', why: error instanceof Error ? error.message : 'no JSON' };
  }
  const read = v.safeParse(DocumentSchema, value);
  if (!read.success) {
    const [issue] = read.issues;
    const where = (issue.path ?? []).map((p) => String(p.key)).join('/');
    return { ok: false, where, why: issue.message };
  }
  const document = read.output;
  const interfaces = document['ietf-interfaces:interfaces']?.interface ?? [];
  const statements = document['jolly-gate:site']?.statement ?? [];
  if (!interfaces.length && !statements.length)
    return { ok: false, where: '', why: 'there is neither ietf-interfaces:interfaces nor jolly-gate:site' };
  const twice = interfaces.map((i) => i.name).find((name, n, all) => all.indexOf(name) !== n);
  if (twice !== undefined)
    return { ok: false, where: 'ietf-interfaces:interfaces', why: `two interfaces are called “${twice}”` };
  const left = Object.keys(document).filter((k) => !(k in DocumentSchema.entries));
  const names = new Set<string>();
  const texts = new Map(
    interfaces.map((i) => {
      extend(left, unread(i));
      return [i.name, interfaceText(i, nameFor(i.name, names))] as const;
    }),
  );
  const lines = statements.map((s) => {
    if (s.kind === 'expect') return `expect ${s.head}`;
    if (s.kind !== 'interface') return layOut(`${s.kind} ${s.head}:`, s.clause);
    const text = texts.get(s.head) ?? layOut(`interface ${s.head}:`, s.clause);
    texts.delete(s.head);
    return text;
  });
  const text = `${[...lines, ...texts.values()].join('\n')}\n`;
  const printed = parseDocument(text, '');
  const [fault] = printed.problems.filter((p) => p.fatal);
  // Nothing of what is foreign may have become a statement of its own.
  const meant = lines.length + texts.size;
  if (!fault && printed.statements.length !== meant)
    return {
      ok: false,
      where: '',
      why: `it would read as ${printed.statements.length} statements, not ${meant}`,
    };
  if (!fault) return { ok: true, text, left };
  const { expected, got } = fault.code === 'syntax' ? fault.values : { expected: 'something else', got: '' };
  return { ok: false, where: fault.subject, why: `expected ${expected}, found ${got}` };
}

function unread(i: ReadInterface): string[] {
  const keys = (of: object, known: object) => Object.keys(of).filter((k) => !(k in known));
  return [
    ...keys(i, InterfaceSchema.entries).map((k) => `${i.name}: ${k}`),
    ...(['ietf-ip:ipv4', 'ietf-ip:ipv6'] as const).flatMap((family) =>
      Object.keys(i[family] ?? {})
        .filter((k) => k !== 'address' && k !== 'mtu')
        .map((k) => `${i.name}: ${family}/${k}`),
    ),
  ];
}

/** A name of the notation for one of another system: `eth0.20` is `eth0-20`. */
function nameFor(text: string, taken: Set<string>): string {
  const plain = nameLike(text).replace(/-+$/, '');
  const good = isName(plain) && !isReserved(plain) ? plain : 'if';
  let name = good;
  for (let n = 2; taken.has(name); n++) name = `${good.slice(0, 12)}-${n}`;
  taken.add(name);
  return name;
}

const CARRIERS = new Set(['on', 'bridge', 'pppoe', 'loopback']);
/** Clauses that stand before the address. */
const AHEAD = new Set([...CARRIERS, 'zone', 'table']);

function interfaceText(i: ReadInterface, name: string): string {
  const own = i['jolly-gate:clause'] ?? [carrierOf(i)];
  const clauseName = (c: string) => c.split(' ')[0]!;
  const ipv4 = i['ietf-ip:ipv4'];
  const listed = ipv4?.address ?? [];
  // A primary address that is got from a server is not among them.
  const primary = own.some((c) => clauseName(c) === 'address') ? undefined : listed[0];
  const more = primary ? listed.slice(1) : listed;
  const write = (a: { ip: string; 'prefix-length': number }) => `${a.ip}/${a['prefix-length']}`;
  const ahead = own.filter((c) => AHEAD.has(clauseName(c)));
  const address = primary ? [`address ${write(primary)}`] : [];
  const rest = own.filter((c) => !AHEAD.has(clauseName(c)));
  // What `also` says already, in its shorter form, need not be said again.
  const known = alsoOf(layOut(`interface ${name}:`, [...ahead, ...address, ...rest]));
  const fresh = more.filter((a) => !known.some((r) => rangeContains(r, parseIp(a.ip)!)));
  const clauses = [
    ...ahead,
    ...address,
    ...fresh.filter((a) => isIpv4(parseIp(a.ip)!)).map((a) => `also ${write(a)}`),
    ...(i['ietf-ip:ipv6']?.address ?? []).map((a) => `address6 ${write(a)}`),
    ...rest,
    ...(ipv4?.mtu === undefined ? [] : [`mtu ${ipv4.mtu}`]),
    ...(i.enabled ? [] : ['off']),
    ...(i.description === undefined ? [] : [`note ${printString(i.description)}`]),
  ];
  return layOut(`interface ${name}:`, clauses);
}

const alsoOf = (text: string) =>
  (parseDocument(text, '').statements[0] as StatementOf<'interface'> | undefined)?.also.map(
    (a) => a.value.range,
  ) ?? [];

/** Where another system's interface most likely sits: `eth0.20` is tag 20 of eth0. */
function carrierOf(i: ReadInterface): string {
  if (/softwareLoopback$/.test(i.type)) return 'loopback';
  const tagged = /^(.+)\.([1-9][0-9]{0,3})$/.exec(i.name);
  const port = nameFor(tagged?.[1] ?? i.name, new Set());
  return tagged ? `on ${port} tag ${tagged[2]}` : `on ${port}`;
}
