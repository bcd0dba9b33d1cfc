/** The worker's work, apart from its being a worker: findings and proofs from texts. */
import { lineOnSheet } from '#core/edits';
import { Recent } from '#core/base';
import type { Day } from '#core/base';
import { formatFlowService, formatIp } from '#core/addr';
import { lookForCrossing } from '#core/change';
import { modelOf } from '#core/model';
import type { Model } from '#core/model';
import { contextOf, findAll, isProven } from '#core/findings';
import type { Context, Finding } from '#core/findings';
import { Readings, readServices } from '#core/notation';
import { correctSheet, lineTerms, readHandoff } from '#core/formats/handoff';
import type { Corrections } from '#core/formats/handoff';
import { writePcapng } from '#core/formats/pcapng';
import { bootBench, captureFlow, logOf, proveOn } from '#core/proof';
import { Reach, ReachMemory, ReachTable } from '#core/reach';
import { buildSite, documentOf, interfaceAt, interfaceNamed } from '#core/site';
import { frameComment, logEndText, stepText, traceFaultText, traceText } from '#words';
import { planViews, readDesk, seatView, waysThatCount } from './plan';
import { reachChanges, reachView } from './reach';
import type {
  Answer,
  AskRequest,
  DeriveRequest,
  DeskState,
  Derived,
  FailingMend,
  FindingView,
  PlanView,
  ProofView,
  TextFile,
} from './protocol';

/** The model of texts, on the day that the last request was about. */
export const modelFrom = (
  files: readonly TextFile[],
  { readings, today }: Pick<Remembered, 'readings' | 'today'>,
): Model =>
  modelOf(
    buildSite(
      files.map((f) => readings.read(f.text, f.name)),
      today,
    ),
  );

const viewOf = ({ others, ...finding }: Finding): FindingView => ({
  ...finding,
  others: others.map((s) => ({ subject: s.subject, file: s.file, line: s.line })),
});

/** How long the bench may be asked about promises while somebody waits, milliseconds. */
const PROMISING = 2000;

function proofOf(reach: Reach, clock: () => number, drill?: DeriveRequest['drill']): ProofView {
  const { site } = reach.model;
  const { bench } = bootBench(reach, drill);
  const until = clock() + PROMISING;
  const proof = proveOn(bench, reach, () => clock() > until, drill);
  const zoneOf = (name: string) => interfaceNamed(site, name)?.zone?.name ?? name;
  return {
    ...proof,
    log: logOf(bench).map((r) => ({
      time: r.time,
      zones: r.went ? `${zoneOf(r.came)} → ${zoneOf(r.went)}` : zoneOf(r.came),
      source: formatIp(r.source),
      destination: formatIp(r.destination),
      service: formatFlowService(r.service),
      came: r.came,
      went: r.went ?? '',
      shown: r.shown === undefined ? '' : formatIp(r.shown),
      end: logEndText(r.end),
      good: r.end === 'passed' || r.end === 'answered',
      asked: r.asked,
      subject: r.decided?.subject,
      line: r.decided?.line,
    })),
    promises: proof.promises.map(({ statement, ...rest }) => ({
      ...rest,
      file: statement.file,
      line: statement.line,
      text: documentOf(site, statement).text.slice(statement.start, statement.end),
    })),
  };
}

/** The proof that was made last, with what it was made from. */
export interface Remembered {
  key: string;
  /** The day that the last request was about. */
  today?: Day;
  /** Counts the crossings that were asked for. */
  planning: number;
  /** Counts the boards of faults that were asked for. */
  trying: number;
  /** What was read of earlier drafts. */
  readonly readings: Readings;
  /** What sheets say of their line: one stays while its site is edited. */
  readonly sheets: Recent<ReturnType<typeof lineTerms>>;
  proof?: ProofView;
  reach?: ReachTable;
  /** What was reckoned of the reach of earlier drafts. */
  memory: ReachMemory;
  /** What `find` read last, so that the proof of the same request need not read it again. */
  found?: {
    readonly generation: number;
    readonly context: Context;
    readonly raw: readonly Finding[];
    readonly findings: readonly FindingView[];
  };
}

/** Nothing is remembered yet. */
export const remember = (): Remembered => ({
  key: '',
  planning: 0,
  trying: 0,
  readings: new Readings(),
  sheets: new Recent(4),
  memory: new ReachMemory(),
});

/** What may be remembered of the reach now. */
function memoryOf(last: Remembered): ReachMemory {
  if (last.memory.isWorn) last.memory = new ReachMemory();
  return last.memory;
}

/** The findings of the draft, which are told before the proof is made. */
export function find(request: DeriveRequest, last: Remembered): readonly FindingView[] {
  last.today = request.today;
  const reach = new Reach(modelFrom(request.draft, last));
  const observed = { factoryPassword: request.factoryPassword };
  const context = contextOf(reach, observed, memoryOf(last));
  const raw = findAll(context);
  const findings = raw.map(viewOf);
  last.found = { generation: request.generation, context, raw, findings };
  return findings;
}

/** Milliseconds, and a break in which the worker hears what else is wanted. */
export interface Time {
  readonly clock: () => number;
  readonly pause: () => Promise<unknown>;
}

/** How long mends are tried, milliseconds: on a large site not all are. */
const TRYING = 3000;

/**
 * Tries the mends of a request's findings on its text, one after the other, and tells those that leave their finding or
 * cause an error. Between two of them the worker hears what else is wanted; a newer request ends it.
 */
export async function failingMends(
  generation: number,
  last: Remembered,
  { clock, pause }: Time,
): Promise<FailingMend[]> {
  const { found } = last;
  const out: FailingMend[] = [];
  if (found?.generation !== generation) return out;
  const until = clock() + TRYING;
  for (const finding of found.raw)
    for (const [index, mend] of finding.mends.entries()) {
      await pause();
      if (last.found !== found || clock() > until) return out;
      if (!isProven(found.context, found.raw, finding, mend)) out.push({ finding: finding.id, index });
    }
  return out;
}

/**
 * Findings of the draft, and the proofs of draft and running. `clock` tells milliseconds. What the box runs seldom
 * changes, so its proof is remembered from call to call.
 */
export function derive(request: DeriveRequest, clock: () => number, last: Remembered = remember()): Derived {
  const start = clock();
  if (last.found?.generation !== request.generation) find(request, last);
  const { findings, context } = last.found!;
  const { reach: draftReach } = context;
  const draft = onSheet(
    proofOf(draftReach, clock, request.drill),
    context,
    last.sheets,
    request.sheet,
    request.sheetRows,
  );
  const memory = memoryOf(last);
  if (request.running) {
    const key = JSON.stringify([request.running, request.drill, request.today]);
    if (key !== last.key) {
      const ran = new Reach(modelFrom(request.running, last));
      last.reach = new ReachTable(ran, memory);
      last.proof = proofOf(ran, clock, request.drill);
      last.key = key;
    }
  }
  const running = request.running && last.proof;
  const table = new ReachTable(draftReach, memory);
  const reach = reachView(table, request.running && last.reach, request.hosts);
  const ran = request.running && last.reach ? last.reach.reach.model : context;
  const seat = seatView(ran, context, request.desk, request.isLive);
  return { generation: request.generation, findings, draft, reach, running, seat, took: clock() - start };
}

/** A proof that says of which uplinks no more is known than the sheet that they were written from. */
function onSheet(
  proof: ProofView,
  { site, wiring }: Model,
  sheets: Remembered['sheets'],
  sheet = '',
  rows: Corrections = {},
): ProofView {
  const said = sheet.trim() !== '' || Object.keys(rows).length > 0;
  const key = `${JSON.stringify(rows)}\n${sheet}`;
  const terms = () => sheets.of(key, () => lineTerms(correctSheet(readHandoff(sheet), rows).found));
  const line = said && lineOnSheet(site, terms());
  if (!line) return proof;
  const circuit = wiring.circuits.find((c) => c.name === line)!;
  const by = interfaceAt(site, circuit.landing);
  return {
    ...proof,
    uplinks: proof.uplinks.map((u) => (u.interface === by?.name ? { ...u, onSheet: true } : u)),
  };
}

/** The findings of texts, without a proof. */
export const check = (files: readonly TextFile[], last: Remembered): FindingView[] =>
  findAll(contextOf(new Reach(modelFrom(files, last)), {}, memoryOf(last))).map(viewOf);

/** What another text would change of the reach, in sentences. */
export const compare = (
  before: readonly TextFile[],
  after: readonly TextFile[],
  last: Remembered,
): string[] => reachChanges(modelFrom(before, last), modelFrom(after, last), last.memory);

/** Milliseconds that a crossing may be looked for. */
const PLANNING = 1800;

/** How long the worker looks for a crossing before it hears what else is wanted, milliseconds. */
const SLICE = 40;

/**
 * Looks for the crossing from one text to another. The first plan is told as soon as there is one, and how many
 * configurations were looked at; another call, or `last.planning` counted up, ends it with the best so far.
 */
export async function plan(
  running: readonly TextFile[],
  draft: readonly TextFile[],
  told: (view: PlanView | undefined, looked: number) => void,
  { clock, pause }: Time,
  last: Remembered,
  desk?: DeskState,
  isLive = false,
): Promise<PlanView> {
  const mine = ++last.planning;
  const until = clock() + PLANNING;
  const [before, after] = [modelFrom(running, last), modelFrom(draft, last)];
  const view = planViews(before, after);
  const looking = lookForCrossing(before, after, {
    at: desk && readDesk(desk),
    counts: waysThatCount(isLive),
    enough: () => last.planning !== mine || clock() > until,
  });
  let since = clock();
  let looked = 0;
  for (;;) {
    const { done, value } = looking.next();
    if (done) return view(value);
    if (typeof value !== 'number') told(view(value), looked);
    else looked = value;
    if (clock() - since > SLICE) {
      told(undefined, looked);
      await pause();
      since = clock();
    }
  }
}

/** Follows one flow on the bench. */
export function ask(request: AskRequest, last: Remembered = remember()): Answer {
  const reach = new Reach(modelFrom(request.files, last));
  const service = request.service?.trim();
  let services;
  if (service) {
    services = readServices(service);
    if (!services)
      return { ok: false, why: `“${service}” is no service; write one such as “tcp 443”, “dns” or “ping”` };
  }
  const { trace, frames } = captureFlow(reach, { from: request.from, to: request.to, service: services });
  if ('what' in trace) return { ok: false, why: traceFaultText(trace) };
  return {
    ok: true,
    sentence: traceText(trace),
    verdict: trace.verdict,
    capture: writePcapng(frames, (time) => frameComment(trace, time)),
    steps: trace.steps.map((s) => ({
      time: s.time,
      node: s.node,
      stage: s.stage,
      text: stepText(s),
      file: s.statement?.file,
      line: s.statement?.line,
      subject: s.statement?.subject,
      source: formatIp(s.packet.source),
      destination: formatIp(s.packet.destination),
    })),
  };
}
