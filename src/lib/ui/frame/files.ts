/** Files in and out of the window. */
import { leaveSecretsOut, pasteStatements, withSecretsOf } from '#core/edits';
import { parseDocument } from '#core/notation';
import { buildSite } from '#core/site';
import type { Session } from '../../session/index';

/** Larger than any site, smaller than what would stall a page. */
const MOST = 5 * 1024 * 1024;

/** Reads dropped or chosen files into a new site; says what it cannot take. */
export async function readFiles(session: Session, files: readonly File[]): Promise<void> {
  await session.started;
  const gates = files.filter((f) => f.name.endsWith('.gate'));
  if (!gates.length) {
    session.notice = `${files[0]?.name ?? 'That'} is no .gate file, so it was not opened.`;
    return;
  }
  const read: { name: string; text: string }[] = [];
  for (const file of gates) {
    if (file.size > MOST) {
      session.notice = `${file.name} has ${Math.round(file.size / 1024 / 1024)} MB; at most 5 MB can be opened here.`;
      return;
    }
    try {
      const bytes = await file.arrayBuffer();
      // A BOM stays: an export gives back every byte.
      const text = new TextDecoder('utf-8', { fatal: true, ignoreBOM: true }).decode(bytes);
      // Two files of one name are two files.
      let name = file.name;
      for (let n = 2; read.some((f) => f.name === name); n++)
        name = file.name.replace(/(\.gate)$/, `-${n}$1`);
      read.push({ name, text });
    } catch {
      session.notice = `${file.name} is not UTF-8 text, so it was not opened.`;
      return;
    }
  }
  // What was exported without its secrets gets those at hand back.
  const known = session.files.map((f) => f.text).join('\n');
  for (const file of read) file.text = withSecretsOf(file.text, known);
  const drafts = read.filter((f) => !RUNNING.test(f.name));
  const ran = read
    .filter((f) => RUNNING.test(f.name))
    .map((f) => ({ ...f, name: f.name.replace(RUNNING, '.gate') }));
  const name = (drafts[0]?.name ?? 'site').replace(/\.gate$/, '');
  session.begin(name, drafts.length ? drafts : ran, ran.length && drafts.length ? { running: ran } : {});
  const lacking = read.reduce((sum, f) => sum + lackingSecrets(f.text), 0);
  session.notice = [
    `Opened ${read.map((f) => f.name).join(' and ')} as a new site; the one before is kept.`,
    ...(lacking ? [`${lacking} secret${lacking > 1 ? 's are' : ' is'} not in it and not at hand.`] : []),
    ...(ran.length || !drafts.length ? [] : ['What the box runs is taken to be the same.']),
  ].join(' ');
}

/** How many logins of a text have no secret, as in an export that left them out. */
function lackingSecrets(text: string): number {
  return parseDocument(text, '').statements.filter(
    (s) =>
      (s.kind === 'interface' && s.carrier?.by === 'pppoe' && !s.carrier.secret) ||
      (s.kind === 'circuit' && s.pppoe && !s.pppoe.value.secret),
  ).length;
}

/**
 * Takes pasted statements: into the open site, or as a new one where they bring a box of their own. Anything else is
 * left alone.
 */
export function readPasted(session: Session, text: string): void {
  if (!session.ready) return;
  const { statements } = parseDocument(text, 'pasted.gate');
  if (statements.some((s) => s.kind === 'box') || !session.site.statements.length) {
    if (!pasteStatements(emptySite, text)) return;
    session.begin('Pasted', [{ name: 'pasted.gate', text }]);
    session.notice = `Pasted ${statements.length} statements as a new site; the one before is kept.`;
    return;
  }
  const pasted = pasteStatements(session.site, text);
  if (!pasted) return;
  const count = pasted.subjects.length;
  if (!session.apply(pasted.changes, `paste ${count} statement${count > 1 ? 's' : ''}`)) return;
  session.nav.select(...pasted.subjects.filter((s) => s.startsWith('interface/')));
  const renamed = pasted.renamed.map((r) => `${r.from} is ${r.to}`).join(', ');
  session.notice = `Pasted ${count} statement${count > 1 ? 's' : ''}${renamed ? `; names that were taken: ${renamed}` : ''}.`;
}

/** What pasted text is read against where nothing is open. */
const emptySite = buildSite([]);

/** Hands files to the browser's downloads. */
export function download(files: readonly { readonly name: string; readonly text: string }[]): void {
  for (const file of files) {
    const url = URL.createObjectURL(new Blob([file.text], { type: 'text/plain;charset=utf-8' }));
    const link = document.createElement('a');
    link.href = url;
    link.download = file.name;
    link.click();
    setTimeout(() => URL.revokeObjectURL(url), 10_000);
  }
}

/** What a file is called that holds what the box runs, where the draft is something else. */
const RUNNING = /\.running\.gate$/;

/**
 * Hands every file of the open site to the browser's downloads, byte for byte but for the secrets of logins, which are
 * left out unless they are asked for, and counted. Where the box runs something else than the draft, that goes along.
 */
export function exportFiles(session: Session, withSecrets = false): void {
  const ran = session.changes.length ? session.box.running : [];
  const running = ran.map((f) => ({ name: f.name.replace(/(\.gate)?$/, '.running.gate'), text: f.text }));
  let left = 0;
  const files = [...session.files, ...running].map(({ name, text }) => {
    if (withSecrets) return { name, text };
    const bare = leaveSecretsOut(text);
    left += bare.left;
    return { name, text: bare.text };
  });
  download(files);
  const beside = running.length ? ' What the box runs is in a file of its own.' : '';
  session.notice = left
    ? `Exported; ${left} secret${left > 1 ? 's' : ''} left out.${beside}`
    : `Exported.${beside}`;
}
