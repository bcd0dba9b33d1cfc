/** Of two boxes the one that stands by is changed first: what it would do wrong nobody notices. */
import { twinSite } from '#core/site';
import type { Site } from '#core/site';

/**
 * Who is to be changed before the active box, by their names: the other one of two, where both texts know it, as only
 * then something goes on while the active one changes. Undefined where there is one box, or the second is new.
 */
export function standbyFirst(running: Site, draft: Site): { standby: string; active: string } | undefined {
  const [was, is] = [twinSite(running), twinSite(draft)];
  if (!was || !is || was.box!.name !== is.box!.name) return undefined;
  const isActive = draft.box!.priority >= draft.box!.twin!.value.priority;
  const [own, other] = [draft.box!.name, is.box!.name];
  return isActive ? { standby: other, active: own } : { standby: own, active: other };
}
