/** Laying statements out anew: one space between words, masks as lengths, lines up to 100 characters. */
import { formatPrefix, lengthOfMask, parseIpv4, prefixOf } from '#core/addr';
import type { Clause } from './ast';
import { applyEdits } from './change';
import type { Document } from './document';
import type { Statement } from './kinds';
import { written } from './parts';
import { endOfLine } from './rewrite';

/** A string ends on its line: what foreign data has of line ends and other control characters is a space. */
const quote = (value: string): string => `"${oneLine(value).replace(/[\\"]/g, '\\$&')}"`;

/** Foreign text as it may stand in a comment or a string: on one line, whatever it says. */
export const oneLine = (value: string): string =>
  // eslint-disable-next-line no-control-regex
  value.replace(/[\u0000-\u001f\u007f\u0085\u2028\u2029]+/g, ' ');

/** A text value as the notation writes it. */
export const printString = quote;

/** Puts the head and clauses of a statement together, breaking lines between clauses. */
export function layOut(head: string, clauses: readonly string[], eol = '\n'): string {
  let out = head;
  let column = head.length;
  for (const [i, clause] of clauses.entries()) {
    const gap = i === 0 ? ' ' : ', ';
    const comma = i < clauses.length - 1 ? 1 : 0;
    if (i > 0 && column + gap.length + clause.length + comma > 100) {
      out += `,${eol}  ${clause}`;
      column = 2 + clause.length;
    } else {
      out += gap + clause;
      column += gap.length + clause.length;
    }
  }
  return out;
}

/**
 * One statement laid out anew. It reads to the same values as the statement it was made from; `keep` picks the clauses
 * that are printed.
 */
export function printStatement(
  statement: Statement,
  eol = '\n',
  keep: (clause: Clause) => boolean = () => true,
): string {
  return layOut(
    printHead(statement),
    written(statement)
      .clauses.filter(keep)
      .map((clause) => printClause(clause)),
    eol,
  );
}

/** A clause laid out anew, masks as lengths. */
export function printClause(clause: Clause): string {
  const words: string[] = [];
  for (let i = 0; i < clause.words.length; i++) {
    const token = clause.words[i]!;
    const mask =
      token.text === 'mask' && clause.words[i + 1] ? parseIpv4(clause.words[i + 1]!.text) : undefined;
    const length = mask === undefined ? undefined : lengthOfMask(mask);
    if (length !== undefined && words.length) {
      const before = parseIpv4(words[words.length - 1]!);
      words[words.length - 1] =
        before === undefined
          ? `${words[words.length - 1]}/${length}`
          : formatPrefix(prefixOf(before, length));
      i++;
    } else words.push(token.kind === 'string' ? quote(token.value) : token.text);
  }
  return words.join(' ');
}

/** Each clause of a statement laid out anew. */
export const printClauses = (statement: Statement): string[] => written(statement).clauses.map(printClause);

/** Kind and head of a statement, with its colon where it has one. */
export function printHead(statement: Statement): string {
  const header = written(statement).header.map((t) => (t.kind === 'string' ? quote(t.value) : t.text));
  return `${statement.kind} ${header.join(' ')}${statement.kind === 'expect' ? '' : ':'}`;
}

/** The whole file laid out anew; comments, empty lines and statements that hold comments or faults stay as they are. */
export function printDocument(document: Document): string {
  const eol = endOfLine(document.text);
  return applyEdits(
    document.text,
    document.statements
      .filter((s) => !written(s).commented && !s.broken)
      .map((s) => ({ start: s.start, end: s.end, text: printStatement(s, eol) })),
  );
}
