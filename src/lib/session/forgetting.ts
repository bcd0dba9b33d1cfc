/** Taking the secrets of logins out of all that the browser keeps of a site. */
import { leaveSecretsOut } from '#core/edits';
import { readHandoff } from '#core/formats/handoff';
import type { Files } from '#core/change';
import type { StoredSite } from './db';

/**
 * A kept site without its secrets, and in how many places one stood: in the draft, what runs, start-up, a trial, the
 * history, what the box agreed to, and the provider's sheet. What could be undone goes where something was taken out:
 * its steps are made for a text that holds the secret.
 */
export function forgetSecretsOf(site: StoredSite): { readonly site: StoredSite; readonly taken: number } {
  let taken = 0;
  const bare = (files: Files): { name: string; text: string }[] =>
    files.map(({ name, text }) => {
      const out = leaveSecretsOut(text);
      taken += out.left;
      return { name, text: out.text };
    });
  const { box, undo, redo } = site;
  const files = bare(site.files);
  const forgotten: StoredSite = {
    ...site,
    files,
    box: {
      ...box,
      running: bare(box.running),
      startup: bare(box.startup),
      trial: box.trial && { ...box.trial, before: bare(box.trial.before) },
      history: box.history.map((h) => ({
        ...h,
        files: bare(h.files),
        before: h.before && bare(h.before),
      })),
    },
    agreed: site.agreed && bare(site.agreed),
    sheet: withoutSheetSecret(site.sheet, () => taken++),
    sheetRows: withoutSecretRow(site.sheetRows, () => taken++),
  };
  const steps = [...undo, ...redo].flatMap((s) => [...s.forward, ...s.back]).flatMap((c) => c.edits);
  taken += steps.reduce((sum, edit) => sum + leaveSecretsOut(edit.text).left, 0);
  return taken ? { site: { ...forgotten, undo: [], redo: [] }, taken } : { site, taken };
}

/** The corrected rows of a sheet, its secret left out. */
function withoutSecretRow(rows: StoredSite['sheetRows'], took: () => void): StoredSite['sheetRows'] {
  const { secret, ...others } = rows;
  if (secret) took();
  return secret === undefined ? rows : others;
}

/** A sheet whose secret, wherever it stands, is dots. */
function withoutSheetSecret(sheet: string, took: () => void): string {
  const { found, circuits, contradictions } = readHandoff(sheet, { name: 'line', port: 'p1', zone: 'world' });
  const secrets = [
    found.secret,
    ...(circuits ?? []).map((c) => c.found.secret),
    ...contradictions.flatMap((c) => (c.code === 'secret-twice' ? Object.values(c.values) : [])),
  ];
  return secrets.reduce<string>((text, secret) => {
    if (!secret || !text.includes(secret)) return text;
    took();
    return text.replaceAll(secret, '…');
  }, sheet);
}
