/** Files in and out of the window. */
import { parseDocument } from '#core/notation';
import type { Session } from '../../session/index';

/** Larger than any site, smaller than what would stall a page. */
const MOST = 5 * 1024 * 1024;

/** Reads dropped or chosen files into a new site; says what it cannot take. */
export async function readFiles(session: Session, files: readonly File[]): Promise<void> {
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
      read.push({ name: file.name, text });
    } catch {
      session.notice = `${file.name} is not UTF-8 text, so it was not opened.`;
      return;
    }
  }
  const name = (read[0]?.name ?? 'site').replace(/\.gate$/, '');
  session.begin(name, read);
  session.notice = `Opened ${read.map((f) => f.name).join(' and ')} as a new site; the one before is kept.`;
}

/** Pasted text that reads as statements becomes a new site; other text is left alone. */
export function readPasted(session: Session, text: string): void {
  const { statements, problems } = parseDocument(text, 'pasted.gate');
  if (!statements.length || problems.length > statements.length) return;
  session.begin('Pasted', [{ name: 'pasted.gate', text }]);
  session.notice = `Pasted ${statements.length} statements as a new site; the one before is kept.`;
}

/** Hands every file of the open site to the browser's downloads, byte for byte. */
export function exportFiles(session: Session): void {
  for (const file of session.files) {
    const url = URL.createObjectURL(new Blob([file.text], { type: 'text/plain;charset=utf-8' }));
    const link = document.createElement('a');
    link.href = url;
    link.download = file.name;
    link.click();
    setTimeout(() => URL.revokeObjectURL(url), 10_000);
  }
}
