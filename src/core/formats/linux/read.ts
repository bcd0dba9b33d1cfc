/**
 * What a Linux box reports by `ip -j -d link`, `ip -j addr`, `ip -j route` and `ip -j rule`, read into a box file. Every value is
 * checked (Valibot) before it is used; what has no place in the notation is listed, not dropped in silence.
 */
import { extend, memo } from '#core/base';
import * as v from 'valibot';
import { formatIp, formatPrefix, parseIp, parseIpv4, parseIpv6, parseMac, parsePrefix } from '#core/addr';
import { isName, isReserved, layOut, nameLike, printString } from '#core/notation';

const LinkSchema = v.looseObject({
  ifname: v.string(),
  address: v.optional(v.string()),
  mtu: v.optional(v.number()),
  operstate: v.optional(v.string()),
  flags: v.optional(v.array(v.string()), []),
  link_type: v.optional(v.string()),
  link: v.optional(v.nullable(v.string())),
  link_index: v.optional(v.number()),
  ifindex: v.optional(v.number()),
  master: v.optional(v.string()),
  linkinfo: v.optional(
    v.looseObject({
      info_kind: v.optional(v.string()),
      info_data: v.optional(
        v.looseObject({
          id: v.optional(v.number()),
          protocol: v.optional(v.string()),
          table: v.optional(v.number()),
          mode: v.optional(v.string()),
          ad_lacp_rate: v.optional(v.string()),
        }),
      ),
    }),
  ),
});
const AddrSchema = v.looseObject({
  ifname: v.string(),
  addr_info: v.optional(
    v.array(
      v.looseObject({
        family: v.string(),
        local: v.optional(v.string()),
        prefixlen: v.optional(v.number()),
        scope: v.optional(v.string()),
        dynamic: v.optional(v.boolean()),
        secondary: v.optional(v.boolean()),
        address: v.optional(v.string()),
        peer: v.optional(v.string()),
      }),
    ),
    [],
  ),
});
const RouteSchema = v.looseObject({
  dst: v.string(),
  gateway: v.optional(v.string()),
  dev: v.optional(v.string()),
  protocol: v.optional(v.string()),
  metric: v.optional(v.number()),
  type: v.optional(v.string()),
  table: v.optional(v.union([v.string(), v.number()])),
  flags: v.optional(v.array(v.string()), []),
});

const RuleSchema = v.looseObject({
  priority: v.optional(v.number(), 0),
  src: v.optional(v.string(), 'all'),
  iif: v.optional(v.string()),
  table: v.optional(v.union([v.string(), v.number()])),
});

/** The reports, as JSON text. */
export interface LinuxReports {
  readonly link: string;
  readonly addr: string;
  readonly route: string;
  /** Absent where nobody asked for it. */
  readonly rule?: string;
}

export interface BoxRead {
  readonly text: string;
  /** What was not taken, a sentence each. */
  readonly left: readonly string[];
}

/** Which report cannot be read, and why. */
export interface ReportFault {
  readonly report: keyof LinuxReports;
  readonly why: string;
}

type Links = v.InferOutput<typeof LinkSchema>[];
type Addrs = v.InferOutput<typeof AddrSchema>[];
type Routes = v.InferOutput<typeof RouteSchema>[];
type Rules = v.InferOutput<typeof RuleSchema>[];

function parse<T>(
  report: keyof LinuxReports,
  text: string,
  schema: v.GenericSchema<unknown, T>,
): { ok: true; value: T[] } | { ok: false; fault: ReportFault } {
  let json: unknown;
  try {
    const bare = text.replace(/^\ufeff/, '');
    json = bare.trim() === '' ? [] : JSON.parse(bare);
  } catch (error) {
    return { ok: false, fault: { report, why: error instanceof Error ? error.message : 'no JSON' } };
  }
  if (!Array.isArray(json)) return { ok: false, fault: { report, why: 'expected a list' } };
  // `ip` prints empty objects for what a filter left out.
  const rows = json.filter((row: unknown) => row && typeof row === 'object' && Object.keys(row).length > 0);
  const result = v.safeParse(v.array(schema), rows);
  if (!result.success)
    return {
      ok: false,
      fault: {
        report,
        why: result.issues
          .slice(0, 3)
          .map((i) => `${v.getDotPath(i) ?? ''}: ${i.message}`)
          .join('; '),
      },
    };
  return { ok: true, value: result.output };
}

/** Reads the reports of a Linux box. */
export function readLinuxBox(
  reports: LinuxReports,
): { ok: true; value: BoxRead } | { ok: false; fault: ReportFault } {
  const link = parse('link', reports.link, LinkSchema);
  if (!link.ok) return link;
  const addr = parse('addr', reports.addr, AddrSchema);
  if (!addr.ok) return addr;
  const route = parse('route', reports.route, RouteSchema);
  if (!route.ok) return route;
  const rule = parse('rule', reports.rule ?? '', RuleSchema);
  if (!rule.ok) return rule;
  return { ok: true, value: write(link.value, addr.value, route.value, rule.value) };
}

/** Gives every reported name one that the notation can hold, the same in each run. */
class Names {
  private readonly given = new Map<string, string>();
  private readonly taken = new Set<string>();
  private readonly tables = new Map<string, string>();

  /** The name of a routing table: those that are numbers are called `t100`. */
  table(reported: string): string {
    const known = this.tables.get(reported);
    if (known !== undefined) return known;
    const bare = nameLike(/^[0-9]/.test(reported) ? `t${reported}` : reported);
    let name = isName(bare) && !isReserved(bare) ? bare : 'table-1';
    const taken = new Set(this.tables.values());
    for (let n = 2; taken.has(name); n++) name = `${bare.slice(0, 11)}-${n}`;
    this.tables.set(reported, name);
    return name;
  }

  of(reported: string): string {
    const known = this.given.get(reported);
    if (known !== undefined) return known;
    const bare = reported.split('@')[0]!;
    let name = nameLike(bare);
    if (!isName(name) || isReserved(name)) name = `if-${name}`.replace(/-+$/, '').slice(0, 12);
    let free = name;
    for (let i = 2; this.taken.has(free); i++) free = `${name.slice(0, 12)}-${i}`;
    this.given.set(reported, free);
    this.taken.add(free);
    return free;
  }
}

/** Rules that every kernel has: its own tables, and those of VRF devices. */
const KERNEL_RULES = new Set([0, 32_766, 32_767]);
const isKernelRule = (r: Rules[number]): boolean =>
  KERNEL_RULES.has(r.priority) || 'l3mdev' in r || String(r.table).includes('l3mdev');

/** The table of each device that is not in main: by the VRF device that it is in, or by a rule that asks for it alone. */
function tablesOf(links: Links, rules: Rules, left: string[]): ReadonlyMap<string, string> {
  const out = new Map<string, string>();
  for (const l of links) {
    const vrf = links.find((m) => m.ifname === l.master && m.linkinfo?.info_kind === 'vrf');
    const table = vrf?.linkinfo?.info_data?.table;
    if (table !== undefined) out.set(l.ifname, String(table));
  }
  const told = new Set<string>();
  for (const r of rules) {
    if (isKernelRule(r)) continue;
    const { priority, src, iif, table, ...more } = r;
    const others = Object.keys(more).filter((k) => k !== 'protocol');
    if (iif !== undefined && table !== undefined && src === 'all' && !others.length && !out.has(iif))
      out.set(iif, table === 254 ? 'main' : String(table));
    else {
      const sentence = `the routing rule ${priority} (${Object.entries(r)
        .filter(([k]) => k !== 'priority')
        .map(([k, value]) => (typeof value === 'string' || typeof value === 'number' ? `${k} ${value}` : k))
        .join(' ')})`;
      // IPv4 and IPv6 often have the same.
      if (!told.has(sentence) && out.get(iif ?? '') !== String(table)) left.push(sentence);
      told.add(sentence);
    }
  }
  return out;
}

function write(links: Links, addrs: Addrs, routes: Routes, rules: Rules): BoxRead {
  const left: string[] = [];
  const tables = tablesOf(links, rules, left);
  const tableAt = (dev: string | undefined) => (dev === undefined ? undefined : tables.get(dev)) ?? 'main';
  const names = new Names();
  const kindOf = (l: Links[number]) => l.linkinfo?.info_kind;
  const isLoop = (l: Links[number]) => l.flags.includes('LOOPBACK') || l.link_type === 'loopback';
  const bridges = new Map<string, string[]>();
  for (const l of links)
    if (l.master !== undefined && links.some((b) => b.ifname === l.master && kindOf(b) === 'bridge'))
      bridges.set(l.master, [...(bridges.get(l.master) ?? []), l.ifname]);
  const bonds = links.filter((l) => kindOf(l) === 'bond');
  const inBond = (l: Links[number]) => bonds.find((b) => b.ifname === l.master);
  const isPort = (l: Links[number]) =>
    !isLoop(l) &&
    (kindOf(l) === undefined || ['veth', 'dummy', 'tun', 'macvlan', 'bond'].includes(kindOf(l)!)) &&
    (l.link_type ?? 'ether') === 'ether';
  const ports = links.filter(isPort);
  const out: string[] = ['# read from the box'];
  for (const l of ports) {
    const name = names.of(l.ifname);
    const clauses: string[] = [];
    if (name !== l.ifname) clauses.push(`label ${printString(l.ifname)}`);
    if (kindOf(l) === 'bond') {
      const parts = links.filter((p) => p.master === l.ifname).map((p) => names.of(p.ifname));
      const { mode, ad_lacp_rate: rate } = l.linkinfo?.info_data ?? {};
      const by = mode === '802.3ad' ? 'lacp' : mode === 'balance-xor' ? 'static' : undefined;
      if (!parts.length) left.push(`${l.ifname}: a bond without ports`);
      else {
        if (by === undefined)
          left.push(`${l.ifname}: its links go by ${mode ?? 'an unknown mode'}; taken as static`);
        clauses.push(
          `over ${parts.join(' ')} by ${by ?? 'static'}${by === 'lacp' && rate === 'fast' ? ' fast' : ''}`,
        );
      }
    }
    if (!l.flags.includes('UP')) clauses.push('off');
    if (l.address !== undefined && parseMac(l.address) !== undefined && parseMac(l.address) !== 0)
      clauses.push(`mac ${l.address.toLowerCase()}`);
    if (l.mtu !== undefined && l.mtu !== 1500 && l.mtu >= 68 && l.mtu <= 65535) clauses.push(`mtu ${l.mtu}`);
    out.push(layOut(`port ${name}:`, clauses));
  }
  // What leads on from the table that a device is in is its own default route; any other is a route like all.
  const isGateway = (r: Routes[number]) =>
    isDefault(r) && r.gateway !== undefined && tableName(r) === tableAt(r.dev);
  const defaults = routes.filter(isGateway).sort((a, b) => (a.metric ?? 0) - (b.metric ?? 0));
  const upstream = new Set(defaults.flatMap((r) => (r.dev === undefined ? [] : [r.dev])));
  const interfaces: string[] = [];
  let usesWorld = false;
  let usesInside = false;
  for (const l of links) {
    const clauses: string[] = [];
    const kind = kindOf(l);
    if (isLoop(l)) {
      // What lo has besides 127/8 and ::1 is an address of the box itself.
      const own: string[] = [];
      addressClauses(l.ifname, addrs, own, left, true);
      if (!own.length) continue;
      interfaces.push(layOut(`interface ${names.of('own')}:`, ['loopback', 'zone inside', ...own]));
      usesInside = true;
      continue;
    }
    if (kind === 'vlan') {
      const parent = l.link ?? links.find((p) => p.ifindex === l.link_index)?.ifname;
      const tag = l.linkinfo?.info_data?.id;
      if (typeof parent !== 'string' || tag === undefined) {
        left.push(`${l.ifname}: a VLAN without its port or its tag`);
        continue;
      }
      clauses.push(`on ${names.of(parent)} tag ${tag}`);
    } else if (kind === 'bridge') {
      const members = bridges.get(l.ifname) ?? [];
      if (!members.length) {
        left.push(`${l.ifname}: a bridge without members`);
        continue;
      }
      clauses.push(`bridge ${members.map((m) => names.of(m)).join(' ')}`);
    } else if (isPort(l)) {
      const member = l.master !== undefined && bridges.has(l.master);
      const has = addrs.some(
        (a) => a.ifname.split('@')[0] === l.ifname && a.addr_info.some((i) => i.scope !== 'link'),
      );
      if (member) {
        if (has) left.push(`${l.ifname}: an address on a member of bridge ${l.master}`);
        continue;
      }
      if (inBond(l)) {
        if (has) left.push(`${l.ifname}: an address on a port of ${l.master}`);
        continue;
      }
      if (!has) continue;
      clauses.push(`on ${names.of(l.ifname)}`);
    } else if (kind === 'vrf') continue;
    else {
      left.push(`${l.ifname}: a link of kind ${kind ?? l.link_type ?? 'unknown'}`);
      continue;
    }
    const zone = upstream.has(l.ifname) ? 'outside' : 'inside';
    if (zone === 'outside') usesWorld = true;
    else usesInside = true;
    clauses.push(`zone ${zone}`);
    if (!l.flags.includes('UP')) clauses.push('off');
    if (tableAt(l.ifname) !== 'main') clauses.push(`table ${names.table(tableAt(l.ifname))}`);
    addressClauses(l.ifname, addrs, clauses, left);
    const ways = defaults.filter((r) => r.dev === l.ifname);
    const way = ways.find((r) => parseIpv4(r.gateway!) !== undefined);
    if (way && !clauses.includes('address by dhcp'))
      clauses.push(`gateway ${way.gateway}${way.flags.includes('onlink') ? ' onlink' : ''}`);
    // What a router advertises is learned again.
    const way6 = ways.find((r) => r.protocol !== 'ra' && parseIpv6(r.gateway!) !== undefined);
    if (way6) clauses.push(`gateway6 ${way6.gateway}`);
    const rank = [...upstream].filter((d) => tableAt(d) === tableAt(l.ifname)).indexOf(l.ifname);
    if (rank > 0) clauses.push(`priority ${rank + 1}`);
    if (l.mtu !== undefined && l.mtu !== 1500 && kind !== undefined && kind !== 'veth' && l.mtu <= 65535)
      clauses.push(`mtu ${l.mtu}`);
    interfaces.push(layOut(`interface ${names.of(`${l.ifname}`)}:`, clauses));
  }
  if (usesWorld) out.push('zone outside: upstream');
  if (usesInside) out.push('zone inside:');
  const further = routes.filter((r) => !isGateway(r));
  for (const [table, own] of byTable(further)) extend(out, tableOf(table, own, links, names, left));
  // A table that only has the ways of its own interfaces is named all the same.
  for (const table of new Set(tables.values()))
    if (table !== 'main' && !out.some((l) => l.startsWith(`table ${names.table(table)}:`)))
      out.push(`table ${names.table(table)}:`);
  extend(out, interfaces);
  return { text: `${out.join('\n')}\n`, left };
}

function addressClauses(ifname: string, addrs: Addrs, clauses: string[], left: string[], loop = false): void {
  const also: string[] = [];
  let primary = false;
  for (const { addr_info } of addrs.filter((a) => a.ifname.split('@')[0] === ifname))
    for (const info of addr_info) {
      const text = `${info.local ?? ''}/${info.prefixlen ?? ''}`;
      const prefix = parsePrefix(text);
      if (!prefix) {
        left.push(`${ifname}: an address ${text} that is none`);
        continue;
      }
      if (info.scope === 'link' || (loop && (info.local === '::1' || /^127\./.test(info.local ?? ''))))
        continue;
      const peer = info.peer ?? info.address;
      if (peer !== undefined && peer !== info.local)
        left.push(`${ifname}: the peer ${peer} of its address ${info.local}`);
      const written = formatPrefix(prefix);
      if (info.family === 'inet6') {
        if (info.dynamic) {
          if (!clauses.includes('address6 by slaac')) clauses.push('address6 by slaac');
        } else clauses.push(`address6 ${written}`);
      } else if (!primary && info.dynamic) {
        clauses.push('address by dhcp');
        left.push(`${ifname}: its present lease ${written} (it is asked for anew)`);
        primary = true;
      } else if (!primary) {
        clauses.push(`address ${written}`);
        primary = true;
      } else also.push(written);
    }
  if (also.length) clauses.push(`also ${also.join(' ')}`);
}

/** The table of a route as it is called; main, too, where it is told by its number. */
const tableName = (r: Routes[number]): string =>
  r.table === undefined || r.table === 254 ? 'main' : String(r.table);

const isDefault = (r: Routes[number]): boolean =>
  r.dst === 'default' || r.dst === '0.0.0.0/0' || r.dst === '::/0';

/** Routes by the table they are in, main first; what the kernel keeps for itself is left out. */
function byTable(routes: Routes): Map<string, Routes> {
  const out = new Map<string, Routes>([['main', []]]);
  for (const r of routes) {
    const table = tableName(r);
    if (table === 'local' || table === '255') continue;
    memo(out, table, (): Routes => []).push(r);
  }
  return out;
}

/** Static routes of a table, without the gateways of interfaces; those the kernel made follow from the addresses. */
function tableOf(table: string, routes: Routes, links: Links, names: Names, left: string[]): string[] {
  const clauses: string[] = [];
  const isMain = table === 'main';
  for (const r of routes) {
    if (r.protocol === 'kernel' || r.protocol === 'ra') continue;
    const dst = r.dst === 'default' ? (r.gateway?.includes(':') ? '::/0' : '0.0.0.0/0') : r.dst;
    const prefix = parsePrefix(dst.includes('/') ? dst : `${dst}/${dst.includes(':') ? 128 : 32}`);
    const where = isMain ? '' : ` of table ${table}`;
    if (!prefix) {
      left.push(`the route to ${r.dst}${where}`);
      continue;
    }
    const to = formatPrefix(prefix);
    const via = r.gateway === undefined ? undefined : parseIp(r.gateway);
    // The kernel's metric is the order among routes to one network, which is what a distance says.
    const far = r.metric === undefined || r.metric === 0 ? 1 : Math.min(255, r.metric);
    if (r.metric !== undefined && r.metric > 255)
      left.push(`the metric ${r.metric} of the route to ${r.dst}${where} (255 is the most)`);
    const distance = far > 1 ? ` distance ${far}` : '';
    const dev = r.dev !== undefined && links.some((l) => l.ifname === r.dev) ? names.of(r.dev) : undefined;
    if (r.type === 'blackhole' || r.type === 'unreachable' || r.type === 'prohibit')
      clauses.push(`route ${to} drop${distance}`);
    else if (via !== undefined)
      clauses.push(
        `route ${to} via ${formatIp(via)}${!isMain && dev !== undefined ? ` on ${dev}` : ''}${distance}`,
      );
    else if (dev !== undefined) clauses.push(`route ${to} by ${dev}${distance}`);
    else left.push(`the route to ${r.dst}${where}`);
  }
  if (!clauses.length) return [];
  const name = isMain ? 'main' : names.table(table);
  return [layOut(`table ${name}:`, clauses)];
}
