/** A statement by its parts, as it is written: kind, header, colon, clauses. */
import type { Clause, StatementBase } from './ast';
import { NAMED_KINDS, kindOf } from './grammar';
import type { Kind } from './grammar';
import { CLAUSES } from './kinds';
import { Token, lex } from './lexer';
import type { LogicalLine } from './lexer';

/** Words that a statement holds at most; no office comes near it, and a paste of commas does. */
export const MOST_WORDS = 20_000;

export interface StatementParts {
  readonly kind: Kind;
  /** Tokens between the kind and the colon, without the colon; all behind the kind where there is no colon. */
  readonly header: readonly Token[];
  /** Offset behind the header's colon, or behind its last token where the colon is missing. */
  readonly headEnd: number;
  /** The token that holds the colon, if one does. */
  readonly colon: Token | undefined;
  readonly clauses: readonly Clause[];
  /** Commas with no clause before them. */
  readonly strayCommas: readonly Token[];
}

/** Splits the tokens of a statement; undefined where its first word is no kind. */
export function partsOf(line: LogicalLine): StatementParts | undefined {
  const tokens = line.tokens.length > MOST_WORDS ? line.tokens.slice(0, MOST_WORDS) : line.tokens;
  const first = tokens[0]!;
  const kind = kindOf(first.text);
  if (!kind) return undefined;
  const glued = first.text.endsWith(':');
  const colonAt = glued ? 0 : tokens.findIndex((t, i) => i > 0 && endsHeader(t));
  const bodyAt = colonAt < 0 ? guessHeaderEnd(tokens, kind) : colonAt + 1;
  const isExpect = kind === 'expect';
  const header: Token[] = [];
  for (let i = 1; i < (isExpect ? tokens.length : bodyAt); i++) {
    const token = isExpect ? tokens[i]! : withoutColon(tokens[i]!);
    if (token.text !== '') header.push(token);
  }
  const headEnd = (tokens[Math.max(bodyAt, 1) - 1] ?? first).end;
  const body = isExpect ? tokens.length : Math.max(bodyAt, 1);
  const { clauses, strayCommas } = clausesFrom(tokens, body);
  return { kind, header, headEnd, colon: tokens[colonAt], clauses, strayCommas };
}

const endsHeader = (t: Token): boolean =>
  t.kind === 'word' && t.spaced && t.text.endsWith(':') && !t.text.endsWith('::');

function withoutColon(token: Token): Token {
  if (token.kind !== 'word' || !token.text.endsWith(':') || token.text.endsWith('::')) return token;
  const { text, start, end, line, column, spaced } = token;
  return new Token('word', text.slice(0, -1), start, end - 1, line, column, spaced);
}

/** Where the header most likely ends when its colon is missing: behind the name, or before the first comma. */
function guessHeaderEnd(tokens: readonly Token[], kind: Kind): number {
  if (NAMED_KINDS.has(kind)) return Math.min(2, tokens.length);
  const clause = tokens.findIndex((t, i) => i > 0 && CLAUSES[kind].includes(t.text));
  const comma = tokens.findIndex((t) => t.kind === 'comma');
  const ends = [clause, comma, tokens.length].filter((n) => n > 0);
  return Math.min(...ends);
}

function clausesFrom(
  tokens: readonly Token[],
  from: number,
): { readonly clauses: Clause[]; readonly strayCommas: Token[] } {
  const clauses: Clause[] = [];
  const strayCommas: Token[] = [];
  for (let at = from; at < tokens.length;) {
    let end = at;
    while (end < tokens.length && tokens[end]!.kind !== 'comma') end++;
    const comma = tokens[end];
    if (end > at) {
      const [first, last] = [tokens[at]!, tokens[end - 1]!];
      const words = tokens.slice(at, end);
      clauses.push({ name: first.text, words, start: first.start, end: last.end, comma: comma?.start });
    } else if (comma) strayCommas.push(comma);
    at = end + 1;
  }
  return { clauses, strayCommas };
}

/** The words of a statement by their part, where they stand in its file. */
export interface Written {
  readonly header: readonly Token[];
  /** Offset behind the header's colon, or behind its last token where the colon is missing. */
  readonly headEnd: number;
  readonly clauses: readonly Clause[];
  /** Whether a comment stands inside it, so that it must not be laid out anew. */
  readonly commented: boolean;
}

const asked = new WeakMap<object, Written>();

/** The words of a statement. They are read from its text when somebody asks, since few statements are ever asked. */
export function written(statement: Pick<StatementBase, 'source' | 'start' | 'line'>): Written {
  const known = asked.get(statement);
  if (known) return known;
  const { source, start, line } = statement;
  let out: Written = { header: [], headEnd: start + source.length, clauses: [], commented: false };
  lex(source, { start: 0, end: source.length, line }, [], ({ tokens, commented }) => {
    const there = tokens.map(
      (t) => new Token(t.kind, t.text, t.start + start, t.end + start, t.line, t.column, t.spaced),
    );
    const parts = partsOf({ tokens: there, commented });
    if (parts) out = { header: parts.header, headEnd: parts.headEnd, clauses: parts.clauses, commented };
  });
  asked.set(statement, out);
  return out;
}

/** The clauses of a name, in their order. */
export const clausesOf = (statement: Parameters<typeof written>[0], name: string): readonly Clause[] =>
  written(statement).clauses.filter((c) => c.name === name);

/** All words of a statement behind its kind. */
export function allWords(statement: Pick<StatementBase, 'source' | 'start' | 'line'>): Token[] {
  const { header, clauses } = written(statement);
  return [...header, ...clauses.flatMap((c) => c.words)];
}
