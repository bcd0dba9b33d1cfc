/**
 * `npm run kills:live [KILLS] [SEED]`: trials killed at random moments: the client, the session, the hinge, or the power
 * of the whole box. Afterwards the box runs what the rules of a trial say, all of it, and the seat gets in.
 */
import { spawn } from 'node:child_process';
import fc from 'fast-check';
import { generationOf, streamOf } from '#core/linux';
import { modelFrom } from '#core/testkit';
import { hingeText } from '../../src/lib/server/hinge';
import { Field, PLACES, WORKS, noField, pause, until } from './field';

const HINGE = '/usr/local/sbin/jolly-gate-hinge';
const VICTIMS = ['client', 'session', 'hinge', 'power'] as const;
type Victim = (typeof VICTIMS)[number];

export interface Kill {
  readonly victim: Victim;
  /** Milliseconds after the trial was asked for. */
  readonly after: number;
  /** Whether somebody says stay before, at this moment. */
  readonly stay?: number;
  /** Whether the time of the trial is over at this moment already; else it is once nothing is under way any more. */
  readonly over?: number;
}

/** The longest trial there is, seconds: a test says when its time is over. */
const TRIAL = 3600;

/** Random kills, the same for a seed. */
export const anyKills = (count: number, seed: number): Kill[] =>
  fc.sample(
    fc.record({
      victim: fc.constantFrom(...VICTIMS),
      after: fc.integer({ min: 0, max: 900 }),
      stay: fc.option(fc.integer({ min: 300, max: 1500 }), { nil: undefined }),
      over: fc.option(fc.integer({ min: 300, max: 1500 }), { nil: undefined }),
    }),
    { numRuns: count, seed },
  );

/** Orders of the hinge that a kill may leave under way. */
const ORDERS = ['try', 'work', 'stay', 'back'].map((order) => `jolly-gate-hinge ${order}`);

/** A box of which both texts are known and the first runs and boots. */
class Killed {
  readonly field = new Field();
  private ids: [string, string] = ['', ''];

  /** Tells the box both texts at its console, and that it boots the first. */
  begin(): void {
    const { field } = this;
    const other = WORKS.replace('10.61.20.1/24', '10.61.21.1/24, also 10.61.20.1/24').replace(
      'answers ping ssh',
      'answers ssh',
    );
    const [was, draft] = [WORKS, other].map((text) => generationOf(modelFrom(text), [{ name: 'x', text }]));
    this.ids = [was!.id, draft!.id];
    field.console(`cat >${HINGE} && chmod 755 ${HINGE}`, hingeText());
    for (const g of [was!, draft!]) field.console(`${HINGE} stage ${g.id}`, streamOf(g));
    const ran = field.console(`${HINGE} apply ${was!.id} && ${HINGE} save`);
    if (ran.status !== 0) throw new Error(ran.out + ran.err);
  }

  /** One kill; what is wrong afterwards. */
  async once({ victim, after, stay, over }: Kill): Promise<string[]> {
    const { field } = this;
    const [was, draft] = this.ids;
    const ssh = (line: string) =>
      spawn(
        'ip',
        [
          'netns',
          'exec',
          field.ns.pc,
          'ssh',
          '-F',
          field.config,
          '-o',
          'ConnectTimeout=60',
          `root@${PLACES.console}`,
          `${HINGE} ${line}`,
        ],
        {
          stdio: ['ignore', 'pipe', 'ignore'],
          detached: true,
        },
      );
    const begun = Date.now();
    const client = ssh(`try ${draft} ${TRIAL} o${begun}`);
    const ended = new Promise((resolve) => client.on('close', resolve));
    const clients = [client];
    let kept = '';
    const saying =
      stay === undefined
        ? Promise.resolve()
        : pause(stay).then(
            () =>
              new Promise<void>((resolve) => {
                const said = ssh(`stay ${draft} s${begun}`);
                clients.push(said);
                said.stdout.on('data', (d: Buffer) => (kept += d.toString()));
                said.on('close', () => resolve());
              }),
          );
    const timed = over === undefined ? undefined : pause(over).then(() => field.timeIsOver());
    await pause(after);
    const strike = (pids: readonly number[]) => {
      for (const pid of pids)
        try {
          process.kill(pid, 'SIGKILL');
        } catch {
          // It ended by itself.
        }
    };
    switch (victim) {
      case 'client':
        strike(client.pid === undefined ? [] : [client.pid]);
        break;
      case 'session':
        strike(field.pidsOfBox('sshd: root'));
        break;
      case 'hinge':
        strike([...field.pidsOfBox('jolly-gate-hinge try'), ...field.pidsOfBox('jolly-gate-hinge work')]);
        break;
      case 'power':
        field.powerCut();
        // The cut is not heard of at the other end: whoever asked gives up.
        strike(clients.map((c) => c.pid!));
        field.powerOn();
        break;
    }
    await Promise.all([ended, saying, timed]);
    // No order may be under way, or on its way still: on a busy machine a session that is lost goes on for seconds.
    const busy = () => ['sshd: root', ...ORDERS].filter((text) => field.pidsOfBox(text).length > 0);
    await until(
      () => busy().length === 0,
      'nothing is under way on the box',
      () => busy().join(),
    );
    if (field.timeIsOver())
      await until(
        () => field.console('test ! -e /run/jolly-gate/trial').status === 0,
        'the box goes back, as its time is over',
        () => field.log,
      );
    await until(
      () => busy().length === 0,
      'nothing is under way on the box',
      () => busy().join(),
    );
    const stayed = /"ok":true/.test(kept) && victim !== 'power';
    // Said, and the answer was lost: either is right, as long as it is whole.
    const unsure = stay !== undefined && !stayed;
    const wrong: string[] = [];
    const console_ = field.console(`${HINGE} state`).out;
    try {
      const { box, drifted } = JSON.parse(console_) as {
        box: { running: string; trial?: object };
        drifted: string;
      };
      const right =
        victim === 'power'
          ? [was, ...(unsure && kept ? [draft] : [])]
          : stayed
            ? [draft]
            : unsure
              ? [was, draft]
              : [was];
      if (!right.includes(box.running)) wrong.push(`runs ${box.running}, not ${right.join(' or ')}`);
      if (box.trial) wrong.push('a trial is left over');
      if (drifted) wrong.push(`is not whole: ${drifted}`);
    } catch {
      wrong.push(`does not answer at its console: ${console_.slice(0, 200)}`);
    }
    const door = field.in(
      field.ns.pc,
      `ssh -F ${field.config} -o ConnectTimeout=60 root@${PLACES.console} ${HINGE} hello`,
    );
    if (!door.out.includes('"ok":true')) wrong.push(`nobody gets in: ${door.err.trim()}`);
    // For the next one: back to where it began.
    field.console(`${HINGE} apply ${was}`);
    return wrong;
  }
}

export interface KillReport {
  readonly kills: number;
  readonly wrong: readonly string[];
}

/** Carries out kills in several fields at a time. */
export async function carryOut(kills: readonly Kill[], fields: number): Promise<KillReport> {
  const queue = [...kills];
  const wrong: string[] = [];
  let done = 0;
  const worker = async () => {
    const killed = new Killed();
    try {
      killed.begin();
      await pause(0);
      for (let kill = queue.shift(); kill; kill = queue.shift()) {
        const faults = await killed.once(kill);
        done++;
        for (const f of faults) wrong.push(`${JSON.stringify(kill)}: ${f}`);
      }
    } finally {
      killed.field.takeUp();
    }
  };
  await Promise.all([...Array(fields).keys()].map(worker));
  return { kills: done, wrong };
}

if (process.argv[1]?.endsWith('kills.ts')) {
  const why = noField();
  if (why !== undefined) {
    console.log(`no box can be killed here: ${why}`);
    process.exit(0);
  }
  const [count, seed] = [Number(process.argv[2] ?? 200), Number(process.argv[3] ?? 1)];
  const start = Date.now();
  const { kills, wrong } = await carryOut(anyKills(count, seed), 3);
  for (const w of wrong) console.log(w);
  console.log(
    `${kills} kills in ${((Date.now() - start) / 1000).toFixed(0)} s; ${wrong.length ? `${wrong.length} faults` : 'the box always ran what it should'}`,
  );
  process.exitCode = wrong.length ? 1 : 0;
}
