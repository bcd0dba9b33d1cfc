/** Of two boxes the one that stands by is changed first: what it would do wrong nobody notices. */
import { siteAfter, toTwin } from '#core/edits';
import { twinSite } from '#core/site';
import type { Site } from '#core/site';
import { diffSites } from './diff';
import type { Change } from './diff';

export interface TwoBoxes {
  readonly standby: string;
  readonly active: string;
  /** What changes in the text of the one that stands by. */
  readonly changes: readonly Change[];
  /**
   * Interfaces on which both take themselves for the active one while only one of them has the new text: they no longer
   * speak of the same virtual router, or not of the same addresses (RFC 9568 §7.1).
   */
  readonly apart: readonly string[];
}

/**
 * Who is to be changed before the active box: the other one of two, where both texts know it, as only then something
 * goes on while the active one changes. Undefined where there is one box, or the second is new.
 */
export function standbyFirst(running: Site, draft: Site): TwoBoxes | undefined {
  const [was, is] = [twinSite(running), twinSite(draft)];
  if (!was || !is || was.box!.name !== is.box!.name) return undefined;
  const isActive = draft.box!.priority >= draft.box!.twin!.value.priority;
  const [own, other] = [draft.box!.name, is.box!.name];
  const [standby, active] = isActive ? [other, own] : [own, other];
  return {
    standby,
    active,
    changes: isActive ? diffSites(otherSide(running), otherSide(draft)) : diffSites(running, draft),
    apart: draft.interfaces.filter((i) => !i.off && isApart(running, i)).map((i) => i.name),
  };
}

/** The site by the text of the second box. */
const otherSide = (site: Site): Site => siteAfter(site, toTwin(site)!);

function isApart(running: Site, { name, shared }: Site['interfaces'][number]): boolean {
  const was = running.interfaces.find((i) => i.name === name && !i.off)?.shared;
  return !!was && !!shared && (was.id !== shared.id || was.addresses.join() !== shared.addresses.join());
}
