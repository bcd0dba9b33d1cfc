/** Step 9 on sets: of all flows between two zones, which statement of passing takes which. */
import { ServiceSet } from '#core/addr';
import type { Family } from '#core/addr';
import { Pairs } from '#core/base';
import type { PassageRule } from '#core/semantics';
import type { Zone } from '#core/site';
import { ALL, cut, within } from './block';
import type { Block, Region } from './block';

/** Flows between two zones of which one statement says what becomes, or none does. */
export interface Decision {
  readonly flows: Block;
  readonly verdict: PassageRule['verdict'] | 'within' | 'default';
  readonly rule?: PassageRule;
}

/** Whether flows pass that are decided so. */
export const passes = (d: { readonly verdict: Decision['verdict'] }, from: Zone): boolean =>
  d.verdict === 'allow' || (d.verdict === 'within' && from.within === 'allow');

/** The flows of a family that a statement is about; an address that it does not name is any. */
export const regionOf = (
  rule: Partial<Pick<PassageRule, 'sources' | 'destinations'>> & Pick<PassageRule, 'services'>,
  family: Family,
): Block => ({
  sources: rule.sources?.only(family) ?? ALL[family],
  destinations: rule.destinations?.only(family) ?? ALL[family],
  services: ServiceSet.of(rule.services, family),
});

export class Policy {
  private readonly byFrom = new Map<string, readonly PassageRule[]>();
  private readonly lists = new Pairs<string, string, readonly PassageRule[]>();
  private readonly decisions = {
    4: new Pairs<string, string, readonly Decision[]>(),
    6: new Pairs<string, string, readonly Decision[]>(),
  };

  constructor(passages: readonly PassageRule[], zones: readonly Zone[]) {
    for (const { name } of zones)
      this.byFrom.set(
        name,
        passages.filter((r) => r.from === 'any' || r.from === name),
      );
  }

  /** The statements of passing from a zone, in their order. */
  rulesFrom(zone: string): readonly PassageRule[] {
    return this.byFrom.get(zone) ?? [];
  }

  /** The statements of passing between two zones, in their order. */
  rulesBetween(from: string, to: string): readonly PassageRule[] {
    return this.lists.of(from, to, () =>
      this.rulesFrom(from).filter((rule) => rule.to === 'any' || rule.to === to),
    );
  }

  /** All flows between two zones, by the first statement that takes them. */
  between(from: string, to: string, family: Family): readonly Decision[] {
    return this.decisions[family].of(from, to, () => {
      const out: Decision[] = [];
      let left: Region = [{ sources: ALL[family], destinations: ALL[family], services: ServiceSet.all }];
      for (const rule of this.rulesBetween(from, to)) {
        const takes = regionOf(rule, family);
        for (const flows of within(left, takes)) out.push({ flows, verdict: rule.verdict, rule });
        left = cut(left, takes);
      }
      for (const flows of left) out.push({ flows, verdict: from === to ? 'within' : 'default' });
      return out;
    });
  }
}
