/**
 * A trial on a live box, whoever asks for it: what is looked at before, how it is begun though its answer may be lost, and
 * how the box is found again afterwards. The trial itself is kept by the box.
 */
import type { Day } from '#core/base';
import { randomBytes } from 'node:crypto';
import { isIP } from 'node:net';
import { contains, formatIp, isIpv4, parseIp } from '#core/addr';
import { byShell, planCrossing, secondsFor } from '#core/change';
import { contextOf, findAll } from '#core/findings';
import type { Finding } from '#core/findings';
import { devicesOf, generationOf } from '#core/linux';
import type { Generation } from '#core/linux';
import { modelOf } from '#core/model';
import type { Model } from '#core/model';
import { isOfBox, parseDocument } from '#core/notation';
import type { Document } from '#core/notation';
import { Reach } from '#core/reach';
import { lookUp } from '#core/semantics';
import { buildSite, interfaceNamed } from '#core/site';
import { findingText, lackText, otherText, refusalText, stepLine, strangerText, todoText } from '#words';
import { readOther, rivals } from '#core/box';
import type { LiveHello } from '#core/box';
import { NotReached } from './box';
import type { LiveBox, Outcome } from './box';

/** An order has a name, so that it is carried out once however often it arrives. */
export const newOrder = (): string => randomBytes(8).toString('hex');

/** The way from what runs to the draft, and what it asks of whoever sits there. */
export interface Crossing {
  readonly lockout: boolean;
  readonly lines: readonly string[];
  readonly todos: number;
  /** Where the box may be reached in the end. */
  readonly addresses: readonly string[];
}

/** What can be put on trial, and where the box may be reached then. */
export interface Prepared {
  readonly model: Model;
  readonly generation: Generation;
  readonly crossing?: Crossing;
  readonly addresses: readonly string[];
  /** How long it is proposed to last, seconds. */
  readonly seconds: number;
  /** What does not hinder and is worth knowing: findings, and devices that the text leaves out. */
  readonly warnings: readonly string[];
}

/** Why something is not put on trial. */
export interface Hindrance {
  readonly code: 'lacks' | 'errors' | 'others' | 'lockout';
  readonly text: string;
  readonly errors?: readonly { readonly code: string; readonly text: string }[];
  readonly steps?: readonly string[];
  /** Who else configures what the text is about to, and the devices that could be handed over. */
  readonly rivals?: readonly string[];
  readonly devices?: readonly string[];
}

/** What a trial is prepared from. */
export interface Wanted {
  readonly documents: readonly Document[];
  /** The day that the bench judges ends by; the box has its own clock. */
  readonly today?: Day;
  /** The text that the box runs; `null` where nothing of ours does. */
  readonly running: string | null;
  /** The address that the box sees us come from, and its own port that we came to. */
  readonly client?: string;
  readonly port?: number;
  /** Lines of who else configures the box, and devices of somebody else that are in use. */
  readonly others: readonly string[];
  readonly strangers: readonly string[];
  /** Codes of errors that do not hinder, `others` and `lockout`. */
  readonly overrule: readonly string[];
  readonly seat?: string;
}

/** Why a promise is not kept, where it is that nobody is written who could stand at its ends. */
const NOBODY_THERE: ReadonlySet<string> = new Set(['no-source', 'no-target', 'no-pair']);

/** Whether a Linux box can be told the files at all, and whether errors stand in the way; the model where not. */
export function sound({
  documents,
  overrule,
  today,
}: Pick<Wanted, 'documents' | 'overrule' | 'today'>):
  | { readonly model: Model; readonly generation: Generation; readonly warnings: readonly string[] }
  | { readonly hindrance: Hindrance } {
  const model = modelOf(buildSite(documents, today));
  const own = documents.filter((d) => d.statements.some(isOfBox));
  const generation = generationOf(
    model,
    own.map((d) => ({ name: d.file, text: d.text })),
  );
  if (generation.lacks.length)
    return {
      hindrance: {
        code: 'lacks',
        text: `a Linux box cannot be told this: ${generation.lacks.map(lackText).join(' ')}`,
      },
    };
  const findings = findAll(contextOf(new Reach(model)));
  // Where nothing is written of what is around the box, a promise about somebody out there is not broken: nobody can judge it.
  const isAlone = documents.every((d) => d.statements.every(isOfBox));
  const isUnjudged = (f: Finding) =>
    isAlone && f.code === 'expectation-failed' && NOBODY_THERE.has(String(f.values.why));
  const told = (list: readonly Finding[]) => list.map((f) => ({ code: f.code, text: findingText(f) }));
  const errors = told(findings.filter((f) => f.severity === 'error' && !isUnjudged(f))).filter(
    (e) => !overrule.includes(e.code),
  );
  if (errors.length) return { hindrance: { code: 'errors', text: 'errors stand in the way', errors } };
  const warnings = [
    ...told(findings.filter((f) => f.severity === 'warning')).map((w) => `${w.code}: ${w.text}`),
    ...findings
      .filter(isUnjudged)
      .map((f) => `not judged without the files of what is around the box: ${String(f.values.text)}`),
  ];
  return { model, generation, warnings };
}

/** Everything that is looked at before a box is told anything. */
export function prepare(wanted: Wanted): { readonly prepared: Prepared } | { readonly hindrance: Hindrance } {
  const found = sound(wanted);
  if ('hindrance' in found) return found;
  const { model, generation } = found;
  const { client, port, overrule } = wanted;
  const devices = devicesOf(generation);
  const beside = rivals(wanted.others.map(readOther), devices);
  if (beside.length && !overrule.includes('others'))
    return {
      hindrance: {
        code: 'others',
        text: 'somebody else configures what this text is about to configure',
        rivals: beside.map(otherText),
        devices: [...new Set(beside.flatMap((o) => o.device ?? []))],
      },
    };
  const crossing = crossingOf(wanted, model);
  const inside = wayIn(model, client, port);
  if ((crossing?.lockout ?? !inside.answers) && !overrule.includes('lockout'))
    return {
      hindrance: {
        code: 'lockout',
        text: crossing?.lockout ? 'with this, nothing at the desk lets anybody in any more' : inside.text,
        steps: crossing?.lines,
      },
    };
  return {
    prepared: {
      model,
      generation,
      crossing,
      addresses: [...new Set([...inside.addresses, ...(crossing?.addresses ?? [])])],
      seconds: secondsFor(crossing?.todos ?? 0),
      warnings: [
        ...found.warnings,
        ...wanted.strangers.filter((d) => !devices.has(d)).map((d) => strangerText(d)),
      ],
    },
  };
}

/** The way from what runs to the draft, with this machine as the seat; undefined where nothing of ours runs. */
function crossingOf({ running, documents, client, port, seat }: Wanted, draft: Model): Crossing | undefined {
  if (running === null) return undefined;
  const around = documents.map((d) =>
    parseDocument(
      d.statements
        .filter((s) => !isOfBox(s))
        .map((s) => s.source)
        .join('\n') + '\n',
      // What is looked up in a document is found by its name.
      `around ${d.file}`,
    ),
  );
  const here = seatHere(running, client);
  const seated = seat === undefined && !draft.site.stations.some((s) => s.seat) && here !== undefined;
  const wiring = [...around, ...(seated ? [parseDocument(here, 'seat')] : [])];
  const before = modelOf(buildSite([parseDocument(running, 'running'), ...wiring], draft.site.today));
  const after = modelOf(
    buildSite([...draft.site.documents, ...(seated ? [parseDocument(here, 'seat')] : [])], draft.site.today),
  );
  const plan = planCrossing(before, after, { seat, counts: byShell(port) });
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
export function seatHere(running: string, client: string | undefined): string | undefined {
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
  port: number | undefined,
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
      ?.some(
        (a) =>
          a.name === 'ssh' &&
          (!a.sources || a.sources.has(source)) &&
          (port === undefined ||
            a.services.some((s) => s.kind === 'ports' && s.first <= port && port <= s.last)),
      );
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

/** A trial is looked for this often, milliseconds. */
const LOOK_EVERY = 700;
/** So long an answer is waited for before the box is looked for elsewhere, milliseconds. */
const PATIENCE = 1500;

/**
 * Starts the trial and finds out whether it runs, though its answer may be lost with the session that asked: the box is
 * asked again, at every address that it may have by now.
 */
export async function beginTrial(
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
  const isLate = said === undefined;
  const ours = (b: LiveHello | undefined) => b?.trial?.order === order && b.running === generation.id;
  while (!said && Date.now() < until) {
    const seen = await Promise.all(candidates.map((at) => box.knock(isIP(at) ? at : undefined)));
    const found = seen.find(ours);
    if (found) return { box: found };
    if (lost !== undefined && seen.some((b) => b && !b.trial)) break;
    await Promise.race([call, pause(LOOK_EVERY)]);
  }
  if (said?.heard === 'answer') {
    if (!isLate) return { box: said.answer.box };
    // A late answer tells of a box that was: the session that carries it may have slept until the trial was over.
    const seen = await Promise.all(candidates.map((at) => box.knock(isIP(at) ? at : undefined)));
    const now = seen.find(ours) ?? seen.find((b) => b !== undefined);
    if (ours(now)) return { box: now! };
    if (now)
      return {
        refused: `the answer came when the trial was over: the box runs ${now.running} again`,
        code: 'no-answer',
        box: now,
      };
    return { box: said.answer.box };
  }
  if (said?.heard === 'refusal') return { refused: refusalText(said), code: said.refusal, box: said.box };
  const what = lost instanceof NotReached ? ` (${lost.why})` : '';
  return {
    refused: `the box did not answer any more${what}; if the trial began, it goes back by itself within ${seconds} s`,
    code: 'no-answer',
  };
}

/** Has the box go back, and finds it where it is then: its answer may be lost with the address that asked. */
export async function goBack(box: LiveBox, candidates: readonly string[]): Promise<LiveHello | undefined> {
  try {
    const said = await box.order('order', ['back', newOrder()], { within: 20 });
    return said.heard === 'answer' ? said.answer.box : said.box;
  } catch (error) {
    if (!(error instanceof NotReached)) throw error;
    const seen = await Promise.all(candidates.map((at) => box.knock(isIP(at) ? at : undefined)));
    return seen.find((b) => b && !b.trial);
  }
}

/** The model of a text that a box gave. */
export const modelOfText = (text: string): Model => modelOf(buildSite([parseDocument(text, 'box.gate')]));

/** Resolves after so many milliseconds. */
export const pause = (ms: number): Promise<void> => new Promise((resolve) => setTimeout(resolve, ms));
