/** Passages that lead into more trust. */
import type { PassageRule } from '#core/semantics';
import { zoneNamed } from '#core/site';
import type { Site, Zone } from '#core/site';

/** The zones of an allowing passage that leads inwards. `any` as a source is the outermost zone that it means. */
export function inwardOf(site: Site, rule: PassageRule): { from: Zone; to: Zone } | undefined {
  if (rule.verdict !== 'allow' || rule.to === 'any') return undefined;
  const to = zoneNamed(site, rule.to);
  const from =
    rule.from === 'any' ? site.zones.find((z) => z.upstream && z !== to) : zoneNamed(site, rule.from);
  return from && to && from.trust < to.trust && !to.upstream ? { from, to } : undefined;
}

/** Whether a passage names no service. */
export const isUnrestricted = (rule: PassageRule): boolean => rule.services.some((s) => s.kind === 'any');
