/** Reading a whole file: every statement that can be read, and a problem for everything that cannot. */
import { extend } from '#core/base';
import type { Services } from '#core/addr';
import type { ReadProblem } from './ast';
import { NAMED_KINDS } from './grammar';
import type { Statement } from './kinds';
import { lex } from './lexer';
import type { LexFault, Span } from './lexer';
import { numbered, readStatement } from './statements';

/** One file, read. */
export interface Document {
  readonly file: string;
  readonly text: string;
  readonly statements: readonly Statement[];
  readonly problems: readonly ReadProblem[];
}

/**
 * Reads one file. Never throws and never stops early: a bad statement is a problem, and reading resumes at the
 * next. Time is linear in the length of the text; what a document that was read before has in common with it at either
 * end is taken from there, and costs next to nothing.
 */
export function parseDocument(text: string, file: string, like?: Document): Document {
  if (like?.file === file && like.text === text) return like;
  const common = like?.file === file ? commonOf(like, text) : undefined;
  const statements: Statement[] = common ? like!.statements.slice(0, common.head) : [];
  const seen = new Map<string, number>();
  for (const { kind, subject } of statements) {
    if (NAMED_KINDS.has(kind)) continue;
    const number = subject.lastIndexOf('#');
    seen.set(subject.slice(0, number), Number(subject.slice(number + 1)));
  }
  const start = common?.start ?? 0;
  const problems: ReadProblem[] = like && common ? like.problems.filter((p) => p.at.start < start) : [];
  const stretch = { start, end: common?.end ?? text.length, line: common?.line ?? 1 };
  const faults: LexFault[] = [];
  const inside: ReadProblem[] = [];
  lex(text, stretch, faults, (line) => {
    const above = statements[statements.length - 1];
    const read = readStatement(text, line, file, statements.length, above?.kind, seen);
    if (read.statement) statements.push(read.statement);
    extend(inside, read.problems);
  });
  extend(
    problems,
    faults.map((fault) => lexProblem(fault, file)),
  );
  extend(problems, inside);
  if (like && common) takeTail(like, common, statements, problems, seen);
  problems.sort((a, b) => a.at.start - b.at.start);
  return { file, text, statements, problems };
}

/** What a text has in common with a document, statement by statement. */
interface Common {
  /** Statements at the head that stand as they stood. */
  readonly head: number;
  /** The first statement of the tail, whose like all that follow are. */
  readonly tail: number;
  /** What is between them in the new text, and its first line. */
  readonly start: number;
  readonly end: number;
  readonly line: number;
  /** By how much the tail has moved, in characters and lines. */
  readonly by: number;
  readonly lines: number;
}

/**
 * Statements are read by themselves: one is as it was if it begins and ends as it did. It ends at the latest where the
 * next begins, which is in the first column of a line.
 */
function commonOf(like: Document, text: string): Common {
  const { statements } = like;
  const old = like.text;
  const most = Math.min(old.length, text.length);
  let same = 0;
  while (same < most && old.charCodeAt(same) === text.charCodeAt(same)) same++;
  let alike = 0;
  while (
    alike < most - same &&
    old.charCodeAt(old.length - 1 - alike) === text.charCodeAt(text.length - 1 - alike)
  )
    alike++;
  const head = Math.max(0, firstFrom(statements, same) - 1);
  let tail = Math.max(head, firstFrom(statements, old.length - alike + 1));
  // It begins a line in both: the first of a file may stand behind a byte order mark instead.
  if (old[(statements[tail]?.start ?? 0) - 1] !== '\n') tail++;
  const first = head > 0 ? statements[head] : undefined;
  const by = text.length - old.length;
  const start = first?.start ?? 0;
  const line = first?.line ?? 1;
  const next = statements[tail];
  if (!next) return { head, tail, start, end: text.length, line, by, lines: 0 };
  const end = next.start + by;
  return { head, tail, start, end, line, by, lines: line + countLines(text, start, end) - next.line };
}

/** The place of the first statement that begins at an offset or behind it. */
function firstFrom(statements: readonly Statement[], offset: number): number {
  let [low, high] = [0, statements.length];
  while (low < high) {
    const middle = (low + high) >> 1;
    if (statements[middle]!.start < offset) low = middle + 1;
    else high = middle;
  }
  return low;
}

function countLines(text: string, start: number, end: number): number {
  let lines = 0;
  for (let at = text.indexOf('\n', start); at >= 0 && at < end; at = text.indexOf('\n', at + 1)) lines++;
  return lines;
}

/** Puts the statements of the tail and what is wrong with them behind what was read, where they are now. */
function takeTail(
  like: Document,
  { tail, by, lines }: Common,
  statements: Statement[],
  problems: ReadProblem[],
  seen: Map<string, number>,
): void {
  const renamed = new Map<string, string>();
  for (let i = tail; i < like.statements.length; i++) {
    const was = like.statements[i]!;
    const subject = NAMED_KINDS.has(was.kind)
      ? was.subject
      : numbered(was.subject.slice(0, was.subject.lastIndexOf('#')), seen);
    if (subject !== was.subject) renamed.set(was.subject, subject);
    const index = statements.length;
    const there = moved(was, by, lines);
    statements.push(
      there.index === index && there.subject === subject ? there : { ...there, index, subject },
    );
  }
  const from = like.statements[tail]?.start ?? Infinity;
  for (const problem of like.problems) {
    if (problem.at.start < from) continue;
    const there = moved(problem, by, lines);
    const { subject } = there;
    const now = /^line [0-9]+$/.test(subject) ? `line ${there.at.line}` : (renamed.get(subject) ?? subject);
    problems.push(now === subject ? there : { ...there, subject: now });
  }
}

/** What places in a text are counted in. */
const OFFSETS: ReadonlySet<string> = new Set(['start', 'end']);

/** A value with all places in it moved. What holds no place stays the very same. */
function moved<T>(value: T, by: number, lines: number): T {
  if (typeof value !== 'object' || value === null || (by === 0 && lines === 0)) return value;
  // Nearly all there is are words and their spans, which hold nothing else.
  if ('column' in value) {
    const span = value as T & Span;
    return { ...span, start: span.start + by, end: span.end + by, line: span.line + lines };
  }
  let out: T | undefined;
  for (const key in value) {
    const was: unknown = value[key];
    const now =
      typeof was === 'number'
        ? OFFSETS.has(key)
          ? was + by
          : key === 'line'
            ? was + lines
            : was
        : moved(was, by, lines);
    if (now !== was) {
      out ??= (Array.isArray(value) ? [...(value as unknown[])] : { ...value }) as T;
      (out as Record<string, unknown>)[key] = now;
    }
  }
  return out ?? value;
}

const LEX_FAULTS: Readonly<Record<LexFault['what'], { got: string; expected: string }>> = {
  'string-open': { got: 'a text that does not end on its line', expected: 'a closing double quote' },
  'escape-unknown': { got: 'a backslash', expected: '\\" or \\\\ inside a text' },
  'no-statement-above': {
    got: 'white space at the start of a line',
    expected: 'a statement at the start of the line, since none stands above that this could continue',
  },
};

function lexProblem(fault: LexFault, file: string): ReadProblem {
  const { what, ...at } = fault;
  return { code: 'syntax', file, subject: `line ${at.line}`, at, values: LEX_FAULTS[what], fatal: true };
}

/** Services as the notation writes them, `tcp 443 ping`; undefined for what cannot be read as such. */
export function readServices(text: string): Services | undefined {
  const document = parseDocument(`expect any reaches any ${text}`, 'services');
  const [statement] = document.statements;
  const promise = statement?.kind === 'expect' ? statement.promise : undefined;
  return document.problems.length || promise?.says !== 'reaches' ? undefined : promise.services;
}
