/** A sheet or mail about several circuits, taken apart: a text for each. */
import { plain } from './labels';
import { cellsOf, scan } from './scan';

const WHAT =
  'circuit|line|link|connection|service|access|uplink|leitung|anschluss|internetanschluss|standleitung|verbindung|ligne|lien|acces|connexion|linea|conexion|enlace|acceso|lijn|verbinding|aansluiting|lacze|linia|polaczenie|collegamento|connessione|accesso|linha|ligacao|acesso|linka|pripojka|pripojeni|anslutning|forbindelse|lina';
const WHICH =
  '#? ?(?:nr\\.? ?|no\\.? ?)?[1-9]|[a-d]|primary|main|first|secondary|second|backup|back-up|standby|fail-?over|haupt|ersatz|erste|zweite|principale?|premiere?|deuxieme|secours|respaldo|secundari[ao]|secondari[ao]|hoofd|tweede|reserve|glowne|zapasowe|podstawowe|riserva|reserva|hlavni|zalozni|huvud|reserv';
/** `Line 1`, `Circuit B`, `Backup line`, `Hauptleitung`. */
const HEAD = new RegExp(
  `^[\\W\\d]{0,6}(?:(?:${WHAT})s?[ -]?(?:${WHICH})|(?:${WHICH})[ -]?(?:internet[ -]?)?(?:${WHAT}))(?![a-z0-9])`,
);

/** More parts than these are no sheet about circuits. */
const MOST = 40;
/** Nor is a text of more characters. */
const LONG = 200_000;

const isHead = (text: string): boolean => HEAD.test(plain(text.trim().slice(0, 60)));

/** The texts of the circuits that a sheet speaks of, in its order: one where it speaks of one. */
export function sectionsOf(text: string): string[] {
  if (text.length > LONG) return [text];
  const lines = text.replace(/\r/g, '').split('\n');
  return byColumns(lines) ?? byRows(lines) ?? byHeads(lines) ?? byParagraphs(lines) ?? [text];
}

/** A table with a column for each circuit. */
function byColumns(lines: readonly string[]): string[] | undefined {
  const at = lines.findIndex((l) => l.length < 1000 && cellsOf(l).filter((c) => isHead(c.text)).length > 1);
  if (at < 0) return undefined;
  const heads = cellsOf(lines[at]!).filter((c) => isHead(c.text));
  if (heads.length > MOST) return undefined;
  return heads.map((head, k) =>
    [
      ...lines.slice(0, at),
      head.text,
      ...lines.slice(at + 1).map((line) => {
        const cells = cellsOf(line);
        return cells.length === heads.length + 1 ? `${cells[0]!.text}: ${cells[k + 1]!.text.trim()}` : line;
      }),
    ].join('\n'),
  );
}

/** A table with a row for each circuit: a head of labels, and below it more than one row with a gateway of its own. */
function byRows(lines: readonly string[]): string[] | undefined {
  const at = lines.findIndex((line) => {
    const cells = cellsOf(line);
    if (cells.length < 3 || /\d\.\d/.test(line)) return false;
    const labels = cells.filter((c) => /gateway|passerelle|enlace|pasarela|brama|gw/.test(plain(c.text)));
    return labels.length === 1;
  });
  if (at < 0) return undefined;
  const heads = cellsOf(lines[at]!);
  const rows: string[] = [];
  const rest = lines.slice(0, at);
  for (const line of lines.slice(at + 1)) {
    const cells = cellsOf(line);
    const whole = cells.length === heads.length && cells.filter((c) => /\d\.\d+\.\d/.test(c.text)).length > 1;
    if (whole) rows.push(cells.map((c, i) => `${heads[i]!.text.trim()}: ${c.text.trim()}`).join('\n'));
    else rest.push(line);
  }
  return rows.length > 1 && rows.length <= MOST ? rows.map((row) => [...rest, row].join('\n')) : undefined;
}

/** Parts that each begin with the head of a circuit; what stands before the first is said of all. */
function byHeads(lines: readonly string[]): string[] | undefined {
  const starts = lines.flatMap((line, i) => (isHead(line) ? [i] : []));
  if (starts.length > MOST) return undefined;
  const parts = starts.map((start, i) => lines.slice(start, starts[i + 1] ?? lines.length));
  if (parts.filter((p) => hasValues(p.join('\n'))).length < 2) return undefined;
  const before = lines.slice(0, starts[0]);
  return withShared(parts, before);
}

/** Paragraphs of which more than one would be a circuit by itself. */
function byParagraphs(lines: readonly string[]): string[] | undefined {
  const parts: string[][] = [[]];
  for (const line of lines)
    if (line.trim() === '') parts.push([]);
    else parts.at(-1)!.push(line);
  if (parts.length > 10 * MOST) return undefined;
  const own = parts.filter((p) => standsAlone(p.join('\n')));
  if (own.length < 2) return undefined;
  const first = parts.indexOf(own[0]!);
  const groups: string[][] = [];
  for (const part of parts.slice(first))
    if (own.includes(part)) groups.push([...part]);
    else groups.at(-1)!.push('', ...part);
  return withShared(groups, parts.slice(0, first).flat());
}

/** What the last part says behind an empty line of name servers alone is said of all. */
function withShared(parts: readonly string[][], before: readonly string[]): string[] {
  const last = parts.at(-1)!;
  const gap = last.findLastIndex((l, i) => l.trim() === '' && last.slice(i).some((x) => x.trim() !== ''));
  const tail = gap < 0 ? [] : last.slice(gap);
  const shared = tail.length > 0 && namesOnly(tail.join('\n')) ? tail : [];
  return parts.map((part) =>
    [...before, ...(part === last ? part.slice(0, part.length - shared.length) : part), ...shared].join('\n'),
  );
}

const hasValues = (text: string): boolean => {
  const { values, words } = scan(text);
  return values.length > 0 || words.size > 0 || /\b(?:dhcp|pppoe)\b/i.test(text);
};

const namesOnly = (text: string): boolean => {
  const { values } = scan(text);
  return values.length > 0 && values.every((v) => v.field === 'names' || v.field === 'time');
};

/** Whether a paragraph says all that one circuit needs. */
function standsAlone(text: string): boolean {
  const { values, words } = scan(text);
  const has = (...fields: (string | undefined)[]) => values.some((v) => fields.includes(v.field));
  return (
    (has('gateway') && has('address', 'network', 'usable', undefined)) ||
    (words.has('user') && /pppoe/i.test(text))
  );
}
