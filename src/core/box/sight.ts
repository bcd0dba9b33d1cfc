/** What a live box knows, in the shapes that views and commands show: read from what its own tools report. */
import type { LiveHello, LiveState } from './live';

/** A device of the box. */
export interface PortSight {
  readonly name: string;
  readonly mac: string;
  readonly carrier: boolean;
  readonly up: boolean;
  readonly mtu: number;
  /** With their lengths; link-local ones left out. */
  readonly addresses: readonly string[];
  readonly received: Counted;
  readonly sent: Counted;
}

/** What a port has counted since the start of the kernel. */
export interface Counted {
  readonly packets: number;
  readonly bytes: number;
  /** Packets that were dropped, or broken. */
  readonly lost: number;
}

/** A route of the kernel. */
export interface RouteSight {
  readonly table: string;
  readonly to: string;
  readonly via?: string;
  readonly device: string;
  /** As the kernel has it: `kernel`, `static`, `dhcp`, `ra`, or `77` for ours. */
  readonly origin: string;
  readonly metric: number;
  /** Its device has no carrier. */
  readonly dead: boolean;
  readonly family: 4 | 6;
}

/** Somebody on a link of the box. */
export interface NeighbourSight {
  readonly address: string;
  readonly device: string;
  /** Absent where nobody answers. */
  readonly mac?: string;
  readonly state: string;
}

/** An address that the box has lent. */
export interface LeaseSight {
  readonly address: string;
  readonly mac: string;
  /** The name that the client gave itself; empty where it gave none. */
  readonly host: string;
  /** Its end, seconds since 1970 by the box's clock. */
  readonly ends: number;
}

/** A name that rules speak of. */
export interface NameSight {
  readonly known: string;
  readonly name: string;
  readonly addresses: readonly string[];
  /** A resolver, or `record` for the box's own; absent where nobody has answered. */
  readonly by?: string;
  /** Seconds since a resolver last answered; absent where none has. */
  readonly age?: number;
}

/** How often a statement, or a rule of the box’s own, let or stopped something. */
export interface HitSight {
  /** The subject of the statement, or what the box calls a rule of its own. */
  readonly statement: string;
  readonly packets: number;
  readonly bytes: number;
}

/** What was gone and was put back by the box itself. */
export interface Restored {
  /** The box's uptime then, seconds. */
  readonly at: number;
  /** `rules`, `forwarding`, `routing`, or units. */
  readonly what: readonly string[];
}

/** Everything of a box that is shown. */
export interface Sight {
  readonly box: LiveHello;
  readonly busy: boolean;
  /** The text that runs; `null` where nothing of ours does. */
  readonly text: string | null;
  readonly ports: readonly PortSight[];
  readonly routes: readonly RouteSight[];
  readonly neighbours: readonly NeighbourSight[];
  readonly leases: readonly LeaseSight[];
  readonly hits: readonly HitSight[];
  readonly names: readonly NameSight[];
  /** Uplinks that are out of use. */
  readonly dead: readonly string[];
  /** The last few times, the newest last. */
  readonly restored: readonly Restored[];
  /** Which of two boxes it is; empty where it shares nothing. */
  readonly part: '' | 'active' | 'stands-by';
}

type Row = Readonly<Record<string, unknown>>;
const text = (x: unknown): string => (typeof x === 'string' || typeof x === 'number' ? String(x) : '');
const count = (x: unknown): number => (typeof x === 'number' && Number.isFinite(x) ? x : 0);
const row = (x: unknown): Row => (x !== null && typeof x === 'object' ? (x as Row) : {});
const rowsOf = (x: unknown): Row[] => (Array.isArray(x) ? x.map(row) : []);

/** Everything of a state that is shown. What is missing or of another shape is left out, never guessed. */
export const sightOf = (s: LiveState): Sight => ({
  box: s.box,
  busy: s.busy,
  text: s.text,
  ports: portsOf(s),
  routes: [...s.route4.map((r) => routeOf(r, 4)), ...s.route6.map((r) => routeOf(r, 6))].filter(
    (r) => r.table !== 'local',
  ),
  neighbours: s.neigh.map(row).map((n) => ({
    address: text(n.dst),
    device: text(n.dev),
    mac: text(n.lladdr) || undefined,
    state: Array.isArray(n.state) ? n.state.map(text).join(' ').toLowerCase() : '',
  })),
  leases: leasesOf(s.leases),
  hits: hitsOf(s),
  names: namesOf(s),
  dead: s.dead.split('\n').filter(Boolean),
  restored: s.restored.split('\n').flatMap((line) => {
    const [at = '', ...what] = line.trim().split(' ');
    return /^\d+$/.test(at) && what.length ? [{ at: Number(at), what }] : [];
  }),
  part: s.part,
});

function portsOf(s: LiveState): PortSight[] {
  return s.link
    .map(row)
    .filter((l) => text(l.ifname) !== 'lo')
    .map((l) => {
      const name = text(l.ifname);
      const flags = Array.isArray(l.flags) ? l.flags.map(text) : [];
      const infos = s.addr
        .map(row)
        .filter((a) => text(a.ifname) === name)
        .flatMap((a) => rowsOf(a.addr_info));
      const stats = row(l.stats64);
      const counted = (way: unknown): Counted => {
        const c = row(way);
        return { packets: count(c.packets), bytes: count(c.bytes), lost: count(c.dropped) + count(c.errors) };
      };
      return {
        name,
        mac: text(l.address),
        carrier: flags.includes('LOWER_UP'),
        up: flags.includes('UP'),
        mtu: count(l.mtu),
        addresses: infos
          .filter((i) => text(i.local) !== '' && text(i.scope) !== 'link')
          .map((i) => `${text(i.local)}/${count(i.prefixlen)}`),
        received: counted(stats.rx),
        sent: counted(stats.tx),
      };
    });
}

function routeOf(r: unknown, family: 4 | 6): RouteSight {
  const { dst, gateway, dev, protocol, metric, table, flags } = row(r);
  return {
    table: text(table) || 'main',
    to: text(dst) === 'default' ? (family === 4 ? '0.0.0.0/0' : '::/0') : text(dst),
    via: text(gateway) || undefined,
    device: text(dev),
    origin: text(protocol),
    metric: count(metric),
    dead: Array.isArray(flags) && flags.some((f) => f === 'dead' || f === 'linkdown'),
    family,
  };
}

/**
 * Leases of Kea's memfile (its columns are named in its first line); the last line of an address counts. One that ends at
 * no time is none.
 */
function leasesOf(csv: string): LeaseSight[] {
  const out = new Map<string, LeaseSight>();
  for (const line of csv.split('\n')) {
    const [address = '', mac = '', , , expire = '', , , , host = '', state = ''] = line.split(',');
    if (!/^\d+\.\d+\.\d+\.\d+$/.test(address) || !/^\d{1,11}$/.test(expire)) continue;
    if (state === '0') out.set(address, { address, mac, host, ends: Number(expire) });
    else out.delete(address);
  }
  return [...out.values()];
}

const namesOf = ({ named, box }: LiveState): NameSight[] =>
  named.split('\n').flatMap((line): NameSight[] => {
    const [known = '', name = '', by = '', at = '', list = ''] = line.split(' ');
    if (name === '') return [];
    return [
      {
        known,
        name,
        addresses: list.split(',').filter(Boolean),
        by: by === '-' || by === '' ? undefined : by,
        age: /^[1-9]\d*$/.test(at) ? Math.max(0, box.uptime - Number(at)) : undefined,
      },
    ];
  });

/** Hits of each statement that has any; a statement that is several rules has their sum. */
function hitsOf(s: LiveState): HitSight[] {
  const list = 'nftables' in s.counters ? s.counters.nftables : [];
  const out = new Map<string, HitSight>();
  for (const item of list) {
    const c = row(row(item).counter);
    const statement = text(c.comment);
    const [packets, bytes] = [count(c.packets), count(c.bytes)];
    if (!packets) continue;
    const was = out.get(statement);
    out.set(statement, {
      statement,
      packets: packets + (was?.packets ?? 0),
      bytes: bytes + (was?.bytes ?? 0),
    });
  }
  return [...out.values()];
}
