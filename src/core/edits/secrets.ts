/** Secrets of logins: left out of what is handed on, and kept at hand when such a text comes back. */
import {
  applyEdits,
  clausesOf,
  inPlaceOf,
  mergeEdits,
  parseDocument,
  printString,
  secretsIn,
  written,
} from '#core/notation';
import type { Edit } from '#core/notation';

/** A text without the secrets of its logins, and how many were left out. Nothing else changes. */
export function leaveSecretsOut(text: string): { readonly text: string; readonly left: number } {
  const secrets = secretsIn(text);
  if (!secrets.length) return { text, left: 0 };
  const clauses = new Map<number, Edit>();
  for (const s of parseDocument(text, '').statements) {
    if (s.kind !== 'interface') continue;
    for (const clause of written(s).clauses) {
      const at = clause.words.findIndex((w) => w.kind === 'word' && w.text === 'secret');
      const [word, value] = [clause.words[at], clause.words[at + 1]];
      const before = clause.words[at - 1];
      // Where it can be read as what it is, the word goes with it.
      if (word && value?.kind === 'string' && before)
        clauses.set(value.start, { start: before.end, end: value.end, text: '' });
    }
  }
  const plain: Edit[] = secrets.map(
    (s) => clauses.get(s.start) ?? { start: s.start, end: s.end, text: inPlaceOf(s) },
  );
  return { text: applyEdits(text, mergeEdits(plain)), left: secrets.length };
}

/** Whether the text holds any secret. */
export const holdsSecrets = (text: string): boolean => secretsIn(text).length > 0;

/** A text whose secrets were left out, with those that `known` has for the same logins put back. */
export function withSecretsOf(text: string, known: string): string {
  // Most texts know of no login, and reading a long one takes its time.
  if (![text, known].every((t) => t.includes('pppoe'))) return text;
  const secrets = new Map<string, string>();
  for (const s of parseDocument(known, '').statements) {
    if (s.kind === 'interface' && s.carrier?.by === 'pppoe' && s.carrier.secret)
      secrets.set(`${s.subject} ${s.carrier.user}`, s.carrier.secret);
    if (s.kind === 'circuit' && s.pppoe?.value.secret)
      secrets.set(`${s.subject} ${s.pppoe.value.user}`, s.pppoe.value.secret);
  }
  const edits: Edit[] = [];
  for (const s of parseDocument(text, '').statements) {
    const clause = clausesOf(s, 'pppoe')[0];
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
