/**
 * Where a text holds secrets of logins. They are found by their words and quotes alone, wherever they stand and however
 * they are written: a statement that cannot be read, a comment or a misspelt word keeps a secret as well as a good one.
 */
import { applyEdits } from './change';

/** A stretch of a text that is a secret, quotes included. */
export interface SecretSpan {
  readonly start: number;
  readonly end: number;
  /** What it says, without quotes. */
  readonly value: string;
  readonly amid: 'words' | 'string' | 'comment';
}

/** A string, or what is left of its line where it does not end. */
const STRING = '"(?:\\\\.|[^"\\\\\\n])*(?:"|\\\\?$)';
const BARE = '[^\\s,#"]+';
/** `secret "x"`, `SECRET = x`, `secret: "x"`; in a comment as well. */
const WORDED = new RegExp(`\\bsecrets?\\b[ \\t]*[=:]?[ \\t]*(?:\\n[ \\t]+)?(${STRING}|${BARE})`, 'gim');
/** Two strings in a row, commas and line ends between them: a login and its secret. */
const SECOND = new RegExp(`(${STRING})[ \\t]*,?[ \\t]*(?:(?:#[^\\n]*)?\\n[ \\t]+)?(${STRING})`, 'gm');
/** A login of which not both are in quotes: `pppoe "u" s gives`, `pppoe u s gives`. */
const LOGIN = new RegExp(
  `\\bpppo?e\\b[ \\t]*,?[ \\t]*(?:${STRING}|${BARE})[ \\t]*,?[ \\t]*(${STRING}|${BARE})[ \\t]*,?[ \\t]*gives\\b`,
  'gim',
);
/** Words that stand in the place of a secret without being one. */
const NO_SECRET = /^(?:on|user|secret|gives|peer|tag|at|p[0-9]+|[0-9]+|zone|left|out|…|\.\.\.|"")$/i;

const said = (written: string): string =>
  written.startsWith('"')
    ? written.slice(1, /[^\\]"$/.test(written) || written === '""' ? -1 : undefined)
    : written;

/** Where on its line an offset is: amid a string, in a comment, or among words. */
function amidAt(text: string, offset: number): SecretSpan['amid'] {
  let quoted = false;
  for (let i = text.lastIndexOf('\n', offset - 1) + 1; i < offset; i++) {
    const c = text[i];
    if (quoted && c === '\\') i++;
    else if (c === '"') quoted = !quoted;
    else if (c === '#' && !quoted) return 'comment';
  }
  return quoted ? 'string' : 'words';
}

/** The secrets of a text, in order; empty ones and those left out are none. */
export function secretsIn(text: string): SecretSpan[] {
  const out: SecretSpan[] = [];
  const add = (match: RegExpMatchArray, group: number) => {
    const written = match[group]!;
    const start = match.index! + match[0].lastIndexOf(written);
    const value = said(written);
    if (value === '' || NO_SECRET.test(written)) return;
    const amid = amidAt(text, match.index!);
    const bare = !written.startsWith('"');
    // In prose "the secret is in the safe" gives nothing away; a sign does.
    if (bare && amid !== 'words' && !/[=:]/.test(match[0].slice(0, -written.length))) return;
    if (out.some((s) => start < s.end && s.start < start + written.length)) return;
    out.push({ start, end: start + written.length, value, amid });
  };
  for (const match of text.matchAll(WORDED)) add(match, 1);
  for (const match of text.matchAll(LOGIN)) add(match, 1);
  for (const match of text.matchAll(SECOND)) add(match, 2);
  return out.sort((a, b) => a.start - b.start);
}

/** What stands where a secret stood. */
export const inPlaceOf = ({ amid }: SecretSpan): string => (amid === 'string' ? '…' : '""');

/** A text for showing, with its secrets as dots. */
export const maskSecrets = (text: string): string =>
  applyEdits(
    text,
    secretsIn(text).map(({ start, end, amid }) => ({ start, end, text: amid === 'string' ? '…' : '"…"' })),
  );
