/** What a drill is to do, as the page holds it, and how the what-if board is laid out. */
import { faultKey } from '#core/proof/drills';
import type { Bearer, DrillAct, DrillScript, Fault, Outcome, WhatIf } from '#core/proof/drills';

/** A drill of a fault: it comes after 5 seconds and is over after 40, when there is time to see what goes back. */
export const drillOf = ({ cut, dead }: Fault, plan: DrillScript): DrillScript => ({
  ...plan,
  seconds: 90,
  acts: [
    ...cut.map((on): DrillAct => ({ at: 5000, what: 'cut', on })),
    ...dead.map((on): DrillAct => ({ at: 5000, what: 'deaden', on })),
    ...[...cut, ...dead].map((on): DrillAct => ({ at: 40_000, what: 'restore', on })),
  ],
});

/** A column of the board: desks of one network that fare alike, or a door. */
export interface Column {
  readonly name: string;
  readonly about: string;
  /** Places of its bearers in the board. */
  readonly bearers: readonly number[];
}

/** How many columns stand one by one; of more those that fare alike under every fault are one. */
const MOST_COLUMNS = 14;

export function columnsOf({ bearers, rows }: WhatIf): Column[] {
  const fate = (i: number) => JSON.stringify(rows.map((r) => r.outcomes[i]));
  const nameOf = (b: Bearer) => (b.kind === 'door' ? `door ${b.name}` : (b.behind ?? b.name));
  const columns: { name: string; fate: string; names: string[]; bearers: number[] }[] = [];
  for (const [i, b] of bearers.entries()) {
    const mine = fate(i);
    const same = columns.find((c) => c.name === nameOf(b) && c.fate === mine);
    if (same) {
      same.bearers.push(i);
      same.names.push(b.name);
    } else columns.push({ name: nameOf(b), fate: mine, names: [b.name], bearers: [i] });
  }
  const named = columns.map((c) => ({
    ...c,
    // Desks of one network that do not fare alike are told by their own names.
    name: columns.filter((o) => o.name === c.name).length > 1 ? c.names.join(', ') : c.name,
  }));
  const merged = named.length > MOST_COLUMNS ? mergeAlike(named) : named;
  return merged.map(({ name, names, bearers: places }) => ({
    name,
    about: names.join(', '),
    bearers: places,
  }));
}

function mergeAlike(columns: readonly { name: string; fate: string; names: string[]; bearers: number[] }[]) {
  const out = new Map<
    string,
    { name: string; fate: string; names: string[]; bearers: number[]; count: number }
  >();
  for (const c of columns) {
    const same = out.get(c.fate);
    if (same) {
      same.count++;
      same.names.push(...c.names);
      same.bearers.push(...c.bearers);
    } else out.set(c.fate, { ...c, names: [...c.names], bearers: [...c.bearers], count: 0 });
  }
  return [...out.values()].map((c) => ({ ...c, name: c.count ? `${c.name} +${c.count}` : c.name }));
}

/** What became of bearers under a fault on another board. */
export function outcomesOn(
  board: WhatIf | undefined,
  fault: Fault,
): (bearer: Bearer | undefined) => Outcome | undefined {
  const row = board?.rows.find((r) => faultKey(r.fault) === faultKey(fault));
  if (!row) return () => undefined;
  return (bearer) =>
    row.outcomes[board!.bearers.findIndex((b) => b.kind === bearer?.kind && b.name === bearer?.name)];
}
