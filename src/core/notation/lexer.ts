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

export interface Token extends Span {
  readonly kind: 'word' | 'string' | 'comma' | 'arrow';
  /** As written, quotes and escapes included. */
  readonly text: string;
  /** What it says: a string without its quotes, else the text. */
  readonly value: string;
  /** Whether white space, a comment or the end of the line follows. */
  readonly spaced: boolean;
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

export interface Lexed {
  readonly lines: readonly LogicalLine[];
  readonly faults: readonly LexFault[];
}

const isBlank = (c: number): boolean => c === 32 || c === 9 || c === 13;

/** A stretch of a text that begins where a line does, and ends before one does or with the text. */
export interface Stretch {
  readonly start: number;
  readonly end: number;
  /** The number of its first line. */
  readonly line: number;
}

/** Splits a text, or a stretch of it, into logical lines. The BOM, CR and LF are not part of any token. */
export function lex(text: string, stretch: Stretch = { start: 0, end: text.length, line: 1 }): Lexed {
  const lines: LogicalLine[] = [];
  const faults: LexFault[] = [];
  let open: { tokens: Token[]; commented: boolean; pending: boolean } | undefined;
  const close = () => {
    if (open?.tokens.length) lines.push({ tokens: open.tokens, commented: open.commented });
    open = undefined;
  };
  let at = stretch.start === 0 && text.charCodeAt(0) === 0xfeff ? 1 : stretch.start;
  for (let line = stretch.line; at <= stretch.end; line++) {
    const next = text.indexOf('\n', at);
    const nl = next < stretch.end ? next : -1;
    const end = nl < 0 ? stretch.end : nl;
    let first = at;
    while (first < end && isBlank(text.charCodeAt(first))) first++;
    if (first === end) close();
    else if (text[first] === '#') {
      if (open) open.pending = true;
    } else {
      const indented = first > at;
      if (!indented) {
        close();
        open = { tokens: [], commented: false, pending: false };
      } else if (!open) {
        faults.push({ what: 'no-statement-above', start: first, end, line, column: first - at + 1 });
      }
      if (open) {
        if (open.pending) open.commented = true;
        const comment = readLine(text, at, first, end, line, open.tokens, faults);
        open.pending = comment;
      }
    }
    if (nl < 0) break;
    at = nl + 1;
  }
  close();
  return { lines, faults };
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
  const push = (kind: Token['kind'], start: number, stop: number, value: string) => {
    const next = stop >= end ? 10 : text.charCodeAt(stop);
    out.push({
      kind,
      text: text.slice(start, stop),
      value,
      start,
      end: stop,
      line,
      column: start - lineStart + 1,
      spaced: next === 10 || next === 35 || isBlank(next),
    });
  };
  while (i < end) {
    const c = text.charCodeAt(i);
    if (isBlank(c)) i++;
    else if (c === 35) return true;
    else if (c === 44 || c === 62) {
      push(c === 44 ? 'comma' : 'arrow', i, i + 1, text[i]!);
      i++;
    } else if (c === 34) {
      const start = i++;
      let value = '';
      while (i < end && text[i] !== '"') {
        if (text[i] !== '\\') value += text[i++];
        else {
          const escaped = text[i + 1];
          if ((escaped === '"' || escaped === '\\') && i + 1 < end) value += escaped;
          else
            faults.push({
              what: 'escape-unknown',
              start: i,
              end: Math.min(i + 2, end),
              line,
              column: i - lineStart + 1,
            });
          i = Math.min(i + 2, end);
        }
      }
      if (i < end) i++;
      else faults.push({ what: 'string-open', start, end, line, column: start - lineStart + 1 });
      push('string', start, i, value);
    } else {
      const start = i;
      while (i < end) {
        const w = text.charCodeAt(i);
        if (isBlank(w) || w === 44 || w === 62 || w === 34 || w === 35) break;
        i++;
      }
      push('word', start, i, text.slice(start, i));
    }
  }
  return false;
}
