/**
 * `live try`, `stay`, `extend`, `back` and `save`. A trial is kept by the box: whatever happens to this program, to its
 * session or to this machine, the box goes back by itself unless somebody says by a new connection that it should stay.
 */
import { randomBytes } from 'node:crypto';
import { isIP } from 'node:net';
import { contains, formatIp, isIpv4, parseIp } from '#core/addr';
import { TRIAL_SECONDS, planCrossing, secondsFor } from '#core/change';
import { contextOf, findAll } from '#core/findings';
import { generationOf } from '#core/linux';
import type { Generation } from '#core/linux';
import { modelOf } from '#core/model';
import type { Model } from '#core/model';
import { isOfBox, parseDocument } from '#core/notation';
import type { Document } from '#core/notation';
import { Reach } from '#core/reach';
import { lookUp } from '#core/semantics';
import { buildSite, interfaceNamed } from '#core/site';
import { findingText, lackText, stepLine, todoText } from '#words';
import type { LiveHello } from '#core/box';
import { NotReached } from '../../lib/server/live/box';
import type { LiveBox, Outcome } from '../../lib/server/live/box';
import { settingsOf } from '../../lib/server/ssh/keys';
import { targetText } from '../../lib/server/ssh/target';
import { Unusable, readSound } from '../input';
import type { CommandResult } from '../outcome';
import { helloLines, modelOfText, open, reaching, refusalText, sshOptions, told } from './connect';
import type { LiveOptions } from './connect';
import { checkName, climb, ladderLines, passes } from './ladder';
import type { LiveUplink } from './ladder';
import { askPerson } from './look';

export interface TryOptions extends LiveOptions {
  readonly seconds?: string;
  readonly stayIf?: string;
  readonly overrule: readonly string[];
  readonly seat?: string;
  readonly name?: string;
}

/** An order has a name, so that it is carried out once however often it arrives. */
const newOrder = (): string => randomBytes(8).toString('hex');

/** A trial is looked for this often, milliseconds. */
const LOOK_EVERY = 700;
/** So long an answer is waited for before the box is looked for elsewhere, milliseconds. */
const PATIENCE = 1500;

export async function tryOut(name: string, files: readonly string[], o: TryOptions): Promise<CommandResult> {
  const documents = readSound(files);
  const site = buildSite(documents);
  const draft = modelOf(site);
  const own = documents.filter((d) => d.statements.some(isOfBox));
  const generation = generationOf(
    draft,
    own.map((d) => ({ name: d.file, text: d.text })),
  );
  checkName(o.name);
  if (o.stayIf !== undefined && o.stayIf !== 'proven')
    throw new Unusable(`“${o.stayIf}” is nothing to stay for; there is \`--stay-if proven\``);
  if (generation.lacks.length)
    throw new Unusable(`a Linux box cannot be told this: ${generation.lacks.map(lackText).join(' ')}`);
  const standing = errorsOf(draft).filter((e) => !o.overrule.includes(e.code));
  if (standing.length)
    return refused(
      `errors stand in the way; mend them, or overrule each by name (--overrule CODE):\n${standing.map((e) => `  ${e.code}: ${e.text}`).join('\n')}`,
      { errors: standing },
    );

  const box = await open(name, o);
  const { target } = box.ssh;
  const before = await told(box, 'adopt', ['adopt']);
  const crossing = crossingOf(before.text, draft, documents, box.client, o.seat);
  const host = await addressOf(box, o);
  const inside = wayIn(draft, box.client);
  if (crossing?.lockout ?? !inside.answers) {
    if (!o.overrule.includes('lockout'))
      return refused(
        `${crossing?.lockout ? 'with this, nothing at the desk lets anybody in any more' : inside.text}; overrule it with \`--overrule lockout\` if you know another way in`,
        { lockout: true, steps: crossing?.lines },
      );
  }
  const seconds = o.seconds === undefined ? secondsFor(crossing?.todos ?? 0) : readSeconds(o.seconds);

  for (const line of crossing?.lines ?? []) process.stderr.write(`${line}\n`);
  const staged = await reaching(target, () => box.stage(generation));
  if (staged.heard === 'refusal') return refused(refusalText(staged), { refusal: staged.refusal });
  const order = newOrder();
  const candidates = [...new Set([host, ...inside.addresses, ...(crossing?.addresses ?? [])])];
  const outcome = await begin(box, generation, seconds, order, before.box.running, candidates);
  if ('refused' in outcome) return refused(outcome.refused, { refusal: outcome.code, box: outcome.box });

  // Each knock is a connection of its own: one that was open before proves nothing.
  const knocks = await Promise.all(
    candidates.map(async (at) => ({
      at,
      answers: (await box.knock(at === host ? undefined : at)) !== undefined,
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
  process.stderr.write(`${report.join('\n')}\n`);
  const json = { generation: generation.id, seconds, crossing: crossing?.lines ?? [], knocks, uplinks };
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
    const now = await goneBack(box, candidates);
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
    const uplinks = await climb(box, draft, name).catch((): LiveUplink[] => []);
    if (uplinks.some(passes) || Date.now() > until) return uplinks;
    await pause(LOOK_EVERY);
  }
}
/** How long leases, sessions and advertisements are waited for, seconds. */
const LEARNING = 30;

const refused = (text: string, json: object): CommandResult => ({
  json: { refused: text, ...json },
  text: `${text}\n`,
  status: 1,
});

/** The errors among the findings of a site. */
function errorsOf(model: Model): { code: string; text: string }[] {
  return findAll(contextOf(new Reach(model)))
    .filter((f) => f.severity === 'error')
    .map((f) => ({ code: f.code, text: findingText(f) }));
}

function readSeconds(text: string): number {
  const n = Number(text);
  if (!/^\d+$/.test(text) || n < TRIAL_SECONDS.least || n > TRIAL_SECONDS.most)
    throw new Unusable(
      `a trial lasts from ${TRIAL_SECONDS.least} to ${TRIAL_SECONDS.most} seconds, not “${text}”`,
    );
  return n;
}

/** The way from what runs to the draft, with this machine as the seat; undefined where nothing of ours runs. */
function crossingOf(
  running: string | null,
  draft: Model,
  documents: readonly Document[],
  client: string | undefined,
  seat: string | undefined,
):
  | {
      readonly lockout: boolean;
      readonly lines: readonly string[];
      readonly todos: number;
      /** Where the box may be reached in the end. */
      readonly addresses: readonly string[];
    }
  | undefined {
  if (running === null) return undefined;
  const around = documents.map((d) =>
    parseDocument(
      d.statements
        .filter((s) => !isOfBox(s))
        .map((s) => s.source)
        .join('\n') + '\n',
      'wiring',
    ),
  );
  const here = seatHere(running, client);
  const seated = seat === undefined && !draft.site.stations.some((s) => s.seat) && here !== undefined;
  const wiring = [...around, ...(seated ? [parseDocument(here, 'seat')] : [])];
  const before = modelOf(buildSite([parseDocument(running, 'running'), ...wiring]));
  const after = modelOf(
    buildSite([...draft.site.documents, ...(seated ? [parseDocument(here, 'seat')] : [])]),
  );
  const plan = planCrossing(before, after, { seat });
  if (!plan.seat?.before) return undefined;
  const lines = plan.steps.flatMap((step, i) => {
    const todo = todoText(step, plan);
    return [`${i + 1}. ${stepLine(step, plan)}`, ...(todo === undefined ? [] : [`   ${todo}`])];
  });
  const contact = plan.steps.at(-1)?.contact;
  return {
    lockout: plan.lockout,
    lines,
    todos: plan.steps.filter((s) => s.todo).length,
    addresses: contact ? [formatIp(contact.address)] : [],
  };
}

/** This machine as a station of the running text, where it sits on a port of the box by itself. */
function seatHere(running: string, client: string | undefined): string | undefined {
  const address = client === undefined ? undefined : parseIp(client);
  const { site, routes } = modelOfText(running);
  if (address === undefined) return undefined;
  const route = lookUp(routes, 'main', address);
  const iface = interfaceNamed(site, route?.interface);
  const home = iface?.addresses.find((a) => route?.origin === 'connected' && contains(a.prefix, address));
  if (!iface || !home || iface.tag !== undefined || iface.ports.length !== 1) return undefined;
  const six = isIpv4(address) ? '' : '6';
  return `station here: at ${iface.ports[0]!}, address${six} ${formatIp(address)}/${home.prefix.length}, gateway${six} ${formatIp(home.prefix.address)}, seat\n`;
}

/** Whether the draft itself would let this machine in by ssh, and at which addresses. */
function wayIn(
  draft: Model,
  client: string | undefined,
): { readonly answers: boolean; readonly addresses: readonly string[]; readonly text: string } {
  const source = client === undefined ? undefined : parseIp(client);
  // From where is not known: everything is asked of the trial itself.
  if (source === undefined) return { answers: true, addresses: [], text: '' };
  const { site, routes, rules, states } = draft;
  const tables = new Set(site.interfaces.map((i) => i.table));
  for (const table of tables) {
    const route = lookUp(routes, table, source);
    const iface = interfaceNamed(site, route?.interface);
    if (!iface) continue;
    const takes = rules.answers
      .get(iface.name)
      ?.some((a) => a.name === 'ssh' && (!a.sources || a.sources.has(source)));
    if (takes)
      return {
        answers: true,
        addresses: (states.get(iface.name)?.addresses ?? [])
          .filter((a) => (typeof a.address === 'number') === (typeof source === 'number'))
          .map((a) => formatIp(a.address)),
        text: '',
      };
  }
  return {
    answers: false,
    addresses: [],
    text: `the draft answers ssh to nobody at ${formatIp(source)}, where you are`,
  };
}

/** The address by which the box is called now. */
async function addressOf(box: LiveBox, o: LiveOptions): Promise<string> {
  const settings = await settingsOf(box.ssh.target, sshOptions(o));
  return settings.get('hostname') ?? box.ssh.target.host;
}

/**
 * Starts the trial and finds out whether it runs, though its answer may be lost with the session that asked: the box is
 * asked again, at every address that it may have by now.
 */
async function begin(
  box: LiveBox,
  generation: Generation,
  seconds: number,
  order: string,
  base: string,
  candidates: readonly string[],
): Promise<
  { readonly box: LiveHello } | { readonly refused: string; readonly code: string; readonly box?: LiveHello }
> {
  const words = ['try', generation.id, String(seconds), order, base];
  let said: Outcome<'order'> | undefined;
  let lost: unknown;
  const call = box.order('order', words, { within: seconds }).then(
    (x) => (said = x),
    (error: unknown) => (lost = error),
  );
  const until = Date.now() + seconds * 1000;
  await Promise.race([call, pause(PATIENCE)]);
  const ours = (b: LiveHello | undefined) => b?.trial?.order === order && b.running === generation.id;
  while (!said && Date.now() < until) {
    const seen = await Promise.all(candidates.map((at) => box.knock(isIP(at) ? at : undefined, 4)));
    const found = seen.find(ours);
    if (found) return { box: found };
    if (lost !== undefined && seen.some((b) => b && !b.trial)) break;
    await Promise.race([call, pause(LOOK_EVERY)]);
  }
  if (said?.heard === 'answer') return { box: said.answer.box };
  if (said?.heard === 'refusal') return { refused: refusalText(said), code: said.refusal, box: said.box };
  const what = lost instanceof NotReached ? ` (${lost.why})` : '';
  return {
    refused: `the box did not answer any more${what}; if the trial began, it goes back by itself within ${seconds} s`,
    code: 'no-answer',
  };
}

/** Has the box go back, and finds it where it is then: its answer may be lost with the address that asked. */
async function goneBack(box: LiveBox, candidates: readonly string[]): Promise<LiveHello | undefined> {
  try {
    const said = await box.order('order', ['back', newOrder()], { within: 20 });
    return said.heard === 'answer' ? said.answer.box : said.box;
  } catch (error) {
    if (!(error instanceof NotReached)) throw error;
    const seen = await Promise.all(candidates.map((at) => box.knock(isIP(at) ? at : undefined, 6)));
    return seen.find((b) => b && !b.trial);
  }
}

const pause = (ms: number): Promise<void> => new Promise((resolve) => setTimeout(resolve, ms));

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

export const stay = (name: string, o: LiveOptions) =>
  ordered(name, o, (b) => ['stay', b.trial?.generation ?? b.running, newOrder()]);
export const extend = (name: string, seconds: string, o: LiveOptions) => {
  const more = readSeconds(seconds);
  return ordered(name, o, (b) => ['extend', b.trial?.generation ?? b.running, String(more), newOrder()]);
};
export const back = (name: string, o: LiveOptions) => ordered(name, o, () => ['back', newOrder()]);
export const save = (name: string, o: LiveOptions) => ordered(name, o, () => ['save', newOrder()]);
