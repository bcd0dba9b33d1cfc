/**
 * Rewriting statements: only the clauses named change, every other byte stays. Two exceptions, both in the
 * contract: a ` mask 255.255.255.0` anywhere in a rewritten statement becomes a length, and short addresses whose
 * base changes are written out in full so that they keep their value.
 */
import { formatIp, lengthOfMask, parseIpv4 } from '#core/addr';
import type { Ipv4 } from '#core/addr';
import type { Clause } from './ast';
import { baseOf, clauseBase, resolveShort } from './base';
import { applyEdits, diffEdits, mergeEdits } from './change';
import type { Edit } from './change';
import { parseDocument } from './document';
import type { Document } from './document';
import type { Kind } from './grammar';
import { CLAUSES } from './kinds';
import type { Statement } from './kinds';
import { clausesOf, written } from './parts';

/** One thing to do to a statement's clauses. `nth` picks among clauses of one name, from 0. */
export type ClauseOp =
  | { readonly do: 'set'; readonly name: string; readonly text: string; readonly nth?: number }
  | { readonly do: 'add'; readonly text: string }
  | { readonly do: 'remove'; readonly name: string; readonly nth?: number }
  | { readonly do: 'rename'; readonly from: string; readonly to: string }
  /** Replaces a stretch of the statement; offsets are those of the whole text before all ops. */
  | { readonly do: 'replace'; readonly start: number; readonly end: number; readonly text: string };

/** Longest line that an added clause is put on. */
const LINE = 100;

/**
 * The edits that do `ops` to a statement of `document`. With `follow`, short addresses follow a changed base
 * instead of being written out.
 */
export function rewriteStatement(
  document: Document,
  statement: Statement,
  ops: readonly ClauseOp[],
  options: { readonly follow?: boolean } = {},
): Edit[] {
  const before = document.text.slice(statement.start, statement.end);
  const eol = endOfLine(document.text);
  const replaced = ops.filter((op) => op.do === 'replace');
  let text = applyEdits(
    before,
    mergeEdits(
      replaced.map((op) => ({
        start: op.start - statement.start,
        end: op.end - statement.start,
        text: op.text,
      })),
    ),
  );
  for (const op of ops) if (op.do !== 'replace') text = applyOp(text, op, eol);
  if (!options.follow) text = keepValues(before, text);
  text = masksToLengths(text);
  return diffEdits(before, text).map((edit) => ({
    start: edit.start + statement.start,
    end: edit.end + statement.start,
    text: edit.text,
  }));
}

const only = (text: string): Statement | undefined => parseDocument(text, '').statements[0];

function applyOp(text: string, op: Exclude<ClauseOp, { do: 'replace' }>, eol: string): string {
  const statement = only(text);
  if (!statement) return text;
  switch (op.do) {
    case 'set': {
      const clause = clausesOf(statement, op.name)[op.nth ?? 0];
      return clause
        ? text.slice(0, clause.start) + op.text + text.slice(clause.end)
        : addClause(text, statement, op.text, eol);
    }
    case 'add':
      return addClause(text, statement, op.text, eol);
    case 'remove': {
      const clause = clausesOf(statement, op.name)[op.nth ?? 0];
      return clause ? removeClause(text, statement, clause) : text;
    }
    case 'rename': {
      const token = written(statement).header.find((t) => t.text === op.from);
      return token ? text.slice(0, token.start) + op.to + text.slice(token.end) : text;
    }
  }
}

/** Puts a clause behind those that usually stand before it. */
function addClause(text: string, statement: Statement, clause: string, eol: string): string {
  const order = CLAUSES[statement.kind];
  const rank = (name: string) => order.indexOf(name);
  const own = rank(clause.split(/\s/)[0]!);
  const { clauses, headEnd } = written(statement);
  const before = clauses.filter((c) => rank(c.name) <= own);
  const after = before[before.length - 1];
  if (!after) {
    const rest = clauses.length ? ',' : '';
    return `${text.slice(0, headEnd)} ${clause}${rest}${text.slice(headEnd)}`;
  }
  const lineStart = text.lastIndexOf('\n', after.end - 1) + 1;
  const column = after.end - lineStart;
  const gap = column + clause.length + 2 > LINE ? `,${eol}  ` : ', ';
  return text.slice(0, after.end) + gap + clause + text.slice(after.end);
}

function removeClause(text: string, statement: Statement, clause: Clause): string {
  const { clauses } = written(statement);
  const previous = clauses[clauses.indexOf(clause) - 1];
  const edits: Edit[] = [];
  let end = clause.comma === undefined ? clause.end : clause.comma + 1;
  if (clause.comma === undefined && previous?.comma !== undefined)
    edits.push({ start: previous.comma, end: previous.comma + 1, text: '' });
  let start = clause.start;
  while (text[end] === ' ' || text[end] === '\t') end++;
  if (clause.comma === undefined || text[end] === '\n' || text[end] === '\r' || text[end] === undefined)
    while (text[start - 1] === ' ' || text[start - 1] === '\t') start--;
  // A line left empty would end the statement, so it goes as a whole.
  const lineEmpty =
    text[start - 1] === '\n' && (text[end] === '\n' || text[end] === '\r' || end >= text.length);
  if (lineEmpty) {
    start--;
    if (text[start - 1] === '\r') start--;
  } else if (text[end] === '#') start = Math.max(start, clause.start);
  edits.push({ start, end, text: text[end] === '#' && text[start - 1] !== ' ' ? ' ' : '' });
  return applyEdits(text, mergeEdits(edits));
}

/** Writes out short addresses that would read differently after the rewrite than before it. */
function keepValues(before: string, after: string): string {
  const old = only(before);
  const now = only(after);
  if (!old || !now) return after;
  const [was, is] = [baseAddress(old), baseAddress(now)];
  if (was === is || was === undefined) return after;
  const kept = new Set(shortWords(old).map((t) => t.text));
  const edits = shortWords(now)
    .filter((t) => kept.has(t.text))
    .flatMap((t) => {
      const first = /^[.0-9]+/.exec(t.text)![0];
      const meant = resolveShort(first, was);
      if (meant === undefined || meant === (is === undefined ? undefined : resolveShort(first, is)))
        return [];
      return [{ start: t.start, end: t.start + first.length, text: formatIp(meant) }];
    });
  return applyEdits(after, mergeEdits(edits));
}

/** The short forms that lean on the base of the statement, not on that of their clause. */
const shortWords = (statement: Statement) =>
  written(statement)
    .clauses.filter((c) => !clauseBase(statement.kind, c))
    .flatMap((c) => c.words)
    .filter((t) => t.kind === 'word' && /^\.[0-9]/.test(t.text));

/** The address that short forms of the statement lean on. */
export function baseAddress(statement: Statement): Ipv4 | undefined {
  const { header, clauses } = written(statement);
  return baseOf(statement.kind, header, clauses)?.address;
}

function masksToLengths(text: string): string {
  const statement = only(text);
  if (!statement) return text;
  const edits: Edit[] = [];
  for (const clause of written(statement).clauses)
    for (const [i, word] of clause.words.entries()) {
      const before = clause.words[i - 1];
      const mask = clause.words[i + 1];
      if (word.text !== 'mask' || word.kind !== 'word' || !before || !mask) continue;
      const value = parseIpv4(mask.text);
      const length = value === undefined ? undefined : lengthOfMask(value);
      // Over a line end the words stay: a comment may stand between them.
      if (length === undefined || before.line !== mask.line) continue;
      edits.push({ start: before.end, end: mask.end, text: `/${length}` });
    }
  return applyEdits(text, edits);
}

/** The line ending that the text uses, by its first; LF in a text without any. */
export const endOfLine = (text: string): string => (/\r?\n/.exec(text)?.[0] === '\r\n' ? '\r\n' : '\n');

/** The edits that take a statement out, with its lines. Comments above it stay. */
export function removeStatement(document: Document, statement: Statement): Edit[] {
  const { text } = document;
  const start = text.lastIndexOf('\n', statement.start - 1) + 1;
  const nl = text.indexOf('\n', statement.end);
  return [
    {
      start: Math.max(start, text.charCodeAt(0) === 0xfeff ? 1 : 0),
      end: nl < 0 ? text.length : nl + 1,
      text: '',
    },
  ];
}

/**
 * The edits that write a new statement: behind the last statement of its kind, or of a kind that comes before it,
 * else at the end of the file. `after` puts it behind one statement; `before` in front of one.
 */
export function insertStatement(
  document: Document,
  kind: Kind,
  statementText: string,
  place: { readonly after?: Statement; readonly before?: Statement } = {},
): Edit[] {
  const { text } = document;
  const eol = endOfLine(text);
  const body = statementText.replace(/\r?\n/g, eol);
  if (place.before) {
    const start = text.lastIndexOf('\n', place.before.start - 1) + 1;
    const at = Math.max(start, text.charCodeAt(0) === 0xfeff ? 1 : 0);
    return [{ start: at, end: at, text: body + eol }];
  }
  const order = Object.keys(CLAUSES);
  const before = document.statements.filter((s) => order.indexOf(s.kind) <= order.indexOf(kind));
  const same = document.statements.filter((s) => s.kind === kind);
  const after = place.after ?? same[same.length - 1] ?? before[before.length - 1];
  if (!after) {
    const first = document.statements[0];
    if (first) return insertStatement(document, kind, statementText, { before: first });
    const gap = text === '' || text.endsWith('\n') || text === '\ufeff' ? '' : eol;
    return [{ start: text.length, end: text.length, text: gap + body + eol }];
  }
  const nl = text.indexOf('\n', after.end);
  if (nl < 0) return [{ start: text.length, end: text.length, text: eol + body + eol }];
  return [{ start: nl + 1, end: nl + 1, text: body + eol }];
}
