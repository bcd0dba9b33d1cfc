/** Reaching a box, and what keeps one from it said in one way. */
import { readOther } from '#core/box';
import { oneLine } from '#core/notation';
import { UNREACHED, otherText, refusalText } from '#words';
import type { LiveHello } from '#core/box';
import { LiveBox, Nonsense, NotReached } from '../../lib/server/live/box';
import type { Outcome } from '../../lib/server/live/box';
import { Ssh } from '../../lib/server/ssh/ssh';
import { readTarget, targetText } from '../../lib/server/ssh/target';
import type { Target } from '../../lib/server/ssh/target';
import { Unusable } from '../input';

/** What every live command may be told. */
export interface LiveOptions {
  readonly json?: boolean;
  /** A configuration of ssh instead of the user's own. */
  readonly sshConfig?: string;
}

/** What ssh is told by a command's words. */
export const sshOptions = (o: LiveOptions) => ({ config: o.sshConfig });

/** Reads whom to call; throws Unusable for what is no target. */
export function targetOf(text: string): Target {
  const target = readTarget(text);
  if (!target)
    throw new Unusable(`“${text}” is no box to call; write it as admin@10.61.99.1, or as ssh knows it`);
  return target;
}

/** Runs what asks a box; what ssh or the box's answer makes impossible becomes the call's failure, in a sentence. */
export async function reaching<T>(target: Target, ask: () => Promise<T>): Promise<T> {
  const name = targetText(target);
  try {
    return await ask();
  } catch (error) {
    if (error instanceof NotReached)
      throw new Unusable(`${name}: ${UNREACHED[error.why] ?? UNREACHED.other!}${detail(error)}`);
    if (error instanceof Nonsense)
      throw new Unusable(`${name} answers, but not as a hinge does: ${error.message}`);
    throw error;
  }
}

/** What ssh said, where our own sentence does not say it all. */
const detail = ({ why, said }: NotReached): string => {
  const last = said.trim().split('\n').at(-1) ?? '';
  return why === 'other' && last !== '' ? `: ${last}` : '';
};

/** A box that has our hinge. */
export async function open(text: string, options: LiveOptions): Promise<LiveBox> {
  const target = targetOf(text);
  const box = new LiveBox(new Ssh(target, sshOptions(options)));
  await reaching(target, () => box.meet());
  return box;
}

/** Asks a box for something it only tells: a refusal ends the command. */
export async function told<K extends Parameters<LiveBox['order']>[0]>(
  box: LiveBox,
  kind: K,
  words: readonly string[],
): Promise<Extract<Outcome<K>, { heard: 'answer' }>['answer']> {
  const said = await reaching(box.ssh.target, () => box.order(kind, words));
  if (said.heard === 'refusal') throw new Unusable(refusalText(said));
  return said.answer;
}

/** What a box says of itself, in lines. */
export function helloLines(b: LiveHello): string[] {
  const name = (g: string) => (g === 'none' ? 'nothing of ours' : g);
  return [
    `runs ${name(b.running)}, starts with ${name(b.startup)}`,
    ...(b.trial
      ? [`on trial: ${b.trial.generation}, goes back to ${name(b.trial.before)} in ${b.trial.left} s`]
      : []),
    ...(b.last ? [`it went back from ${b.last.generation} by itself (${b.last.why})`] : []),
    ...b.others.map((o) => oneLine(otherText(readOther(o)))),
  ];
}
