/** How a zone looks wherever it is drawn. */
import type { Zone } from '#core/site';

/** Tint and texture by order of trust, so that neighbours differ in both; without a zone, the plainest. */
export const lookOf = (zone: Zone | undefined): { tint: number; texture: number } => ({
  tint: zone ? (zone.tint ?? (zone.trust % 6) + 1) : 6,
  texture: zone ? (zone.trust % 4) + 1 : 1,
});
