/**
 * The one way to a terminal, or to whatever reads us: what a box or a file says may hold sequences that move a cursor, hide
 * a line or turn the order of letters round. They are shown instead of obeyed.
 */

/** C0 but tab and line end, DEL, C1 (ECMA-48), marks that turn the direction of letters (UAX #9), and other line ends. */
const OBEYED =
  // eslint-disable-next-line no-control-regex
  /\r(?!\n)|[\u0000-\u0008\u000b\u000c\u000e-\u001f\u007f-\u009f\u061c\u200e\u200f\u2028-\u202e\u2066-\u2069]/g;

const code = (character: string): string => character.charCodeAt(0).toString(16).padStart(4, '0');

/** A text in which what a terminal would obey is readable, as `<U+001B>`; line ends and tabs stay. */
export const shown = (text: string): string => text.replace(OBEYED, (c) => `<U+${code(c).toUpperCase()}>`);

/** A value as one JSON document (RFC 8259 §7: any character may be escaped), which means the same and moves no cursor. */
export const jsonText = (value: unknown, indent?: number): string =>
  `${JSON.stringify(value, null, indent).replace(OBEYED, (c) => `\\u${code(c)}`)}\n`;

/** The answer, on standard output. */
export const answer = (text: string): void => void process.stdout.write(shown(text));

/** What is told beside the answer, a line or more, on standard error. */
export const aside = (text: string): void => void process.stderr.write(`${shown(text)}\n`);
