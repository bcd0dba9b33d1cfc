/** What the strip and the proof view say of ladders, as plain data. */
import type { StageResult, UplinkLadder } from '#core/proof';
import { STAGE_NAMES, stageText } from '#words';
import type { ProofView } from '../../session/index';

export type Evidence = 'supposed' | 'bench' | 'live';

export const firstFail = (stages: readonly StageResult[]): StageResult | undefined =>
  stages.find((s) => s.result === 'fail');

/** Where a ladder stops and what was seen there; undefined where nothing fails. */
export function stopText(stages: readonly StageResult[]): string | undefined {
  const fail = firstFail(stages);
  return fail && `${STAGE_NAMES[fail.stage]}: ${stageText(fail)}`;
}

type Desk = ProofView['desks'][number];

/** Whether a desk gets as far as a page. */
export const opensPage = (desk: Pick<Desk, 'stages'>): boolean =>
  desk.stages.some((s) => s.stage === 'page' && s.result === 'pass');

/** What stops a desk before any page, as a name that nobody answers; empty for who is no desk, or is not stopped. */
export function deskStopText(proof: ProofView | undefined, station: string | undefined): string {
  const desk = proof?.desks.find((d) => d.station === station);
  const stop = desk && stopText(desk.stages);
  return stop ? `${station} stops at ${stop}` : '';
}

/** The name of an uplink's ladder; IPv6 is said, IPv4 is what everybody means. */
export const ladderName = (u: Pick<UplinkLadder, 'interface' | 'family'>): string =>
  u.family === 'ipv6' ? `${u.interface} v6` : u.interface;

/** What an uplink is at the moment, in a word: said alike wherever it is said. */
export const standingOf = (
  u: Pick<UplinkLadder, 'active' | 'stages' | 'supposed'> & { readonly onSheet?: boolean },
): string =>
  [
    u.active
      ? 'active'
      : u.stages[0]?.code === 'resting'
        ? 'resting'
        : firstFail(u.stages)
          ? 'not usable'
          : 'stand-by',
    ...(u.supposed ? ['supposed circuit'] : []),
    ...(u.onSheet ? ['by the sheet only'] : []),
  ].join(' · ');

/** The id by which tests find a ladder. */
export const ladderId = (u: Pick<UplinkLadder, 'interface' | 'family'>): string =>
  `ladder-${u.interface}${u.family === 'ipv6' ? '-6' : ''}`;

/** Whether two ladders say the same at every stage. */
export const sameLadder = (a: readonly StageResult[], b: readonly StageResult[]): boolean =>
  a.length === b.length && a.every((s, i) => s.result === b[i]!.result && s.code === b[i]!.code);

export interface DeskGroup {
  readonly interface: string;
  readonly total: number;
  readonly open: number;
  readonly supposed: boolean;
  /** The first stage that fails for one of them. */
  readonly fail?: StageResult;
  /** Nothing fails, but no page may be opened. */
  readonly closed: boolean;
  readonly seen: readonly string[];
}

/** Desks by interface: how many open a page, and where the rest stop. */
export function deskGroups(proof: ProofView): DeskGroup[] {
  const names = [...new Set(proof.desks.map((d) => d.interface))];
  return names.map((name) => {
    const desks = proof.desks.filter((d) => d.interface === name);
    const open = desks.filter(opensPage);
    const failing = desks.map((d) => firstFail(d.stages)).find((f) => f !== undefined);
    return {
      interface: name,
      total: desks.length,
      open: open.length,
      supposed: desks.every((d) => d.supposed),
      fail: failing,
      closed: !failing && open.length === 0,
      seen: [...new Set(open.flatMap((d) => d.stages.find((s) => s.stage === 'egress')?.values.seen ?? []))],
    };
  });
}

/** `11 of 12 open a page; tills stop at resolver`. Desks that may not are told apart from those that cannot. */
export function desksSentence(groups: readonly DeskGroup[]): string {
  const total = groups.reduce((sum, g) => sum + g.total, 0);
  const open = groups.reduce((sum, g) => sum + g.open, 0);
  const failing = groups.filter((g) => g.fail);
  const closed = groups.filter((g) => g.closed);
  const listed = (names: string[]) =>
    names.length > 4 ? `${names.slice(0, 3).join(', ')} and ${names.length - 3} more` : names.join(', ');
  const stops = failing
    .slice(0, 3)
    .map((g) => `${g.interface} stop at ${STAGE_NAMES[g.fail!.stage] ?? g.fail!.stage}`);
  if (failing.length > 3) stops.push(`${failing.length - 3} more stop`);
  const may = closed.length ? [`${listed(closed.map((g) => g.interface))} may not`] : [];
  return [`${open} of ${total} open a page`, ...stops, ...may].join('; ');
}

/** The lines, and the networks whose desks, that came through before and do not any more. */
export function worsened(before: ProofView, now: ProofView): string[] {
  const lines = now.uplinks.filter((u) => {
    const was = before.uplinks.find((b) => b.interface === u.interface && b.family === u.family);
    return was && !firstFail(was.stages) && firstFail(u.stages);
  });
  const good = new Set(deskGroups(before).flatMap((g) => (g.open && !g.fail ? [g.interface] : [])));
  const desks = deskGroups(now).filter((g) => g.fail && good.has(g.interface));
  return [...lines.map(ladderName), ...desks.map((g) => `the desks of ${g.interface}`)];
}

/** The sentence of the first failing stage, or of the address that is seen. */
export function ladderSentence(stages: readonly StageResult[]): string {
  const fail = firstFail(stages);
  if (fail) return stageText(fail);
  const egress = stages.find((s) => s.stage === 'egress');
  return egress ? stageText(egress) : '';
}
