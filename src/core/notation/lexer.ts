/**
 * The lexical layer: text to logical lines of tokens with their places. Never throws, reads each character a
 * bounded number of times, and reports what it cannot read beside what it can.
 */

/** A stretch of one file's text. `line` and `column` count from 1 and tell where it starts. */
export interface Span {
  /** Offset of the first character, in UTF-16 units from the start of the text, a BOM included. */
  readonly start: number;
  /** Offset behind the last character. */
  readonly end: number;
  readonly line: number;
  readonly column: number;
}

/** A word, string or sign of a text. What a string says is worked out when it is asked for. */
export class Token implements Span {
  constructor(
    readonly kind: 'word' | 'string' | 'comma' | 'arrow',
    /** As written, quotes and escapes included. */
    readonly text: string,
    readonly start: number,
    readonly end: number,
    readonly line: number,
    readonly column: number,
    /** Whether white space, a comment or the end of the line follows. */
    readonly spaced: boolean,
  ) {}

  /** What it says: a string without its quotes and escapes, else the text. */
  get value(): string {
    return this.kind === 'string' ? saidBy(this.text) : this.text;
  }
}

/** Where a token stands. A value keeps this and not the token, of which a file has very many. */
export const placeOf = ({ start, end, line, column }: Span): Span => ({ start, end, line, column });

/** What a string says: `\\"` and `\\\\` are the sign itself, any other escape nothing. */
function saidBy(quoted: string): string {
  if (!quoted.includes('\\'))
    return quoted.slice(1, quoted.length > 1 && quoted.endsWith('"') ? -1 : undefined);
  let value = '';
  for (let i = 1; i < quoted.length && quoted[i] !== '"'; i++) {
    if (quoted[i] !== '\\') value += quoted[i];
    else if (quoted[++i] === '"' || quoted[i] === '\\') value += quoted[i];
  }
  return value;
}

/** The tokens of one statement, over all its physical lines. */
export interface LogicalLine {
  readonly tokens: readonly Token[];
  /** Whether a comment stands between its first and its last token. */
  readonly commented: boolean;
}

export interface LexFault extends Span {
  readonly what: 'string-open' | 'escape-unknown' | 'no-statement-above';
}

const isBlank = (c: number): boolean => c === 32 || c === 9 || c === 13;

/** A stretch of a text that begins where a line does, and ends before one does or with the text. */
export interface Stretch {
  readonly start: number;
  readonly end: number;
  /** The number of its first line. */
  readonly line: number;
}

/**
 * Reads a text, or a stretch of it, one logical line after another, so that nothing but the line in hand is held. The
 * BOM, CR and LF are not part of any token. Faults are noted in `faults`.
 */
export function lex(
  text: string,
  stretch: Stretch,
  faults: LexFault[],
  each: (line: LogicalLine) => void,
): void {
  let tokens: Token[] | undefined;
  let commented = false;
  let pending = false;
  const close = () => {
    const done = tokens;
    tokens = undefined;
    if (done?.length) each({ tokens: done, commented });
  };
  let at = stretch.start === 0 && text.charCodeAt(0) === 0xfeff ? 1 : stretch.start;
  for (let line = stretch.line; at <= stretch.end; line++) {
    const next = text.indexOf('\n', at);
    const nl = next < stretch.end ? next : -1;
    const end = nl < 0 ? stretch.end : nl;
    let first = at;
    while (first < end && isBlank(text.charCodeAt(first))) first++;
    if (first === end) close();
    else if (text.charCodeAt(first) === 35) pending = true;
    else {
      const indented = first > at;
      if (!indented) {
        close();
        tokens = [];
        commented = pending = false;
      } else if (!tokens) {
        faults.push({ what: 'no-statement-above', start: first, end, line, column: first - at + 1 });
      }
      if (tokens) {
        if (pending) commented = true;
        pending = readLine(text, at, first, end, line, tokens, faults);
      }
    }
    if (nl < 0) break;
    at = nl + 1;
  }
  close();
}

/** Reads the tokens of one physical line into `out`; returns whether a comment ended it. */
function readLine(
  text: string,
  lineStart: number,
  from: number,
  end: number,
  line: number,
  out: Token[],
  faults: LexFault[],
): boolean {
  let i = from;
  while (i < end) {
    const c = text.charCodeAt(i);
    if (isBlank(c)) {
      i++;
      continue;
    }
    if (c === 35) return true;
    const start = i;
    let kind: Token['kind'] = 'word';
    if (c === 44 || c === 62) {
      kind = c === 44 ? 'comma' : 'arrow';
      i++;
    } else if (c === 34) {
      kind = 'string';
      i = endOfString(text, lineStart, start, end, line, faults);
    } else
      for (i++; i < end; i++) {
        const w = text.charCodeAt(i);
        if (w <= 62 && (isBlank(w) || w === 44 || w === 62 || w === 34 || w === 35)) break;
      }
    const next = i >= end ? 10 : text.charCodeAt(i);
    const spaced = next === 10 || next === 35 || isBlank(next);
    out.push(new Token(kind, text.slice(start, i), start, i, line, start - lineStart + 1, spaced));
  }
  return false;
}

/** Where a string that begins at `start` ends; an unknown escape and an end of line in it are noted. */
function endOfString(
  text: string,
  lineStart: number,
  start: number,
  end: number,
  line: number,
  faults: LexFault[],
): number {
  let i = start + 1;
  for (; i < end && text[i] !== '"'; i++) {
    if (text[i] !== '\\') continue;
    const escaped = i + 1 < end ? text[i + 1] : undefined;
    if (escaped !== '"' && escaped !== '\\') {
      const at = { start: i, end: Math.min(i + 2, end), line, column: i - lineStart + 1 };
      faults.push({ what: 'escape-unknown', ...at });
    }
    i++;
  }
  if (i < end) return i + 1;
  faults.push({ what: 'string-open', start, end, line, column: start - lineStart + 1 });
  return end;
}
