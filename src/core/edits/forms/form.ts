/**
 * A statement as a form: fields, each with the ways in which it can be said, each way a pattern of words and slots. The
 * same pattern reads a clause into values and prints values as a clause.
 */
import { KINDS } from '#core/notation';
import type { Token } from '#core/notation';
import { printString } from '#core/notation';

/** What a slot takes: it decides the control, and what is offered in it. */
export type Takes =
  | 'port'
  | 'zone'
  | 'table'
  | 'interface'
  /** A zone, or every zone. */
  | 'side'
  /** An interface, or an upstream zone. */
  | 'way'
  /** A public address, or an uplink whose address of the moment it is. */
  | 'public'
  /** A port, or a jack of a switch. */
  | 'socket'
  /** An interface, or none at all. */
  | 'otherwise'
  | 'tag'
  | 'number'
  | 'address'
  /** An address with its length. */
  | 'own'
  | 'prefix'
  | 'range'
  | 'duration'
  /** What has failed: `cut` or `dead`, and lines. */
  | 'line'
  /** A day of the calendar. */
  | 'day'
  | 'mac'
  | 'text'
  | 'secret'
  /** A plain word, as a domain or a user's name. */
  | 'word'
  | 'services'
  /** A service that the box answers, with its port where that is moved. */
  | 'answer'
  /** What may stand for addresses: zones, interfaces, known hosts, prefixes. */
  | 'who'
  /** The word alone says it. */
  | 'flag';

/** A place in a pattern that holds a value. */
export interface Slot {
  readonly key: string;
  readonly takes: Takes;
  /** The word in front of it. Slots with one may stand in any order among themselves. */
  readonly lead?: string;
  readonly may?: boolean;
  readonly many?: boolean;
  /** One of these. */
  readonly words?: readonly string[];
  /** Seldom wanted: shown where it has a value, or when asked for. */
  readonly rare?: boolean;
}

/** Words that stand as they are, and slots. */
export type Pattern = readonly (string | Slot)[];

/** A way to say a field. `clause` is the clause's name; `head` the header, `lead` the first clause without a name. */
export interface Option {
  readonly key: string;
  readonly clause: string;
  readonly pattern: Pattern;
}

/** Of an uplink, of a network behind the box, of IPv6; or seldom wanted. */
export type Group = 'uplink' | 'inside' | 'ipv6' | 'rare';

export interface Field {
  /** Names it among the fields of its kind. */
  readonly key: string;
  readonly options: readonly Option[];
  /** The field is a list. */
  readonly repeats?: boolean;
  /** The slot whose values are rows of their own, so that one clause may hold several rows. */
  readonly each?: string;
  /** What it is about, where it is not for everybody; folded away where that is not so. */
  readonly group?: Group;
}

/** Values by their slots, as text; what is absent is empty or missing. */
export type Values = Readonly<Record<string, string>>;

export const HEAD = 'head';
export const LEAD = 'lead';

export const slotsOf = (option: Option): readonly Slot[] =>
  option.pattern.filter((p): p is Slot => typeof p !== 'string');

/** Whether the words alone say it, so that there is nothing but yes and no. */
export const isFlag = (field: Field): boolean =>
  !field.repeats && field.options.length === 1 && slotsOf(field.options[0]!).length === 0;

/** The slots of an option that still need a value. */
export const lacking = (option: Option, values: Values): readonly Slot[] =>
  slotsOf(option).filter((s) => !s.may && s.takes !== 'flag' && !values[s.key]?.trim());

const isQuoted = (slot: Slot): boolean => slot.takes === 'text' || slot.takes === 'secret';

/** The words that say it; undefined where a slot that is needed is empty. */
export function printOption(option: Option, values: Values): string | undefined {
  if (lacking(option, values).length) return undefined;
  const words = option.pattern.flatMap((part): string[] => {
    if (typeof part === 'string') return [part];
    const value = values[part.key]?.trim() ?? '';
    if (value === '') return [];
    if (part.takes === 'flag') return [part.lead!];
    return [...(part.lead ? [part.lead] : []), isQuoted(part) ? printString(value) : value];
  });
  return words.join(' ');
}

type Word = Pick<Token, 'text' | 'value' | 'kind'>;

/** The values that words give an option, or undefined where they are no such words. */
export function readOption(option: Option, words: readonly Word[]): Values | undefined {
  const { pattern } = option;
  const stops = new Set(pattern.flatMap((p) => (typeof p === 'string' ? [p] : p.lead ? [p.lead] : [])));
  const values: Record<string, string> = {};
  let at = 0;
  const take = (slot: Slot): boolean => {
    if (slot.takes === 'flag') {
      values[slot.key] = slot.lead!;
      return true;
    }
    const from = at;
    if (isQuoted(slot)) {
      if (words[at]?.kind !== 'string') return !!slot.may;
      values[slot.key] = words[at++]!.value;
      return true;
    }
    while (at < words.length && !stops.has(words[at]!.text)) {
      at += unitAt(words, at);
      if (!slot.many) break;
    }
    if (at === from) return !!slot.may;
    const text = words.slice(from, at).map((w) => w.text);
    if (slot.words && !slot.words.includes(text.join(' '))) return false;
    values[slot.key] = text.join(' ');
    return true;
  };
  for (let i = 0; i < pattern.length; i++) {
    const part = pattern[i]!;
    if (typeof part === 'string') {
      if (words[at]?.text !== part) return undefined;
      at++;
    } else if (part.lead === undefined) {
      if (!take(part)) return undefined;
    } else {
      const led: Slot[] = [];
      for (let p = pattern[i]; typeof p === 'object' && p.lead !== undefined; p = pattern[++i]) led.push(p);
      i--;
      while (at < words.length) {
        const slot = led.find((s) => s.lead === words[at]!.text && values[s.key] === undefined);
        if (!slot) break;
        at++;
        if (!take(slot)) return undefined;
      }
      if (led.some((s) => !s.may && s.takes !== 'flag' && values[s.key] === undefined)) return undefined;
    }
  }
  return at === words.length ? values : undefined;
}

/** How many words from one on belong together: `10.0.0.1 mask 255.0.0.0`, `zone studio`. */
function unitAt(words: readonly Word[], at: number): number {
  if ((words[at + 1]?.text === 'mask' || words[at + 1]?.text === 'of') && words[at + 2]) return 3;
  const isKind = KINDS.some((k) => k === words[at]!.text);
  return isKind && words[at + 1]?.kind === 'word' ? 2 : 1;
}

/** The values of a slot of many, one by one. A number behind a service that the box answers is its port. */
export function itemsOf(slot: Slot, value: string): string[] {
  const words = value.split(/\s+/).filter(Boolean);
  const out: string[] = [];
  for (let i = 0; i < words.length; i++) {
    const last = out.length - 1;
    if (slot.takes === 'answer' && last >= 0 && /^\d+$/.test(words[i]!)) out[last] += ` ${words[i]}`;
    else {
      const unit = unitAt(
        words.map((text) => ({ text, value: text, kind: 'word' as const })),
        i,
      );
      out.push(words.slice(i, i + unit).join(' '));
      i += unit - 1;
    }
  }
  return out;
}
