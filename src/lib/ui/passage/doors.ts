/** Doors as marks on the ribbons of the zones that they lead into. */
import { contains, formatServices } from '#core/addr';
import type { Model } from '#core/model';
import { interfaceNamed, networksOf } from '#core/site';

export interface DoorMark {
  readonly name: string;
  /** A service to ask it with: the first that it takes. */
  readonly ask: string;
}

/** The doors by the zone of the host that they lead to, as the rules have them. */
export function doorsByZone({ site, prospects, rules }: Model): ReadonlyMap<string, readonly DoorMark[]> {
  const out = new Map<string, DoorMark[]>();
  for (const rule of rules.doors) {
    const table = interfaceNamed(site, rule.on)?.table;
    const home = site.interfaces.find(
      (i) =>
        !i.off &&
        (table === undefined || i.table === table) &&
        networksOf(i, prospects).some((n) => contains(n, rule.inside)),
    );
    const [first] = rule.services;
    if (!home?.zone || !first) continue;
    const ask = first.kind === 'ports' ? formatServices([{ ...first, last: first.first }]) : 'ping';
    out.set(home.zone.name, [...(out.get(home.zone.name) ?? []), { name: rule.name, ask }]);
  }
  return out;
}
