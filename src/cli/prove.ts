/** `prove`: boots the bench, runs every ladder, puts every promise. */
import type { Day } from '#core/base';
import { bootBench, proveOn } from '#core/proof';
import type { Drill, StageResult } from '#core/proof';
import { Reach } from '#core/reach';
import { SPENT_TEXT, STAGE_NAMES, promiseText, stageText } from '#words';
import { documentOf } from '#core/site';
import { Unusable, readModel } from './input';
import type { CommandResult } from './outcome';

export function proveFiles(files: readonly string[], drill: Drill, at?: Day): CommandResult {
  const reach = new Reach(readModel(files, at));
  const { site } = reach.model;
  const { bench, wrong } = bootBench(reach, drill);
  if (wrong.length) throw new Unusable(`there is no port or circuit ${wrong[0]} to cut or deaden`);
  const proof = proveOn(bench, reach, undefined, drill);
  const stages = (list: readonly StageResult[]) =>
    list.map((s) => ({
      stage: s.stage,
      result: s.result,
      detail: stageText(s),
      ...(s.supposed ? { supposed: true } : {}),
    }));
  const expectations = proof.promises.map((p) => ({
    file: p.statement.file,
    line: p.statement.line,
    text: documentOf(site, p.statement).text.slice(p.statement.start, p.statement.end),
    result: p.result,
    why: promiseText(p),
  }));
  const json = {
    uplinks: proof.uplinks.map((u) => ({ ...u, stages: stages(u.stages) })),
    desks: proof.desks.map((d) => ({ ...d, stages: stages(d.stages) })),
    leases: proof.leases,
    expectations,
    routes: proof.routes,
    ...(proof.names.length ? { names: proof.names } : {}),
    ...(proof.spent ? { spent: true } : {}),
  };
  // One that rests does not pass: nobody asked it.
  const passes = (u: { stages: readonly StageResult[] }) =>
    u.stages.every((s) => s.result !== 'fail') && u.stages.some((s) => s.result === 'pass');
  const kept = expectations.every((e) => e.result === 'pass');
  // Failed promises, or uplinks of which none passes, are a bad answer.
  const bad = proof.spent || !kept || (proof.uplinks.length > 0 && !proof.uplinks.some(passes));
  const ladder = (name: string, list: readonly StageResult[]): string[] => [
    name,
    ...list.map((s) => {
      const mark = { pass: '✓', fail: '✕', skipped: '·' }[s.result];
      return `  ${mark} ${(STAGE_NAMES[s.stage] ?? s.stage).padEnd(10)} ${stageText(s)}`;
    }),
  ];
  const lines = [
    ...(proof.spent ? [SPENT_TEXT] : []),
    ...proof.uplinks.flatMap((u) =>
      u.stages[0]?.code === 'resting'
        ? [`uplink ${u.interface}: ${stageText(u.stages[0])}`]
        : ladder(
            `uplink ${u.interface}${u.family === 'ipv6' ? ' (IPv6)' : ''}${u.active ? ', active' : ''}${u.supposed ? ', supposed circuit' : ''}`,
            u.stages,
          ),
    ),
    ...proof.desks.flatMap((d) =>
      ladder(`desk ${d.station} on ${d.interface}${d.supposed ? ', supposed' : ''}`, d.stages),
    ),
    ...proof.unclaimed.map((u) => `${u.frames} frames arrived on ${u.where}, and no interface takes them`),
    ...expectations.map((e) => `${e.result === 'pass' ? '✓' : '✕'} line ${e.line}: ${e.text}\n    ${e.why}`),
  ];
  return { json, text: `${lines.join('\n')}\n`, status: bad ? 1 : 0 };
}
