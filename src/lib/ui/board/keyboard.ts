/**
 * The board under the keyboard: where it is, where an arrow leads, and what a key means there. No markup here and
 * nothing is done: a key becomes a command, which the board carries out.
 */
import { cellKey } from './model';
import type { Board, Lane, Row, Slab } from './model';
import type { Carried, Spot } from './moves';

/** The keyboard's place: a cell (or a head, where row or column is -1), and which slab in it. */
export interface At {
  readonly row: number;
  readonly col: number;
  readonly slab: number;
}

export type Command =
  | { readonly do: 'go'; readonly at: At }
  | { readonly do: 'carry'; readonly what: Carried; readonly to: Spot }
  | { readonly do: 'carry-on'; readonly to: Spot }
  | { readonly do: 'drop' | 'let-go' | 'sift' | 'start' | 'nothing' }
  /** A zone goes one row in or out at once. */
  | { readonly do: 'shift-zone'; readonly zone: string; readonly to: Spot; readonly at: At }
  | { readonly do: 'cut'; readonly port: string }
  /** A row is drawn denser, or less dense by a negative number. */
  | { readonly do: 'denser'; readonly row: Row; readonly by: number }
  | { readonly do: 'start-zone'; readonly after?: Row }
  | { readonly do: 'toggle' | 'open'; readonly subject: string }
  | { readonly do: 'remove'; readonly subjects: readonly string[] };

/** A key as it is pressed. */
export interface Pressed {
  readonly key: string;
  readonly altKey: boolean;
  readonly ctrlKey: boolean;
  readonly metaKey: boolean;
}

/** What the board holds as a key is pressed. */
export interface Held {
  readonly at: At;
  /** Something on the move, and where it would go. */
  readonly carried?: Carried;
  readonly to: Spot;
  readonly selection: readonly string[];
}

const NONE: readonly Slab[] = [];

export const lanesOf = (board: Board, row: Row): readonly Lane[] => board.lanes.get(row.name) ?? [];

/** Every slab of a cell in the order of the keyboard: bridges that begin there first. */
export function slabsAt(board: Board, row: number, col: number): readonly Slab[] {
  const r = board.rows[row];
  const c = board.columns[col];
  if (!r || !c) return NONE;
  const lanes = lanesOf(board, r).filter((l) => l.slab.port === c.port);
  const cell = r.density === 'folded' ? NONE : (board.cells.get(cellKey(r.name, c.port)) ?? NONE);
  return lanes.length ? [...lanes.map((l) => l.slab), ...cell] : cell;
}

/** The slab under the keyboard. */
export const slabUnder = (board: Board, { row, col, slab }: At): Slab | undefined =>
  row >= 0 && col >= 0 ? slabsAt(board, row, col)[slab] : undefined;

/** Where a slab stands; undefined where it is folded away or filtered out. */
export function placeOfSlab(board: Board, subject: string): At | undefined {
  for (const row of board.rows.keys())
    for (const col of board.columns.keys()) {
      const slab = slabsAt(board, row, col).findIndex((s) => s.subject === subject);
      if (slab >= 0) return { row, col, slab };
    }
  return undefined;
}

/** Names what has the focus at a place. */
export function focusKey(board: Board, { row, col, slab }: At): string {
  if (row < 0) return `head/${board.columns[Math.max(0, col)]?.port}`;
  if (col < 0) return `zone/${board.rows[row]?.name}`;
  const slabs = slabsAt(board, row, col);
  return slabs.length ? slabs[Math.min(slab, slabs.length - 1)]!.subject : `${row}/${col}`;
}

const clamped = (value: number, least: number, most: number): number =>
  Math.max(least, Math.min(most, value));

/** The place that an arrow leads to: through the slabs of a cell first, and never off the board. */
export function stepped(board: Board, at: At, down: number, right: number): At {
  const slabs = slabsAt(board, at.row, at.col);
  if (down !== 0 && at.row >= 0 && slabs.length > 1) {
    const slab = at.slab + down;
    if (slab >= 0 && slab < slabs.length) return { ...at, slab };
  }
  const row = clamped(at.row + down, -1, board.rows.length - 1);
  const col = clamped(at.col + right, row < 0 ? 0 : -1, board.columns.length - 1);
  return { row, col, slab: down < 0 ? Math.max(0, slabsAt(board, row, col).length - 1) : 0 };
}

/** Where what is carried would go next: a plug and a bridge go from head to head only. */
function carriedOn(board: Board, carried: Carried, to: Spot, down: number, right: number): Spot {
  const headsOnly = carried.what === 'plug' || carried.what === 'bridge';
  return {
    row: headsOnly ? to.row : clamped(to.row + down, 0, board.rows.length - 1),
    col: clamped(to.col + right, 0, board.columns.length - 1),
  };
}

export const ARROWS: Readonly<Record<string, readonly [down: number, right: number]>> = {
  ArrowUp: [-1, 0],
  ArrowDown: [1, 0],
  ArrowLeft: [0, -1],
  ArrowRight: [0, 1],
};

/** What a key means on the board; undefined where it means nothing here and belongs to somebody else. */
export function commandOf(board: Board, held: Held, pressed: Pressed): Command | undefined {
  const { at, carried, to } = held;
  const { key } = pressed;
  const arrow = ARROWS[key];
  const row = board.rows[at.row];
  if (arrow && pressed.altKey && at.col < 0 && row?.zone && arrow[0] !== 0) {
    const next = at.row + arrow[0];
    return {
      do: 'shift-zone',
      zone: row.name,
      to: { row: next, col: -1 },
      at: { ...at, row: clamped(next, 0, board.rows.length - 1) },
    };
  }
  if (pressed.ctrlKey || pressed.metaKey || pressed.altKey) return undefined;
  if (arrow)
    return carried
      ? { do: 'carry-on', to: carriedOn(board, carried, to, ...arrow) }
      : { do: 'go', at: stepped(board, at, ...arrow) };
  if (carried) return key === 'Enter' ? { do: 'drop' } : key === 'Escape' ? { do: 'let-go' } : undefined;
  if (at.row < 0) return atHead(board, at, key);
  if (at.col < 0) return row && atZone(row, key);
  return inCell(board, held, row, key);
}

function atHead(board: Board, at: At, key: string): Command | undefined {
  const column = board.columns[at.col];
  const plug = column?.plugged[0];
  if (key === 'm' && plug)
    return {
      do: 'carry',
      what: { what: 'plug', subject: plug.subject, tag: plug.tag },
      to: { row: -1, col: at.col },
    };
  return key === 'c' && column ? { do: 'cut', port: column.port } : undefined;
}

function atZone(row: Row, key: string): Command | undefined {
  switch (key) {
    case '-':
      return { do: 'denser', row, by: 1 };
    case '+':
      return { do: 'denser', row, by: -1 };
    case 'o':
      return { do: 'start-zone', after: row };
    case 's':
      return { do: 'sift' };
    default:
      return undefined;
  }
}

function inCell(
  board: Board,
  { at, selection }: Held,
  row: Row | undefined,
  key: string,
): Command | undefined {
  const slab = slabUnder(board, at);
  const live = slab && slab.draft !== 'removed' ? slab : undefined;
  const here = { row: at.row, col: at.col };
  const chosen = live && (selection.includes(live.subject) ? selection : [live.subject]);
  switch (key) {
    case 'm':
      return chosen && { do: 'carry', what: { what: 'slabs', subjects: chosen }, to: here };
    case 'b':
      return live && { do: 'carry', what: { what: 'bridge', subject: live.subject }, to: here };
    case ' ':
      return live ? { do: 'toggle', subject: live.subject } : { do: 'nothing' };
    case 'Delete':
      return chosen && { do: 'remove', subjects: chosen };
    case 'Enter':
      if (slab) return { do: 'open', subject: slab.subject };
      return row?.density === 'folded' ? { do: 'denser', row, by: -1 } : { do: 'start' };
    case 'n':
      return { do: 'start' };
    case 'o':
      return { do: 'start-zone', after: row };
    default:
      return row && atZone(row, key);
  }
}
