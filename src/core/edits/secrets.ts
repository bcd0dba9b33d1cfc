/** Secrets of logins: left out of what is handed on, and kept at hand when such a text comes back. */
import { applyEdits, parseDocument, printString } from '#core/notation';
import type { Edit } from '#core/notation';

/** The text without the secrets of its logins. Nothing else changes. */
export function withoutSecrets(text: string): string {
  const edits: Edit[] = [];
  for (const s of parseDocument(text, '').statements) {
    for (const clause of s.clauses) {
      if (clause.name !== 'pppoe') continue;
      if (s.kind === 'interface') {
        const at = clause.words.findIndex((w) => w.kind === 'word' && w.text === 'secret');
        const [word, value] = [clause.words[at], clause.words[at + 1]];
        const before = clause.words[at - 1];
        if (word && value && before) edits.push({ start: before.end, end: value.end, text: '' });
      } else {
        // The stand-in of a provider needs both strings; an empty one says that it was left out.
        const strings = clause.words.filter((w) => w.kind === 'string');
        const secret = strings[1];
        if (secret) edits.push({ start: secret.start, end: secret.end, text: '""' });
      }
    }
  }
  return applyEdits(text, edits);
}

/** Whether the text holds any secret. */
export const holdsSecrets = (text: string): boolean => withoutSecrets(text) !== text;

/** A text whose secrets were left out, with those that `known` has for the same logins put back. */
export function withSecretsOf(text: string, known: string): string {
  const secrets = new Map<string, string>();
  for (const s of parseDocument(known, '').statements) {
    if (s.kind === 'interface' && s.carrier?.by === 'pppoe' && s.carrier.secret)
      secrets.set(`${s.subject} ${s.carrier.user}`, s.carrier.secret);
    if (s.kind === 'circuit' && s.pppoe?.value.secret)
      secrets.set(`${s.subject} ${s.pppoe.value.user}`, s.pppoe.value.secret);
  }
  const edits: Edit[] = [];
  for (const s of parseDocument(text, '').statements) {
    const clause = s.clauses.find((c) => c.name === 'pppoe');
    if (!clause) continue;
    const strings = clause.words.filter((w) => w.kind === 'string');
    if (s.kind === 'interface' && s.carrier?.by === 'pppoe' && !s.carrier.secret) {
      const secret = secrets.get(`${s.subject} ${s.carrier.user}`);
      const user = strings[0];
      if (secret !== undefined && user)
        edits.push({ start: user.end, end: user.end, text: ` secret ${printString(secret)}` });
    }
    if (s.kind === 'circuit' && s.pppoe && !s.pppoe.value.secret) {
      const secret = secrets.get(`${s.subject} ${s.pppoe.value.user}`);
      const empty = strings[1];
      if (secret !== undefined && empty)
        edits.push({ start: empty.start, end: empty.end, text: printString(secret) });
    }
  }
  return applyEdits(text, edits);
}
