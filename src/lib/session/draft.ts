/**
 * The draft: the texts of a site, and what can be undone and done again. A value; every edit makes a new one. Time is
 * an argument, milliseconds.
 */
import type { Files } from '#core/change';
import { applyEdits, diffEdits, invertEdits } from '#core/notation';
import type { FileChange } from '#core/notation';
import type { UndoStep } from './db';

export interface Draft {
  readonly files: Files;
  /** The oldest first. */
  readonly undo: readonly UndoStep[];
  /** What was undone last is last. */
  readonly redo: readonly UndoStep[];
}

/** Steps that are kept. */
const KEPT = 500;
/** Keystrokes that follow one another within this time are one step, milliseconds. */
const JOINED = 1500;

/** The text of its file before a step that somebody typed, as long as the window lives: the next key may join it. */
const before = new WeakMap<UndoStep, string>();

/** The draft after changes of its texts; the very same where they change nothing. What could be done again is gone. */
export function edited(
  draft: Draft,
  changes: readonly FileChange[],
  label: string,
  at: number,
  typed = false,
): Draft {
  const back: FileChange[] = [];
  let first: string | undefined;
  const files = draft.files.map((f) => {
    const change = changes.find((c) => c.file === f.name);
    if (!change?.edits.length) return f;
    first ??= f.text;
    back.push({ file: f.name, edits: invertEdits(f.text, change.edits) });
    return { name: f.name, text: applyEdits(f.text, change.edits) };
  });
  if (!back.length) return draft;
  const top = draft.undo.at(-1);
  const joins = typed && top !== undefined && top.label === label && at - top.at < JOINED;
  const joined = joins ? joinedTo(top, files, at) : undefined;
  if (joined) return { files, undo: [...draft.undo.slice(0, -1), joined], redo: [] };
  const step: UndoStep = { label, at, forward: copied(changes), back: copied(back) };
  if (typed && back.length === 1) before.set(step, first!);
  return { files, undo: [...draft.undo, step].slice(-KEPT), redo: [] };
}

/** One step for a run of keystrokes: from the text before the first to the text now. */
function joinedTo(top: UndoStep, files: Files, at: number): UndoStep | undefined {
  const was = before.get(top);
  const now = files.find((f) => f.name === top.forward[0]?.file);
  if (was === undefined || !now) return undefined;
  const edits = diffEdits(was, now.text);
  const step: UndoStep = {
    label: top.label,
    at,
    forward: copied([{ file: now.name, edits }]),
    back: copied([{ file: now.name, edits: invertEdits(was, edits) }]),
  };
  before.set(step, was);
  return step;
}

/**
 * The draft one step back or on, with that step; `fits` is false where kept data does not fit the text, as after other
 * hands changed it: then the texts stay, and the step is left out. Undefined where there is no step.
 */
export function travelled(
  draft: Draft,
  way: 'undo' | 'redo',
): { readonly draft: Draft; readonly step: UndoStep; readonly fits: boolean } | undefined {
  const from = draft[way];
  const step = from.at(-1);
  if (!step) return undefined;
  const rest = from.slice(0, -1);
  const other = way === 'undo' ? 'redo' : 'undo';
  try {
    const files = changed(draft.files, way === 'undo' ? step.back : step.forward);
    return { draft: { ...draft, files, [way]: rest, [other]: [...draft[other], step] }, step, fits: true };
  } catch {
    return { draft: { ...draft, [way]: rest }, step, fits: false };
  }
}

const changed = (files: Files, changes: readonly FileChange[]): Files =>
  files.map((f) => {
    const change = changes.find((c) => c.file === f.name);
    return change ? { name: f.name, text: applyEdits(f.text, change.edits) } : f;
  });

const copied = (changes: readonly FileChange[]): UndoStep['forward'] =>
  changes.map((c) => ({ file: c.file, edits: c.edits.map((e) => ({ ...e })) }));
