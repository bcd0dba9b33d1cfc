/** Steps 3 to 5 on sets: the sources whose flows go on from where they arrive, and how those of all others end. */
import { IpSet, NOBODYS_SOURCES, ServiceSet } from '#core/addr';
import type { Family } from '#core/addr';
import { memo } from '#core/base';
import type { Model } from '#core/model';
import type { Statement } from '#core/notation';
import { wantsDelegation } from '#core/site';
import type { Interface } from '#core/site';
import { ALL, SPECIAL } from './block';
import type { End, Outcome } from './outcome';
import type { Ways } from './ways';

/** What becomes of flows by their sources, before it matters where they go. */
export interface Entry {
  readonly sources: IpSet;
  readonly ended: readonly Outcome[];
}

const NOBODYS = {
  4: IpSet.ofPrefixes(NOBODYS_SOURCES[4]),
  6: IpSet.ofPrefixes(NOBODYS_SOURCES[6]),
} as const;
/** Sources that are good on one link only, whose flows are no business of routing. */
const NEAR = { 4: IpSet.empty, 6: IpSet.parse('fe80::/10') } as const;

export class Entries {
  private readonly entries = { 4: new Map<Interface, Entry>(), 6: new Map<Interface, Entry>() };
  private readonly sources = {
    4: new Map<string, Record<'own' | 'away' | 'back', IpSet>>(),
    6: new Map<string, Record<'own' | 'away' | 'back', IpSet>>(),
  };

  constructor(
    private readonly model: Pick<Model, 'site' | 'states' | 'prospects'>,
    private readonly ways: Ways,
  ) {}

  /** The entry of an interface for a family. */
  of(arrival: Interface, family: Family): Entry {
    return memo(this.entries[family], arrival, () => this.enter(arrival, family));
  }

  private enter(arrival: Interface, family: Family): Entry {
    const ended: Outcome[] = [];
    const all = ALL[family];
    const end = (sources: IpSet, end: End, statement?: Statement) => {
      if (!sources.isEmpty)
        ended.push({
          arrival,
          flows: { sources, destinations: all, services: ServiceSet.all },
          end,
          statement,
        });
    };
    const { site, prospects } = this.model;
    const deaf = family === 6 && !arrival.speaks6 && !wantsDelegation(site, arrival);
    if (deaf || prospects.resting.has(arrival.name)) {
      end(all, 'not-spoken');
      return { sources: IpSet.empty, ended };
    }
    const { own, away, back } = this.sourcesTo(arrival.table, family);
    end(own, 'own-source');
    end(away, 'no-route-back', arrival.statement);
    let sources = back;
    if (arrival.guard) {
      const good = this.guarded(arrival, family);
      end(sources.minus(good), 'guard', arrival.statement);
      sources = sources.intersect(good);
    }
    return { sources, ended };
  }

  /** The sources of what arrives at a table: the box's own, those to whom no route leads back, and the others. */
  private sourcesTo(table: string, family: Family): Record<'own' | 'away' | 'back', IpSet> {
    return memo(this.sources[family], table, () => {
      const all = ALL[family].minus(NEAR[family]);
      const refused = this.ways.ownOf(table, family).union(NOBODYS[family]);
      const left = all.minus(refused);
      const back = this.ways.leadingTo(family, (r) => r.table === table && r.usable);
      return { own: all.intersect(refused), away: left.minus(back), back: left.intersect(back) };
    });
  }

  private guarded(arrival: Interface, family: Family): IpSet {
    const elsewhere = this.ways.leadingTo(
      family,
      (r) =>
        r.origin === 'connected' &&
        r.interface !== arrival.name &&
        r.table === arrival.table &&
        this.ways.interfaces.get(r.interface!)?.table === arrival.table,
    );
    const here = IpSet.ofAddresses(
      this.model.states.get(arrival.name)?.addresses.map((a) => a.address) ?? [],
    );
    const byHere = this.ways.leadingTo(
      family,
      (r) => r.table === arrival.table && r.interface === arrival.name,
    );
    return byHere.minus(SPECIAL[family]).minus(elsewhere).minus(here.only(family));
  }
}
