/** Cells of the reach table: made of what passes, and of several as one. */
import { ServiceSet } from '#core/addr';
import type { Ip } from '#core/addr';
import { cutAll, tidy } from '../block';
import type { Block } from '../block';
import { shownOf } from '../outcome';
import type { Outcome } from '../outcome';
import { withoutLoneSelf } from '../reach';
import type { Passing } from '../reach';
import type { Cell, Mark, Part } from './parts';

export const NOTHING: Cell = {
  verdict: 'none',
  services: ServiceSet.empty,
  everywhere: ServiceSet.empty,
  by: [],
  flows: [],
};

export const NONE: Part = { cell: NOTHING, asked: true };
export const UNASKED: Part = { cell: NOTHING, asked: false };

/** The cell of what passes, of all that is wanted; `markOf` names the statements that let a flow pass. */
export function cellOf(
  wanted: Block,
  passing: readonly Passing[],
  markOf: (outcome: Outcome) => readonly Mark[],
): Cell {
  const good = passing.filter((x) => x.answered);
  if (!good.length) return NOTHING;
  const flows = tidy(good.map((x) => x.answered!));
  const missing = withoutLoneSelf(cutAll([wanted], flows));
  const services = flows.reduce((set, b) => set.union(b.services), ServiceSet.empty);
  const everywhere = missing.reduce((set, b) => set.minus(b.services), wanted.services);
  const shown = new Set(good.flatMap((x) => (x.outcome?.departure?.uplink ? [onlyShown(x)] : [])));
  const [only] = shown;
  return {
    verdict: missing.length ? 'some' : 'all',
    services,
    everywhere,
    by: [...new Set(good.flatMap((x) => (x.outcome ? markOf(x.outcome) : [])))],
    leavesAs: shown.size === 1 ? only : undefined,
    flows,
  };
}

/** Several parts as one. */
export function joined(parts: readonly Part[]): Part {
  const first = parts.find((p) => p.asked);
  if (!first) return UNASKED;
  if (parts.every((p) => p === first || !p.asked)) return first;
  return { cell: joinedCell(parts), asked: true };
}

function joinedCell(parts: readonly Part[]): Cell {
  const some = parts.flatMap((p) => (p.asked && p.cell.verdict !== 'none' ? [p.cell] : []));
  if (!some.length) return NOTHING;
  const whole = !parts.some((p) => p.asked && p.cell.verdict === 'none');
  const shown = new Set(some.map((c) => c.leavesAs));
  const [only] = shown;
  return {
    verdict: whole && some.every((c) => c.verdict === 'all') ? 'all' : 'some',
    services: some.reduce((set, c) => set.union(c.services), ServiceSet.empty),
    everywhere: whole
      ? some.reduce((set, c) => set.intersect(c.everywhere), ServiceSet.all)
      : ServiceSet.empty,
    by: [...new Set(some.flatMap((c) => c.by))],
    leavesAs: shown.size === 1 ? only : undefined,
    flows: some.flatMap((c) => c.flows),
  };
}

/** The one address that some flows show; undefined: their own, or several. */
const onlyShown = ({ outcome, flows }: Passing): Ip | undefined => {
  const { single } = flows.sources;
  return outcome?.translated && single !== undefined ? shownOf(outcome, single) : outcome?.shown;
};
