/** `live meet`, `adopt`, `state`, `log` and `drift`: what a box is and knows. Nothing is changed on it but the hinge. */
import * as readline from 'node:readline/promises';
import { sightOf } from '#core/box';
import type { LiveHello, LiveLog, LiveState } from '#core/box';
import { leaveSecretsOut } from '#core/edits';
import { readDrift } from '#core/linux';
import { oneLine } from '#core/notation';
import { NO_KEYS_KEPT, driftText, logText, partText, restoredText, secretsLeftText } from '#words';
import { boxFileOf } from '../../lib/server/live/adopt';
import { LiveBox, NotReached } from '../../lib/server/live/box';
import { modelOfText, newOrder } from '../../lib/server/live/trial';
import { keysShown, rememberKey } from '../../lib/server/ssh/keys';
import { Ssh } from '../../lib/server/ssh/ssh';
import { targetText } from '../../lib/server/ssh/target';
import { Unusable } from '../input';
import type { CommandResult } from '../outcome';
import { helloLines, open, reaching, sshOptions, targetOf, told } from './connect';
import type { LiveOptions } from './connect';
import { aside } from '../outlet';

/** Whether a person says yes, at a terminal; no where there is none. */
export async function askPerson(question: string, signal?: AbortSignal): Promise<boolean> {
  if (!process.stdin.isTTY) return false;
  const lines = readline.createInterface({ input: process.stdin, output: process.stderr });
  try {
    const answer = await lines.question(`${question} [y/N] `, signal ? { signal } : {});
    return /^y(es)?$/i.test(answer.trim());
  } catch {
    return false;
  } finally {
    lines.close();
  }
}

/** What a box is; a box that is met for the first time shows its key first. Throws where it is not reached. */
export async function meet(name: string, o: LiveOptions & { acceptKey?: string }): Promise<CommandResult> {
  const target = targetOf(name);
  const box = new LiveBox(new Ssh(target, sshOptions(o)));
  try {
    await box.meet();
  } catch (error) {
    if (!(error instanceof NotReached) || error.why !== 'host-key-unknown')
      await reaching(target, () => Promise.reject(error as Error));
    await firstKey(target, o);
    await reaching(target, () => box.meet());
  }
  const state = await told(box, 'state', ['state']);
  const { box: hello } = await told(box, 'adopt', ['adopt']);
  return metShown(targetText(target), hello, state);
}

/** What `meet` tells of a box. */
export function metShown(name: string, hello: LiveHello, state: LiveState): CommandResult {
  const { ports } = sightOf(state);
  const text = [
    `${name}: Linux ${hello.kernel}${hello.systemd ? ', systemd' : ''}`,
    ...helloLines(hello),
    `has ${hello.tools.join(' ')}`,
    ...ports.map(
      (p) =>
        `  ${oneLine(p.name).padEnd(16)} ${p.carrier ? 'up  ' : 'dark'} ${oneLine(p.mac)} ${p.addresses.map(oneLine).join(' ')}`,
    ),
  ];
  return { json: { box: hello, ports }, text: `${text.join('\n')}\n`, status: 0 };
}

/** Shows the keys of a box that is not known yet, and remembers one that a person says yes to. */
async function firstKey(
  target: ReturnType<typeof targetOf>,
  o: LiveOptions & { acceptKey?: string },
): Promise<void> {
  const keys = await keysShown(target, sshOptions(o));
  const shown = keys.map((k) => `  ${k.kind} ${k.fingerprint}`).join('\n');
  if (!keys.length) throw new Unusable(`${targetText(target)} shows no host key`);
  const wanted = keys.find((k) => k.fingerprint === o.acceptKey);
  if (o.acceptKey !== undefined && !wanted)
    throw new Unusable(`${targetText(target)} does not show ${o.acceptKey}; it shows\n${shown}`);
  aside(`${targetText(target)} is not known here. Its host keys:\n${shown}`);
  const yes =
    wanted !== undefined || (await askPerson('Is this what the console of the box says (`ssh-keygen -lf`)?'));
  if (!yes)
    throw new Unusable(
      `nothing was done; compare the key at the box’s console, then call again with --accept-key ${keys[0]!.fingerprint}`,
    );
  for (const key of wanted ? [wanted] : keys)
    if ((await rememberKey(target, sshOptions(o), key)) === undefined) throw new Unusable(NO_KEYS_KEPT);
}

/** What `adopt` may be told: devices to hand over (`a,b`), and whether secrets of logins stay in the text. */
export type AdoptOptions = LiveOptions & { take?: string; withSecrets?: boolean };

/**
 * The box file of what a box is now, and what could not be taken. With `take`, devices are handed over by whoever
 * configures them: they are stopped there once something of ours runs, and have them back when nothing does.
 */
export async function adopt(name: string, o: AdoptOptions): Promise<CommandResult> {
  const box = await open(name, o);
  if (o.take !== undefined) {
    if (!/^[\w.@-]+(,[\w.@-]+)*$/.test(o.take))
      throw new Unusable(`“${o.take}” is no list of devices; write it as enp1s0,enp2s0`);
    await told(box, 'order', ['take', o.take, newOrder()]);
  }
  const state = await told(box, 'state', ['state']);
  const { box: hello } = await told(box, 'adopt', ['adopt']);
  return adoptedShown(hello, state, !!o.withSecrets);
}

/** What `adopt` tells of a box. */
export function adoptedShown(hello: LiveHello, state: LiveState, withSecrets: boolean): CommandResult {
  const { text: whole, left: lacking } = boxFileOf(state, hello.others);
  const { text, left: secrets } = withSecrets ? { text: whole, left: 0 } : leaveSecretsOut(whole);
  const left = [...lacking, ...(secrets ? [secretsLeftText(secrets)] : [])];
  return {
    json: { text, left },
    text: text + left.map((l) => `# not taken: ${l}\n`).join(''),
    status: 0,
  };
}

/** What is not as the box was told; status 1 for anything. */
export async function drift(name: string, o: LiveOptions): Promise<CommandResult> {
  const box = await open(name, o);
  return driftShown(await told(box, 'state', ['state']));
}

/** What `drift` tells of a box. Throws Unusable where it cannot tell now. */
export function driftShown(state: LiveState): CommandResult {
  if (state.text === null)
    return { json: { running: 'none', drift: [] }, text: 'nothing of ours runs on this box\n', status: 0 };
  if (state.busy) throw new Unusable('an order is being carried out on this box; ask again');
  const found = readDrift(modelOfText(state.text).site, state.drifted);
  const lines = found.map(driftText);
  return {
    json: { running: state.box.running, drift: found.map((d, i) => ({ ...d, text: lines[i] })) },
    text: `${lines.length ? lines.join('\n') : `the box is as it was told (${state.box.running})`}\n`,
    status: lines.length ? 1 : 0,
  };
}

/** What the box knows: ports, leases, names, hits, and what it put back by itself. */
export async function state(name: string, o: LiveOptions): Promise<CommandResult> {
  const box = await open(name, o);
  return stateShown(await told(box, 'state', ['state']));
}

/** What `state` tells of a box. */
export function stateShown(seen: LiveState): CommandResult {
  const { ports, leases, hits, dead, part, names, restored } = sightOf(seen);
  const lines = [
    ...helloLines(seen.box),
    ...(part ? [partText(part)] : []),
    ...restored.map((r) => restoredText(r, seen.box.uptime)),
    ...dead.map((d) => `uplink ${oneLine(d)} does not live`),
    ...ports.map(
      (p) =>
        `  ${oneLine(p.name).padEnd(16)} ${p.carrier ? 'up  ' : 'dark'} ${p.addresses.map(oneLine).join(' ')}`,
    ),
    ...leases.map(
      (l) => `  lease ${l.address} to ${oneLine(l.mac)} until ${new Date(l.ends * 1000).toISOString()}`,
    ),
    ...names.map(
      (n) =>
        `  ${oneLine(n.name)} (${oneLine(n.known)}) ${n.addresses.map(oneLine).join(' ') || 'leads to nobody'}${n.by === undefined ? ', nobody answers' : n.age === undefined ? '' : `, said ${oneLine(n.by)} ${n.age} s ago`}`,
    ),
    ...hits.map((h) => `  ${String(h.packets).padStart(8)} × ${oneLine(h.statement)}`),
  ];
  return {
    json: {
      box: seen.box,
      busy: seen.busy,
      dead,
      ...(part && { part }),
      ports,
      leases: leases.map((l) => ({ ...l, ends: new Date(l.ends * 1000).toISOString() })),
      hits,
      ...(names.length ? { names } : {}),
      routes: [...seen.route4, ...seen.route6],
      neighbours: seen.neigh,
    },
    text: `${lines.join('\n')}\n`,
    status: 0,
  };
}

/** What the box did, with times of this machine’s clock, and what statements logged. */
export async function log(name: string, o: LiveOptions & { lines: string }): Promise<CommandResult> {
  const box = await open(name, o);
  if (!/^[1-9]\d{0,5}$/.test(o.lines)) throw new Unusable(`“${o.lines}” is no number of lines`);
  return logShown(await told(box, 'log', ['log', o.lines]), new Date());
}

/** What `log` tells of a box. */
export function logShown(said: LiveLog, now: Date): CommandResult {
  const of = (text: string) => text.split('\n').filter(Boolean).map(oneLine);
  const orders = of(said.log).map((line) => logText(line, said.uptime, now));
  const passed = of(said.passed);
  return { json: { orders, passed }, text: `${[...orders, ...passed].join('\n')}\n`, status: 0 };
}
