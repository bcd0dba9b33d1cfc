/** The client's state: the open site with its draft, the link to the box, the jobs of the worker, and where one is. */
import * as v from 'valibot';
import { changeClauses, leaveSecretsOut } from '#core/edits';
import { applyEdits, diffEdits, isOfBox, printStatement } from '#core/notation';
import type { FileChange, Kind, Statement } from '#core/notation';
import { diffSites, sameFiles } from '#core/change';
import type { BoxEvent, BoxState, Change, Clash, Files, Refusal } from '#core/change';
import { contextOf, findOnly } from '#core/findings';
import { modelOf } from '#core/model';
import type { Model } from '#core/model';
import { Reach } from '#core/reach';
import type { DrillScript } from '#core/proof/drills';
import { buildSite } from '#core/site';
import type { Site } from '#core/site';
import type { RelayOrder, Sight } from '#core/box';
import { contains, formatIp, isIpv4, parseIp } from '#core/addr';
import { REFUSALS, findingText } from '#words';
import { startWorker } from '../../worker/client';
import type { WorkerClient } from '../../worker/client';
import type {
  Answer,
  Derived,
  DeskMoveView,
  DrillAnswer,
  FindingView,
  PlanTold,
  PlanView,
  ProofView,
  TextFile,
} from '../../worker/protocol';
import {
  boxOnly,
  deskOf,
  driftOf,
  historyChanges,
  isOutOfReach,
  linkOf,
  newLink,
  onlyBoxFile,
  siteOf,
  tell,
  toStored,
  trialLeft,
  withWorld,
} from './box-link';
import type { BoxLink, SeatSeen } from './box-link';
import type { Live } from './live.svelte';
import { Faults } from './faults.svelte';
import { byInterface, mirrored, sameLink } from './mirror';
import type { Tried } from './mirror';
import { today } from './calendar';
import { Store, isPassing } from './db';
import type { StoreTrouble, StoredSite } from './db';
import { edited, travelled } from './draft';
import type { Draft } from './draft';
import {
  NO_JOBS,
  findingsOf,
  findingsTold,
  forgotten,
  isFresh,
  isOf,
  proofAsked,
  proofFailed,
  proofTold,
  typingBegun,
  typingRested,
} from './jobs';
import type { Jobs } from './jobs';
import { Nav, toggled } from './nav.svelte';
import { outcomeOf } from './outcome';
import type { Foretold } from './outcome';
import { effectiveDocument, faultsOf, parsed } from './readable';
import type { Effective } from './readable';
import {
  LIVE_TOKEN,
  clearJournal,
  newId,
  onlyJournalled,
  remembered,
  withJournal,
  writeJournal,
} from './keeping';
import { Sites } from './sites';
import type { Journal } from './sites';
import { ledSites, linkTabs } from './tabs';
import type { TabLink } from './tabs';

const JOURNAL: Journal = { write: writeJournal, clear: clearJournal };
const nextTask = (): Promise<void> => new Promise((go) => setTimeout(go));

/** Where this browser keeps which site a live box was taken for. */
const LIVE_SITE = 'jolly-gate live site';
/** After how long what could not be kept is tried again, milliseconds. */
const TRY_AGAIN = 5000;
function readLiveSite(text: string | null): { readonly site: string; readonly box: string } | undefined {
  try {
    const read = v.safeParse(v.object({ site: v.string(), box: v.string() }), JSON.parse(text ?? ''));
    return read.success ? read.output : undefined;
  } catch {
    return undefined;
  }
}

/** How long findings of the statement under the caret are held back while somebody types, milliseconds. */
export const HOLD = 600;

/** How a new site begins where it is not as its files say. */
interface NewSite {
  readonly firstLight?: boolean;
  readonly running?: Files;
  readonly startup?: Files;
  readonly factory?: boolean;
}

export class Session {
  id = $state('');
  name = $state('');
  private draft = $state.raw<Draft>({ files: [], undo: [], redo: [] });
  private link = $state.raw<BoxLink>(newLink([], true));
  private jobs = $state.raw<Jobs>(NO_JOBS);
  readonly nav = new Nav();
  readonly faults = new Faults();
  sheet = $state('');
  /** Rows of the sheet that were corrected, or written without one. */
  sheetRows = $state.raw<Readonly<Record<string, string>>>({});
  firstLight = $state(false);
  storeTrouble = $state<StoreTrouble | undefined>(undefined);
  private trying?: ReturnType<typeof setTimeout>;
  /** Kept sites that could not be opened, with their files for taking away. */
  unopened = $state.raw<readonly { readonly name: string; readonly files: Files }[]>([]);
  leading = $state(true);
  ready = $state(false);
  drill = $state.raw<{ cut: readonly string[]; dead: readonly string[] }>({ cut: [], dead: [] });
  notice = $state('');
  /** The question put to the bench last, with its answer once there is one. */
  asked = $state.raw<
    | {
        readonly from: string;
        readonly to: string;
        readonly service?: string;
        readonly answer?: Answer;
      }
    | undefined
  >();
  /** Whether the reach is told for every host. */
  everyHost = $state(false);
  /** The day of the calendar: what has an end is over by it or not. */
  today = $state.raw(today());
  /** Steady time, milliseconds. */
  now = $state(Date.now());

  get files(): Files {
    return this.draft.files;
  }
  get undoSteps(): Draft['undo'] {
    return this.draft.undo;
  }
  get redoSteps(): Draft['redo'] {
    return this.draft.redo;
  }

  private begun: () => void = () => {};
  /** Kept once the first site is open: what is opened before would be pushed aside by it. */
  readonly started = new Promise<void>((resolve) => (this.begun = resolve));

  private kept = new Sites(undefined, JOURNAL, nextTask, () => undefined);
  private tabs?: TabLink;
  private worker?: WorkerClient;
  readonly derived: Derived | undefined = $derived(this.jobs.derived);
  /** Whether a newer proof is on its way. */
  readonly proving: boolean = $derived(this.jobs.isProving);
  readonly workerTrouble: string = $derived(this.jobs.trouble);
  /** The subject of the statement under the caret while somebody types in it. */
  readonly typing: string | undefined = $derived(this.jobs.typing?.subject);
  /** Whether what is found wrong is of just this text, and of no earlier one. */
  readonly isLookedAt: boolean = $derived(isOf(this.jobs, this.files));
  // No reactive map: it is written while the site is derived.
  // eslint-disable-next-line svelte/prefer-svelte-reactivity
  private readonly lastReadable = new Map<string, string>();
  private holdTimer?: ReturnType<typeof setTimeout>;
  private clock?: ReturnType<typeof setInterval>;
  /** What runs as it was last told. */
  private ran: Files = [];
  private readonly effective = $derived.by((): readonly Effective[] =>
    this.files.map((f) => effectiveDocument(f.name, f.text, this.lastReadable)),
  );
  /** The site as it counts: half-typed statements as they last could be read. */
  readonly site: Site = $derived(
    buildSite(
      this.effective.map((e) => e.document),
      this.today,
    ),
  );
  readonly model: Model = $derived(modelOf(this.site));
  readonly wiring = $derived(this.model.wiring);
  readonly prospects = $derived(this.model.prospects);
  readonly held: readonly string[] = $derived(this.effective.flatMap((e) => e.held));
  /** What the box says of itself. */
  readonly box: BoxState = $derived(this.link.device.state);
  /** What the box runs, with the world as it is plugged now. */
  readonly runningFiles: Files = $derived.by(() => {
    const now = withWorld(this.box.running, this.files);
    // An edit of the draft's box changes nothing of what runs, and then nothing is reckoned of it anew.
    return (this.ran = sameFiles(now, this.ran) ? this.ran : now);
  });
  readonly runningSite: Site = $derived(siteOf(this.runningFiles, this.today));
  readonly changes: readonly Change[] = $derived(diffSites(this.runningSite, this.site, isOfBox));
  /** While a trial runs: what it changed. */
  readonly onTrial: readonly Change[] = $derived(
    this.box.trial
      ? diffSites(siteOf(withWorld(this.box.trial.before, this.files)), this.runningSite, isOfBox)
      : [],
  );
  /** What somebody else changed of what the box runs, brought together with the draft; absent where nobody did. */
  readonly drift = $derived(driftOf(this.link, this.files, this.runningSite, this.site));
  readonly saved: boolean = $derived(sameFiles(this.box.running, this.box.startup));
  /** What is wrong with statements that count as they last could be read: the worker never sees these. */
  private readonly heldFaults: readonly FindingView[] = $derived(
    this.held.length === 0 ? [] : this.files.flatMap((f) => faultsOf(f, this.held)),
  );
  /** Findings to show: those of the statement being typed are held back. */
  readonly findings: readonly FindingView[] = $derived(findingsOf(this.jobs, this.heldFaults));
  readonly trialLeft: number = $derived(trialLeft(this.box, this.now));

  /** Opens the store and the site that was open last, or the first given. */
  async start(first: () => Promise<{ name: string; files: Files }>): Promise<void> {
    this.worker = startWorker({
      found: (findings) => (this.jobs = findingsTold(this.jobs, findings)),
      done: (derived) => (this.jobs = proofTold(this.jobs, derived)),
      failed: (why) => (this.jobs = proofFailed(this.jobs, why)),
    });
    const store = await Store.open((what) => {
      this.storeTrouble = what;
      if (!isPassing(what) || this.trying !== undefined) return;
      this.trying = setTimeout(() => {
        this.trying = undefined;
        this.kept.again();
      }, TRY_AGAIN);
    });
    this.kept = new Sites(store, JOURNAL, nextTask, () => {
      if (this.storeTrouble !== undefined && isPassing(this.storeTrouble)) this.storeTrouble = undefined;
      this.tabs?.announce();
    });
    const stored = await this.kept.all();
    // Where nobody can say what the database has, nothing may be written over it.
    const known = await this.kept.ids().catch(() => undefined);
    const alone = (known ? onlyJournalled(known) : []).map(({ id, name, files, updated }) => ({
      ...this.newSite(name, files),
      id,
      updated,
    }));
    for (const site of alone) void this.kept.save(site);
    const sites = [...stored, ...alone];
    const wanted = remembered.get('jolly-gate site');
    const order = [
      ...sites.filter((s) => s.id === wanted),
      ...sites.filter((s) => s.id !== wanted).sort((a, b) => b.updated - a.updated),
    ].map((site) => {
      const whole = withJournal(site);
      // What only the journal has is kept at last.
      if (whole !== site) void this.kept.save(whole);
      return whole;
    });
    // One that cannot be opened is told, and keeps none of the others from opening.
    const opened = order.find((site) => {
      try {
        this.take(site);
        return true;
      } catch {
        this.unopened = [...this.unopened, { name: site.name, files: site.files }];
        return false;
      }
    });
    if (!opened) {
      const fresh = await first();
      this.begin(fresh.name, fresh.files);
    }
    this.clock = setInterval(() => this.tick(), 250);
    this.ready = true;
    this.begun();
    void this.resumeLive();
  }

  /** Goes on with live boxes where this browser has been given them. */
  private async resumeLive(): Promise<void> {
    const { hash } = location;
    const ticket = /^#live=([\w-]+)$/.exec(hash)?.[1];
    // A link that works once is nothing to keep in the history.
    if (ticket !== undefined) history.replaceState(null, '', location.pathname);
    if (ticket === undefined && remembered.get(LIVE_TOKEN) === null) return;
    const live = await this.openLive(ticket);
    const last = readLiveSite(remembered.get(LIVE_SITE));
    if (live.list && last?.site === this.id && live.list.boxes.some((b) => b.name === last.box))
      this.connectLive(last.box, true);
    else if (ticket !== undefined && live.list?.boxes.length) this.nav.connecting = true;
  }

  /** Writes what is not kept yet where it is kept at once: the window may be gone in the next moment. */
  flush(): void {
    this.kept.flush();
  }

  /** Whether something is kept nowhere but in this window. */
  get isUnkept(): boolean {
    return this.storeTrouble !== undefined && this.storeTrouble !== 'unreadable' && this.kept.isUnkept;
  }

  stop(): void {
    clearInterval(this.clock);
    this.worker?.close();
    this.tabs?.close();
  }

  /** Every site that the browser keeps. */
  sites(): Promise<readonly { id: string; name: string; updated: number }[]> {
    return this.kept.all();
  }

  /** Begins a new site with a box whose running configuration is `running` (the files themselves where absent). */
  begin(name: string, files: Files, options: NewSite = {}): void {
    this.take(this.newSite(name, files, options));
    this.nav.view = options.firstLight ? 'first-light' : 'board';
    void this.save();
  }

  private newSite(name: string, files: Files, options: NewSite = {}): StoredSite {
    const link = newLink(boxOnly(options.running ?? files), options.factory, options.startup);
    return {
      id: newId(),
      name,
      files: [...files],
      undo: [],
      redo: [],
      ...toStored(link, this.steady()),
      sheet: '',
      sheetRows: {},
      firstLight: options.firstLight ?? false,
      updated: Date.now(),
    };
  }

  async open(id: string): Promise<void> {
    const site = await this.kept.get(id);
    if (!site) return;
    try {
      this.take(site);
    } catch {
      this.unopened = [...this.unopened, { name: site.name, files: site.files }];
    }
  }

  async forget(id: string): Promise<void> {
    await this.kept.remove(id);
  }

  private take(site: StoredSite): void {
    const other = site.id !== this.id;
    const link = linkOf(site, this.steady(), Date.now(), !other);
    this.id = site.id;
    this.name = site.name;
    this.draft = { files: site.files, undo: site.undo, redo: site.redo };
    this.link = link;
    this.sheet = site.sheet;
    this.sheetRows = site.sheetRows;
    this.firstLight = site.firstLight;
    if (other) {
      this.live?.leave();
      this.drill = { cut: [], dead: [] };
      this.jobs = forgotten(this.jobs);
      this.faults.forget();
      this.lastReadable.clear();
      this.nav.enter(site.firstLight);
      remembered.set('jolly-gate site', site.id);
      this.tabs?.close();
      this.tabs = linkTabs(
        site.id,
        (leading) => {
          // What the one before wrote last is taken before anything is edited here.
          if (leading && !this.leading) void this.follow().then(() => (this.leading = true));
          else this.leading = leading;
        },
        // Who leads knows best; a message that comes late is about what it wrote itself.
        () => void (this.leading ? undefined : this.follow()),
        () => this.kept.settled(),
      );
    }
    this.prove();
  }

  private async follow(): Promise<void> {
    const site = await this.kept.stored(this.id);
    if (site) this.take(site);
  }

  takeOver(): void {
    this.tabs?.takeOver();
  }

  /** The open site as it is kept. */
  private toKeep(): StoredSite {
    return {
      id: this.id,
      name: this.name,
      files: this.files.map((f) => ({ ...f })),
      undo: [...this.undoSteps],
      redo: [...this.redoSteps],
      ...toStored(this.link, this.steady()),
      sheet: this.sheet,
      sheetRows: this.sheetRows,
      firstLight: this.firstLight,
      updated: Date.now(),
    };
  }

  /**
   * Takes the secrets of logins out of every site that this browser keeps: drafts, what runs, start-up, history, sheets.
   * Sites that another window leads are left to it, and told.
   */
  async forgetSecrets(): Promise<void> {
    if (!this.leading) {
      this.notice = 'This site is being edited in another tab; take over to forget its secrets here.';
      return;
    }
    // Seldom wanted, and it reads sheets: not of the first load.
    const { forgetSecretsOf } = await import('./forgetting');
    const open = forgetSecretsOf(this.toKeep());
    let { taken } = open;
    this.lastReadable.clear();
    this.unwritten = Object.fromEntries(
      Object.entries(this.unwritten).map(([subject, text]) => [subject, leaveSecretsOut(text).text]),
    );
    if (taken) this.take(open.site);
    const busy = await ledSites();
    const elsewhere: string[] = [];
    for (const other of await this.kept.all()) {
      if (other.id === this.id) continue;
      const bare = forgetSecretsOf(withJournal(other));
      if (!bare.taken) continue;
      if (busy.has(other.id)) {
        elsewhere.push(other.name);
        continue;
      }
      taken += bare.taken;
      await this.kept.save(bare.site);
    }
    await this.save();
    this.notice = [
      taken
        ? `Forgotten in ${taken} place${taken > 1 ? 's' : ''}; what could be undone there is gone as well.`
        : 'No secret is kept here.',
      ...elsewhere.map((name) => `“${name}” is open in another window: forget its secrets there.`),
    ].join(' ');
  }

  /** Writes the open site to the store, in the order of the calls. */
  save(): Promise<unknown> {
    // Who follows writes nothing: it would undo what the other tab does.
    return this.leading ? this.kept.save(this.toKeep()) : this.kept.settled();
  }

  /** Texts of statement fields that are not written, since they are no statement yet, by subject. */
  unwritten = $state.raw<Readonly<Record<string, string>>>({});

  keepUnwritten(subject: string, text: string | undefined): void {
    const { [subject]: _, ...others } = this.unwritten;
    this.unwritten = text === undefined ? others : { ...others, [subject]: text };
  }

  // ---- editing

  /**
   * Applies changes made against the effective site. Returns whether it could: a change of a statement that cannot
   * be read at the moment is refused, and says so.
   */
  apply(changes: readonly FileChange[], label: string): boolean {
    const mapped: FileChange[] = [];
    for (const change of changes) {
      const i = this.files.findIndex((f) => f.name === change.file);
      const edits = i < 0 ? undefined : this.effective[i]!.toReal(change.edits);
      if (!edits) {
        this.notice = 'That statement cannot be read yet; finish it first, then try again.';
        return false;
      }
      mapped.push({ file: change.file, edits });
    }
    return this.applyReal(mapped, label);
  }

  /**
   * Does a mend of a finding. The worker's findings speak of the text they were made from; if that has changed since,
   * the finding is made anew from the text as it is, so that no edit lands in the wrong place.
   */
  mend(finding: FindingView, index: number, label: string): boolean {
    if (isFresh(this.jobs, this.files)) return this.apply(finding.mends[index]!.changes, label);
    const now = findOnly(contextOf(new Reach(this.model)), finding.code).find((f) => f.id === finding.id);
    const mend = now?.mends.find((m) => m.what === finding.mends[index]!.what);
    if (mend) return this.apply(mend.changes, label);
    this.notice = 'That is mended already.';
    return false;
  }

  /** Replaces the whole text of a file, as a text view does. Keystrokes in a row become one step. */
  setText(file: string, text: string, label: string): void {
    const old = this.files.find((f) => f.name === file);
    if (!old || old.text === text) return;
    this.applyReal([{ file, edits: diffEdits(old.text, text) }], label, true);
  }

  /** Other texts for some files, as one step that undo takes back. */
  replaceTexts(texts: ReadonlyMap<string, string>, label: string): boolean {
    const changes = this.files.flatMap(({ name, text }) => {
      const next = texts.get(name);
      return next === undefined ? [] : [{ file: name, edits: diffEdits(text, next) }];
    });
    return this.applyReal(changes, label);
  }

  /** Returns whether it was done: only the tab that leads edits. */
  private applyReal(changes: readonly FileChange[], label: string, typed = false): boolean {
    if (!this.leading) {
      this.notice = 'This site is being edited in another tab; take over to edit here.';
      return false;
    }
    const after = edited(this.draft, changes, label, Date.now(), typed);
    if (after === this.draft) return true;
    this.draft = after;
    this.changed(typed);
    return true;
  }

  private changed(typed: boolean): void {
    void this.save();
    clearTimeout(this.holdTimer);
    if (!typed) this.prove();
    else {
      if (this.held.length === 0) this.prove();
      this.holdTimer = setTimeout(() => this.restTyping(), HOLD);
    }
  }

  /** Somebody types in a statement: its findings stay as they were until it has rested or is left. */
  beginTyping(subject: string): void {
    this.jobs = typingBegun(this.jobs, subject);
  }

  /** The caret rested or left: what was held back is told. */
  restTyping(): void {
    clearTimeout(this.holdTimer);
    this.jobs = typingRested(this.jobs);
    this.prove();
  }

  undo(): void {
    this.travel('undo');
  }

  redo(): void {
    this.travel('redo');
  }

  private travel(way: 'undo' | 'redo'): void {
    if (!this.leading) return;
    const went = travelled(this.draft, way);
    if (!went) return;
    this.draft = went.draft;
    this.notice = went.fits
      ? `${way === 'undo' ? 'Undone' : 'Done again'}: ${went.step.label}`
      : `“${went.step.label}” does not fit the text any more, so it was left out of what can be undone.`;
    void this.save();
    if (went.fits) this.prove();
  }

  // ---- proof

  /** Asks for fresh findings and proofs; a newer call makes this one stale. */
  prove(): void {
    const draft = this.effectiveFiles();
    const running = this.runningFiles;
    this.jobs = proofAsked(this.jobs, this.files);
    this.worker?.derive({
      generation: this.jobs.generation,
      draft,
      running: sameFiles(draft, running) ? undefined : running.map((f) => ({ ...f })),
      drill: { cut: [...this.drill.cut], dead: [...this.drill.dead] },
      factoryPassword: !this.box.passwordSet,
      today: this.today,
      sheet: this.sheet,
      sheetRows: this.sheetRows,
      desk: deskOf(this.link, this.seatText),
      isLive: this.isLive,
      hosts: this.everyHost,
    });
  }

  /** Tells why the worker gave no answer. */
  readonly cannot = (why: unknown): void => {
    this.notice = why instanceof Error ? why.message : String(why);
  };

  /** Follows one flow on the bench. */
  async ask(from: string, to: string, service?: string): Promise<Answer> {
    const files = this.effectiveFiles();
    return this.worker
      ? this.worker.ask({ files, from, to, service })
      : { ok: false, why: 'the worker is not there' };
  }

  /** The findings that would come and go with changes of the effective site, asked of the worker. */
  async foretell(changes: readonly FileChange[]): Promise<Foretold> {
    const files = this.effective.map(({ document: d }) => ({
      name: d.file,
      text: applyEdits(d.text, changes.find((c) => c.file === d.file)?.edits ?? []),
    }));
    return outcomeOf(this.findings, (await this.worker?.check(files)) ?? []);
  }

  /** What changes would do to the reach, in sentences, asked of the worker. */
  async compare(changes: readonly FileChange[]): Promise<readonly string[]> {
    const before = this.effectiveFiles();
    const after = before.map((f) => ({
      name: f.name,
      text: applyEdits(f.text, changes.find((c) => c.file === f.name)?.edits ?? []),
    }));
    return (await this.worker?.compare(before, after)) ?? [];
  }

  /** The crossing from what runs to the draft, asked of the worker. */
  async plan(told: PlanTold): Promise<PlanView | undefined> {
    const draft = this.effectiveFiles();
    return this.worker?.plan(
      this.runningFiles.map((f) => ({ ...f })),
      draft,
      told,
      deskOf(this.link, this.seatText),
      this.isLive,
    );
  }

  /** A continuous ping while lines fail, on the bench of the draft or of what runs. */
  async runDrill(side: 'draft' | 'running', script: DrillScript): Promise<DrillAnswer> {
    const files = side === 'draft' ? this.effectiveFiles() : this.runningFiles.map((f) => ({ ...f }));
    return this.worker
      ? this.worker.drill(side, files, script)
      : { ok: false, why: 'the worker is not there' };
  }

  /** Fills the what-if boards of the draft and of what runs, where they are of other texts. */
  async lookAtFaults(isPairs: boolean): Promise<void> {
    if (!this.worker) return;
    await this.faults.look(
      this.worker,
      { draft: this.effectiveFiles(), running: this.runningFiles },
      isPairs,
    );
  }

  /** The files as they count: half-typed statements as they last could be read. */
  effectiveFiles(): TextFile[] {
    return this.effective.map(({ document: d }) => ({ name: d.file, text: d.text }));
  }

  /** Lets the best crossing that was found so far be the one. */
  stopPlanning(): void {
    this.worker?.stopPlanning();
  }

  /** Asks the bench and keeps the answer for the view that shows the whole way. */
  async trace(from: string, to: string, service?: string): Promise<Answer> {
    this.asked = { from, to, service };
    const answer = await this.ask(from, to, service);
    this.asked = { from, to, service, answer };
    return answer;
  }

  /** Tells the reach for every host, or for zones only. */
  showHosts(every: boolean): void {
    this.everyHost = every;
    this.prove();
  }

  setDrill(drill: { cut?: readonly string[]; dead?: readonly string[] }): void {
    this.drill = { cut: drill.cut ?? [], dead: drill.dead ?? [] };
    this.prove();
  }

  /** Pulls the cable of a port on the bench, or puts it back. */
  toggleCut(port: string): void {
    this.setDrill({ ...this.drill, cut: toggled(this.drill.cut, port) });
  }

  /** Lets nothing behind a circuit answer, or lets it again. */
  toggleDead(circuit: string): void {
    this.setDrill({ ...this.drill, dead: toggled(this.drill.dead, circuit) });
  }

  // ---- the box

  /** What the ladders said of the box before the trial that runs, where this window saw it begin. */
  provedBefore = $state.raw<ProofView | undefined>();

  /** Live boxes, once somebody asked for them. */
  live = $state.raw<Live | undefined>();
  /** What was tried on the live box from here and is not over. */
  private tried?: Tried;

  /** Speaks to the server about live boxes; a one-time link's ticket is used up. Its code is not of the first load. */
  async openLive(ticket?: string): Promise<Live> {
    const { Live } = await import('./live.svelte');
    this.live ??= new Live(
      () => this.steady(),
      (sight) => this.seeLive(sight),
    );
    await this.live.enter(ticket);
    return this.live;
  }

  /**
   * Takes a live box for this site: from now on what runs is what that box runs. Returns why it cannot be. The draft
   * stays as it is. `isKnown`: it was taken before, so that what it runs otherwise is somebody else's doing.
   */
  connectLive(box: string, isKnown = false): string | undefined {
    if (this.onlyBoxFile === undefined)
      return 'The statements of this box stand in several files, or among the wiring: a live box has one text.';
    this.tried = undefined;
    this.liveFor = this.id;
    this.live?.connect(box);
    remembered.set(LIVE_SITE, JSON.stringify({ site: this.id, box }));
    this.isFirstSight = !isKnown;
    return undefined;
  }

  /** Lets go of the live box, which goes on as it is. */
  leaveLive(): void {
    this.live?.leave();
    remembered.remove(LIVE_SITE);
  }

  /** The site that the live box was taken for. */
  private liveFor = $state('');
  /** Whether what runs here is what a live box runs. */
  readonly isLive: boolean = $derived(this.live?.box !== undefined && this.liveFor === this.id);
  /** What somebody changed on the live box by hand, by the interface that it is about. */
  readonly byHand: ReadonlyMap<string, readonly string[]> = $derived(
    byInterface(this.isLive ? (this.live?.handText ?? '') : ''),
  );
  /** A live box's trial whose end nobody has seen: by this page's clock its time is over. */
  readonly isTrialOver: boolean = $derived(this.isLive && !!this.box.trial && this.trialLeft === 0);

  /** Whether the trial that runs on the live box was begun elsewhere. */
  readonly isTheirTrial: boolean = $derived(
    this.isLive && !!this.box.trial && !sameFiles(this.link.agreed, this.box.running),
  );

  /** Whether nothing was seen of the box since it was taken for this site. */
  private isFirstSight = false;

  private seeLive(sight: Sight): void {
    if (!this.isLive) return;
    const file = this.onlyBoxFile ?? boxOnly(this.files)[0]?.name;
    if (file === undefined) return;
    const next = mirrored(this.link, sight, file, this.steady(), this.tried);
    // What a box runs that is met just now is nobody's doing behind our back.
    const met = this.isFirstSight ? { ...next, agreed: next.device.state.running } : next;
    const at = this.deskAt(sight.box.client);
    const moved = at && JSON.stringify(at) !== JSON.stringify(met.desk);
    const link = moved ? { ...met, desk: at } : met;
    this.isFirstSight = false;
    if (this.box.trial && !sight.box.trial) {
      if (link.device.state.last && !this.box.last)
        this.notice = 'The trial ran out: the box went back by itself.';
      this.tried = undefined;
    }
    if (!moved && sameLink(link, this.link)) return;
    const other = !!moved || !sameFiles(link.device.state.running, this.box.running);
    this.link = link;
    void this.save();
    if (other) this.prove();
  }

  /** Where the seat is now, by the address that the box sees us come from; undefined where that says nothing of it. */
  private deskAt(client: string | undefined): BoxLink['desk'] {
    const address = client === undefined ? undefined : parseIp(client);
    const seat = this.seatStatement;
    if (address === undefined || !isIpv4(address) || !seat) return undefined;
    for (const iface of this.runningSite.interfaces) {
      const own = iface.addresses.find((a) => contains(a.prefix, address))?.prefix;
      const [plug] = iface.ports;
      if (!own || plug === undefined || iface.off) continue;
      return {
        of: this.seatText,
        plug,
        address: `${formatIp(address)}/${own.length}`,
        gateway: formatIp(own.address),
      };
    }
    return undefined;
  }

  /** Carries an order to the live box. */
  private async tellLive(event: BoxEvent, overrule: readonly string[] = []): Promise<void> {
    const { live } = this;
    const order = live && this.relayed(event, overrule);
    if (!live || !order) return;
    if (event.do === 'try') this.tried = { files: event.files, before: this.box.running, note: event.note };
    const done = await live.order(order);
    if (!done && event.do === 'try' && !this.box.trial) this.tried = undefined;
  }

  /** An order as the server takes it; undefined for what nobody can order over the network. */
  private relayed(event: BoxEvent, overrule: readonly string[]): RelayOrder | undefined {
    switch (event.do) {
      case 'try':
        return {
          do: 'try',
          files: withWorld(event.files, this.files).map((f) => ({ ...f })),
          seconds: event.seconds,
          overrule: [...overrule],
          base: this.live?.sight?.text ?? null,
        };
      case 'stay':
      case 'go-back':
      case 'save':
      case 'reboot':
        return { do: event.do };
      case 'extend':
        return { do: 'extend', seconds: event.seconds };
      default:
        return undefined;
    }
  }

  /** Gives the box an order; why it is refused is returned, or that no answer came. A live box answers later. */
  tell(event: BoxEvent, overrule: readonly string[] = []): Refusal | undefined {
    if (this.isLive) {
      if (event.do === 'try') this.provedBefore = this.derived?.running ?? this.derived?.draft;
      void this.tellLive(event, overrule);
      return undefined;
    }
    if (event.do === 'try') this.provedBefore = this.derived?.running ?? this.derived?.draft;
    const { link, refused, isChanged } = tell(this.link, { id: newId(), event }, this.steady(), {
      reached: !this.isOutOfReach,
      seat: this.seatSeen,
    });
    this.link = link;
    if (isChanged) {
      void this.save();
      this.prove();
    }
    return refused;
  }

  /** The seat as it was proved last. */
  private get seatSeen(): SeatSeen | undefined {
    const seat = this.derived?.seat;
    return seat && { of: this.seatText, at: seat.at, hasWay: !!seat.running };
  }

  /**
   * What somebody else has told the box, read from a file. Returns why it cannot be taken; what is there stays as it is.
   */
  changedElsewhere(file: string, text: string): string | undefined {
    const name = this.onlyBoxFile;
    if (name === undefined)
      return 'The statements of this box stand in several files, or among the wiring: what it runs cannot be read in one.';
    const read = parsed(text, name);
    const [fault] = read.problems.filter((p) => p.fatal);
    if (fault) return `${file}, line ${fault.at.line}: ${findingText(fault)}.`;
    if (!read.statements.some(isOfBox)) return `${file} holds no statement of a box.`;
    const stray = read.statements.find((s) => !isOfBox(s));
    if (stray) return `${file}, line ${stray.line}: ${stray.kind} belongs to the wiring, not to a box.`;
    const refused = this.tell({ do: 'replace', files: [{ name, text }], by: `changed elsewhere: ${file}` });
    return refused && REFUSALS[refused];
  }

  /** Brings into the draft what somebody else changed; where both changed a thing, the draft keeps its own. */
  adopt(): void {
    const changes = this.drift?.merge.changes ?? [];
    if (changes.length && !this.apply(changes, 'adopt what was changed at the box')) return;
    this.overrule();
  }

  /** Lets the draft stand against what somebody else changed. */
  overrule(): void {
    this.link = { ...this.link, agreed: this.box.running };
    void this.save();
  }

  /** Takes the other side of one thing that both changed. */
  takeTheirs(clash: Clash): void {
    this.apply(clash.take, `take ${clash.subject.replace('/', ' ')} as the box has it`);
  }

  /** Applies the draft on trial. */
  tryDraft(
    seconds: number,
    note: string,
    errors: number,
    overrule: readonly string[] = [],
  ): Refusal | undefined {
    const event: BoxEvent = {
      do: 'try',
      id: newId(),
      files: boxOnly(this.files),
      seconds,
      note,
      base: this.link.agreed,
      looked: { at: this.derived ? boxOnly(this.jobs.lookedAt) : [], errors },
    };
    return this.tell(event, overrule);
  }

  /** The box's one file, where all its statements stand in one with nothing else: then a step can be tried by itself. */
  readonly onlyBoxFile: string | undefined = $derived(onlyBoxFile(this.files));

  /** Applies one step of the crossing on trial; the draft stays as it is. */
  tryStep(box: string, seconds: number, note: string): Refusal | undefined {
    const name = this.onlyBoxFile;
    if (name === undefined) return undefined;
    const event: BoxEvent = {
      do: 'try',
      id: newId(),
      files: [{ name, text: box }],
      seconds,
      note,
      base: this.link.agreed,
    };
    // The plan has looked at each step: it has no error that neither end has.
    const known = this.findings.filter((f) => f.severity === 'error').map((f) => f.code);
    return this.tell(event, known);
  }

  /** During a trial: whether the box hears nothing, as the seat that began it has no way in now, or no answer comes. */
  readonly isOutOfReach: boolean = $derived(
    this.isLive ? !!this.live?.lost && !!this.box.trial : isOutOfReach(this.link, this.seatSeen),
  );

  /** Does at the desk what gives its PC a way in again. */
  atDesk(move: DeskMoveView): void {
    const statement = this.seatStatement;
    if (statement && move.writes?.length)
      this.apply(
        changeClauses(
          this.site,
          statement,
          move.writes.map((w) => ({ do: 'set' as const, ...w })),
        ),
        `at the desk: ${move.text}`,
      );
    this.link = { ...this.link, desk: { of: this.seatText, ...move.to } };
    void this.save();
    this.prove();
  }

  private get seatStatement(): Statement | undefined {
    return this.site.statements.find((s) => s.kind === 'station' && s.seat);
  }

  /** The statement of the seat, without which what is known of its PC is worth nothing. */
  private get seatText(): string {
    const statement = this.seatStatement;
    return statement ? printStatement(statement) : '';
  }

  /** What an entry of the history changed, against what ran before it, or against another entry. */
  historyChanges(index: number, against?: number): readonly Change[] {
    return historyChanges(this.box, index, against);
  }

  /**
   * Milliseconds that only ever go on: the wall clock as it was when the window opened, and what has passed since. A
   * clock that is set back makes no trial longer.
   */
  private steady(): number {
    return this.openedAt + (performance.now() - this.openedOn);
  }
  private readonly openedAt = Date.now();
  private readonly openedOn = performance.now();

  private tick(): void {
    this.now = this.steady();
    const now = today();
    if (now !== this.today) {
      this.today = now;
      this.faults.forget();
      this.prove();
    }
    if (!this.isLive && this.leading && this.box.trial && this.now >= this.box.trial.until) {
      this.tell({ do: 'tick' });
      this.notice = 'The trial ran out: the box went back by itself.';
    }
  }

  // ---- getting about

  statementOf(subject: string): Statement | undefined {
    return this.site.statements.find((s) => s.subject === subject);
  }

  /** A statement as it stands in the text, readable or not, with its faults. */
  realStatement(file: string, subject: string) {
    const text = this.files.find((f) => f.name === file)?.text;
    if (text === undefined) return undefined;
    const document = parsed(text, file);
    const statement = document.statements.find((s) => s.subject === subject);
    return (
      statement && {
        start: statement.start,
        end: statement.end,
        faults: document.problems.filter((p) => p.subject === subject && p.fatal),
      }
    );
  }

  /** The subject of the statement that begins at an offset of a file. */
  subjectAt(file: string, start: number): string | undefined {
    const text = this.files.find((f) => f.name === file)?.text ?? '';
    return parsed(text, file).statements.find((s) => s.start === start)?.subject;
  }

  /** The names in use, for completion. */
  names(): Readonly<Partial<Record<Kind, readonly string[]>>> {
    const out: Partial<Record<Kind, string[]>> = {};
    for (const s of this.site.statements) if ('name' in s && s.name) (out[s.kind] ??= []).push(s.name);
    out.port = [...this.site.ports.keys()];
    return out;
  }
}
