/**
 * The numbers and names by which a Linux box knows the parts of a site. They follow from names alone, so that an edit
 * elsewhere in the text moves none of them: a flow that both texts allow lives on from one to the other.
 */
import { memo } from '#core/base';
import type { Interface, Site } from '#core/site';

/** Names of devices have 15 characters at most (IFNAMSIZ of the kernel). */
const LONGEST = 15;

const named = new WeakMap<Site, ReadonlyMap<Interface, string>>();

/** How Linux calls the interfaces of a site: the port, port.tag, or a name of their own; no two alike. */
const devicesOf = (site: Site): ReadonlyMap<Interface, string> =>
  memo(named, site, () => {
    const out = new Map<Interface, string>();
    const taken = new Set<string>(site.ports.keys());
    for (const iface of site.interfaces) {
      const { carrier } = iface;
      const port = iface.ports[0] ?? iface.name;
      const plain =
        carrier === 'loopback'
          ? 'lo'
          : carrier === 'pppoe'
            ? `ppp-${iface.name}`
            : iface.ports.length > 1
              ? `br-${iface.name}`
              : iface.tag === undefined
                ? port
                : `${port}.${iface.tag}`;
      // The port itself and lo are what they are; of all others each has a name that nobody else has.
      const name = plain === 'lo' || plain === port ? plain : free(plain, taken);
      taken.add(name);
      out.set(iface, name);
    }
    return out;
  });

/** The name itself, or cut and numbered where it is too long or taken. */
function free(plain: string, taken: ReadonlySet<string>): string {
  if (plain.length <= LONGEST && !taken.has(plain)) return plain;
  for (let n = 2; ; n++) {
    const name = `${plain.slice(0, LONGEST - `-${n}`.length)}-${n}`;
    if (!taken.has(name)) return name;
  }
}

/** How Linux calls an interface. */
export const deviceOf = (site: Site, iface: Interface): string => devicesOf(site).get(iface)!;

const tagged = new WeakMap<Site, ReadonlyMap<string, string>>();

/** The device of one tag on one port: that of the interface there, or one below a bridge or a session. */
export const taggedDevice = (site: Site, port: string, tag: number | undefined): string =>
  tag === undefined
    ? port
    : memo(tagged, site, () => {
        const devices = devicesOf(site);
        const taken = new Set([...site.ports.keys(), ...devices.values()]);
        const out = new Map<string, string>();
        for (const i of site.interfaces)
          for (const p of i.tag === undefined ? [] : i.ports) {
            const key = `${p} ${i.tag}`;
            if (i.ports.length === 1 && i.carrier === 'on') out.set(key, devices.get(i)!);
            else if (!out.has(key)) out.set(key, free(`${p}.${i.tag}`, taken));
            taken.add(out.get(key)!);
          }
        return out;
      }).get(`${port} ${tag}`)!;

/** The protocol number that routes and rules of ours carry; all others belong to somebody else (rtnetlink(7)). */
export const OURS = 77;
/** Routing tables of ours begin here: the number of an interface or table is added. */
const FIRST_TABLE = 7_700_000;
/** Linux's own number of the table main. */
const MAIN = 254;

/** Numbers of interfaces are 1 to 0xefff, those of tables 0xf000 to 0xfffd, and main's is behind them. */
const INTERFACES = { first: 1, count: 0xefff } as const;
const TABLES = { first: 0xf000, count: 0xffe } as const;
const MAIN_NUMBER = 0xfffe;
/** A number as marks are written. */
export const hex = (n: number): string => `0x${n.toString(16)}`;
/** A flow that goes nowhere, since its only way is dead. */
export const NOWHERE = 0xffff;

/** Added to a table's number: to be looked up there without its default routes. */
export const NO_DEFAULT = 0x10000;

/** What fits: more interfaces or tables than this have no numbers. */
export const MOST = { interfaces: INTERFACES.count, tables: TABLES.count } as const;

/** FNV-1a of a name's UTF-16 units, 32 bits. */
function hashOf(name: string): number {
  let h = 0x811c9dc5;
  for (let i = 0; i < name.length; i++) h = Math.imul(h ^ name.charCodeAt(i), 0x01000193) >>> 0;
  return h;
}

/** A number for each name: where its hash leads, or the next that is free. */
function numbered(
  names: readonly string[],
  { first, count }: { readonly first: number; readonly count: number },
): ReadonlyMap<string, number> {
  const out = new Map<string, number>();
  const taken = new Set<number>();
  for (const name of names) {
    if (taken.size === count) break;
    let n = hashOf(name) % count;
    while (taken.has(n)) n = (n + 1) % count;
    taken.add(n);
    out.set(name, first + n);
  }
  return out;
}

export interface Numbers {
  /** By which a flow remembers an interface, 1 to 0xefff; 0 for one that is not there. */
  readonly ofInterface: (name: string) => number;
  /** By which a packet is told to be looked up in a table of the site. */
  readonly ofTable: (name: string) => number;
  /** The kernel's table of a table of the site. */
  readonly kernelTable: (name: string) => number;
  /** The kernel's table that holds the routes by one interface only. */
  readonly tableBy: (iface: string) => number;
  /** Every table of the site, main first. */
  readonly tables: readonly string[];
}

const reckoned = new WeakMap<Site, Numbers>();

/** The numbers of a site's interfaces and tables. */
export const numbersOf = (site: Site): Numbers =>
  memo(reckoned, site, () => {
    const interfaces = numbered(
      site.interfaces.map((i) => i.name),
      INTERFACES,
    );
    const apart = [...new Set([...site.interfaces.map((i) => i.table), ...site.tables.map((t) => t.name)])];
    const tables = numbered(
      apart.filter((t) => t !== 'main'),
      TABLES,
    );
    const ofInterface = (name: string) => interfaces.get(name) ?? 0;
    const ofTable = (name: string) => (name === 'main' ? MAIN_NUMBER : (tables.get(name) ?? 0));
    return {
      ofInterface,
      ofTable,
      kernelTable: (name) => (name === 'main' ? MAIN : FIRST_TABLE + ofTable(name)),
      tableBy: (name) => FIRST_TABLE + ofInterface(name),
      tables: ['main', ...tables.keys()],
    };
  });
