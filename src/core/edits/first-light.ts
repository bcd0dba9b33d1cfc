/** The statements that First light writes, step by step, as sets that belong together. */
import { formatIp, hostRange } from '#core/addr';
import type { Ipv4, Prefix } from '#core/addr';
import { printString } from '#core/notation';
import type { FileChange } from '#core/notation';
import { interfaceNamed, zoneNamed } from '#core/site';
import type { Site } from '#core/site';
import { textOf } from './renumber';
import { addStatement, changeClauses, dropStatement, joinChanges } from './change';

/** Statements to be written, with the changes that write them. */
export interface Written {
  readonly statements: readonly string[];
  readonly changes: readonly FileChange[];
}

const joined = (statements: readonly string[], ...changes: readonly (readonly FileChange[])[]): Written => ({
  statements,
  changes: joinChanges(...changes),
});

/** The circuit that First light writes for the provider's line. */
const LINE = 'line';

/** Plugs the provider's line and the administrator's PC into two ports. Things plugged there before are moved. */
export function plugIn(site: Site, line: string, desk: string): Written {
  const circuit = site.circuits.find((c) => c.name === LINE);
  const laptop = site.stations.find((s) => s.name === 'laptop');
  const out: (readonly FileChange[])[] = [];
  const statements = [`circuit line: at ${line}`, `station laptop: at ${desk}, address by dhcp, seat`];
  out.push(
    circuit
      ? changeClauses(site, circuit, [{ do: 'set', name: 'at', text: `at ${line}` }])
      : addStatement(site, 'circuit', statements[0]!),
  );
  out.push(
    laptop
      ? changeClauses(site, laptop, [{ do: 'set', name: 'at', text: `at ${desk}` }])
      : addStatement(site, 'station', statements[1]!),
  );
  return joined(statements, ...out);
}

/** What a line gives, as its sheet says; the bench's stand-in for the provider is set up alike. */
export interface LineTerms {
  readonly kind: 'static' | 'dhcp' | 'pppoe';
  readonly network?: string;
  readonly gateway?: string;
  /** A further network that is routed to the address. */
  readonly routed?: { readonly block: string; readonly address: string };
  readonly names?: readonly string[];
  /** The tag that the line arrives with. */
  readonly tag?: number;
  /** Of a PPPoE login. */
  readonly user?: string;
  readonly secret?: string;
}

/** The uplink with its zone, and the line on the bench behaving as the sheet says. */
export function writeUplink(site: Site, statement: string, name: string, terms: LineTerms): Written {
  const zone = site.zones.find((z) => z.upstream)?.name ?? 'world';
  const statements: string[] = [];
  const out: (readonly FileChange[])[] = [];
  if (!zoneNamed(site, zone)) {
    statements.push(`zone ${zone}: upstream`);
    const first = site.zones[0]?.statement;
    out.push(addStatement(site, 'zone', `zone ${zone}: upstream`, first ? { before: first } : {}));
  }
  statements.push(statement);
  const old = interfaceNamed(site, name);
  if (old) out.push(dropStatement(site, old.statement));
  out.push(addStatement(site, 'interface', statement));
  const circuit = site.circuits.find((c) => c.name === LINE);
  const at = circuit?.plug?.to === 'port' ? circuit.plug.port : 'p1';
  const line = lineText(at, terms);
  if (line) {
    statements.push(line);
    if (circuit) out.push(dropStatement(site, circuit));
    out.push(addStatement(site, 'circuit', line));
  }
  return joined(statements, ...out);
}

/** The provider's stand-in, where it does what the sheet says and nothing else is known of it. */
export function lineOnSheet(site: Site, terms: LineTerms): string | undefined {
  const circuit = site.circuits.find((c) => c.name === LINE);
  if (circuit?.plug?.to !== 'port') return undefined;
  return lineText(circuit.plug.port, terms) === textOf(site, circuit) ? circuit.name : undefined;
}

function lineText(socket: string, terms: LineTerms): string | undefined {
  const port = terms.tag === undefined ? socket : `${socket} tag ${terms.tag}`;
  const names = terms.names?.length ? `, names ${terms.names.join(' ')}` : '';
  const { routed } = terms;
  const routes = routed ? `, routes ${routed.block} via ${routed.address}` : '';
  if (terms.kind === 'static' && terms.network && terms.gateway)
    return `circuit line: at ${port}, block ${terms.network}, gateway ${terms.gateway}${routes}${names}`;
  if (terms.kind === 'dhcp')
    return `circuit line: at ${port}, lends 198.18.7.100-.150 in 198.18.7.0/24, gateway .1, names ${terms.names?.join(' ') ?? '198.18.7.1'}`;
  if (terms.kind === 'pppoe')
    return `circuit line: at ${port}, pppoe ${printString(terms.user ?? '')} ${printString(terms.secret ?? '')} gives 198.18.7.100 peer 198.18.7.1, names ${terms.names?.join(' ') ?? '198.18.7.1'}`;
  return undefined;
}

/** What the first inside network is, beside its name, port and subnet; absent: what most offices have. */
export interface InsideTerms {
  /** The pool; none where empty. */
  readonly pool?: string;
  readonly answers?: string;
  /** What may go out: everything, web with names and time, or nothing. */
  readonly out?: 'all' | 'web' | 'nothing';
  /** The address that it shows outside; the interface's where absent. */
  readonly leavesAs?: string;
}

/** The pool that leaves room for what has a fixed address. */
export const usualPool = (net: Prefix<Ipv4>): string => {
  const { first, last } = hostRange(net);
  return net.length <= 24
    ? `${formatIp((first + 49) as Ipv4)}-.199`
    : `${formatIp((first + 9) as Ipv4)}-${formatIp(last)}`;
};

export const USUAL_ANSWERS = 'ping dns ssh https';

/** The first inside network as one set: zone, interface with pool and answers, passage, leaving address, promise. */
export function writeInside(
  site: Site,
  name: string,
  port: string,
  net: Prefix<Ipv4>,
  { pool = usualPool(net), answers = USUAL_ANSWERS, out = 'all', leavesAs }: InsideTerms = {},
): Written {
  const outside = site.zones.find((z) => z.upstream)?.name ?? 'world';
  const uplink = site.interfaces.find((i) => i.uplink)?.name;
  const { first } = hostRange(net);
  const lends = pool ? `,\n  lends ${pool}` : '';
  const said = answers ? `, answers ${answers}` : '';
  const set: readonly (readonly ['zone' | 'interface' | 'passage' | 'leave' | 'expect', string])[] = [
    ['zone', `zone ${name}:`],
    [
      'interface',
      `interface ${name}: on ${port}, zone ${name}, address ${formatIp(first)}/${net.length}${lends}${said}`,
    ],
    ...(out === 'nothing'
      ? []
      : ([
          [
            'passage',
            `passage ${name} > ${outside}: allow${out === 'web' ? ' dns ntp tcp 80 443 ping' : ''}`,
          ],
          ...(leavesAs && uplink ? [['leave', `leave ${name} > ${uplink}: as ${leavesAs}`] as const] : []),
          ['leave', `leave any > ${outside}: as interface`],
          ['expect', `expect ${name} reaches internet${out === 'web' ? ' tcp 443' : ''}`],
        ] as const)),
  ];
  const there = new Set(site.statements.map((s) => s.subject));
  const skip = (kind: string, text: string) =>
    kind === 'zone' || kind === 'interface'
      ? there.has(`${kind}/${name}`)
      : text.startsWith('leave any') &&
        site.leaves.some((l) => l.who.type === 'any' && l.via.name === outside);
  const statements = set.flatMap(([kind, text]) => (skip(kind, text) ? [] : [text]));
  const changes = set.flatMap(([kind, text]) => (skip(kind, text) ? [] : [addStatement(site, kind, text)]));
  if (site.box && !site.box.servesNames && answers.split(' ').includes('dns')) {
    statements.push(`box ${site.box.name}: serves names`);
    changes.push(changeClauses(site, site.box, [{ do: 'add', text: 'serves names' }]));
  }
  return joined(statements, ...changes);
}

/** The ports of a box in its carton: as many as it has, those that something uses left alone. */
export function writePorts(site: Site, count: number): Written {
  const used = new Set(site.interfaces.flatMap((i) => i.ports));
  for (const { plug } of [...site.circuits, ...site.switches, ...site.stations])
    if (plug?.to === 'port') used.add(plug.port);
  const statements: string[] = [];
  const changes: (readonly FileChange[])[] = [];
  for (let n = 1; n <= count; n++)
    if (!site.ports.has(`p${n}`)) {
      statements.push(`port p${n}:`);
      changes.push(addStatement(site, 'port', `port p${n}:`));
    }
  for (const { name, statement } of site.ports.values()) {
    const n = Number(/^p(\d+)$/.exec(name)?.[1] ?? 0);
    if (n > count && statement && !used.has(name) && !statement.label && !statement.note)
      changes.push(dropStatement(site, statement));
  }
  return joined(statements, ...changes);
}
