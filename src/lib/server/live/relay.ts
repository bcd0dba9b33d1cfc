/** Live boxes for pages: each box is asked once, however many pages look, and only while one does. */
import { formatIp, parseIp } from '#core/addr';
import { dayAt, memo } from '#core/base';
import { sightOf } from '#core/box';
import type {
  Hand,
  Knock,
  LiveHello,
  Met,
  Ordered,
  RelayAsk,
  RelayBoxes,
  RelayEvent,
  RelayOrder,
} from '#core/box';
import { deviceOf, numbersOf, readDrift } from '#core/linux';
import type { Model } from '#core/model';
import { parseDocument } from '#core/notation';
import { interfaceNamed } from '#core/site';
import { NO_KEYS_KEPT, UNREACHED, driftText, logText, refusalText } from '#words';
import { keysShown, rememberKey, settingsOf } from '../ssh/keys';
import { Ssh } from '../ssh/ssh';
import { targetText } from '../ssh/target';
import { LiveBox, Nonsense, NotReached } from './box';
import type { BoxEntry } from './boxes';
import type { Handoff } from './handoff';
import { climb } from './ladder';
import { beginTrial, modelOfText, newOrder, pause, prepare, seatHere } from './trial';
import { boxFileOf } from './adopt';
import { followPacket } from './why';

/** Between two looks at a box, milliseconds. */
const EVERY = 700;

/** Why a box gave no answer, as a page is told it. */
function troubleOf(error: unknown): { readonly why: string; readonly text: string } {
  if (error instanceof NotReached) return { why: error.why, text: UNREACHED[error.why] ?? UNREACHED.other! };
  if (error instanceof Nonsense)
    return { why: 'nonsense', text: `it answers, but not as a hinge does: ${error.message}` };
  return { why: 'other', text: error instanceof Error ? error.message : UNREACHED.other! };
}

const refused = (
  code: string,
  text: string,
  more: readonly string[] = [],
  devices?: readonly string[],
): Ordered => ({ ok: false, code, text, more, devices });

/** How a box is called, and time is passed. */
export interface Means {
  readonly box: (entry: BoxEntry) => LiveBox;
  readonly wait: (ms: number) => Promise<void>;
}
const MEANS: Means = {
  box: ({ target, ssh }) => new LiveBox(new Ssh(target, { ...ssh, connect: 3 })),
  wait: pause,
};

/** One box, with the pages that look at it. */
class Watched {
  readonly box: LiveBox;
  private readonly pages = new Set<(event: RelayEvent) => void>();
  /** The newest of each kind, for a page that comes later. */
  private readonly newest = new Map<RelayEvent['what'], RelayEvent>();
  private looking = false;
  private met = false;
  /** Where the box may be found, besides where the list says. */
  private candidates: readonly string[] = [];
  private host?: string;
  private read?: { readonly text: string; readonly model: Model };

  constructor(
    private readonly entry: BoxEntry,
    private readonly means: Means,
  ) {
    this.box = means.box(entry);
  }

  add(page: (event: RelayEvent) => void): () => void {
    this.pages.add(page);
    for (const event of this.newest.values()) page(event);
    if (!this.looking) void this.look();
    return () => void this.pages.delete(page);
  }

  private tell(event: RelayEvent): void {
    if (event.what === 'seen') this.newest.delete('lost');
    this.newest.set(event.what, event);
    for (const page of this.pages) page(event);
  }

  /** Looks for as long as a page does; one round after the other, so that no more is asked than is answered. */
  private async look(): Promise<void> {
    this.looking = true;
    while (this.pages.size) {
      try {
        await this.once();
      } catch (error) {
        // A box that was set up anew is met anew.
        if (error instanceof NotReached && error.why === 'no-hinge') this.met = false;
        this.tell({ what: 'lost', ...troubleOf(error) });
        await this.search();
      }
      await this.means.wait(EVERY);
    }
    this.newest.clear();
    this.looking = false;
  }

  private async once(): Promise<void> {
    const { box } = this;
    if (!this.met) await box.meet();
    this.met = true;
    const said = await box.order('state', ['state'], { within: box.patience });
    if (said.heard === 'refusal') throw new Nonsense(refusalText(said), '');
    const state = said.answer;
    // Whoever calls may have moved meanwhile.
    box.client = state.box.client ?? box.client;
    box.port = state.box.port ?? box.port;
    const model = state.text === null ? undefined : this.modelOf(state.text);
    const drift = model && !state.busy ? readDrift(model.site, state.drifted) : [];
    this.tell({
      what: 'seen',
      sight: sightOf(state),
      drift: drift.map((d) => ({ ...d, text: driftText(d) })),
      at: box.at,
    });
    if (state.box.trial) await this.knock();
    else this.newest.delete('knocks');
    if (!model) return;
    const uplinks = await climb(async (words) => {
      const rungs = await box.order('ladder', words, { within: 15 });
      return rungs.heard === 'answer' ? rungs.answer.stages : '';
    }, model);
    this.tell({ what: 'ladder', uplinks });
  }

  private modelOf(text: string): Model {
    if (this.read?.text !== text) this.read = { text, model: modelOfText(text) };
    return this.read.model;
  }

  /** Knocks at every address that the box may have, each by a connection of its own. */
  private async knock(): Promise<readonly Knock[]> {
    const host = await this.named();
    const all = [...new Set([host, ...this.candidates])];
    const knocks = await Promise.all(
      all.map(async (at) => ({
        at,
        answers: await this.box.letsIn(at === host ? undefined : at),
      })),
    );
    this.tell({ what: 'knocks', knocks });
    return knocks;
  }

  /** A box that does not answer may answer elsewhere: on trial at its new address, or again at its old one. */
  private async search(): Promise<void> {
    if (!this.candidates.length) return;
    const host = await this.named();
    const found = (await this.knock()).find((k) => k.answers)?.at;
    if (found !== undefined) this.box.at = found === host ? undefined : found;
  }

  private async named(): Promise<string> {
    const { target, ssh } = this.entry;
    return (this.host ??= (await settingsOf(target, ssh)).get('hostname') ?? target.host);
  }

  async order(order: RelayOrder): Promise<Ordered> {
    try {
      if (order.do === 'try') return await this.tryOut(order);
      const now = await this.box.order('order', ['hello']);
      if (now.heard === 'refusal') return refused(now.refusal, refusalText(now));
      const said = await this.box.order('order', wordsOf(order, now.answer.box), { within: 30 });
      return said.heard === 'refusal' ? refused(said.refusal, refusalText(said)) : { ok: true };
    } catch (error) {
      const { why, text } = troubleOf(error);
      return refused(why, text);
    }
  }

  private async tryOut({
    files,
    seconds,
    overrule,
    base,
  }: Extract<RelayOrder, { do: 'try' }>): Promise<Ordered> {
    const { box } = this;
    const before = await box.order('adopt', ['adopt']);
    if (before.heard === 'refusal') return refused(before.refusal, refusalText(before));
    const running = before.answer.text;
    if (running !== base)
      return refused('changed-meanwhile', 'somebody else changed what the box runs: look at that first');
    const documents = files.map((f) => parseDocument(f.text, f.name));
    const today = dayAt(new Date());
    const { strangers } = before.answer;
    const { others } = before.answer.box;
    const { client, port } = box;
    const looked = prepare({ documents, today, running, others, strangers, client, port, overrule });
    if ('hindrance' in looked) {
      const { code, text, errors, steps, rivals, devices } = looked.hindrance;
      return refused(code, text, errors?.map((e) => `${e.code}: ${e.text}`) ?? steps ?? rivals, devices);
    }
    const { generation, addresses } = looked.prepared;
    const staged = await box.stage(generation);
    if (staged.heard === 'refusal') return refused(staged.refusal, refusalText(staged));
    const host = await this.named();
    this.candidates = [...new Set([host, ...addresses])];
    const begun = await beginTrial(
      box,
      generation,
      seconds,
      newOrder(),
      before.answer.box.running,
      this.candidates,
    );
    if ('refused' in begun) return refused(begun.code, begun.refused);
    return { ok: true };
  }

  /** What the running box itself is asked, in lines; throws where it is not reached. */
  async ask(ask: RelayAsk): Promise<readonly string[]> {
    const { box } = this;
    const device = (by: string | undefined): string => {
      const site = this.read?.model.site;
      const iface = site && interfaceNamed(site, by);
      return site && iface ? deviceOf(site, iface) : '-';
    };
    const lines = (text: string) => text.split('\n').filter(Boolean);
    switch (ask.what) {
      case 'log': {
        const said = await box.order('log', ['log', '400']);
        return said.heard === 'answer'
          ? [
              ...lines(said.answer.log).map((line) => logText(line, said.answer.uptime, new Date())),
              ...lines(said.answer.passed),
            ]
          : [refusalText(said)];
      }
      case 'flows': {
        const said = await box.order('flows', ['flows', '500']);
        return said.heard === 'answer' ? lines(said.answer.flows) : [refusalText(said)];
      }
      case 'ping': {
        const to = parseIp(ask.to);
        if (to === undefined) return [`fail “${ask.to}” is no address`];
        const said = await box.order('ask', ['ask', 'ping', formatIp(to), device(ask.by)]);
        return said.heard === 'answer' ? [said.answer.said || 'fail no answer'] : [refusalText(said)];
      }
      case 'route': {
        const to = parseIp(ask.to);
        if (to === undefined) return [`“${ask.to}” is no address`];
        // As the rules of routing see it: by the mark that a packet gets where it arrives.
        const model = this.read?.model;
        const from = model && ask.by !== undefined ? interfaceNamed(model.site, ask.by) : undefined;
        const mark = from && model ? String(numbersOf(model.site).ofInterface(from.name)) : '0';
        const said = await box.order('ask', ['ask', 'route', formatIp(to), mark]);
        return said.heard === 'answer' ? [said.answer.said] : [refusalText(said)];
      }
      case 'look-up': {
        if (!/^[A-Za-z0-9]([A-Za-z0-9.-]*[A-Za-z0-9])?$/.test(ask.name))
          return [`fail “${ask.name}” is no name to resolve`];
        const servers = this.read?.model.site.box?.names ?? [];
        const resolver = servers[0] ? formatIp(servers[0].value) : 'learned';
        const said = await box.order('ask', ['ask', 'name', ask.name, resolver, device(ask.by)]);
        return said.heard === 'answer' ? [said.answer.said || 'fail no answer'] : [refusalText(said)];
      }
      case 'why': {
        const model = this.read?.model;
        if (!model) return ['nothing of ours runs on this box'];
        return followPacket(box, model, ask);
      }
    }
  }
}

/** The words of an order about what runs. */
function wordsOf(order: Exclude<RelayOrder, { do: 'try' }>, box: LiveHello): string[] {
  const runs = box.trial?.generation ?? box.running;
  switch (order.do) {
    case 'take':
      return ['take', order.devices.join(','), newOrder()];
    case 'stay':
      return ['stay', runs, newOrder()];
    case 'extend':
      return ['extend', runs, String(order.seconds), newOrder()];
    case 'go-back':
      return ['back', newOrder()];
    case 'save':
      return ['save', newOrder()];
    case 'again':
      return ['again', newOrder()];
    case 'wake':
      return ['wake', newOrder()];
    case 'reboot':
      return ['reboot', newOrder()];
  }
}

export class Relay {
  private readonly watched = new Map<string, Watched>();

  constructor(
    private readonly handoff: Handoff,
    private readonly means = MEANS,
  ) {}

  get guard() {
    return this.handoff.guard;
  }

  boxes(): RelayBoxes {
    const { boxes, noPractice } = this.handoff;
    return {
      boxes: boxes.map(({ name, target, practice, sheet }) => ({
        name,
        target: targetText(target),
        practice,
        sheet,
      })),
      noPractice,
    };
  }

  /** Undefined for a box that is not on the list. */
  private entry(name: string): BoxEntry | undefined {
    return this.handoff.boxes.find((b) => b.name === name);
  }

  /** Whether a box is known, or which keys it shows; a key that a person has compared is remembered. */
  async meet(name: string, accept?: string): Promise<Met | undefined> {
    const entry = this.entry(name);
    if (!entry) return undefined;
    const { target, ssh } = entry;
    const box = new LiveBox(new Ssh(target, ssh));
    try {
      if (accept !== undefined) {
        const key = (await keysShown(target, ssh)).find((k) => k.fingerprint === accept);
        if (!key) return { met: false, why: 'the box shows another key now than the one that was compared' };
        if ((await rememberKey(target, ssh, key)) === undefined) return { met: false, why: NO_KEYS_KEPT };
      }
      await box.meet();
      const said = await box.order('state', ['state']);
      if (said.heard === 'refusal') return { met: false, why: refusalText(said) };
      const hello = await box.order('adopt', ['adopt']);
      if (hello.heard === 'refusal') return { met: false, why: refusalText(hello) };
      const file = boxFileOf(said.answer, hello.answer.box.others);
      return { met: true, sight: sightOf(said.answer), ...file, seat: seatHere(file.text, box.client) };
    } catch (error) {
      const { why, text } = troubleOf(error);
      if (why !== 'host-key-unknown') return { met: false, why: text };
      const keys = await keysShown(target, ssh);
      return keys.length
        ? { met: false, keys: keys.map(({ kind, fingerprint }) => ({ kind, fingerprint })) }
        : { met: false, why: 'it shows no host key' };
    }
  }

  private of(name: string): Watched | undefined {
    const entry = this.entry(name);
    return entry && memo(this.watched, name, () => new Watched(entry, this.means));
  }

  /** Tells a page all that comes of a box, until the function that is returned is called. */
  watch(name: string, page: (event: RelayEvent) => void): (() => void) | undefined {
    return this.of(name)?.add(page);
  }

  order(name: string, order: RelayOrder): Promise<Ordered> | undefined {
    return this.of(name)?.order(order);
  }

  async ask(name: string, ask: RelayAsk): Promise<{ readonly lines: readonly string[] } | undefined> {
    const watched = this.of(name);
    if (!watched) return undefined;
    try {
      return { lines: await watched.ask(ask) };
    } catch (error) {
      return { lines: [`fail ${troubleOf(error).text}`] };
    }
  }

  hand(hand: Hand): string | undefined {
    return this.handoff.hand ? this.handoff.hand(hand) : 'there is no practice field here';
  }
}
