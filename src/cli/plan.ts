/** `plan`: what changes from one box file to another, in which order, and what it does to the seat. */
import type { Day } from '#core/base';
import { planCrossing, slowCrossings, standbyFirst } from '#core/change';
import type { Change, Plan, SlowCrossing, TwoBoxes } from '#core/change';
import { modelOf } from '#core/model';
import type { Model } from '#core/model';
import { isOfBox, parseDocument, printStatement } from '#core/notation';
import type { Document } from '#core/notation';
import { buildSite } from '#core/site';
import type { Site } from '#core/site';
import {
  FATE_WORDS,
  apartText,
  changeTexts,
  contactText,
  slowLine,
  slowRest,
  standbyText,
  stepLine,
  todoText,
} from '#words';
import { Unusable, readSound } from './input';
import type { CommandResult } from './outcome';

export function planFiles(
  running: string,
  draft: string,
  wiring: string | undefined,
  seat?: string,
  at?: Day,
): CommandResult {
  const [before, after] = bothEnds(running, draft, wiring, at);
  if (seat !== undefined && !before.site.stations.some((s) => s.name === seat))
    throw new Unusable(`no station is called ${seat}`);
  const plan = planCrossing(before, after, { seat });
  const steps = plan.steps.map((step) => {
    const todo = todoText(step, plan);
    return { text: stepLine(step, plan), seat: step.fate, ...(todo === undefined ? {} : { todo }) };
  });
  const pair = plan.changes.length ? standbyFirst(before.site, after.site) : undefined;
  const standby = pair && standbyLines(pair);
  const json = {
    changes: plan.changes.flatMap(changeRows),
    steps,
    lockout: plan.lockout,
    ...(pair && { standby: { ...pair, changes: pair.changes.flatMap(changeRows) } }),
  };
  return {
    json,
    text: `${[...(standby ?? []), ...linesOf(plan, steps), ...slowLines(slowCrossings(before, after.site))].join('\n')}\n`,
    status: plan.lockout ? 1 : 0,
  };
}

const changeRows = (c: Change) =>
  changeTexts(c).map((text) => ({
    subject: c.subject,
    kind: c.kind === 'order' ? ('changed' as const) : c.kind,
    text,
  }));

/** The order of two boxes, and what changes in the text of the one that stands by. */
function standbyLines(pair: TwoBoxes): string[] {
  const apart = apartText(pair);
  return [
    standbyText(pair),
    ...pair.changes.flatMap(changeTexts).map((text) => `    ${pair.standby}: ${text}`),
    ...(apart === undefined ? [] : [`    ${apart}`]),
    '',
  ];
}

/** Both sites, with one wiring: the third file's, else whichever of the two has one. */
export function bothEnds(
  running: string,
  draft: string,
  wiring: string | undefined,
  at: Day | undefined,
): [Model, Model] {
  const around = wiring === undefined ? [] : readSound([wiring]);
  const [old, fresh] = [readSound([running]), readSound([draft])];
  const after = buildSite([...fresh, ...around], at);
  const before = buildSite([...old, ...around], at);
  const own = before.wired || !after.wired;
  return [modelOf(own ? before : buildSite([...old, wiringOf(after)], at)), modelOf(after)];
}

const wiringOf = (site: Site): Document =>
  parseDocument(
    site.statements
      .filter((s) => !isOfBox(s))
      .map((s) => `${printStatement(s)}\n`)
      .join(''),
    'wiring',
  );

/** Networks in use that may be crossed slowly instead. */
const slowLines = (list: readonly SlowCrossing[]): string[] =>
  list.flatMap((slow) => [
    '',
    `${slow.interface} is in use; slowly, nobody there notices:`,
    ...slow.steps.map((step, i) => `${String(i + 1).padStart(2)}. ${slowLine(slow, step)}`),
    ...slowRest(slow).map((line) => `    ${line}`),
  ]);

function linesOf(
  plan: Plan,
  steps: readonly { text: string; seat: keyof typeof FATE_WORDS; todo?: string }[],
): string[] {
  if (!plan.steps.length) return ['nothing changes'];
  const { seat } = plan;
  const head = !seat
    ? 'nobody is known to sit anywhere: name a station with `seat`, or with --seat'
    : `${seat.supposed ? 'supposed seat' : 'seat'} ${seat.name}, ${seat.before ? `in by ${contactText(seat.before)}` : 'which has no way into the box'}`;
  return [
    head,
    ...steps.flatMap((s, i) => [
      `${String(i + 1).padStart(2)}. ${s.text}`,
      `    ${seat ? `${seat.name} ${FATE_WORDS[s.seat]}` : ''}`,
      ...(s.todo === undefined ? [] : [`    ${s.todo}`]),
    ]),
    ...(plan.lockout ? ['in the end nothing at the desk lets anybody in'] : []),
  ];
}
