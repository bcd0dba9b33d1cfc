/** The ends of the reach table by their parts, and the places at each part. */
import { memo } from '#core/base';
import type { Family } from '#core/addr';
import type { Who } from '#core/notation';
import { zoneNamed } from '#core/site';
import type { Interface } from '#core/site';
import { FAMILIES } from '../block';
import type { Place } from '../places';
import { groupsOf } from '../reach';
import type { Reach } from '../reach';
import type { Atom, ReachEnd, Side } from './parts';

/** Nobody has to write a place in the text to ask a question. */
const AT = { start: 0, end: 0, line: 1, column: 1 };

export class Ends {
  private readonly sides = new Map<string, Side>();
  private readonly atoms = new Map<string, Atom>();
  private readonly held = new Map<Atom, boolean>();
  private readonly seats = new Map<Atom, readonly Interface[]>();
  private readonly groupsBy = {
    4: new Map<Atom, readonly (readonly Place[])[]>(),
    6: new Map<Atom, readonly (readonly Place[])[]>(),
  };

  constructor(private readonly reach: Reach) {}

  /** An end by its parts. */
  sideOf(end: ReachEnd): Side {
    const key = `${end.kind} ${end.name}`;
    return memo(this.sides, key, () => ({ key, atoms: this.gatherAtoms(end) }));
  }

  private atom(key: string, who: Who, at?: Interface): Atom {
    return memo(this.atoms, key, () => ({ key, who, at }));
  }

  private gatherAtoms(end: ReachEnd): readonly Atom[] {
    const { site } = this.reach.model;
    const internet = () => this.atom('internet', { type: 'internet', at: AT });
    const named = (kind: 'interface' | 'known' | 'station', name: string, at?: Interface) =>
      this.atom(`${kind} ${name}`, { type: 'name', kind, name, at: AT }, at);
    switch (end.kind) {
      case 'internet':
        return [internet()];
      case 'interface':
        return [named('interface', end.name, this.reach.follower.ways.interfaces.get(end.name))];
      case 'zone': {
        const own = site.interfaces
          .filter((i) => !i.off && i.zone?.name === end.name)
          .map((i) => named('interface', i.name, i));
        return zoneNamed(site, end.name)?.upstream ? [...own, internet()] : own;
      }
      case 'known':
      case 'station':
        return [named(end.kind, end.name)];
      case 'box':
        return [memo(this.atoms, 'box', (): Atom => ({ key: 'box', goal: 'box' }))];
      case 'door':
        return [
          memo(this.atoms, `door ${end.name}`, (): Atom => ({
            key: `door ${end.name}`,
            goal: 'door',
            name: end.name,
          })),
        ];
    }
  }

  /** The places of a part, those together that are asked together. */
  groups(atom: Atom, family: Family): readonly (readonly Place[])[] {
    return memo(this.groupsBy[family], atom, () =>
      groupsOf(this.merged(this.placesOf(atom, family), family)),
    );
  }

  private placesOf(atom: Atom, family: Family): readonly Place[] {
    if (atom.at) return this.reach.placesAt(atom.at, family);
    return atom.who ? this.reach.places(atom.who, family) : [];
  }

  /** Places on one segment that send alike are one: what passes to a host of it passes to every host. */
  private merged(places: readonly Place[], family: Family): readonly Place[] {
    if (places.length < 2) return places;
    const out = new Map<string, Place>();
    for (const [i, place] of places.entries()) {
      const alone = place.at.uplink || place.beyond;
      const sent = alone ? undefined : this.reach.delivery.sendsToBox(place, family, 'anything');
      const key = sent ? `${place.at.name} ${sent.destinations.key} ${sent.onLink.key}` : String(i);
      const same = out.get(key);
      out.set(
        key,
        same ? { at: place.at, beyond: false, addresses: same.addresses.union(place.addresses) } : place,
      );
    }
    return [...out.values()];
  }

  /** Whether anybody may sit at an atom. */
  holds(atom: Atom): boolean {
    return memo(this.held, atom, () => FAMILIES.some((f) => this.groups(atom, f).length > 0));
  }

  /** The interfaces at which an atom's places are. */
  interfacesOf(atom: Atom): readonly Interface[] {
    return memo(this.seats, atom, () => [
      ...new Set(FAMILIES.flatMap((f) => this.groups(atom, f).flatMap((g) => g.map((p) => p.at)))),
    ]);
  }
}
