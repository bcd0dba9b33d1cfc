/**
 * Text changes as values. An edit list is sorted, does not overlap, and speaks of offsets in the text *before* it.
 * Laws: apply(apply(t, e), invert(t, e)) = t; apply(t, compose(a, b)) = apply(apply(t, a), b).
 */

/** Replaces the characters from `start` to `end` (exclusive, UTF-16 units) by `text`. */
export interface Edit {
  readonly start: number;
  readonly end: number;
  readonly text: string;
}

/** The edits of one file. */
export interface FileChange {
  readonly file: string;
  readonly edits: readonly Edit[];
}

/** Throws RangeError where edits overlap, are out of order or reach past the text: misuse, never a user's doing. */
function mustFit(text: string, edits: readonly Edit[]): void {
  let at = 0;
  for (const edit of edits) {
    if (edit.start < at || edit.end < edit.start || edit.end > text.length)
      throw new RangeError(`edit ${edit.start}-${edit.end} after ${at} in a text of ${text.length}`);
    at = edit.end;
  }
}

/** The text after the edits. */
export function applyEdits(text: string, edits: readonly Edit[]): string {
  mustFit(text, edits);
  let out = '';
  let at = 0;
  for (const edit of edits) {
    out += text.slice(at, edit.start) + edit.text;
    at = edit.end;
  }
  return out + text.slice(at);
}

/** The edits that undo these; `text` is the text before them. */
export function invertEdits(text: string, edits: readonly Edit[]): Edit[] {
  mustFit(text, edits);
  let shift = 0;
  return edits.map((edit) => {
    const start = edit.start + shift;
    shift += edit.text.length - (edit.end - edit.start);
    return { start, end: start + edit.text.length, text: text.slice(edit.start, edit.end) };
  });
}

/** One edit list that does `first`, then `second`; `text` is the text before both. */
export function composeEdits(text: string, first: readonly Edit[], second: readonly Edit[]): Edit[] {
  return diffEdits(text, applyEdits(applyEdits(text, first), second));
}

/** The smallest single replacement that turns one text into the other; none where they are the same. */
export function diffEdits(before: string, after: string): Edit[] {
  if (before === after) return [];
  const most = Math.min(before.length, after.length);
  let head = 0;
  while (head < most && before[head] === after[head]) head++;
  let tail = 0;
  while (tail < most - head && before[before.length - 1 - tail] === after[after.length - 1 - tail]) tail++;
  return [{ start: head, end: before.length - tail, text: after.slice(head, after.length - tail) }];
}

/** Sorts edits made independently of one another; of two that overlap the later one given is left out. */
export function mergeEdits(edits: readonly Edit[]): Edit[] {
  /** Sorted, and none overlapping: whatever an edit could clash with is beside its place. */
  const out: Edit[] = [];
  for (const edit of edits) {
    let [low, high] = [0, out.length];
    while (low < high) {
      const middle = (low + high) >> 1;
      const o = out[middle]!;
      if (o.start < edit.start || (o.start === edit.start && o.end <= edit.end)) low = middle + 1;
      else high = middle;
    }
    const clashes = (o: Edit) =>
      (edit.start < o.end && o.start < edit.end) ||
      (edit.start === o.start && edit.end === o.end && edit.text === o.text);
    let clash = false;
    for (let i = low - 1; i >= 0 && !clash; i--) {
      clash = clashes(out[i]!);
      if (out[i]!.start < edit.start) break;
    }
    for (let i = low; i < out.length && out[i]!.start < edit.end && !clash; i++) clash = clashes(out[i]!);
    if (!clash) out.splice(low, 0, edit);
  }
  return out;
}
