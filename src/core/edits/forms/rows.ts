/** The rows of a field as they stand in a statement, and the text changes that say them otherwise. */
import { CLAUSES, applyEdits, parseDocument, written } from '#core/notation';
import type { Clause, ClauseOp, FileChange, Kind, ReadProblem, Statement, Token } from '#core/notation';
import type { Site } from '#core/site';
import { changeClauses } from '../change';
import { HEAD, LEAD, itemsOf, printOption, readOption, slotsOf } from './form';
import type { Field, Option, Values } from './form';
import { FORMS } from './kinds';

/** What a field says once: by which of its ways, with which values. `option` is absent where none of them fits. */
export interface Row {
  readonly option?: Option;
  readonly values: Values;
  /** As it is written. */
  readonly text: string;
  /** Which clause of the field it stands in, from 0; none where it is new. */
  readonly clause?: number;
}

/** A stretch of a statement that a field is about. */
type Stretch = Pick<Clause, 'name' | 'start' | 'end'> & { readonly words: readonly Token[] };

function stretchesOf(statement: Statement, field: Field): readonly Stretch[] {
  const { header, clauses } = written(statement);
  const name = field.options[0]!.clause;
  if (name === HEAD) {
    const [first, last] = [header[0], header[header.length - 1]];
    return first && last ? [{ name, start: first.start, end: last.end, words: header }] : [];
  }
  if (name === LEAD) {
    const first = clauses[0];
    return first && !CLAUSES[statement.kind].includes(first.name) ? [first] : [];
  }
  const names = new Set(field.options.map((o) => o.clause));
  const own = clauses.filter((c) => names.has(c.name));
  // `serves names` and `serves time` are two fields over one clause.
  return isShared(statement.kind, field) ? own.filter((c) => optionFor(field, c) || c.words.length < 2) : own;
}

/** Whether other fields speak of the same clause, so that this one takes only what it can read. */
const isShared = (kind: Kind, field: Field): boolean =>
  FORMS[kind].some(
    (f) => f.key !== field.key && f.options.some((o) => o.clause === field.options[0]!.clause),
  );

function optionFor(field: Field, stretch: Stretch): { option: Option; values: Values } | undefined {
  for (const option of field.options) {
    const values = readOption(option, stretch.words);
    if (values) return { option, values };
  }
  return undefined;
}

const sourceOf = (statement: Statement, { start, end }: Stretch): string =>
  statement.source.slice(start - statement.start, end - statement.start);

/** What a field says in a statement, in order. */
export function rowsOf(statement: Statement, field: Field): readonly Row[] {
  return stretchesOf(statement, field).flatMap((stretch, clause): Row[] => {
    const text = sourceOf(statement, stretch);
    const read = optionFor(field, stretch);
    if (!read) return [{ values: {}, text, clause }];
    const each = eachOf(field, read.option);
    if (!each) return [{ ...read, text, clause }];
    return itemsOf(each, read.values[each.key] ?? '').map((item) => ({
      option: read.option,
      values: { ...read.values, [each.key]: item },
      text: item,
      clause,
    }));
  });
}

const eachOf = (field: Field, option: Option) => slotsOf(option).find((s) => s.key === field.each);

/** The row that values make, or undefined where one that is needed is missing. */
export function rowFrom(field: Field, option: Option, values: Values): Row | undefined {
  const text = printOption(option, values);
  const each = eachOf(field, option);
  return text === undefined ? undefined : { option, values, text: each ? (values[each.key] ?? '') : text };
}

/** The changes that were asked for, or why the statement could not be read after them. */
export type Tried =
  | { readonly ok: true; readonly changes: readonly FileChange[] }
  | { readonly ok: false; readonly fault: ReadProblem };

/**
 * The changes that let a field say these rows, in this order; what stays the same keeps its text. Refused, with the
 * fault, where the statement could not be read so any more.
 */
export function sayRows(site: Site, statement: Statement, field: Field, rows: readonly Row[]): Tried {
  const olds = stretchesOf(statement, field);
  const texts = clauseTexts(field, rows);
  const was = olds.map((o) => sourceOf(statement, o));
  let first = 0;
  while (first < texts.length && first < was.length && texts[first] === was[first]) first++;
  let tail = 0;
  while (
    tail < texts.length - first &&
    tail < was.length - first &&
    texts[texts.length - 1 - tail] === was[was.length - 1 - tail]
  )
    tail++;
  const [fresh, stale] = [texts.slice(first, texts.length - tail), olds.slice(first, olds.length - tail)];
  const ops: ClauseOp[] = [];
  for (const [i, old] of stale.entries())
    if (i < fresh.length) ops.push({ do: 'replace', start: old.start, end: old.end, text: fresh[i]! });
  for (const old of stale.slice(fresh.length).reverse()) {
    const nth = written(statement).clauses.filter((c) => c.name === old.name && c.start < old.start).length;
    ops.push({ do: 'remove', name: old.name, nth });
  }
  for (const text of fresh.slice(stale.length)) ops.push({ do: 'add', text });
  return ops.length ? tried(site, statement, ops, field, rows) : { ok: true, changes: [] };
}

/** One clause for each row; neighbours of one clause, and new ones beside them, share it where all else is the same. */
function clauseTexts(field: Field, rows: readonly Row[]): string[] {
  const out: { readonly shared: string; option?: Option; values: Values; text: string; clause?: number }[] =
    [];
  for (const row of rows) {
    const each = row.option && eachOf(field, row.option);
    const shared = each ? `${row.option.key} ${othersOf(row.values, each.key)}` : '';
    const last = out[out.length - 1];
    const together = row.clause === undefined || last?.clause === undefined || row.clause === last.clause;
    if (each && together && last?.option === row.option && last?.shared === shared) {
      last.clause ??= row.clause;
      last.values = { ...last.values, [each.key]: `${last.values[each.key]} ${row.values[each.key]}` };
      last.text = printOption(row.option, last.values) ?? last.text;
    } else {
      const text = each ? (printOption(row.option, row.values) ?? row.text) : row.text;
      out.push({ shared, option: row.option, values: row.values, text, clause: row.clause });
    }
  }
  return out.map((o) => o.text);
}

const othersOf = (values: Values, but: string): string =>
  Object.keys(values)
    .filter((k) => k !== but && values[k])
    .sort()
    .map((k) => `${k}=${values[k]}`)
    .join('\n');

/** The changes of some clauses; a fault that the statement did not have before, or rows that it does not say, refuse. */
function tried(
  site: Site,
  statement: Statement,
  ops: readonly ClauseOp[],
  field: Field,
  rows: readonly Row[],
): Tried {
  const changes = changeClauses(site, statement, ops);
  const edits = changes.flatMap((c) => c.edits);
  const text = applyEdits(
    statement.source,
    edits.map((e) => ({ ...e, start: e.start - statement.start, end: e.end - statement.start })),
  );
  const told = (p: ReadProblem) => `${p.code} ${JSON.stringify(p.values)}`;
  const before = new Set(parseDocument(statement.source, statement.file).problems.map(told));
  const { problems, statements } = parseDocument(text, statement.file);
  const [after] = statements;
  const own = after ? stretchesOf(after, field) : [];
  // What no longer fits elsewhere in the statement is a finding of its own, as long as the statement stands.
  const fault = problems.find(
    (p) => !before.has(told(p)) && (p.fatal || own.some((o) => o.start <= p.at.start && p.at.end <= o.end)),
  );
  if (fault) return { ok: false, fault };
  // A comma, a sign of a comment or a line end in a value would say something else than that value.
  const got = after && statements.length === 1 ? rowsOf(after, field) : [];
  const odd = rows.find((row, i) => (got[i]?.option ?? row.option) !== row.option);
  const says = (row: Row | undefined) =>
    JSON.stringify(
      Object.entries(row?.values ?? {})
        .filter(([, v]) => v)
        .toSorted(([a], [b]) => (a < b ? -1 : 1)),
    );
  const other = odd ?? rows.find((row, i) => row.option && !alike(says(row), says(got[i])));
  if (!other && got.length === rows.length) return { ok: true, changes };
  const expected = 'one value, without a comma, a quote or `#`';
  const shown = (other ?? rows[rows.length - 1])?.text ?? '';
  return {
    ok: false,
    fault: {
      code: 'syntax',
      values: { got: shown, expected },
      file: statement.file,
      at: statement.head,
      subject: statement.subject,
      fatal: false,
    },
  };
}

/** Equal but for white space, masks written as lengths, and short addresses written out. */
const alike = (a: string, b: string): boolean => loose(a) === loose(b);
const loose = (values: string): string =>
  values
    .replace(/\s+/g, ' ')
    .replace(/[0-9.]*\.(?=[0-9])/g, '.')
    .replace(/ mask [0-9.]+|\/[0-9]+/g, '');
