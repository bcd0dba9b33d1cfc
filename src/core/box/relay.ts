/**
 * What a page and the server beside it say to one another about live boxes. The page names a box of the server's own
 * list and an order; it never says a target, a key or a command. Each message is checked where it arrives.
 */
import * as v from 'valibot';
import type { Drift } from '#core/linux';
import type { Sight } from './sight';

/** A name in the server's list of boxes. */
const BoxName = v.pipe(v.string(), v.regex(/^[A-Za-z0-9][A-Za-z0-9 ._-]{0,59}$/, 'no name of a box'));
const Seconds = v.pipe(v.number(), v.integer(), v.minValue(5), v.maxValue(3600));
const LARGEST = 8 * 1024 * 1024;
const Text = v.pipe(v.string(), v.maxLength(LARGEST, 'a text that is too long'));
/** An end of a flow or a name: nothing that a shell would read. */
const Word = v.pipe(v.string(), v.regex(/^[A-Za-z0-9._:/ -]{1,120}$/, 'no end of a flow'));

const DeviceName = v.pipe(v.string(), v.regex(/^[A-Za-z0-9_][A-Za-z0-9._@-]{0,14}$/, 'no name of a device'));

/** Exchanges the ticket of a link for the token of this start of the server. */
export const EnterSchema = v.object({ ticket: v.pipe(v.string(), v.maxLength(100)) });
/** Asks for the server’s list. */
export const BoxesSchema = v.object({});
/** Asks for events of a box until the page leaves. */
export const WatchSchema = v.object({ box: BoxName });
/** A box that is met for the first time; `accept` is the fingerprint that a person has compared. */
export const MeetSchema = v.object({
  box: BoxName,
  accept: v.optional(v.pipe(v.string(), v.maxLength(100))),
});

/** An order to a box. */
export const OrderSchema = v.object({
  box: BoxName,
  order: v.variant('do', [
    v.object({
      do: v.literal('try'),
      files: v.pipe(v.array(v.object({ name: Text, text: Text })), v.maxLength(64)),
      seconds: Seconds,
      overrule: v.array(v.pipe(v.string(), v.maxLength(60))),
      /** The text that the page takes to be running. */
      base: v.nullable(Text),
    }),
    /** Devices that whoever configures them hands over. */
    v.object({
      do: v.literal('take'),
      devices: v.pipe(v.array(DeviceName), v.minLength(1), v.maxLength(256)),
    }),
    v.object({ do: v.literal('stay') }),
    v.object({ do: v.literal('extend'), seconds: Seconds }),
    v.object({ do: v.literal('go-back') }),
    v.object({ do: v.literal('save') }),
    v.object({ do: v.literal('again') }),
    v.object({ do: v.literal('wake') }),
    v.object({ do: v.literal('reboot') }),
  ]),
});
/** What is ordered. */
export type RelayOrder = v.InferOutput<typeof OrderSchema>['order'];

/** What is asked of the running box itself. */
export const AskSchema = v.object({
  box: BoxName,
  ask: v.variant('what', [
    v.object({ what: v.literal('why'), from: Word, to: Word, service: v.optional(Word) }),
    v.object({ what: v.literal('ping'), to: Word, by: v.optional(Word) }),
    v.object({ what: v.literal('route'), to: Word, by: v.optional(Word) }),
    v.object({ what: v.literal('look-up'), name: Word, by: v.optional(Word) }),
    v.object({ what: v.literal('log') }),
    v.object({ what: v.literal('flows') }),
  ]),
});
/** What is asked. */
export type RelayAsk = v.InferOutput<typeof AskSchema>['ask'];

/** What somebody does in the practice field, which nobody can do over the network. */
export const HandSchema = v.object({
  hand: v.variant('do', [
    v.object({ do: v.literal('unplug'), port: v.picklist(['p1', 'p2', 'p3', 'p8']) }),
    v.object({ do: v.literal('plug'), port: v.picklist(['p1', 'p2', 'p3', 'p8']) }),
    v.object({
      do: v.literal('sit'),
      port: v.picklist(['p4', 'p8']),
      address: v.pipe(v.string(), v.regex(/^\d{1,3}(\.\d{1,3}){3}\/\d{1,2}$/, 'no address with its length')),
      gateway: v.optional(v.pipe(v.string(), v.regex(/^\d{1,3}(\.\d{1,3}){3}$/, 'no address'))),
    }),
    v.object({ do: v.literal('power') }),
    /** The box is as it was at first, its cables are in, and the PC sits where it sat. */
    v.object({ do: v.literal('anew') }),
  ]),
});
/** What a hand does there. */
export type Hand = v.InferOutput<typeof HandSchema>['hand'];

/** A box of the server's list. */
export interface BoxShown {
  readonly name: string;
  /** As `ssh` is told it. */
  readonly target: string;
  readonly practice: boolean;
  /** What the provider of its first line sent, where the practice field knows it. */
  readonly sheet?: string;
}

/** The server’s list. */
export interface RelayBoxes {
  readonly boxes: readonly BoxShown[];
  /** Why there is no practice box; absent where there is one, or nobody asked for one. */
  readonly noPractice?: string;
}

/** One rung of a live ladder. */
export interface LiveStage {
  readonly stage: string;
  readonly result: 'pass' | 'fail' | 'skipped';
  readonly detail: string;
}
/** The ladder of one uplink and family, climbed by the box itself. */
export interface LiveUplink {
  readonly interface: string;
  readonly family: 'ipv4' | 'ipv6';
  readonly stages: readonly LiveStage[];
}

/** A knock at the box by a connection of its own. */
export interface Knock {
  readonly at: string;
  readonly answers: boolean;
}

/** What comes of a watched box, as it comes. */
export type RelayEvent =
  | {
      readonly what: 'seen';
      readonly sight: Sight;
      readonly drift: readonly (Drift & { readonly text: string })[];
      /** The address at which it was found, where that is not where the list says. */
      readonly at?: string;
    }
  | { readonly what: 'ladder'; readonly uplinks: readonly LiveUplink[] }
  | { readonly what: 'knocks'; readonly knocks: readonly Knock[] }
  | { readonly what: 'lost'; readonly why: string; readonly text: string };

/** What came of an order. */
export type Ordered =
  | { readonly ok: true }
  | {
      readonly ok: false;
      readonly code: string;
      readonly text: string;
      /** Lines that say more: errors that stand in the way, steps of the crossing. */
      readonly more: readonly string[];
      /** Devices that could be handed over, so that it stands in the way no more. */
      readonly devices?: readonly string[];
    };

/** What a box is that was met: known, or its keys to be compared first. */
export type Met =
  | {
      readonly met: true;
      readonly sight: Sight;
      /** It as a box file, and what could not be taken into that. */
      readonly text: string;
      readonly left: readonly string[];
      /** The server's machine as a station of that file, where it sits on a port of the box by itself. */
      readonly seat?: string;
    }
  | { readonly met: false; readonly keys: readonly { readonly kind: string; readonly fingerprint: string }[] }
  | { readonly met: false; readonly why: string };
