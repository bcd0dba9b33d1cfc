/**
 * A live box as this page knows it: what it answered last and when, and the orders that are on their way. Everything goes
 * through the server that gave out the page; the box itself is asked there, once for all pages.
 */
import type {
  Hand,
  Knock,
  LiveUplink,
  Met,
  Ordered,
  RelayAsk,
  RelayBoxes,
  RelayEvent,
  RelayOrder,
  Sight,
} from '#core/box';
import { LIVE_TOKEN as TOKEN, remembered } from './keeping';
import { handText } from './mirror';

/** How a page sends to its server; the answer's body is JSON, or a stream of events. */
export type Post = (path: string, body: unknown, token: string, signal?: AbortSignal) => Promise<Response>;

const post: Post = (path, body, token, signal) =>
  fetch(`/live/${path}`, {
    method: 'POST',
    body: JSON.stringify(body),
    headers: { 'content-type': 'application/json', authorization: `Bearer ${token}` },
    cache: 'no-store',
    signal,
  });

/** Between two tries to hear the server again, milliseconds. */
const AGAIN = 1000;

export type LiveDrift = Extract<RelayEvent, { what: 'seen' }>['drift'];

export class Live {
  /** What the server has; absent until it is asked, and where it may not be. */
  list = $state.raw<RelayBoxes | undefined>();
  /** Why live boxes cannot be spoken to; empty where they can. */
  trouble = $state('');
  /** The box that this page looks at. */
  box = $state<string | undefined>();
  sight = $state.raw<Sight | undefined>();
  drift = $state.raw<LiveDrift>([]);
  /** How much of the box is not as it was told; unknown, and none, while an order is being carried out. */
  readonly byHand = $derived(this.sight && !this.sight.busy ? this.drift.length : 0);
  /** The same, a line `INTERFACE SENTENCE` each: a look that sees nothing new changes nothing. */
  readonly handText = $derived(this.byHand ? handText(this.drift) : '');
  uplinks = $state.raw<readonly LiveUplink[]>([]);
  knocks = $state.raw<readonly Knock[]>([]);
  /** The address at which the box was found, where that is not where the list says. */
  at = $state<string | undefined>();
  /** Steady milliseconds of the last answer, and of the last ladder. */
  seenAt = $state(0);
  ladderAt = $state(0);
  /** Since when there is no answer, and why. */
  lost = $state.raw<{ readonly since: number; readonly text: string } | undefined>();
  /** An order is on its way. */
  ordering = $state('');
  /** Why the last order was refused. */
  refused = $state.raw<
    | (Extract<Ordered, { ok: false }> & {
        /** What was overruled already. */
        readonly overruled: readonly string[];
      })
    | undefined
  >();

  private token = remembered.get(TOKEN) ?? '';
  private listening?: AbortController;

  constructor(
    private readonly steady: () => number,
    /** Told of every look at the box. */
    private readonly seen: (sight: Sight) => void,
    private readonly send: Post = post,
  ) {}

  /** Uses a one-time link's ticket, where there is one, and asks which boxes there are. */
  async enter(ticket?: string): Promise<void> {
    if (ticket !== undefined) {
      const { token, why } = await this.ask<{ token?: string; why?: string }>('enter', { ticket });
      if (token === undefined) {
        // Another page may have used it for this browser.
        if (this.token === '') this.trouble = why ?? 'the link does not work';
      } else {
        this.token = token;
        remembered.set(TOKEN, token);
      }
    }
    const { boxes, noPractice } = await this.ask<RelayBoxes>('boxes', {});
    if (boxes) this.list = { boxes, noPractice };
  }

  private async ask<T extends object>(path: string, body: unknown): Promise<Partial<T> & { why?: string }> {
    try {
      const response = await this.send(path, body, this.token);
      const answer = (await response.json()) as Partial<T> & { why?: string };
      this.trouble = response.ok ? '' : (answer.why ?? '');
      if (response.status === 401) this.forget();
      return answer;
    } catch {
      this.trouble = 'the server does not answer';
      return { why: this.trouble } as Partial<T> & { why?: string };
    }
  }

  /** A token of another start of the server is worth nothing. */
  private forget(): void {
    this.trouble =
      this.token === ''
        ? 'live boxes need the link that the server printed when it started'
        : 'the server was started anew: open the link that it printed';
    this.token = '';
    this.list = undefined;
    remembered.remove(TOKEN);
  }

  /** Whether a box is known here, or what has to be compared first. */
  async meet(box: string, accept?: string): Promise<Met> {
    const met = await this.ask<Met & object>('meet', { box, accept });
    return met.met === undefined ? { met: false, why: met.why ?? 'it is not reached' } : (met as Met);
  }

  /** Looks at a box from now on. */
  connect(box: string): void {
    this.leave();
    this.box = box;
    const listening = new AbortController();
    this.listening = listening;
    void this.listen(box, listening.signal);
  }

  /** Looks no more; the box goes on as it is. */
  leave(): void {
    this.listening?.abort();
    this.box = this.sight = this.at = this.lost = this.refused = undefined;
    this.uplinks = this.knocks = this.drift = [];
  }

  /** Hears what comes of a box, again and again, until this page leaves it. */
  private async listen(box: string, signal: AbortSignal): Promise<void> {
    while (!signal.aborted) {
      try {
        const response = await this.send('watch', { box }, this.token, signal);
        if (response.status === 401) this.forget();
        if (!response.ok || !response.body) throw new Error(this.trouble || 'the server does not answer');
        this.trouble = '';
        await this.read(response.body, signal);
      } catch {
        // It ended, or never began: either way nothing is heard of the box now.
      }
      if (signal.aborted) return;
      this.miss(this.trouble || 'the server does not answer');
      await new Promise((resolve) => setTimeout(resolve, AGAIN));
    }
  }

  /** Server-sent events (HTML standard, section 9.2), of which only `data` is used. */
  private async read(body: ReadableStream<Uint8Array>, signal: AbortSignal): Promise<void> {
    const reader = body.getReader();
    const decoder = new TextDecoder();
    let text = '';
    for (;;) {
      const { done, value } = await reader.read();
      if (done || signal.aborted) return;
      text += decoder.decode(value, { stream: true });
      for (let end = text.indexOf('\n\n'); end >= 0; end = text.indexOf('\n\n')) {
        const event = text.slice(0, end);
        text = text.slice(end + 2);
        if (event.startsWith('data: ')) this.take(JSON.parse(event.slice(6)) as RelayEvent);
      }
    }
  }

  private miss(text: string): void {
    this.lost = { since: this.lost?.since ?? this.steady(), text };
  }

  /** What comes of the box. */
  take(event: RelayEvent): void {
    switch (event.what) {
      case 'seen':
        this.sight = event.sight;
        this.drift = event.drift;
        this.at = event.at;
        this.seenAt = this.steady();
        this.lost = undefined;
        if (!event.sight.box.trial) this.knocks = [];
        if (event.sight.text === null) this.uplinks = [];
        this.seen(event.sight);
        return;
      case 'ladder':
        this.uplinks = event.uplinks;
        this.ladderAt = this.steady();
        return;
      case 'knocks':
        this.knocks = event.knocks;
        return;
      case 'lost':
        this.miss(event.text);
        return;
    }
  }

  /** Gives the box an order; whether it was carried out. What it was refused for stands in `refused`. */
  async order(order: RelayOrder): Promise<boolean> {
    const { box } = this;
    if (box === undefined || this.ordering !== '') return false;
    this.ordering = order.do;
    this.refused = undefined;
    const said = await this.ask<{
      ok: boolean;
      code: string;
      text: string;
      more: string[];
      devices: string[];
    }>('order', {
      box,
      order,
    });
    this.ordering = '';
    if (said.ok) return true;
    this.refused = {
      ok: false,
      code: said.code ?? 'no-answer',
      text: said.text ?? said.why ?? 'no answer came; what the box runs is looked at again',
      more: said.more ?? [],
      devices: said.devices,
      overruled: order.do === 'try' ? order.overrule : [],
    };
    return false;
  }

  /** Asks the running box itself. */
  async question(ask: RelayAsk): Promise<readonly string[]> {
    if (this.box === undefined) return [];
    const { lines, why } = await this.ask<{ lines: string[] }>('ask', { box: this.box, ask });
    return lines ?? [`fail ${why ?? 'no answer'}`];
  }

  /** Does something by hand in the practice field; why it cannot is returned. */
  async hand(hand: Hand): Promise<string | undefined> {
    return (await this.ask<{ why: string }>('hand', { hand })).why;
  }

  private get entry() {
    return this.list?.boxes.find((b) => b.name === this.box);
  }
  get isPractice(): boolean {
    return !!this.entry?.practice;
  }
  /** What the provider of its first line sent, where that is known. */
  get sheet(): string | undefined {
    return this.entry?.sheet;
  }

  /** Where the box is, as it is told in a line. */
  get place(): string {
    return this.at ?? this.entry?.target.replace(/^.*@/, '') ?? '';
  }
}
