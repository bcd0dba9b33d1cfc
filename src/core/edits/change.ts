/** Changes of a site as text changes: of clauses, of whole statements, of several files at once. */
import {
  applyEdits,
  diffEdits,
  insertStatement,
  mergeEdits,
  parseDocument,
  removeStatement,
  rewriteStatement,
} from '#core/notation';
import type { ClauseOp, Document, FileChange, Kind, Statement } from '#core/notation';
import { WIRING_KINDS } from '#core/notation';
import { buildSite, documentOf } from '#core/site';
import type { Site } from '#core/site';

/** Does something to the clauses of one statement. */
export function changeClauses(
  site: Site,
  statement: Statement,
  ops: readonly ClauseOp[],
  options: { readonly follow?: boolean } = {},
): FileChange[] {
  const edits = rewriteStatement(documentOf(site, statement), statement, ops, options);
  return edits.length ? [{ file: statement.file, edits }] : [];
}

/** The file that a new statement of this kind belongs in: where its like stand, else the first of its role. */
export function homeOf(site: Site, kind: Kind): Document | undefined {
  const same = site.documents.find((d) => d.statements.some((s) => s.kind === kind));
  const wiring = WIRING_KINDS.has(kind);
  const role = site.documents.find((d) => d.statements.some((s) => WIRING_KINDS.has(s.kind) === wiring));
  const named = site.documents.find((d) => /wiring/.test(d.file) === wiring);
  return same ?? role ?? named ?? site.documents[0];
}

/** Writes a new statement where its like stand, or behind (or before) a given one. */
export function addStatement(
  site: Site,
  kind: Kind,
  text: string,
  place: { readonly after?: Statement; readonly before?: Statement } = {},
): FileChange[] {
  const beside = place.after ?? place.before;
  const document = beside ? documentOf(site, beside) : homeOf(site, kind);
  return document ? [{ file: document.file, edits: insertStatement(document, kind, text, place) }] : [];
}

/** The site after changes; what did not change is not read again. */
export const siteAfter = (site: Site, changes: readonly FileChange[]): Site =>
  changes.length
    ? buildSite(
        site.documents.map((d) => {
          const change = changes.find((c) => c.file === d.file);
          return change ? parseDocument(applyEdits(d.text, change.edits), d.file, d) : d;
        }),
        site.today,
      )
    : site;

/** What makes one site's texts of another's that was made of it by changes. */
export const changesTo = (before: Site, after: Site): FileChange[] =>
  after.documents.flatMap((d, i) => {
    const was = before.documents[i]!;
    const edits = was === d ? [] : diffEdits(was.text, d.text);
    return edits.length ? [{ file: d.file, edits }] : [];
  });

/** Takes a statement out. */
export const dropStatement = (site: Site, statement: Statement): FileChange[] => [
  { file: statement.file, edits: removeStatement(documentOf(site, statement), statement) },
];

/** Several changes, each made against the same text, as one. Of two that touch the same place the first stands. */
export function joinChanges(...changes: readonly (readonly FileChange[])[]): FileChange[] {
  const files = new Map<string, FileChange['edits'][number][]>();
  for (const change of changes.flat())
    files.set(change.file, [...(files.get(change.file) ?? []), ...change.edits]);
  return [...files].map(([file, edits]) => ({ file, edits: mergeEdits(edits) }));
}
