/**
 * The box's datastores and the trial between them, as a state machine: candidate is the draft outside; running,
 * start-up and the trial live here. After NETCONF's confirmed commit (RFC 6241 §8.4): a change goes back by itself
 * unless it is kept in time. Time is an argument, in milliseconds of any steady clock.
 */

/** One file of a configuration. */
export interface BoxFile {
  readonly name: string;
  readonly text: string;
}
export type Files = readonly BoxFile[];

/** One change that stayed. */
export interface HistoryEntry {
  readonly at: number;
  readonly note: string;
  readonly files: Files;
  /** What ran until then. */
  readonly before?: Files;
}

export interface Trial {
  /** Names this trial, so that somebody else's is not kept by mistake. */
  readonly id: string;
  readonly before: Files;
  readonly since: number;
  readonly until: number;
  readonly note: string;
}

export interface BoxState {
  readonly running: Files;
  readonly startup: Files;
  readonly trial?: Trial;
  /** Newest first. */
  readonly history: readonly HistoryEntry[];
  /** Whether the password it came with was changed. */
  readonly passwordSet: boolean;
  /** What the box did last by itself, for saying so when somebody looks again. */
  readonly last?: { readonly what: 'went-back'; readonly at: number };
}

export type BoxEvent =
  | {
      readonly do: 'try';
      readonly id: string;
      readonly files: Files;
      readonly seconds: number;
      readonly note: string;
      /** What the sender takes to be running; where that is not so, nothing is changed. */
      readonly base?: Files;
      /** What was looked at before: the text that the findings are of, and how many errors nobody overruled. */
      readonly looked?: { readonly at: Files; readonly errors: number };
    }
  /** Somebody else's change, at its console or from elsewhere: it counts at once. */
  | { readonly do: 'replace'; readonly files: Files; readonly by: string }
  | { readonly do: 'stay'; readonly id: string }
  | { readonly do: 'extend'; readonly id: string; readonly seconds: number }
  | { readonly do: 'go-back' }
  | { readonly do: 'tick' }
  | { readonly do: 'save' }
  | { readonly do: 'reboot' }
  | { readonly do: 'set-password' };

/** Why an event is refused. */
export type Refusal =
  | 'trial-running'
  | 'no-trial'
  | 'other-trial'
  | 'bad-time'
  /** What runs is not what the sender thought. */
  | 'changed-meanwhile'
  | 'factory-password'
  /** The findings are of another text. */
  | 'not-looked-at'
  | 'errors-open'
  /** The box was not reached, so it was told nothing. */
  | 'no-answer';

/** Shortest and longest trial, seconds. */
export const TRIAL_SECONDS = { least: 5, most: 3600, usual: 120 } as const;
/**
 * How long a trial should last for what has to be done at a desk meanwhile, in seconds: a cable and an address by hand
 * take their time.
 */
export const secondsFor = (toDo: number): number =>
  Math.min(TRIAL_SECONDS.most, TRIAL_SECONDS.usual + 180 * toDo);

/** Entries that history keeps. */
const KEPT = 100;

/** A box as it comes out of its carton: nothing configured, its first password. */
export const factoryBox = (files: Files): BoxState => ({
  running: files,
  startup: files,
  history: [],
  passwordSet: false,
});

/** The state after an event. A trial whose time is over has gone back before any other event counts. */
export function stepBox(
  state: BoxState,
  event: BoxEvent,
  now: number,
): { readonly state: BoxState; readonly refused?: Refusal } {
  const due =
    state.trial && now >= state.trial.until ? goneBack(state, state.trial, state.trial.until) : state;
  switch (event.do) {
    case 'tick':
      return { state: due };
    case 'try': {
      if (!due.passwordSet) return { state: due, refused: 'factory-password' };
      if (due.trial) return { state: due, refused: 'trial-running' };
      if (!(event.seconds >= TRIAL_SECONDS.least && event.seconds <= TRIAL_SECONDS.most))
        return { state: due, refused: 'bad-time' };
      if (event.looked && !sameFiles(event.looked.at, event.files))
        return { state: due, refused: 'not-looked-at' };
      if (event.looked && event.looked.errors > 0) return { state: due, refused: 'errors-open' };
      if (event.base && !sameFiles(event.base, due.running))
        return { state: due, refused: 'changed-meanwhile' };
      const trial: Trial = {
        id: event.id,
        before: due.running,
        since: now,
        until: now + event.seconds * 1000,
        note: event.note,
      };
      return { state: { ...due, running: event.files, trial, last: undefined } };
    }
    case 'replace': {
      if (due.trial) return { state: due, refused: 'trial-running' };
      const entry: HistoryEntry = { at: now, note: event.by, files: event.files, before: due.running };
      return { state: { ...recorded(due, entry), running: event.files, last: undefined } };
    }
    case 'stay': {
      const { trial } = due;
      if (!trial) return { state: due, refused: 'no-trial' };
      if (trial.id !== event.id) return { state: due, refused: 'other-trial' };
      const entry: HistoryEntry = { at: now, note: trial.note, files: due.running, before: trial.before };
      return { state: { ...recorded(due, entry), trial: undefined } };
    }
    case 'extend': {
      const { trial } = due;
      if (!trial) return { state: due, refused: 'no-trial' };
      if (trial.id !== event.id) return { state: due, refused: 'other-trial' };
      const until = Math.min(trial.until + event.seconds * 1000, now + TRIAL_SECONDS.most * 1000);
      return { state: { ...due, trial: { ...trial, until } } };
    }
    case 'go-back': {
      if (!due.trial) return { state: due, refused: 'no-trial' };
      return { state: { ...due, running: due.trial.before, trial: undefined } };
    }
    case 'save':
      return due.trial
        ? { state: due, refused: 'trial-running' }
        : { state: { ...due, startup: due.running } };
    case 'reboot':
      return { state: { ...due, running: due.startup, trial: undefined } };
    case 'set-password':
      return { state: { ...due, passwordSet: true } };
  }
}

const recorded = (state: BoxState, entry: HistoryEntry): BoxState => ({
  ...state,
  history: [entry, ...state.history].slice(0, KEPT),
});

const goneBack = (state: BoxState, trial: Trial, at: number): BoxState => ({
  ...state,
  running: trial.before,
  trial: undefined,
  last: { what: 'went-back', at },
});

/** Whether two configurations are the same text for text. */
export const sameFiles = (a: Files, b: Files): boolean =>
  a.length === b.length && a.every((f, i) => f.name === b[i]!.name && f.text === b[i]!.text);
