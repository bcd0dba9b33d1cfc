/** `check`: findings in file order, or the box file with a mend applied. */
import type { Day } from '#core/base';
import { applyEdits, isOfBox } from '#core/notation';
import { contextOf, findAll, withProvenMends } from '#core/findings';
import type { Finding } from '#core/findings';
import { modelOf } from '#core/model';
import { Reach } from '#core/reach';
import { buildSite } from '#core/site';
import { findingText, mendText } from '#words';
import { Unusable, readDocuments } from './input';
import type { CommandResult } from './outcome';

/**
 * How many mends are tried: trying one costs what the site is long and what is found in it, and a site with hundreds of
 * faults is answered before all of its mends are tried.
 */
const triable = (statements: number, findings: number): number =>
  Math.max(1, Math.min(200, Math.floor(10_000 / (statements + findings + 1))));

const MARKS = { error: '■', warning: '▲', advice: '●' } as const;

export function check(files: readonly string[], mend?: string, at?: Day): CommandResult {
  const documents = readDocuments(files);
  const context = contextOf(new Reach(modelOf(buildSite(documents, at))));
  const found = findAll(context);
  const wanted = mend === undefined ? undefined : readWanted(mend);
  const asked = wanted ? found.filter(wanted.fits) : found;
  const statements = documents.reduce((sum, d) => sum + d.statements.length, 0);
  // Only what does what it offers is offered.
  const findings = [...withProvenMends(context, asked, triable(statements, found.length), found)];
  if (wanted) return { text: mended(documents, findings, wanted), status: 0 };
  const json = {
    findings: findings.map((f) => ({
      code: f.code,
      severity: f.severity,
      subject: f.subject,
      file: f.file,
      line: f.at.line,
      message: findingText(f),
      mends: f.mends.map((m) => ({ label: mendText(m) })),
    })),
  };
  const lines = findings.flatMap((f) => [
    `${MARKS[f.severity]} ${f.file}:${f.at.line}:${f.at.column} ${f.code} ${f.subject}: ${findingText(f)}`,
    ...f.mends.map((m) => `    mend: ${mendText(m)}`),
  ]);
  const count = (s: Finding['severity']) => findings.filter((f) => f.severity === s).length;
  lines.push(`${count('error')} errors, ${count('warning')} warnings, ${count('advice')} advice`);
  return { json, text: `${lines.join('\n')}\n`, status: count('error') ? 1 : 0 };
}

interface Wanted {
  readonly text: string;
  readonly fits: (finding: Finding) => boolean;
  /** Which of those that fit, counted from 1; the first with a mend where absent. */
  readonly nth?: number;
}

/** Reads `CODE[:SUBJECT][~N]`. */
function readWanted(text: string): Wanted {
  const [, code, subject, nth] = /^([^:]*?)(?::(.*?))?(?:~([1-9][0-9]*))?$/s.exec(text)!;
  return {
    text,
    fits: (f) => f.code === code && (subject === undefined || f.subject === subject),
    nth: nth === undefined ? undefined : Number(nth),
  };
}

/** The text of the box file (or of the one file that the mend changes) after the first mend of a finding. */
function mended(
  documents: ReturnType<typeof readDocuments>,
  findings: readonly Finding[],
  wanted: Wanted,
): string {
  const { nth, text } = wanted;
  const finding = nth === undefined ? findings.find((f) => f.mends.length > 0) : findings[nth - 1];
  if (!finding?.mends.length)
    throw new Unusable(findings.length ? `${text} has no mend` : `there is no finding ${text}`);
  const changes = finding.mends[0]!.changes;
  const box = documents.filter((d) => d.statements.some(isOfBox));
  const file =
    box.find((d) => changes.some((c) => c.file === d.file)) ??
    documents.find((d) => changes.some((c) => c.file === d.file))!;
  return applyEdits(file.text, changes.find((c) => c.file === file.file)!.edits);
}
