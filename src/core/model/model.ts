/**
 * The waist: everything that follows from a text without running anything, made once for each version of it and handed
 * to every engine.
 */
import { mustIpv4 } from '#core/addr';
import { compileRules, foreseenStates, routesOf } from '#core/semantics';
import type { Route, Rules, States } from '#core/semantics';
import { completeWiring, foresee } from '#core/site';
import type { Prospects, Site, UplinksLearned, Wiring } from '#core/site';

export interface Model {
  readonly site: Site;
  /** The wiring with what is supposed of it. */
  readonly wiring: Wiring;
  /** What uplinks and stations learn. */
  readonly prospects: Prospects;
  /** Interfaces that are not off, as they are at this moment. */
  readonly states: States;
  /** Of every table, in the order of `routesOf`. */
  readonly routes: readonly Route[];
  readonly rules: Rules;
}

/** The model of a site with every uplink alive, and what is learned as it is foreseen where nobody has observed it. */
export function modelOf(site: Site, learned?: Partial<UplinksLearned>): Model {
  const wiring = completeWiring(site);
  const prospects = foresee(site, wiring, learned);
  return joined(site, wiring, prospects, foreseenStates(site, prospects));
}

/** The model of a site at a moment of its life: with what its uplinks have learned, and its interfaces as they stand. */
export const modelAt = (
  { site, wiring }: Pick<Model, 'site' | 'wiring'>,
  learned: UplinksLearned,
  states: States,
): Model => joined(site, wiring, foresee(site, wiring, learned), states);

/**
 * A model of which no uplink has learned anything, at no day: what a real box is told before it knows. What has an end
 * is told with it. Doors at a learned address
 * are kept with `unknown` for it; a set of sources or destinations holds what is written only.
 */
export function unlearned({ site, wiring, prospects }: Pick<Model, 'site' | 'wiring' | 'prospects'>): Model {
  const ever: Site = { ...site, today: undefined };
  const none: Prospects = {
    ...prospects,
    uplinks: new Map(),
    uplinks6: new Map(),
    // Whoever keeps the uplinks says who rests.
    resting: new Set(),
    named: new Map(),
    unknown: mustIpv4('0.0.0.0'),
  };
  return joined(ever, wiring, none, foreseenStates(ever, none));
}

/** Routes and rules are reckoned when they are first asked for: a view that draws the site needs neither. */
function joined(site: Site, wiring: Wiring, prospects: Prospects, states: States): Model {
  let routes: readonly Route[] | undefined;
  let rules: Rules | undefined;
  return {
    site,
    wiring,
    prospects,
    states,
    get routes() {
      return (routes ??= routesOf(site, states));
    },
    get rules() {
      return (rules ??= compileRules(site, wiring, prospects));
    },
  };
}
