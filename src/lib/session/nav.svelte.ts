/** Where somebody is and what is open: the view, the selection, the say line, the drawers. Nothing of it is kept. */
import type { Files } from '#core/change';
import type { Capture } from '#core/formats/pcapng';
import type { GestureId, Place, Values } from '#core/edits';
import type { Statement } from '#core/notation';
import type { DrillScript } from '#core/proof/drills';

/** The views in the order of their keys, 1 the first. */
export const VIEWS = ['board', 'ways-out', 'subnets', 'passage', 'proof', 'state', 'change', 'text'] as const;
/** First light and the site book are views without a key. */
export type View = (typeof VIEWS)[number] | 'first-light' | 'book';

/** What came in from outside, and waits to be told where to go. */
export type Incoming =
  | {
      readonly what: 'site';
      readonly name: string;
      readonly draft: Files;
      readonly running: Files;
      readonly startup: Files;
      /** Logins without a secret. */
      readonly lacking: number;
      /** What its reader did not take. */
      readonly left: readonly string[];
    }
  | { readonly what: 'sheet'; readonly name: string; readonly text: string }
  | { readonly what: 'capture'; readonly name: string; readonly capture: Capture }
  | {
      readonly what: 'reports';
      readonly given: Readonly<Partial<Record<'link' | 'addr' | 'route', string>>>;
    };

/** A gesture that is wanted, and where. */
export interface Want {
  readonly id: GestureId;
  readonly place: Place;
}

export class Nav {
  view = $state<View>('board');
  /** `interface/studio`, or several. */
  selection = $state.raw<readonly string[]>([]);
  /** The drawer of findings. */
  drawer = $state(false);
  help = $state(false);
  /** Live boxes are to be chosen from. */
  connecting = $state(false);
  incoming = $state.raw<Incoming | undefined>();
  /** An address plan that came in, for the view of subnets. */
  plan = $state.raw<{ readonly name: string; readonly text: string } | undefined>();
  /** The list of what can be wanted is open, for the thing that was at hand then, if one was. */
  wanting = $state.raw<{ readonly subject?: string } | undefined>();
  /** What is being made, with what was put in so far. */
  making = $state.raw<(Want & { readonly put: Values }) | undefined>();
  /** The say line: open with what is in it. */
  saying = $state<string | undefined>(undefined);
  /** A place of a file that the text view should show. */
  reveal = $state.raw<{ readonly file: string; readonly offset: number } | undefined>();
  /** The drill that is set up in Ways out. */
  drill = $state.raw<DrillScript | undefined>();
  /** The zone that the passage view is about. */
  focusZone = $state<string | undefined>();
  /** A zone that was just made, whose usual passages are offered. */
  newZone = $state<string | undefined>();
  /** Sentences of the difference that somebody has gone through. */
  ticked = $state.raw<readonly string[]>([]);

  /** Another site is open: nothing of the last one is selected, and First light is shown just where it is under way. */
  enter(isFirstLight: boolean): void {
    this.selection = [];
    this.ticked = [];
    this.making = undefined;
    this.wanting = undefined;
    this.focusZone = this.newZone = this.plan = this.drill = undefined;
    if (isFirstLight) this.view = 'first-light';
    else if (this.view === 'first-light') this.view = 'board';
  }

  select(...subjects: string[]): void {
    this.selection = subjects;
  }

  /** Opens the say line with something in it. */
  say(line = ''): void {
    this.saying = line;
  }

  /** Opens the list of what can be wanted: for the thing at hand, else for what is selected. */
  want(subject = this.selection[0]): void {
    this.wanting = { subject };
  }

  /** Begins to make something, with what is put in already. */
  make(id: GestureId, place: Place = {}, put: Values = {}): void {
    this.wanting = undefined;
    this.saying = undefined;
    this.drawer = false;
    this.making = { id, place, put };
  }

  /** Shows a statement in the text view. */
  show({ file, start }: Pick<Statement, 'file' | 'start'>): void {
    this.reveal = { file, offset: start };
    this.view = 'text';
  }

  tickOff(line: string): void {
    this.ticked = toggled(this.ticked, line);
  }
}

/** A list without an item that it holds, or with one that it lacks. */
export const toggled = (list: readonly string[], item: string): readonly string[] =>
  list.includes(item) ? list.filter((x) => x !== item) : [...list, item];
