/** Where a cable leads: through switches to a port and tag of the box, and which interface takes what arrives there. */
import { memo } from '#core/base';
import type { Plug, StatementOf } from '#core/notation';
import type { Interface, Site } from './types';

/** The port and tag on which the box meets something, or why it never does. */
export type Landing =
  | { readonly port: string; readonly tag?: number }
  | {
      readonly lost: 'not-plugged' | 'switch-unknown' | 'jack-unknown' | 'tag-not-carried' | 'switch-loop';
      readonly detail: string;
      /** Where it would arrive if the tag were carried. */
      readonly meant?: { readonly port: string; readonly tag: number };
    };

/** Whether the landing is a port of the box. */
export const landed = (landing: Landing): landing is { readonly port: string; readonly tag?: number } =>
  'port' in landing;

/** Follows a plug to the box. A frame climbs from an access jack, in its tag, over each switch's trunk. */
export function landingOf(site: Site, plug: Plug | undefined): Landing {
  if (!plug) return { lost: 'not-plugged', detail: '' };
  if (plug.to === 'port') return { port: plug.port, tag: plug.tag };
  return climb(site, plug, new Set());
}

function climb(site: Site, plug: Extract<Plug, { to: 'jack' }>, seen: Set<string>): Landing {
  const sw = site.switches.find((s) => s.name === plug.switch);
  if (!sw) return { lost: 'switch-unknown', detail: plug.switch };
  if (seen.has(sw.name)) return { lost: 'switch-loop', detail: sw.name };
  seen.add(sw.name);
  const vlan = jackTag(sw, plug.jack);
  if (vlan === undefined) return { lost: 'jack-unknown', detail: `${sw.name}/${plug.jack}` };
  const tag = vlan === sw.native ? undefined : vlan;
  if (tag !== undefined && !sw.carries.some((c) => c.value === tag))
    return {
      lost: 'tag-not-carried',
      detail: `${tag} on ${sw.name}`,
      meant: sw.plug?.to === 'port' ? { port: sw.plug.port, tag } : undefined,
    };
  if (!sw.plug) return { lost: 'not-plugged', detail: sw.name };
  if (sw.plug.to === 'port') return { port: sw.plug.port, tag };
  // A jack is an access port: what arrives there tagged is dropped by the switch above.
  if (tag !== undefined)
    return { lost: 'tag-not-carried', detail: `${tag} on ${sw.plug.switch}/${sw.plug.jack}` };
  return climb(site, sw.plug, seen);
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

/** The VLAN of a jack; undefined where the switch has no such jack. */
export const jackTag = (sw: StatementOf<'switch'>, jack: number): number | undefined =>
  sw.jacks.find((j) => j.value.jack === jack)?.value.tag;

/** Whether an interface can be on the air at all: it is not off, and neither is its port, or every one of several. */
export const isLit = (site: Site, iface: Interface): boolean =>
  !iface.off &&
  (iface.ports.length ? iface.ports.some((p) => !site.ports.get(p)?.off) : iface.carrier === 'loopback');

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
        if (!site.ports.get(port)?.off) memo(out, segmentKey({ port, tag: iface.tag }), () => iface);
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
