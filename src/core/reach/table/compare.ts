/** What passes in one table and not in the other. */
import { ServiceSet } from '#core/addr';
import { cutAll, pointOf } from '../block';
import type { Point } from '../block';
import type { ReachEnd } from './parts';
import type { ReachTable } from './table';

/** How one pair of ends differs between two sites. */
export interface ReachChange {
  readonly from: ReachEnd;
  readonly to: ReachEnd;
  /** Flows that pass now and did not, or the other way. */
  readonly what: 'opened' | 'closed';
  readonly services: ServiceSet;
  /** Whether all of both ends take part. */
  readonly whole: boolean;
  readonly witness: Point;
}

/** What passes in one table and not in the other, by pairs of ends that both have. `kinds` are the ends looked at. */
export function compareReach(
  before: ReachTable,
  after: ReachTable,
  kinds: readonly ReachEnd['kind'][] = ['internet', 'zone', 'box', 'door'],
): ReachChange[] {
  const out: ReachChange[] = [];
  const asked = (e: ReachEnd) => kinds.includes(e.kind);
  for (const from of after.sources.filter(asked))
    for (const to of after.destinations.filter(asked)) {
      const [was, is] = [before.cell(from, to), after.cell(from, to)];
      if (was === is) continue;
      for (const [what, here, there] of [
        ['opened', is, was],
        ['closed', was, is],
      ] as const) {
        // What was taken over from table to table is the very same block on both sides.
        const known = new Set(there.flows);
        const flows = cutAll(
          here.flows.filter((b) => !known.has(b)),
          there.flows,
        );
        if (!flows.length) continue;
        const services = flows.reduce((set, b) => set.union(b.services), ServiceSet.empty);
        out.push({
          from,
          to,
          what,
          services,
          whole: there.services.intersect(services).isEmpty && services.minus(here.everywhere).isEmpty,
          witness: pointOf(flows[0]!),
        });
      }
    }
  return out;
}
