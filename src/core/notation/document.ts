/** Reading a whole file: every statement that can be read, and a problem for everything that cannot. */
import type { Services } from '#core/addr';
import type { Document, ReadProblem, Statement } from './ast';
import { lex } from './lexer';
import type { LexFault } from './lexer';
import { readStatement } from './statements';

/**
 * Reads one file. Never throws and never stops early: a bad statement is a problem, and reading resumes at the
 * next. Time is linear in the length of the text.
 */
export function parseDocument(text: string, file: string): Document {
  const { lines, faults } = lex(text);
  const statements: Statement[] = [];
  const problems: ReadProblem[] = faults.map((fault) => lexProblem(fault, file));
  const seen = new Map<string, number>();
  for (const line of lines) {
    const above = statements[statements.length - 1];
    const read = readStatement(line, file, statements.length, above?.kind, seen);
    if (read.statement) statements.push(read.statement);
    problems.push(...read.problems);
  }
  problems.sort((a, b) => a.at.start - b.at.start);
  return { file, text, statements, problems };
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
