/** Files in and out of the window. */
import { leaveSecretsOut, pasteStatements, twinText, withSecretsOf } from '#core/edits';
import type { Files } from '#core/change';
import { WIRING_KINDS, parseDocument } from '#core/notation';
import { buildSite } from '#core/site';
import type { Session } from '../../session/index';
import type { Incoming } from '../../session/index';
import { saveFile } from '../save';
import { parcelName, unpack } from './parcel';

/** Larger than any site, smaller than what would stall a page. */
const MOST = 5 * 1024 * 1024;

/** Whether so many bytes are more than a page can read; it says so then. */
export function tooMuch(session: Session, name: string, bytes: number): boolean {
  if (bytes <= MOST) return false;
  session.notice = `${name} has ${(bytes / 1024 / 1024).toFixed(1)} MB; at most 5 MB can be opened here.`;
  return true;
}

type Readers = typeof import('./readers');
const readers = (): Promise<Readers> => import('./readers');

type Read = { readonly name: string; text: string };

/** Reads dropped or chosen files; what each is decides what is offered. Says what it cannot take. */
export async function readFiles(session: Session, files: readonly File[]): Promise<void> {
  await session.started;
  const name = files.length === 1 ? files[0]!.name : `What was dropped (${files.length} files)`;
  const bytes = files.reduce((sum, f) => sum + f.size, 0);
  if (tooMuch(session, name, bytes)) return;
  const by = await readers();
  const read: Read[] = [];
  for (const file of files) {
    const bytes = await file.arrayBuffer().then(
      (b) => new Uint8Array(b),
      () => undefined,
    );
    if (!bytes) {
      session.notice = `${file.name} is a folder, or cannot be read; open the files in it.`;
      return;
    }
    if (by.isCapture(bytes)) {
      const capture = by.readCapture(bytes);
      if (capture?.flows.length) session.nav.incoming = { what: 'capture', name: file.name, capture };
      else session.notice = `${file.name} is a capture without a flow of IP in it.`;
      return;
    }
    try {
      // A BOM stays: an export gives back every byte.
      const text = new TextDecoder('utf-8', { fatal: true, ignoreBOM: true }).decode(bytes);
      // Two files of one name are two files.
      let name = file.name;
      for (let n = 2; read.some((f) => f.name === name); n++)
        name = file.name.replace(/(\.\w+)?$/, `-${n}$1`);
      read.push({ name, text });
    } catch {
      session.notice = `${file.name} is not UTF-8 text, so it was not opened.`;
      return;
    }
  }
  offer(session, read, by);
}

/** Sorts what was read by what it is, and offers it to the right reader. */
function offer(session: Session, read: readonly Read[], by: Readers): void {
  const kinds = read.map((f) => ({ ...f, is: by.recogniseText(f.text, f.name) }));
  const of = (...is: readonly string[]) => kinds.filter((k) => is.includes(k.is));
  const gates = of('gate');
  const reports = of('ip-link', 'ip-addr', 'ip-route');
  const [yang] = of('yang');
  const [sheet] = of('sheet');
  const [plan] = of('address-plan');
  if (gates.length) return offerGates(session, gates);
  if (yang) {
    const site = by.readYang(yang.text);
    if (site.ok)
      return offerGates(
        session,
        [{ name: yang.name.replace(/\.\w+$/, '.gate'), text: site.text }],
        site.left,
      );
    session.notice = `${yang.name} cannot be read as a site: ${site.where}: ${site.why}`;
  } else if (reports.length) return offerReports(session, reports, by);
  else if (sheet) session.nav.incoming = { what: 'sheet', name: sheet.name, text: sheet.text };
  else if (plan) {
    session.nav.plan = { name: plan.name, text: plan.text };
    session.nav.view = 'subnets';
  } else session.notice = notTaken(kinds[0]);
}

function notTaken(file: { readonly name: string; readonly is: string } | undefined): string {
  if (!file) return 'There was nothing to open.';
  switch (file.is) {
    case 'ip-plain':
      return `${file.name} is a report of ip without JSON. Take it with -j: ip -j -d link, ip -j addr, ip -j route, and drop all three files.`;
    default:
      return `${file.name} is no .gate file, no provider’s sheet, no report of ip -j and no YANG JSON, so it was not opened.`;
  }
}

function offerGates(session: Session, gates: readonly Read[], left: readonly string[] = []): void {
  // What was exported without its secrets gets those at hand back.
  const known = session.files.map((f) => f.text).join('\n');
  const files = gates.map((f) => ({ name: f.name, text: withSecretsOf(f.text, known) }));
  session.nav.incoming = {
    what: 'site',
    ...unpack(files),
    lacking: files.reduce((sum, f) => sum + lackingSecrets(f.text), 0),
    left,
  };
}

/** Reports of a Linux box, which may come one by one: they wait until link, addr and route are there. */
function offerReports(
  session: Session,
  reports: readonly (Read & { readonly is: string })[],
  by: Readers,
): void {
  const waiting = session.nav.incoming?.what === 'reports' ? session.nav.incoming.given : {};
  const given = { ...waiting, ...Object.fromEntries(reports.map((r) => [r.is.replace('ip-', ''), r.text])) };
  const { link, addr, route } = given;
  if (link === undefined || addr === undefined || route === undefined) {
    session.nav.incoming = { what: 'reports', given };
    return;
  }
  const box = by.readLinuxBox({ link, addr, route });
  session.nav.incoming = undefined;
  if (box.ok) offerGates(session, [{ name: 'box.gate', text: box.value.text }], box.value.left);
  else session.notice = `The ${box.fault.report} report cannot be read: ${box.fault.why}`;
}

/** Opens what came in as a site of its own. */
export function openAsNew(session: Session, { name, draft, running, startup, lacking }: SiteIncoming): void {
  const runs = running.length ? running : undefined;
  session.begin(name, draft.length ? draft : running, {
    ...(runs && draft.length ? { running: runs } : {}),
    ...(startup.length ? { startup } : {}),
  });
  session.notice = [
    `Opened as the new site ${name}; the one before is kept.`,
    ...(lacking ? [`${lacking} secret${lacking > 1 ? 's are' : ' is'} not in it and not at hand.`] : []),
    ...(runs ? [] : ['What the box runs is taken to be the same.']),
  ].join(' ');
}

type SiteIncoming = Extract<Incoming, { what: 'site' }>;

/** Puts what came in into the open site instead of its files of the same name or part; one undo takes it back. */
export function openInto(session: Session, { draft, running }: SiteIncoming): void {
  const isWiring = (text: string) => {
    const { statements } = parseDocument(text, '');
    return statements.length > 0 && statements.every((s) => WIRING_KINDS.has(s.kind));
  };
  const given = draft.length ? draft : running;
  const taken = new Map<string, string>();
  for (const file of given) {
    const same = session.files.find((f) => f.name === file.name && !taken.has(f.name));
    const like = session.files.find((f) => !taken.has(f.name) && isWiring(f.text) === isWiring(file.text));
    const home = same ?? like;
    if (home) taken.set(home.name, file.text);
    else {
      const [first] = taken.keys();
      if (first !== undefined) taken.set(first, `${taken.get(first)!.replace(/\n*$/, '\n\n')}${file.text}`);
    }
  }
  if (session.replaceTexts(taken, `open ${given.map((f) => f.name).join(' and ')} here`))
    session.notice = `Put into this site: ${[...taken.keys()].join(' and ')}. Undo takes it back.`;
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
 * Takes pasted text: statements into the open site, or as a new one where they bring a box of their own; anything else
 * that is recognised is offered to its reader. Prose is left alone.
 */
export async function readPasted(session: Session, text: string): Promise<void> {
  if (!session.ready) return;
  const by = await readers();
  const is = by.recogniseText(text);
  if (is !== 'gate') {
    if (is !== 'unknown') offer(session, [{ name: 'What was pasted', text }], by);
    return;
  }
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
  for (const { name, text } of files) saveFile(name, text);
}

/** What goes along with the draft. */
export interface ExportWith {
  readonly secrets: boolean;
  /** What the box runs, and what it starts with. */
  readonly box: boolean;
  /** The box file of the second one of two boxes. */
  readonly twin: boolean;
}

/**
 * Hands every file of the open site to the browser's downloads, byte for byte but for the secrets of logins, which are
 * left out unless they are asked for, and counted.
 */
export function exportFiles(session: Session, { secrets, box, twin }: ExportWith): void {
  const now = new Date();
  const named = (files: Files, part: 'draft' | 'running' | 'startup') =>
    files.map(({ name, text }) => ({ name: parcelName(session.name, now, name, part), text }));
  let left = 0;
  const second = twin ? twinText(session.site) : undefined;
  const files = [
    ...named(session.files, 'draft'),
    ...(box ? [...named(session.box.running, 'running'), ...named(session.box.startup, 'startup')] : []),
    ...(second === undefined ? [] : [{ name: `${session.site.box!.twin!.value.name}.gate`, text: second }]),
  ].map(({ name, text }) => {
    if (secrets) return { name, text };
    const bare = leaveSecretsOut(text);
    left += bare.left;
    return { name, text: bare.text };
  });
  download(files);
  session.notice = `Exported ${files.length} files${left ? `; ${left} secret${left > 1 ? 's' : ''} left out` : ''}.`;
}
