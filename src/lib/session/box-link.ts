/**
 * The link to the box as a value: its stores as they are known here, what it runs as far as it was told from here, and
 * how the seat's PC stands while a trial runs. Every step gives a new link; time and names are arguments.
 */
import type { Day } from '#core/base';
import { deviceOf, send } from '#core/box';
import type { Device } from '#core/box';
import { diffSites, factoryBox, mergeDraft, sameFiles } from '#core/change';
import type { BoxEvent, BoxState, Change, Files, Merge, Refusal } from '#core/change';
import { isOfBox } from '#core/notation';
import { buildSite } from '#core/site';
import type { Site } from '#core/site';
import type { DeskState } from '../../worker/protocol';
import type { StoredSite } from './db';
import { parsed } from './readable';

export interface BoxLink {
  readonly device: Device;
  /** What the box runs as far as it was told from here: the draft was made from it. */
  readonly agreed: Files;
  /** How the seat's PC stands since the last trial began, with the statement that it belongs to. */
  readonly desk?: StoredSite['desk'];
  /** Whether the seat had a way in when the trial began. */
  readonly hadContact: boolean;
}

/** Events that happen at the box, whoever reaches it. */
const AT_THE_BOX: ReadonlySet<BoxEvent['do']> = new Set(['tick', 'reboot', 'replace']);

/** A box that runs these files; one from the factory still has the password that it came with. */
export function newLink(running: Files, factory = false, startup: Files = running): BoxLink {
  const box = { ...factoryBox(running), startup };
  const device = deviceOf(factory ? box : { ...box, passwordSet: true });
  return { device, agreed: box.running, hadContact: false };
}

/**
 * The link that a site was kept with. A trial has as long as it had left: what passed while nobody looked counts, a
 * clock that was set back does not. `now` is steady, `wall` is the wall clock, both milliseconds.
 */
export function linkOf(site: StoredSite, now: number, wall: number, isOpen: boolean): BoxLink {
  const { trial } = site.box;
  const left = trial && (site.trialLeft ?? trial.until - site.updated) - Math.max(0, wall - site.updated);
  const state =
    trial && left !== undefined && !isOpen
      ? { ...site.box, trial: { ...trial, until: now + Math.max(0, left) } }
      : site.box;
  return {
    device: { state, done: site.done },
    agreed: site.agreed ?? site.box.running,
    desk: site.desk,
    hadContact: site.hadContact,
  };
}

/** What the store keeps of a link: without proxies and readonly marks. */
export function toStored(
  link: BoxLink,
  now: number,
): Pick<StoredSite, 'box' | 'done' | 'agreed' | 'desk' | 'hadContact' | 'trialLeft'> {
  const { state, done } = link.device;
  const plain = JSON.parse(JSON.stringify({ box: state, done, agreed: link.agreed })) as StoredSite;
  return {
    box: plain.box,
    done: plain.done,
    agreed: plain.agreed,
    desk: link.desk && { ...link.desk },
    hadContact: link.hadContact,
    trialLeft: state.trial && Math.max(0, state.trial.until - now),
  };
}

/** The seat as it is proved: its own statement, where it stands, and whether it has a way into what runs. */
export interface SeatSeen {
  readonly of: string;
  readonly at: DeskState;
  readonly hasWay: boolean;
}

/** What became of an order. */
export interface Answered {
  readonly link: BoxLink;
  /** Why it was refused; absent where it was carried out. */
  readonly refused?: Refusal | 'no-answer';
  /** Whether anything at the box is different now. */
  readonly isChanged: boolean;
}

/**
 * Gives the box an order. One that is carried over a way which is cut gets no answer. Before a trial the seat is
 * remembered: its PC keeps its address when the box gets another, and that is what cuts people off.
 */
export function tell(
  link: BoxLink,
  order: { readonly id: string; readonly event: BoxEvent },
  now: number,
  { reached, seat }: { readonly reached: boolean; readonly seat?: SeatSeen },
): Answered {
  const { event } = order;
  const before =
    event.do === 'try'
      ? { ...link, hadContact: !!seat?.hasWay, desk: seat && { of: seat.of, ...seat.at } }
      : link;
  const { device, answer } = send(link.device, order, now, () => AT_THE_BOX.has(event.do) || reached);
  const agreed = answer && event.do !== 'replace' && !answer.refused ? answer.state.running : link.agreed;
  return {
    link: { ...before, device, agreed },
    refused: answer ? answer.refused : 'no-answer',
    isChanged: device.state !== link.device.state,
  };
}

/** Whether a trial that began with a way in has none now, so that the box hears nothing. */
export const isOutOfReach = (
  { device, hadContact }: BoxLink,
  seat: { readonly hasWay: boolean } | undefined,
) => !!device.state.trial && hadContact && !!seat && !seat.hasWay;

/** How the seat's PC stands, where what is known belongs to this statement of it. */
export function deskOf({ desk }: BoxLink, seatText: string): DeskState | undefined {
  if (desk?.of !== seatText) return undefined;
  const { of: _, ...state } = desk;
  return state;
}

/** Seconds that a trial still has, none without one. */
export const trialLeft = ({ trial }: BoxState, now: number): number =>
  trial ? Math.max(0, Math.ceil((trial.until - now) / 1000)) : 0;

/** Box files together with the wiring of the draft. */
export function withWorld(boxFiles: Files, draft: Files): Files {
  const world = draft.filter((f) => !boxFiles.some((b) => b.name === f.name));
  return draft
    .map((f) => boxFiles.find((b) => b.name === f.name) ?? f)
    .filter((f) => world.includes(f) || boxFiles.includes(f));
}

/** What somebody else changed of what the box runs, brought together with the draft; absent where nobody did. */
export function driftOf(
  { device: { state }, agreed }: BoxLink,
  draft: Files,
  running: Site,
  site: Site,
): { readonly changes: readonly Change[]; readonly merge: Merge } | undefined {
  if (state.trial || sameFiles(agreed, state.running)) return undefined;
  const known = siteOf(withWorld(agreed, draft));
  return { changes: diffSites(known, running, isOfBox), merge: mergeDraft(known, running, site) };
}

/** What an entry of the history changed, against what ran before it, or against another entry. */
export function historyChanges({ history }: BoxState, index: number, against?: number): readonly Change[] {
  const is = history[index];
  if (!is) return [];
  const before = is.before ?? history[index + 1]?.files;
  const other = against === undefined ? before : history[against]?.files;
  return diffSites(siteOf(other ?? is.files), siteOf(is.files), isOfBox);
}

/** The site of files, on a day where one is asked about. */
export const siteOf = (files: Files, today?: Day): Site =>
  buildSite(
    files.map((f) => parsed(f.text, f.name)),
    today,
  );

/** The files that are told to the box: those that hold a statement of its own, or nothing yet. */
export function boxOnly(files: Files): Files {
  const kept = files.filter((f) => {
    const { statements } = parsed(f.text, f.name);
    return statements.some(isOfBox) || (!statements.length && !/wiring/.test(f.name));
  });
  return kept.map((f) => ({ name: f.name, text: f.text }));
}

/** The box's one file, where all its statements stand in one with nothing else: then a step can be tried by itself. */
export function onlyBoxFile(files: Files): string | undefined {
  const own = boxOnly(files);
  const [file] = own;
  const alone = file && own.length === 1 && parsed(file.text, file.name).statements.every(isOfBox);
  return alone ? file.name : undefined;
}
