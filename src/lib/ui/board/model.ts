/** The board as data: columns of ports, rows of zones, slabs where they meet. No markup here. */
import { formatIp, formatPrefix, isIpv4 } from '#core/addr';
import type { Prefix } from '#core/addr';
import type { Change } from '#core/change';
import type { Prospects, Interface, Site, Wiring, Zone } from '#core/site';
import { circuitsOf, describedPorts, poolSize, primaryOf } from '#core/site';
import type { FindingView } from '../../session/index';

export interface Column {
  readonly port: string;
  readonly label: string;
  readonly off: boolean;
  /** `none`: no cable that the wiring tells of. */
  readonly light: 'up' | 'down' | 'off' | 'none';
  readonly speed: string;
  readonly farEnd: string;
  /** No slab hangs here: it shrinks to a sliver. */
  readonly sliver: boolean;
  readonly width: number;
  readonly tags: readonly number[];
}

export interface Row {
  readonly name: string;
  /** Absent in the row of what is in no zone yet. */
  readonly zone?: Zone;
  readonly tint: number;
  readonly texture: number;
  readonly about: string;
}

export type DraftWord = '' | 'new' | 'changed' | 'removed';

export interface Slab {
  readonly subject: string;
  readonly name: string;
  readonly row: string;
  readonly port: string;
  /** Further ports of a bridge. */
  readonly stubs: readonly string[];
  readonly draft: DraftWord;
  readonly tag: string;
  readonly off: boolean;
  readonly dark: boolean;
  readonly address: string;
  /** How the address was got: `written`, `learned`, `supposed`, `none`. */
  readonly how: 'written' | 'learned' | 'supposed' | 'none';
  readonly oldAddress: string;
  readonly also: string;
  readonly facts: readonly string[];
  readonly findings: readonly FindingView[];
  readonly held: boolean;
}

export interface Board {
  readonly columns: readonly Column[];
  readonly rows: readonly Row[];
  readonly slabs: readonly Slab[];
}

/** The row of interfaces without a zone. */
export const NO_ZONE = '';

const STEPS = [168, 200, 232] as const;

export interface BoardInput {
  readonly site: Site;
  readonly running: Site;
  readonly wiring: Wiring;
  readonly prospects: Prospects;
  readonly changes: readonly Change[];
  readonly findings: readonly FindingView[];
  readonly held: readonly string[];
  /** Ports whose cable a drill has pulled. */
  readonly cut: readonly string[];
}

/** Ports in the order of their numbers, then of their names. */
export const portOrder = (a: string, b: string): number => a.localeCompare(b, 'en', { numeric: true });

export function boardOf(input: BoardInput): Board {
  const { site, running } = input;
  const removed = running.interfaces.filter((i) => !site.interfaces.some((x) => x.name === i.name));
  const all = [
    ...site.interfaces.map((i) => ({ i, gone: false })),
    ...removed.map((i) => ({ i, gone: true })),
  ];
  const ports = [...new Set([...site.ports.keys(), ...removed.flatMap((i) => i.ports)])].sort(portOrder);
  const slabs = all.map(({ i, gone }) => slabOf(input, i, gone));
  const columns = ports.map((port) => columnOf(input, port, slabs));
  const rows: Row[] = site.zones.map((zone) => ({
    name: zone.name,
    zone,
    tint: zone.statement.tint?.value ?? (zone.trust % 6) + 1,
    texture: (zone.trust % 4) + 1,
    about: aboutZone(input, zone),
  }));
  if (slabs.some((s) => s.row === NO_ZONE))
    rows.push({ name: NO_ZONE, tint: 6, texture: 1, about: 'nothing passes' });
  return { columns, rows, slabs };
}

function aboutZone(input: BoardInput, zone: Zone): string {
  const words = [
    ...(zone.upstream ? ['upstream'] : []),
    ...(zone.dmz ? ['dmz'] : []),
    ...(zone.management ? ['management'] : []),
    ...(zone.within === 'drop' && !zone.upstream ? ['within drop'] : []),
  ];
  const stations = input.wiring.stations.filter(
    (s) =>
      !s.supposed &&
      !s.off &&
      input.site.interfaces.some(
        (i) =>
          i.zone?.name === zone.name &&
          'port' in s.landing &&
          i.ports.includes(s.landing.port) &&
          s.landing.tag === i.tag,
      ),
  ).length;
  if (stations) words.push(`${stations} station${stations > 1 ? 's' : ''}`);
  return words.join(' · ');
}

function columnOf(input: BoardInput, port: string, slabs: readonly Slab[]): Column {
  const { site, wiring } = input;
  const stated = site.ports.get(port);
  const here = slabs.filter((s) => s.port === port || s.stubs.includes(port));
  const plugged = [
    ...site.circuits
      .filter((c) => c.plug?.to === 'port' && c.plug.port === port)
      .map((c) => `circuit ${c.name}`),
    ...site.switches
      .filter((s) => s.plug?.to === 'port' && s.plug.port === port)
      .map((s) => {
        const count = wiring.stations.filter(
          (x) => 'port' in x.landing && x.landing.port === port && !x.supposed,
        ).length;
        return `switch ${s.name}, ${count} station${count === 1 ? '' : 's'}`;
      }),
    ...site.stations.filter((s) => s.plug?.to === 'port' && s.plug.port === port).map((s) => `${s.name}`),
  ];
  const down = site.circuits.some((c) => c.plug?.to === 'port' && c.plug.port === port && c.down);
  const supposed = !describedPorts(site).has(port) && here.length > 0;
  const light = stated?.off
    ? 'off'
    : input.cut.includes(port) || (down && plugged.length === 1)
      ? 'down'
      : plugged.length || supposed
        ? 'up'
        : 'none';
  const longest = Math.max(0, ...here.map((s) => s.address.length));
  const speed = stated?.statement?.speed?.value;
  return {
    port,
    label: stated?.statement?.label?.value ?? '',
    off: !!stated?.off,
    light,
    speed: speed === undefined || speed === 'auto' ? '' : speed >= 1000 ? `${speed / 1000}G` : `${speed}M`,
    farEnd: plugged.length ? plugged.join(', ') : supposed ? 'supposed' : 'no cable',
    sliver: here.length === 0,
    width: here.length === 0 ? 28 : longest <= 15 ? STEPS[0] : longest <= 19 ? STEPS[1] : STEPS[2],
    tags: [
      ...new Set(here.flatMap((s) => (s.tag === '—' || s.tag.includes('+') ? [] : [Number(s.tag)]))),
    ].sort((a, b) => a - b),
  };
}

function slabOf(input: BoardInput, iface: Interface, gone: boolean): Slab {
  const { prospects, wiring, changes } = input;
  const subject = `interface/${iface.name}`;
  const change = changes.find((c) => c.subject === subject);
  const own = primaryOf(iface, prospects);
  const learned = prospects.uplinks.get(iface.name);
  const before = change?.clauses.find((c) => c.name === 'address')?.was.replace(/^address /, '') ?? '';
  const circuits = circuitsOf(wiring, iface).filter((c) => !c.supposed);
  const dark =
    iface.ports.some((p) => input.cut.includes(p)) || (circuits.length > 0 && circuits.every((c) => c.down));
  return {
    subject,
    name: iface.name,
    row: iface.zone?.name ?? NO_ZONE,
    port: iface.ports[0] ?? '',
    stubs: iface.ports.slice(1),
    draft: gone ? 'removed' : change?.kind === 'added' ? 'new' : change ? 'changed' : '',
    tag: iface.ports.length > 1 ? iface.ports.join('+') : iface.tag === undefined ? '—' : String(iface.tag),
    off: iface.off,
    dark,
    address: own ? formatPrefix(own) : iface.dynamic ? `by ${iface.dynamic}` : 'no address',
    how: learned ? (learned.supposed ? 'supposed' : 'learned') : own ? 'written' : 'none',
    oldAddress: before,
    also: alsoText(iface, own),
    facts: gone ? [] : factsOf(input, iface),
    findings: gone ? [] : input.findings.filter((f) => f.subject === subject),
    held: input.held.includes(subject),
  };
}

/** The last octets where they share the primary's first three, else the whole address. */
function shortIn(primary: Prefix | undefined, prefix: Prefix): string {
  const [a, b] = [primary && formatIp(primary.address), formatIp(prefix.address)];
  if (!a || !isIpv4(prefix.address)) return formatPrefix(prefix);
  const head = a.slice(0, a.lastIndexOf('.') + 1);
  return b.startsWith(head) && prefix.length === primary!.length
    ? `.${b.slice(head.length)}`
    : formatPrefix(prefix);
}

function alsoText(iface: Interface, primary: Prefix | undefined): string {
  const rest = iface.addresses.filter((a) => !a.primary).map((a) => shortIn(primary, a.prefix));
  if (!rest.length) return '';
  return rest.length <= 3 ? rest.join(' ') : `${rest.length} (${rest[0]}–${rest[rest.length - 1]})`;
}

/** Facts in a fixed order: gateway, order, lends, answers. */
function factsOf(input: BoardInput, iface: Interface): string[] {
  const facts: string[] = [];
  const learned = input.prospects.uplinks.get(iface.name);
  if (iface.gateway.by === 'address')
    facts.push(
      `gw ${shortIn(primaryOf(iface, input.prospects), { address: iface.gateway.address, length: primaryOf(iface, input.prospects)?.length ?? 0 })}`,
    );
  else if (iface.gateway.by === 'learned' && learned?.gateway !== undefined)
    facts.push(
      `gw ⟨${shortIn(learned.address, { address: learned.gateway, length: learned.address.length })}⟩`,
    );
  if (iface.uplink) {
    const rank = input.site.interfaces
      .filter((i) => i.uplink && i.table === iface.table)
      .sort((a, b) => a.priority - b.priority)
      .findIndex((i) => i.name === iface.name);
    facts.push(['1st', '2nd', '3rd'][rank] ?? `${rank + 1}th`);
  }
  const pool = poolSize(iface);
  if (pool > 0) facts.push(`lends ${pool}`);
  const answers = [...new Set(iface.statement.answers.flatMap((a) => a.services.map((s) => s.name)))];
  if (answers.length) facts.push(answers.join(' '));
  if (iface.statement.guard) facts.push('guard');
  return facts;
}
