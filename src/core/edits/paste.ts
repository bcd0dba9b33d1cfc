/** Statements pasted into a site: what clashes gets a free name, what is named and lacking is made. */
import { memo } from '#core/base';
import { parseDocument, written } from '#core/notation';
import type { FileChange, Kind, Statement } from '#core/notation';
import { documentOf } from '#core/site';
import type { Site } from '#core/site';
import { addStatement, changesTo, siteAfter } from './change';

export interface Pasted {
  readonly changes: readonly FileChange[];
  /** Subjects of what was put in, as they are called now. */
  readonly subjects: readonly string[];
  /** Names that were taken and what they became. */
  readonly renamed: readonly { readonly from: string; readonly to: string }[];
}

/** The text of statements, one after another, as it is copied. */
export const copyText = (site: Site, statements: readonly Statement[]): string =>
  statements.map((s) => documentOf(site, s).text.slice(s.start, s.end)).join('\n');

/** Reads pasted text; undefined where it holds no statement, or more that cannot be read than can. */
export function pasteStatements(site: Site, text: string): Pasted | undefined {
  const document = parseDocument(text, '');
  const fatal = new Set(document.problems.filter((p) => p.fatal).map((p) => p.subject));
  const good = document.statements.filter((s) => !fatal.has(s.subject) && s.kind !== 'box');
  if (!good.length || fatal.size > good.length) return undefined;
  const bodies = new Map<Kind, string[]>();
  const write = (kind: Kind, body: string) => memo(bodies, kind, (): string[] => []).push(body);
  const subjects: string[] = [];
  const renamed: { from: string; to: string }[] = [];
  const zones = new Set(site.zones.map((z) => z.name));
  const used = new Set<string>();
  const there = new Set(site.statements.map((s) => s.subject));
  /** By kind and beginning: the number that is tried next, so that many alike cost no more than their number. */
  const next = new Map<string, number>();
  for (const s of good) {
    let body = text.slice(s.start, s.end);
    let subject = s.subject;
    if ('name' in s && s.name) {
      const taken = (name: string) => used.has(`${s.kind}/${name}`) || there.has(`${s.kind}/${name}`);
      // A zone or port that is there already is the one that is meant.
      if (taken(s.name) && (s.kind === 'zone' || s.kind === 'port')) continue;
      let name = s.name;
      if (taken(name)) {
        const base = s.name.slice(0, 10);
        let n = next.get(`${s.kind}/${base}`) ?? 2;
        for (name = `${base}-${n}`; taken(name); n++) name = `${base}-${n + 1}`;
        next.set(`${s.kind}/${base}`, n);
        const token = written(s).header[0]!;
        body = text.slice(s.start, token.start) + name + text.slice(token.end, s.end);
        renamed.push({ from: s.name, to: name });
      }
      subject = `${s.kind}/${name}`;
      used.add(subject);
      if (s.kind === 'zone') zones.add(name);
    }
    write(s.kind, body);
    subjects.push(subject);
  }
  for (const s of good)
    if (s.kind === 'interface' && s.zone && !zones.has(s.zone.name)) {
      zones.add(s.zone.name);
      write('zone', `zone ${s.zone.name}:`);
    }
  return { changes: writtenInto(site, bodies), subjects, renamed };
}

/** The change that writes the bodies of each kind where their like stand, kind after kind. */
function writtenInto(site: Site, bodies: ReadonlyMap<Kind, readonly string[]>): FileChange[] {
  let now = site;
  for (const [kind, texts] of bodies) {
    const [change] = addStatement(now, kind, texts.join('\n'));
    if (!change) continue;
    now = siteAfter(now, [change]);
  }
  return changesTo(site, now);
}
