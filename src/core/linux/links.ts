/**
 * Wanted links, a line each, in the order in which they are made:
 * `NAME KIND PARENT TAG STATE MTU MAC MASTER PCP` with `-` where nothing is said, as of an uplink on demand. KIND is port, vlan, bridge, bond or ppp;
 * of a bond the parent is how its links are agreed on: `lacp`, `lacp-fast` or `static`.
 */
import { formatMac } from '#core/addr';
import { ETHERNET_MTU } from '#core/site';
import type { Interface } from '#core/site';
import { taggedDevice } from './numbers';
import { isOnCall } from './told';
import type { Told } from './told';

interface Link {
  readonly name: string;
  readonly kind: 'port' | 'vlan' | 'bridge' | 'bond' | 'ppp';
  readonly parent?: string;
  readonly tag?: number;
  /** Undefined where whoever keeps the uplinks says so. */
  readonly up: boolean | undefined;
  readonly mtu?: number;
  readonly mac?: string;
  readonly master?: string;
  readonly pcp?: number;
}

const lineOf = (l: Link): string =>
  [
    l.name,
    l.kind,
    l.parent ?? '-',
    l.tag ?? '-',
    l.up === undefined ? '-' : l.up ? 'up' : 'down',
    l.mtu ?? '-',
    l.mac ?? '-',
    l.master ?? '-',
    l.pcp || '-',
  ].join(' ');

/** The lines of `links`. */
export function wantedLinks(told: Told): string[] {
  const { site, live, dev } = told;
  const out: Link[] = [];
  const used = new Set(live.flatMap((i) => i.ports));
  /** What an interface says of itself, on the device that is its own. */
  const said = (i: Interface) => ({ mtu: i.mtu, mac: i.mac === undefined ? undefined : formatMac(i.mac) });
  /** Whether its link goes up as it is called, and down again; a session comes and goes by itself. */
  const isKept = (i: Interface) => isOnCall(told, i) && i.carrier !== 'pppoe';
  const plainOn = (port: string) =>
    live.find(
      (i) => i.ports.length === 1 && i.ports[0] === port && i.tag === undefined && i.carrier === 'on',
    );
  const masterOf = (port: string, tag: number | undefined) => {
    const over = live.find((i) => i.ports.length > 1 && i.ports.includes(port) && i.tag === tag);
    return over && dev(over);
  };
  for (const i of live)
    if (i.ports.length > 1)
      out.push({ name: dev(i), kind: 'bridge', up: isKept(i) ? undefined : true, ...said(i) });
  // What is made of others is there before them, so that they can be put into it.
  const ports = [...site.ports.values()].sort((a, b) => Number(!a.over) - Number(!b.over));
  for (const port of ports) {
    const { over, within } = port;
    if (within !== undefined) {
      if (used.has(within)) out.push({ name: port.name, kind: 'port', up: !port.off, master: within });
      continue;
    }
    // One that nothing uses is left as it is, unless it is to be off.
    if (!used.has(port.name) && !port.off) continue;
    const plain = plainOn(port.name);
    const own = plain ? said(plain) : { mtu: undefined, mac: undefined };
    // Tagged frames need all that the port carries, whatever the interface without a tag is content with.
    const alone = !live.some((i) => i.tag !== undefined && i.ports.includes(port.name));
    const mtu = (alone ? own.mtu : undefined) ?? port.mtu;
    out.push({
      name: port.name,
      kind: over ? 'bond' : 'port',
      parent: over && (over.mode === 'lacp' && over.fast ? 'lacp-fast' : over.mode),
      up: !port.off && plain && isKept(plain) ? undefined : !port.off,
      mtu: mtu !== ETHERNET_MTU || port.statement ? mtu : undefined,
      mac: own.mac ?? (port.mac === undefined ? undefined : formatMac(port.mac)),
      master: masterOf(port.name, undefined),
    });
  }
  const tagged = new Set<string>();
  for (const i of live)
    for (const port of i.tag === undefined ? [] : i.ports) {
      const single = i.ports.length === 1 && i.carrier === 'on';
      const name = single ? dev(i) : taggedDevice(site, port, i.tag);
      if (tagged.has(name)) continue;
      tagged.add(name);
      out.push({
        name,
        kind: 'vlan',
        parent: port,
        tag: i.tag,
        up: single && isKept(i) ? undefined : true,
        ...(single ? said(i) : {}),
        mtu: (single ? i.mtu : undefined) ?? site.ports.get(port)?.mtu,
        master: i.ports.length > 1 ? dev(i) : undefined,
        pcp: i.pcp,
      });
    }
  for (const i of live)
    if (i.carrier === 'pppoe')
      out.push({
        name: dev(i),
        kind: 'ppp',
        parent: taggedDevice(site, i.ports[0]!, i.tag),
        up: true,
      });
  return out.map(lineOf);
}
