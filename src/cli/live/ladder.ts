/** `live prove` and `live why`: what the running box itself answers. */
import { dayAt } from '#core/base';
import type { LiveUplink } from '#core/box';
import { readTrace } from '#core/linux';
import type { Model } from '#core/model';
import { STAGE_NAMES } from '#words';
import type { LiveBox } from '../../lib/server/live/box';
import { climb, passes } from '../../lib/server/live/ladder';
import { modelOfText } from '../../lib/server/live/trial';
import { nothingCame, questionOf, traceLines } from '../../lib/server/live/why';
import { Unusable, readModel } from '../input';
import type { CommandResult } from '../outcome';
import { open, reaching, told } from './connect';
import type { LiveOptions } from './connect';
import { aside } from '../outlet';

/** Refuses a name that could mean something else to whoever resolves it. */
export function checkName(name: string | undefined): void {
  if (name !== undefined && !/^[A-Za-z0-9]([A-Za-z0-9.-]*[A-Za-z0-9])?$/.test(name))
    throw new Unusable(`“${name}” is no name to resolve`);
}

/** Climbs the ladder of every uplink on the box itself; a box that is not reached ends the command. */
export const climbOn = (box: LiveBox, model: Model, name?: string): Promise<LiveUplink[]> =>
  climb(async (words) => (await told(box, 'ladder', words)).stages, model, name);

export const ladderLines = (uplinks: readonly LiveUplink[]): string[] =>
  uplinks.flatMap((u) => [
    `uplink ${u.interface}${u.family === 'ipv6' ? ' over IPv6' : ''}`,
    ...u.stages.map(
      (s) =>
        `  ${{ pass: '✓', fail: '✕', skipped: '·' }[s.result]} ${(STAGE_NAMES[s.stage] ?? s.stage).padEnd(10)} ${s.detail}`,
    ),
  ]);

export async function prove(
  name: string,
  files: readonly string[],
  o: LiveOptions & { name?: string },
): Promise<CommandResult> {
  checkName(o.name);
  const box = await open(name, o);
  const model = await modelFor(box, files);
  const uplinks = await climbOn(box, model, o.name);
  return {
    json: { uplinks },
    text: `${ladderLines(uplinks).join('\n')}\n`,
    status: uplinks.some(passes) ? 0 : 1,
  };
}

/** The model of the files, else of what the box runs. */
async function modelFor(box: LiveBox, files: readonly string[]): Promise<Model> {
  if (files.length) return readModel(files, dayAt(new Date()));
  const said = await told(box, 'adopt', ['adopt']);
  if (said.text === null)
    throw new Unusable('nothing of ours runs on this box; name the files that speak of it');
  return modelOfText(said.text);
}

export async function why(
  name: string,
  from: string,
  to: string,
  service: string | undefined,
  files: readonly string[],
  o: LiveOptions & { wait: string },
): Promise<CommandResult> {
  if (!/^[1-9]\d{0,2}$/.test(o.wait)) throw new Unusable(`“${o.wait}” is no number of seconds`);
  const box = await open(name, o);
  const model = await modelFor(box, files);
  const wait = Number(o.wait);
  const asked = questionOf(model, { from, to, service }, wait);
  if ('why' in asked) throw new Unusable(asked.why);
  aside(`waiting ${wait} s for a packet from ${from} to ${to} (${service ?? 'ping'}): have it sent now`);
  const said = await reaching(box.ssh.target, () => box.order('trace', asked.words, { within: wait + 15 }));
  if (said.heard === 'refusal') throw new Unusable(said.detail);
  const trace = readTrace(said.answer.trace);
  if (!trace)
    return {
      json: { verdict: 'nothing-came' },
      text: `${nothingCame(asked.arrival, wait)}\n`,
      status: 1,
    };
  return {
    json: trace,
    text: `${traceLines(trace).join('\n')}\n`,
    status: trace.verdict === 'passed' || trace.verdict === 'answered' ? 0 : 1,
  };
}
