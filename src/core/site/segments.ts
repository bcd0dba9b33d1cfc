/** Where a cable leads: through switches to a port and tag of the box, and which interface takes what arrives there. */
import { memo } from '#core/base';
import type { JackClause, Plug, StatementOf } from '#core/notation';
import type { Interface, Site } from './types';

/** The port and tag on which the box meets something, or why it never does. */
export type Landing =
  | { readonly port: string; readonly tag?: number }
  | {
      readonly lost: 'not-plugged' | 'switch-unknown' | 'jack-unknown' | 'tag-not-carried' | 'switch-loop';
      readonly detail: string;
      /** Where it would arrive if the tag were carried. */
      readonly meant?: { readonly port: string; readonly tag: number };
      /** The switch and VLAN nearest to the box that its frames get to, where that is somewhere. */
      readonly segment?: string;
      /** Who does not carry it: a switch on its own cable, or on a jack. */
      readonly stop?: {
        readonly switch: StatementOf<'switch'>;
        readonly jack?: number;
        readonly tag: number;
      };
    };

type Lost = Exclude<Landing, { readonly port: string }>;
type JackPlug = Extract<Plug, { to: 'jack' }>;

/** Whether the landing is a port of the box. */
export const landed = (landing: Landing): landing is { readonly port: string; readonly tag?: number } =>
  'port' in landing;

/** Where what is plugged into an interface lands; undefined where it is on no port. */
export const landingOn = ({ ports: [port], tag }: Interface): Landing | undefined =>
  port === undefined ? undefined : { port, tag };

/** Follows a plug to the box, from switch to switch. */
export function landingOf(site: Site, plug: Plug | undefined): Landing {
  if (!plug) return { lost: 'not-plugged', detail: '' };
  if (plug.to === 'port') return { port: plug.port, tag: plug.tag };
  return enter(site, plug, plug.tag, new Set(), {});
}

/** As landingOf, of one side of a router, which may be a switch's own. */
export function legLanding(site: Site, plug: Plug): Landing {
  const sw = routingSwitch(site.switches, plug);
  return sw ? rise(site, sw, plug.tag ?? sw.native, new Set()) : landingOf(site, plug);
}

/** The switch that a leg of a router is in, by one of its VLANs. */
export const routingSwitch = (
  switches: readonly StatementOf<'switch'>[],
  plug: Plug,
): StatementOf<'switch'> | undefined =>
  plug.to === 'port' ? switches.find((s) => s.name === plug.port) : undefined;

/** A frame with a tag, or without, comes in by a jack. */
function enter(
  site: Site,
  plug: JackPlug,
  tag: number | undefined,
  seen: Set<string>,
  below: Pick<Lost, 'segment'>,
): Landing {
  const sw = site.switches.find((s) => s.name === plug.switch);
  if (!sw) return { lost: 'switch-unknown', detail: plug.switch, ...below };
  const jack = jackOf(sw, plug.jack);
  const socket = `${sw.name}/${plug.jack}`;
  if (!jack) return { lost: 'jack-unknown', detail: socket, ...below };
  const vlan = tag === undefined ? jack.tag : jackCarries(jack, tag) ? tag : undefined;
  if (vlan !== undefined) return rise(site, sw, vlan, seen);
  if (tag === undefined) return { lost: 'tag-not-carried', detail: `untagged frames on ${socket}`, ...below };
  const stop = { switch: sw, jack: plug.jack, tag };
  return {
    lost: 'tag-not-carried',
    detail: `${tag} on ${socket}`,
    meant: meantFor(site, sw, tag),
    stop,
    ...below,
  };
}

/** A frame that is in a VLAN of a switch leaves by the switch's own cable. */
function rise(site: Site, sw: StatementOf<'switch'>, vlan: number, seen: Set<string>): Landing {
  if (seen.has(sw.name)) return { lost: 'switch-loop', detail: sw.name };
  seen.add(sw.name);
  const segment = `${sw.name} ${vlan}`;
  const tag = vlan === sw.native ? undefined : vlan;
  if (tag !== undefined && !sw.carries.some((c) => c.value === tag))
    return {
      lost: 'tag-not-carried',
      detail: `${tag} on ${sw.name}`,
      meant: meantFor(site, sw, tag),
      segment,
      stop: { switch: sw, tag },
    };
  if (!sw.plug) return { lost: 'not-plugged', detail: sw.name, segment };
  if (sw.plug.to === 'port') return { port: sw.plug.port, tag };
  return enter(site, sw.plug, tag, seen, { segment });
}

/** Where a tag would arrive if every switch on the way carried it. */
function meantFor(site: Site, from: StatementOf<'switch'>, tag: number): Lost['meant'] {
  const top = uplinksOf(site, from).at(-1);
  return top?.plug?.to === 'port' ? { port: top.plug.port, tag } : undefined;
}

/** A switch and those that it hangs on, up to the box. */
function uplinksOf(site: Site, sw: StatementOf<'switch'>): StatementOf<'switch'>[] {
  const out: StatementOf<'switch'>[] = [];
  for (let at: StatementOf<'switch'> | undefined = sw; at && !out.includes(at);) {
    out.push(at);
    const { plug }: StatementOf<'switch'> = at;
    at = plug?.to === 'jack' ? site.switches.find((s) => s.name === plug.switch) : undefined;
  }
  return out;
}

/** Whether a switch's own cable leads round to itself: no frame goes over it. */
export function isLooped(site: Site, sw: StatementOf<'switch'>): boolean {
  const seen = new Set<string>();
  for (let at: StatementOf<'switch'> | undefined = sw; at?.plug?.to === 'jack' && !seen.has(at.name);) {
    const { plug }: StatementOf<'switch'> = at;
    if (plug.switch === sw.name) return true;
    seen.add(at.name);
    at = site.switches.find((s) => s.name === plug.switch);
  }
  return false;
}

/** A jack of a switch, where it has that. */
export const jackOf = (sw: StatementOf<'switch'>, jack: number): JackClause | undefined =>
  sw.jacks.find((j) => j.value.jack === jack)?.value;

/** Whether frames with a tag pass a jack with it: its own VLAN travels untagged there. */
export const jackCarries = ({ tag: own, carries }: JackClause, tag: number): boolean =>
  tag !== own && carries.some((c) => c.value === tag);

/** Whether an interface can be on the air at all: it is not off, and neither is its port, or every one of several. */
export const isLit = (site: Site, iface: Interface): boolean =>
  !iface.off &&
  (iface.ports.length ? iface.ports.some((p) => isOpen(site, p)) : iface.carrier === 'loopback');

/** Whether frames of a port are its own: it is not off, and not part of an aggregation. */
const isOpen = (site: Site, port: string): boolean => {
  const stated = site.ports.get(port);
  return !stated?.off && stated?.within === undefined;
};

/** The interface that takes frames with this tag on this port; of two that claim it, the first. Off ones take nothing. */
export const interfaceAt = (site: Site, landing: Landing): Interface | undefined =>
  landed(landing) ? memo(takers, site, () => takersOf(site)).get(segmentKey(landing)) : undefined;

const takers = new WeakMap<Site, ReadonlyMap<string, Interface>>();
const segmentKey = ({ port, tag }: { readonly port: string; readonly tag?: number }): string =>
  `${port} ${tag ?? ''}`;

function takersOf(site: Site): ReadonlyMap<string, Interface> {
  const out = new Map<string, Interface>();
  for (const iface of site.interfaces)
    if (!iface.off)
      for (const port of iface.ports)
        if (isOpen(site, port)) memo(out, segmentKey({ port, tag: iface.tag }), () => iface);
  return out;
}

/** Where a cable leads, or would lead if its tag were carried. */
export const meantAt = (landing: Landing): { readonly port: string; readonly tag?: number } | undefined =>
  landed(landing) ? landing : landing.meant;

/** Whose segment it would be: as interfaceAt, with interfaces that are off and tags that are not carried. */
export function claimantAt(site: Site, landing: Landing): Interface | undefined {
  const at = meantAt(landing);
  return at && site.interfaces.find((i) => i.ports.includes(at.port) && i.tag === at.tag);
}

/**
 * What tells whether two things are on one segment: the interface of the box that is there, the port and tag where none
 * is, or the switch and VLAN where it does not get to the box.
 */
export function segmentOf(site: Site, landing: Landing): string | undefined {
  if (!landed(landing)) return landing.segment;
  const iface = interfaceAt(site, landing);
  return iface ? `interface ${iface.name}` : `port ${segmentKey(landing)}`;
}
