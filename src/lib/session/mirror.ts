/**
 * What a live box runs, put where the page looks for what a box runs: the stores, the trial and its time are the box's
 * own. Pure: the next link of the last one and of what was seen.
 */
import { memo } from '#core/base';
import { sameFiles } from '#core/change';
import type { BoxState, Files, HistoryEntry, Trial } from '#core/change';
import type { Sight } from '#core/box';
import type { BoxLink } from './box-link';

/** What this page has asked of the box and has not seen the end of. */
export interface Tried {
  readonly files: Files;
  readonly before: Files;
  readonly note: string;
}

/**
 * The link after a look at the box. `file` is the file that holds the box's statements; `now` is steady, milliseconds.
 * What runs because this page tried it, or because its trial is over, is agreed; anything else is somebody else's doing.
 */
export function mirrored(
  link: BoxLink,
  { box, text }: Sight,
  file: string,
  now: number,
  tried: Tried | undefined,
): BoxLink {
  const { state } = link.device;
  // A shell tells a text without the line end that it ends with: what is the same but for that is the same.
  const known = [state.running, tried?.files, tried?.before, link.agreed, state.startup];
  const running: Files = known.find(
    (f) => f?.length === 1 && f[0]!.text.trimEnd() === (text ?? '').trimEnd(),
  ) ?? [{ name: file, text: text === null || text === '' ? '' : `${text.trimEnd()}\n` }];
  const startup =
    box.startup === box.running
      ? running
      : box.startup === 'none'
        ? [{ name: file, text: '' }]
        : state.startup;
  const trial: Trial | undefined = box.trial && {
    id: box.trial.order,
    before: state.trial?.before ?? tried?.before ?? state.running,
    since: state.trial?.since ?? now,
    // Each look tells how long is left; between them the page's own clock goes on.
    until: keepsTime(state.trial, now + box.trial.left * 1000),
    note: tried?.note ?? state.trial?.note ?? '',
  };
  // How a trial ended is told by what runs then; what was on trial is remembered over a reload, too.
  const ended = trial ? undefined : state.trial;
  const back = !!ended && sameFiles(running, ended.before);
  const stayed = !!ended && !back && sameFiles(running, state.running) && sameFiles(running, link.agreed);
  const entry: HistoryEntry | undefined = stayed
    ? { at: now, note: ended.note, files: running, before: ended.before }
    : undefined;
  const went = back && box.last?.why === 'timer';
  const begun = tried && (sameFiles(running, tried.files) || sameFiles(running, tried.before));
  const next: BoxState = {
    ...state,
    running,
    startup,
    trial,
    passwordSet: true,
    history: entry ? [entry, ...state.history] : state.history,
    last: went ? { what: 'went-back', at: now } : trial ? undefined : state.last,
  };
  const agreed = begun || back ? running : link.agreed;
  return { ...link, device: { ...link.device, state: next }, agreed };
}

/** Whole seconds that the box tells do not make the time jump. */
const JITTER = 1500;
const keepsTime = (trial: Trial | undefined, until: number): number =>
  trial && Math.abs(trial.until - until) < JITTER ? trial.until : until;

/** Whether two links are the same to whoever looks. */
export const sameLink = (a: BoxLink, b: BoxLink): boolean =>
  sameFiles(a.device.state.running, b.device.state.running) &&
  sameFiles(a.device.state.startup, b.device.state.startup) &&
  sameFiles(a.agreed, b.agreed) &&
  a.device.state.trial?.id === b.device.state.trial?.id &&
  a.device.state.trial?.until === b.device.state.trial?.until;

/** What was changed by hand, a line `INTERFACE SENTENCE` each; `-` where it is about none. */
export const handText = (drift: readonly { readonly interface?: string; readonly text: string }[]): string =>
  drift.map((d) => `${d.interface ?? '-'} ${d.text}`).join('\n');

/** Sentences of what was changed by hand (`handText`), by the interface that they are about. */
export function byInterface(text: string): ReadonlyMap<string, readonly string[]> {
  const out = new Map<string, string[]>();
  for (const line of text.split('\n').filter(Boolean)) {
    const at = line.indexOf(' ');
    memo(out, line.slice(0, at), () => []).push(line.slice(at + 1));
  }
  return out;
}
