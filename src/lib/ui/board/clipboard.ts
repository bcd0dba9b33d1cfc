/** Slabs to the clipboard and back, as the text they are. */
import { copyText } from '#core/edits';
import type { Session } from '../../session/index';

/** Puts the statements of the selected slabs (or of the one in focus) on the clipboard, where nothing else is marked. */
export function copySlabs(session: Session, event: ClipboardEvent, focused: string | undefined): void {
  const target = event.target;
  if (target instanceof HTMLElement && target.closest('input, textarea, [contenteditable]')) return;
  if (document.getSelection()?.toString()) return;
  const subjects = session.nav.selection.length ? session.nav.selection : focused ? [focused] : [];
  const statements = subjects.flatMap((s) => session.statementOf(s) ?? []);
  if (!statements.length) return;
  event.preventDefault();
  event.clipboardData?.setData('text/plain', `${copyText(session.site, statements)}\n`);
  session.notice = `Copied ${statements.length > 1 ? `${statements.length} statements` : statements[0]!.subject.replace('/', ' ')}.`;
}
