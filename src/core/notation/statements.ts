/** From the words of one statement to its typed value, by the table of its kind. */
import type { At, Clause, ReadProblem } from './ast';
import { baseOf, clauseBase } from './base';
import type { Base } from './base';
import type { ClauseOf, KindTable } from './clause';
import { KINDS, NAMED_KINDS, nearest } from './grammar';
import type { Kind } from './grammar';
import { CLAUSES, TABLES } from './kinds';
import type { Statement } from './kinds';
import type { LogicalLine, Span, Token } from './lexer';
import { MOST_WORDS, partsOf } from './parts';
import type { StatementParts } from './parts';
import { Problems, Words, checkName } from './reader';

/** A statement with what was wrong in it; no statement where not even its kind could be read. */
export interface StatementRead {
  readonly statement?: Statement;
  readonly problems: readonly ReadProblem[];
}

const NO_PROBLEMS: readonly ReadProblem[] = [];

/**
 * Reads one logical line of `text`. `seen` counts the heads of unnamed statements met so far in the file, so that the
 * second `passage a > b` has a subject of its own.
 */
export function readStatement(
  text: string,
  line: LogicalLine,
  file: string,
  index: number,
  above: Kind | undefined,
  seen: Map<string, number>,
): StatementRead {
  const first = line.tokens[0]!;
  const parts = partsOf(line);
  if (!parts) return unknownKind(first, file, above);
  const { kind, header } = parts;
  const last = line.tokens[line.tokens.length - 1]!;
  const subject = NAMED_KINDS.has(kind)
    ? `${kind}/${header[0]?.text.split(':')[0] ?? ''}`
    : numbered(`${kind}/${headText(parts)}`, seen);
  const problems = new Problems(file, subject);
  tellForm(line, parts, problems);
  const head = {
    start: first.start,
    end: (header[0] ?? first).end,
    line: first.line,
    column: first.column,
  };
  const read = new ClauseReader(parts, head, problems);
  const name = NAMED_KINDS.has(kind) ? readName(kind, header, head, problems) : undefined;
  const statement = read.body() as Writable<Statement>;
  const list = problems.list;
  if (list.length > 1) list.sort((a, b) => a.at.start - b.at.start);
  // One by one: with spreads of two objects reading takes ten times as long.
  statement.kind = kind;
  if (name !== undefined) (statement as { name: string }).name = name;
  statement.file = file;
  statement.index = index;
  statement.subject = subject;
  statement.start = first.start;
  statement.end = last.end;
  statement.line = first.line;
  statement.head = head;
  statement.source = text.slice(first.start, last.end);
  statement.broken = list.length > 0 && list.some((p) => p.fatal);
  statement.note = read.note;
  return { statement: statement, problems: list.length ? list : NO_PROBLEMS };
}

type Writable<T> = { -readonly [K in keyof T]: T[K] };

/** The subject of the next unnamed statement with this head. */
export function numbered(head: string, seen: Map<string, number>): string {
  const nth = (seen.get(head) ?? 0) + 1;
  seen.set(head, nth);
  return `${head}#${nth}`;
}

/** The header as the subject of an unnamed statement has it; that of an `expect` ends at a colon or comma in it. */
function headText({ kind, header, colon }: StatementParts): string {
  if (kind === 'passage' || kind === 'leave') return header.map((t) => t.text).join('');
  if (kind !== 'expect') return header.map((t) => t.text).join(' ');
  const words: string[] = [];
  for (const token of header) {
    if (colon ? token.start > colon.start : token.kind === 'comma') break;
    words.push(token === colon ? token.text.slice(0, -1) : token.text);
  }
  return words.filter((word) => word !== '').join(' ');
}

function unknownKind(first: Token, file: string, above?: Kind): StatementRead {
  const problems = new Problems(file, `line ${first.line}`);
  if (above && CLAUSES[above].includes(first.text))
    problems.syntax(first, first.text, `a statement; a clause of the ${above} above is indented`, {
      text: `  ${first.text}`,
    });
  else {
    const word = first.text.replace(/:$/, '');
    const near = nearest(word, KINDS);
    problems.syntax(first, word, `a statement: ${KINDS.join(', ')}`, near ? { text: near } : undefined);
  }
  return { problems: problems.list };
}

/** What is wrong with the form of a statement: its length, its colon, its commas. */
function tellForm(line: LogicalLine, parts: StatementParts, problems: Problems): void {
  const { kind, header, colon } = parts;
  const beyond = line.tokens[MOST_WORDS];
  if (beyond)
    problems.syntax(
      beyond,
      `a statement of ${line.tokens.length} words and commas`,
      `at most ${MOST_WORDS}; what is behind them is not read`,
    );
  const first = line.tokens[0]!;
  if (kind === 'expect') {
    if (colon && colon !== first)
      problems.syntax(colon, 'a colon', 'no colon: `expect` has none', { text: colon.text.slice(0, -1) });
  } else if (!colon) {
    const glued = header.find((t) => t.kind === 'word' && /^[^:]+:[^:]/.test(t.text));
    const end = header[header.length - 1] ?? first;
    if (glued)
      problems.syntax(glued, glued.text, 'a space behind the colon', { text: glued.text.replace(':', ': ') });
    else problems.syntax(end, end.text, `a colon behind the head of the ${kind}`, { text: `${end.text}:` });
  }
  for (const comma of parts.strayCommas)
    problems.syntax(comma, 'a comma', 'a clause before the comma', { text: '' });
}

function readName(kind: Kind, header: readonly Token[], head: Span, problems: Problems): string {
  const token = header[0];
  if (!token) {
    problems.syntax(head, 'no name', `the name of the ${kind} behind \`${kind}\``);
    return '';
  }
  const glued = /^([^:]+):[^:]/.exec(token.text);
  // A glued colon is reported as such; what stands before it is the name.
  if (glued && kind !== 'far' && kind !== 'record') return glued[1]!;
  if (kind === 'table' && token.text === 'main') return 'main';
  checkName(token, kind, problems);
  const extra = header[1];
  if (extra) problems.syntax(extra, extra.text, 'the colon behind the name');
  return token.text;
}

/** A table as the reader of clauses sees it, whatever its kind. */
type AnyTable = Pick<
  KindTable<Kind, Readonly<Record<string, ClauseOf<unknown>>>, unknown, object>,
  'clauses' | 'lead' | 'make'
>;

/** The entries of each kind by their words. */
const ENTRIES = new Map(
  KINDS.map((kind) => [kind, new Map(Object.entries((TABLES[kind] as unknown as AnyTable).clauses))]),
);

/** The values of a table before anything is read: absent, or an empty list. What is read lies over them. */
const BLANK = new Map(
  KINDS.map((kind) => [
    kind,
    Object.fromEntries(
      [...ENTRIES.get(kind)!].map(([name, { repeats }]) => [name, repeats ? [] : undefined]),
    ),
  ]),
);

/** Reads the clauses of one statement, each by the entry of its kind's table. */
class ClauseReader {
  private readonly table: AnyTable;
  private readonly values: Record<string, unknown>;
  private lead: unknown;
  private foreign = false;
  private base: Base | undefined | null = null;

  constructor(
    private readonly parts: StatementParts,
    private readonly head: Span,
    private readonly problems: Problems,
  ) {
    this.table = TABLES[parts.kind] as unknown as AnyTable;
    this.values = Object.create(BLANK.get(parts.kind)!) as Record<string, unknown>;
    const entries = ENTRIES.get(parts.kind)!;
    const { clauses } = parts;
    for (let i = 0; i < clauses.length; i++) {
      const clause = clauses[i]!;
      const { name } = clause;
      const entry = entries.get(name);
      if (!entry) this.readForeign(clause, i);
      else if (!Object.hasOwn(this.values, name)) {
        const value = this.readClause(clause, entry);
        if (!entry.repeats) this.values[name] = value;
        else if (value !== undefined) this.values[name] = [value];
      } else if (entry.repeats) {
        const value = this.readClause(clause, entry);
        if (value !== undefined) (this.values[name] as unknown[]).push(value);
      } else problems.syntax(clause.words[0]!, `a second \`${name}\``, `\`${name}\` once`);
    }
  }

  get note(): At<string> | undefined {
    return this.values.note as At<string> | undefined;
  }

  /** The values as the statement has them. */
  body(): object {
    const { header, clauses } = this.parts;
    return this.table.make({
      values: this.values,
      lead: this.lead,
      clauses,
      foreign: this.foreign,
      header: new Words(header, this.head, this.baseOf, this.problems),
      head: this.head,
      problems: this.problems,
    });
  }

  private readonly baseOf = (): Base | undefined => {
    const { kind, header, clauses } = this.parts;
    if (this.base === null) this.base = baseOf(kind, header, clauses);
    return this.base;
  };

  private readClause(clause: Clause, entry: ClauseOf<unknown>): unknown {
    const base = () => clauseBase(this.parts.kind, clause) ?? this.baseOf();
    const words = new Words(clause.words, clause.words[0]!, base, this.problems, 1);
    const { line, column } = clause.words[0]!;
    const value = entry.read(words, { start: clause.start, end: clause.end, line, column });
    words.end();
    return value;
  }

  /** A clause that is none of the table: the first of a kind that begins without a name, else a fault. */
  private readForeign(clause: Clause, nth: number): void {
    const { table, problems } = this;
    if (nth === 0 && table.lead) {
      const words = new Words(clause.words, clause.words[0]!, this.baseOf, problems);
      this.lead = table.lead(words);
      words.end();
      return;
    }
    const { kind } = this.parts;
    const token = clause.words[0]!;
    const near = nearest(clause.name, CLAUSES[kind]);
    this.foreign = true;
    problems.syntax(
      token,
      token.text,
      near === undefined
        ? `a clause of ${kind}: ${CLAUSES[kind].join(', ')}`
        : `a clause of ${kind}, most likely \`${near}\``,
      near === undefined ? undefined : { text: near },
    );
  }
}
