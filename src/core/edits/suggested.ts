/** What the place of a zone in the order of trust suggests: outwards yes, inwards no, a dmz never inwards. */
import { zoneNamed } from '#core/site';
import type { Site, Zone } from '#core/site';

/** Statements to accept for a zone; those that stand already, for it or for any, are left out. */
export function suggestedPassages(site: Site, name: string): string[] {
  const zone = zoneNamed(site, name);
  if (!zone || zone.upstream) return [];
  const said = (to: Zone) =>
    site.passages.some(
      (p) =>
        (p.from.name === name || p.from.name === 'any') && (p.to.name === to.name || p.to.name === 'any'),
    );
  const out: string[] = [];
  for (const to of site.zones) {
    if (to === zone || to.trust >= zone.trust || said(to)) continue;
    if (to.upstream) out.push(`passage ${name} > ${to.name}: allow${zone.dmz ? ' dns ntp tcp 80 443' : ''}`);
    // Who serves is asked for what it serves; from a dmz nothing is begun but outwards.
    else if (to.dmz && !zone.dmz) out.push(`passage ${name} > ${to.name}: allow tcp 80 443 ping`);
  }
  const outer = site.zones.find((z) => z.upstream);
  const leaves = site.leaves.some(
    (l) => l.who.type === 'any' || (l.who.type === 'name' && l.who.name === name),
  );
  if (outer && !leaves && out.length) out.push(`leave ${name} > ${outer.name}: as interface`);
  return out;
}
