/**
 * Half-typed statements: while one cannot be read, it counts as it last could be, and offsets are mapped back to
 * the text as it stands, so that everything else stays editable.
 */
import { Readings } from '#core/notation';
import type { Files } from '#core/change';
import type { FindingView } from '../../worker/protocol';
import type { Document, Edit } from '#core/notation';

export interface Effective {
  readonly document: Document;
  /** Subjects that count as they last could be read. */
  readonly held: readonly string[];
  /** Edits of the effective text as edits of the real one; undefined where they touch a held statement. */
  toReal(edits: readonly Edit[]): Edit[] | undefined;
}

interface Swap {
  readonly realStart: number;
  readonly realEnd: number;
  readonly start: number;
  readonly end: number;
}

/** Many views look at the same text while somebody types. */
const readings = new Readings();

/** Reads a text, or remembers having read it. */
export const parsed = (text: string, file: string): Document => readings.read(text, file);

/** The document that counts for a text. `last` remembers readable statements by subject, and is brought up to date. */
export function effectiveDocument(file: string, text: string, last: Map<string, string>): Effective {
  const real = parsed(text, file);
  const swaps: Swap[] = [];
  const held: string[] = [];
  let out = '';
  let at = 0;
  for (const s of real.statements) {
    const key = `${file} ${s.subject}`;
    if (!s.broken) {
      last.set(key, text.slice(s.start, s.end));
      continue;
    }
    const before = last.get(key);
    if (before === undefined) continue;
    out += text.slice(at, s.start);
    swaps.push({ realStart: s.start, realEnd: s.end, start: out.length, end: out.length + before.length });
    out += before;
    at = s.end;
    held.push(s.subject);
  }
  if (!swaps.length) return { document: real, held, toReal: (edits) => [...edits] };
  out += text.slice(at);
  const document = parsed(out, file);
  const toReal = (edits: readonly Edit[]): Edit[] | undefined => {
    const mapped: Edit[] = [];
    for (const edit of edits) {
      if (swaps.some((w) => edit.start < w.end && edit.end > w.start)) return undefined;
      const shift = swaps
        .filter((w) => w.end <= edit.start)
        .reduce((sum, w) => sum + (w.realEnd - w.realStart) - (w.end - w.start), 0);
      mapped.push({ start: edit.start + shift, end: edit.end + shift, text: edit.text });
    }
    return mapped;
  };
  return { document, held, toReal };
}

/** The faults of reading in the statements named, as findings. */
export const faultsOf = (file: Files[number], subjects: readonly string[]): FindingView[] =>
  parsed(file.text, file.name)
    .problems.filter((p) => p.fatal && subjects.includes(p.subject))
    .map((p) => ({
      id: `held ${p.code}:${p.subject} ${p.at.start}`,
      code: p.code,
      severity: 'error',
      subject: p.subject,
      file: p.file,
      at: p.at,
      values: p.values,
      others: [],
      mends: [],
    }));
