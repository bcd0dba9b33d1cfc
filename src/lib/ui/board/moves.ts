/** What carrying something over the board to a place of it would write. No markup here. */
import { joinChanges, moveInterface, moveZone, replug, toggleMember } from '#core/edits';
import { applyEdits, parseDocument } from '#core/notation';
import type { FileChange } from '#core/notation';
import type { Interface, Site } from '#core/site';
import { NO_PORT, NO_ZONE } from './model';
import type { Board } from './model';

/** What is being carried. */
export type Carried =
  | { readonly what: 'slabs'; readonly subjects: readonly string[] }
  /** A port, to be put into a bridge. */
  | { readonly what: 'port'; readonly port: string }
  /** A slab that a port is chosen for, to be put into its bridge or taken out. */
  | { readonly what: 'bridge'; readonly subject: string }
  /** A circuit, switch or station, to be plugged in elsewhere. */
  | { readonly what: 'plug'; readonly subject: string; readonly tag?: number }
  | { readonly what: 'zone'; readonly zone: string };

/** A place of the board: a cell, or with row -1 the head of a port; a slab where one lies there. */
export interface Spot {
  readonly row: number;
  readonly col: number;
  readonly subject?: string;
}

export interface Move {
  readonly changes: readonly FileChange[];
  readonly label: string;
}

const ifaceOf = (site: Site, subject: string): Interface | undefined =>
  site.interfaces.find((i) => `interface/${i.name}` === subject);

/** What dropping it there would write; no changes where that means nothing. */
export function moveOf(site: Site, board: Board, carried: Carried, to: Spot): Move {
  const none: Move = { changes: [], label: '' };
  const row = board.rows[to.row];
  const port = board.columns[to.col]?.port;
  switch (carried.what) {
    case 'slabs': {
      const zone = row && !row.group.length && row.name !== NO_ZONE ? row.name : undefined;
      const onto = to.row >= 0 && port !== NO_PORT ? port : undefined;
      const moved = carried.subjects.flatMap((subject) => {
        const iface = ifaceOf(site, subject);
        return iface ? [moveInterface(site, iface, zone, onto)] : [];
      });
      const count = carried.subjects.length;
      const what = count > 1 ? `${count} interfaces` : (carried.subjects[0] ?? '').replace('/', ' ');
      return { changes: joinChanges(...moved), label: `move ${what}` };
    }
    case 'port': {
      const iface = to.subject === undefined ? undefined : ifaceOf(site, to.subject);
      return iface
        ? {
            changes: toggleMember(site, iface, carried.port),
            label: `bridge ${carried.port} with ${iface.name}`,
          }
        : none;
    }
    case 'bridge': {
      const iface = ifaceOf(site, carried.subject);
      return iface && port !== undefined && port !== NO_PORT
        ? { changes: toggleMember(site, iface, port), label: `bridge ${port} with ${iface.name}` }
        : none;
    }
    case 'plug': {
      const statement = site.statements.find((s) => s.subject === carried.subject);
      if (!statement || port === undefined || port === NO_PORT) return none;
      const tag = carried.tag === undefined ? '' : ` tag ${carried.tag}`;
      const name = carried.subject.replace('/', ' ');
      return { changes: replug(site, statement, `${port}${tag}`), label: `plug ${name} into ${port}` };
    }
    case 'zone': {
      const from = board.rows.findIndex((r) => r.name === carried.zone);
      if (from < 0 || !row?.zone || to.row === from) return none;
      return {
        changes: moveZone(site, carried.zone, row.zone.trust),
        label: `move zone ${carried.zone} ${to.row < from ? 'outwards' : 'inwards'}`,
      };
    }
  }
}

/** Statements as they would stand after changes: those whose text is another than before, at most a few. */
export function writtenBy(site: Site, changes: readonly FileChange[], most = 3): string[] {
  return changes.flatMap((change) => {
    const document = site.documents.find((d) => d.file === change.file);
    if (!document) return [];
    const text = applyEdits(document.text, change.edits);
    const before = new Set(document.statements.map((s) => document.text.slice(s.start, s.end)));
    const fresh = parseDocument(text, change.file, document)
      .statements.map((s) => text.slice(s.start, s.end))
      .filter((t) => !before.has(t));
    const shown = fresh.slice(0, most).map((t) => t.replace(/\s+/g, ' '));
    return fresh.length > most ? [...shown, `and ${fresh.length - most} more`] : shown;
  });
}
