/** Text of others as it may stand in a page of Markdown: nothing in it is markup (CommonMark 0.31.2, §2.4, §6.1). */

/** A line that shows no picture, no link and no HTML, and ends no cell. */
export const markdownText = (text: string): string =>
  text
    .replace(/[\r\n]+/g, ' ')
    .replace(/[\\<[\]`|&]/g, '\\$&')
    .replace(/^(\s*)([#>+*-])/, '$1\\$2');

/** A row of a table. */
export const markdownRow = (cells: readonly (string | number)[]): string =>
  `| ${cells.map((c) => markdownText(String(c))).join(' | ')} |`;

/** The line between the heads of a table and its rows. */
export const markdownRule = (heads: readonly unknown[]): string =>
  `| ${heads.map(() => '---').join(' | ')} |`;

/** A line shown letter by letter, whatever it holds. */
export function markdownCode(text: string): string {
  const line = text.replace(/[\r\n]+/g, ' ');
  const fence = '`'.repeat(Math.max(0, ...[...line.matchAll(/`+/g)].map((m) => m[0].length)) + 1);
  // What begins or ends with a backtick stands apart from its fence.
  const space = line.startsWith('`') || line.endsWith('`') ? ' ' : '';
  return `${fence}${space}${line}${space}${fence}`;
}
