/**
 * `live try`, `stay`, `extend`, `back` and `save`. A trial is kept by the box: whatever happens to this program, to its
 * session or to this machine, the box goes back by itself unless somebody says by a new connection that it should stay.
 */
import { dayAt } from '#core/base';
import { TRIAL_SECONDS } from '#core/change';
import type { Model } from '#core/model';
import { refusalText } from '#words';
import type { LiveHello, LiveUplink } from '#core/box';
import type { LiveBox } from '../../lib/server/live/box';
import { passes } from '../../lib/server/live/ladder';
import { beginTrial, goBack, newOrder, pause, prepare, sound } from '../../lib/server/live/trial';
import type { Hindrance } from '../../lib/server/live/trial';
import { settingsOf } from '../../lib/server/ssh/keys';
import { targetText } from '../../lib/server/ssh/target';
import { Unusable, readSound } from '../input';
import type { CommandResult } from '../outcome';
import { helloLines, open, reaching, sshOptions, told } from './connect';
import type { LiveOptions } from './connect';
import { checkName, climbOn, ladderLines } from './ladder';
import { askPerson } from './look';
import { aside } from '../outlet';

/** Words of `live try`. */
export interface TryOptions extends LiveOptions {
  readonly seconds?: string;
  readonly stayIf?: string;
  readonly overrule: readonly string[];
  readonly seat?: string;
  readonly name?: string;
}

/** A ladder is climbed again this often, milliseconds. */
const AGAIN = 700;

/** Why something is not put on trial, as the command says it. */
function hindered({ code, text, errors, steps, rivals, devices }: Hindrance): CommandResult {
  switch (code) {
    case 'lacks':
      throw new Unusable(text);
    case 'errors':
      return refused(
        `${text}; mend them, or overrule each by name (--overrule CODE):\n${errors!.map((e) => `  ${e.code}: ${e.text}`).join('\n')}`,
        { errors },
      );
    case 'lockout':
      return refused(`${text}; overrule it with \`--overrule lockout\` if you know another way in`, {
        lockout: true,
        steps,
      });
    case 'others':
      return refused(
        `${text}:\n${rivals!.map((r) => `  ${r}\n`).join('')}${devices!.length ? `hand over what is yours to have (\`live adopt --take ${devices!.join(',')}\`), or ` : ''}overrule it with \`--overrule others\`: both then set addresses and routes`,
        { others: rivals, devices },
      );
  }
}

/** Puts files on trial, knocks, proves, and stays or goes back. */
export async function tryOut(name: string, files: readonly string[], o: TryOptions): Promise<CommandResult> {
  const documents = readSound(files);
  checkName(o.name);
  if (o.stayIf !== undefined && o.stayIf !== 'proven')
    throw new Unusable(`“${o.stayIf}” is nothing to stay for; there is \`--stay-if proven\``);
  // What is wrong with the text is said before anybody is called.
  const today = dayAt(new Date());
  const first = sound({ documents, overrule: o.overrule, today });
  if ('hindrance' in first) return hindered(first.hindrance);
  const box = await open(name, o);
  const { target } = box.ssh;
  const before = await told(box, 'adopt', ['adopt']);
  const { overrule, seat } = o;
  const looked = prepare({
    documents,
    today,
    running: before.text,
    others: before.box.others,
    strangers: before.strangers,
    client: box.client,
    port: box.port,
    overrule,
    seat,
  });
  if ('hindrance' in looked) return hindered(looked.hindrance);
  const { model: draft, generation, crossing, addresses, warnings } = looked.prepared;
  const host = await addressOf(box, o);
  const seconds = o.seconds === undefined ? looked.prepared.seconds : readSeconds(o.seconds);

  for (const line of warnings) aside(`warning: ${line}`);
  for (const line of crossing?.lines ?? []) aside(line);
  // What comes next takes seconds: a person knows that it was heard.
  aside(`${targetText(target)} is told ${generation.id}: it rehearses it, and applies it for ${seconds} s`);
  const staged = await reaching(target, () => box.stage(generation));
  if (staged.heard === 'refusal') return refused(refusalText(staged), { refusal: staged.refusal });
  const order = newOrder();
  const candidates = [...new Set([host, ...addresses])];
  const outcome = await beginTrial(box, generation, seconds, order, before.box.running, candidates);
  if ('refused' in outcome) return refused(outcome.refused, { refusal: outcome.code, box: outcome.box });

  // Each knock is a connection of its own: one that was open before proves nothing.
  const knocks = await Promise.all(
    candidates.map(async (at) => ({
      at,
      answers: await box.letsIn(at === host ? undefined : at),
    })),
  );
  const at = knocks.find((k) => k.answers)?.at;
  const reachable = at !== undefined;
  box.at = at === host ? undefined : at;
  const uplinks = reachable ? await climbPatiently(box, draft, o.name, seconds) : [];
  const proven = reachable && uplinks.some(passes);
  const report = [
    ...knocks.map((k) => `${k.at}: ${k.answers ? 'lets a new connection in' : 'lets no new connection in'}`),
    ...ladderLines(uplinks),
  ];
  aside(report.join('\n'));
  const json = {
    generation: generation.id,
    seconds,
    warnings,
    crossing: crossing?.lines ?? [],
    knocks,
    uplinks,
  };
  const left = outcome.box.trial?.left ?? seconds;
  if (!reachable)
    return {
      json: { ...json, stayed: false },
      text: `nobody new gets in; ${targetText(target)} goes back by itself in ${left} s\n`,
      status: 1,
    };
  const stays =
    o.stayIf === 'proven'
      ? proven
      : await askPerson(
          `On trial, ${left} s are left. Stay with it?`,
          AbortSignal.timeout(Math.max(1, left - 3) * 1000),
        );
  const ask = o.stayIf === undefined && !process.stdin.isTTY;
  if (ask)
    return {
      json: { ...json, stayed: false },
      text: `on trial for ${left} s more: \`jolly-gate live stay ${name}\`, or it goes back by itself\n`,
      status: proven ? 0 : 1,
    };
  if (!stays) {
    const now = await goBack(box, candidates);
    return {
      json: { ...json, stayed: false, box: now },
      text: `${o.stayIf === 'proven' ? 'no uplink is proven, so it went back' : 'it went back'}: ${now?.running === 'none' ? 'nothing of ours runs' : `${now?.running ?? '?'} runs`}\n`,
      status: 1,
    };
  }
  const said = await reaching(target, () => box.order('order', ['stay', generation.id, newOrder()]));
  if (said.heard === 'refusal') return refused(refusalText(said), { ...json, refusal: said.refusal });
  return {
    json: { ...json, stayed: true, box: said.answer.box },
    text: `${generation.id} stays; \`jolly-gate live save ${name}\` makes it what the box starts with\n`,
    status: 0,
  };
}

/** What an uplink learns takes its time: the ladder is climbed again until one holds, for half of the trial at most. */
async function climbPatiently(
  box: LiveBox,
  draft: Model,
  name: string | undefined,
  seconds: number,
): Promise<readonly LiveUplink[]> {
  const until = Date.now() + Math.min(LEARNING, seconds / 2) * 1000;
  for (;;) {
    const uplinks = await climbOn(box, draft, name).catch((): LiveUplink[] => []);
    if (uplinks.some(passes) || Date.now() > until) return uplinks;
    await pause(AGAIN);
  }
}
/** How long leases, sessions and advertisements are waited for, seconds. */
const LEARNING = 30;

const refused = (text: string, json: object): CommandResult => ({
  json: { refused: text, ...json },
  text: `${text}\n`,
  status: 1,
});

function readSeconds(text: string): number {
  const n = Number(text);
  if (!/^\d+$/.test(text) || n < TRIAL_SECONDS.least || n > TRIAL_SECONDS.most)
    throw new Unusable(
      `a trial lasts from ${TRIAL_SECONDS.least} to ${TRIAL_SECONDS.most} seconds, not “${text}”`,
    );
  return n;
}

/** The address by which the box is called now. */
async function addressOf(box: LiveBox, o: LiveOptions): Promise<string> {
  const settings = await settingsOf(box.ssh.target, sshOptions(o));
  return settings.get('hostname') ?? box.ssh.target.host;
}

/** Gives an order about what runs; the box is asked by a new connection each time. */
async function ordered(
  name: string,
  o: LiveOptions,
  words: (hello: LiveHello) => string[],
): Promise<CommandResult> {
  const box = await open(name, o);
  const now = await told(box, 'order', ['hello']);
  const said = await reaching(box.ssh.target, () => box.order('order', words(now.box)));
  if (said.heard === 'refusal') return refused(refusalText(said), { refusal: said.refusal, box: said.box });
  return {
    json: { box: said.answer.box },
    text: `${helloLines(said.answer.box).join('\n')}\n`,
    status: 0,
  };
}

/** Ends the trial: what is on trial stays. */
export const stay = (name: string, o: LiveOptions) =>
  ordered(name, o, (b) => ['stay', b.trial?.generation ?? b.running, newOrder()]);
/** Gives the trial more seconds, up to an hour in all. */
export const extend = (name: string, seconds: string, o: LiveOptions) => {
  const more = readSeconds(seconds);
  return ordered(name, o, (b) => ['extend', b.trial?.generation ?? b.running, String(more), newOrder()]);
};
/** Ends the trial: what ran before runs again. */
export const back = (name: string, o: LiveOptions) => ordered(name, o, () => ['back', newOrder()]);
/** The box starts with what runs. */
export const save = (name: string, o: LiveOptions) => ordered(name, o, () => ['save', newOrder()]);
/** Tells the box once more what it runs; refused while a trial runs. */
export const again = (name: string, o: LiveOptions) => ordered(name, o, () => ['again', newOrder()]);
