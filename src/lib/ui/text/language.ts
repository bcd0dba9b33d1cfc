/** The notation as an editor sees it: words by what they are, and what can be folded. */
import { HighlightStyle, StreamLanguage } from '@codemirror/language';
import { tags } from '@lezer/highlight';
import { CLAUSES, KINDS } from '#core/notation';
import type { Kind } from '#core/notation';

interface Reading {
  /** The kind of the statement that is being read. */
  kind?: Kind;
  /** Whether the next word names a clause. */
  clause: boolean;
  /** Behind the header's colon. */
  body: boolean;
}

/** Words that join others, in any clause. */
const JOINING = new Set(
  'by from to for via on tag as mask in and else at pcp subnet behind reaches never leaves answers'.split(
    ' ',
  ),
);

export const gateLanguage = StreamLanguage.define<Reading>({
  name: 'gate',
  startState: () => ({ clause: false, body: false }),
  token(stream, state) {
    if (stream.sol() && !/^[ \t]|^#/.test(stream.string)) {
      state.kind = undefined;
      state.body = state.clause = false;
    }
    if (stream.eatSpace()) return null;
    if (stream.peek() === '#') {
      stream.skipToEnd();
      return 'comment';
    }
    if (stream.match(/^"(?:\\.|[^"\\])*"?/)) return 'string';
    if (stream.eat(',')) {
      state.clause = state.body;
      return 'punctuation';
    }
    if (stream.eat('>')) return 'punctuation';
    const word = /^[^\s,>"#]+/.exec(stream.string.slice(stream.pos))?.[0] ?? stream.next() ?? '';
    const colon = !state.body && /^(.*[^:]|):$/.test(word);
    if (state.kind === undefined) {
      stream.pos += word.length;
      state.kind = KINDS.find((k) => k === word.replace(/:$/, ''));
      if (word.endsWith(':')) state.body = state.clause = true;
      if (state.kind === 'expect') state.body = true;
      return state.kind ? 'keyword' : 'invalid';
    }
    if (colon) {
      stream.pos += Math.max(1, word.length - 1);
      if (word.length > 1) return 'variableName';
      state.body = state.clause = true;
      return 'punctuation';
    }
    if (word === ':' || (!state.body && stream.peek() === ':')) {
      stream.next();
      state.body = state.clause = true;
      return 'punctuation';
    }
    stream.pos += word.length;
    const first = state.clause;
    state.clause = false;
    if (first && CLAUSES[state.kind].includes(word)) return 'propertyName';
    if (/^[.0-9a-fA-F:]*[.:\d][.0-9a-fA-F:/-]*$/.test(word)) return 'number';
    if (JOINING.has(word)) return 'operator';
    return state.body ? 'name' : 'variableName';
  },
  languageData: { commentTokens: { line: '#' } },
});

/** Kinds bold, clauses in the accent, values plain: a page of addresses should stay calm. */
export const gateStyle = HighlightStyle.define([
  { tag: tags.keyword, fontWeight: '700' },
  { tag: tags.variableName, fontWeight: '600', color: 'var(--color-primary)' },
  { tag: tags.propertyName, color: 'var(--color-info)' },
  { tag: tags.operator, color: 'var(--quiet)' },
  { tag: tags.number, color: 'var(--color-base-content)' },
  { tag: tags.string, color: 'var(--color-success)' },
  { tag: tags.comment, color: 'var(--quiet)', fontStyle: 'italic' },
  { tag: tags.punctuation, color: 'var(--quiet)' },
  { tag: tags.invalid, color: 'var(--color-error)', textDecoration: 'underline wavy' },
]);
