/** What is said on the say line: a whole statement, a clause for a thing that is named, or a question. */

import { parseIp } from '#core/addr';
import type { Ip } from '#core/addr';
import { CLAUSES, KINDS, applyEdits, parseDocument } from '#core/notation';
import type { ClauseOp, Document, FileChange, Kind, Statement } from '#core/notation';
import { documentOf, interfaceNamed, zoneNamed } from '#core/site';
import type { Site } from '#core/site';
import { addStatement, changeClauses, homeOf, joinChanges } from './change';
import { leavePlace, passagePlace, zonePlace } from './making/places';

export type Said =
  | { readonly does: 'edit'; readonly changes: readonly FileChange[]; readonly writes: string }
  | { readonly does: 'ask'; readonly from: string; readonly to: string; readonly service?: string }
  | { readonly does: 'where'; readonly address: Ip; readonly table: string; readonly from: string }
  | { readonly does: 'go'; readonly subject: string }
  | { readonly does: 'nothing'; readonly why?: NotSaid };

/** Why a line does nothing. */
export type NotSaid =
  | { readonly what: 'fault'; readonly expected: string; readonly got: string }
  | {
      readonly what: 'no-clause';
      readonly clause: string;
      readonly kind: Kind;
      readonly clauses: readonly string[];
    }
  | { readonly what: 'no-table'; readonly name: string }
  | { readonly what: 'there-already'; readonly subject: string }
  | { readonly what: 'no-file'; readonly kind: string }
  | { readonly what: 'so-already' }
  | { readonly what: 'not-understood' };

/** Clauses that are said to be added; the others, said anew, stand instead of what was there. */
const ADDED: ReadonlySet<string> = new Set(['also', 'keeps', 'address6', 'route', 'routes', 'jack']);

/** Reads a line against the site. */
export function readSaid(site: Site, line: string): Said {
  const text = line.trim();
  if (text === '') return { does: 'nothing' };
  const question = readWhere(site, text) ?? readQuestion(text);
  const first = text.split(/[\s:]/)[0]!;
  if (KINDS.some((k) => k === first)) return readStatement(site, text, first);
  const named = interfaceNamed(site, first);
  const zone = zoneNamed(site, first);
  // Interfaces and zones before all else that has a name.
  const owner =
    named?.statement ??
    zone?.statement ??
    site.statements.find((s) => 'name' in s && s.kind !== 'box' && s.name === first);
  const rest = text.slice(first.length).trim();
  if (owner && rest === '') return { does: 'go', subject: owner.subject };
  const clause = rest.split(/\s/)[0]!;
  if (owner && CLAUSES[owner.kind].includes(clause)) {
    const op: ClauseOp = ADDED.has(clause)
      ? { do: 'add', text: rest }
      : { do: 'set', name: clause, text: rest };
    return faultless(site, owner, op, rest);
  }
  if (owner && /^no /.test(rest)) {
    const gone = rest.slice(3).trim();
    return faultless(site, owner, { do: 'remove', name: gone }, `without ${gone}`);
  }
  if (question) return question;
  return {
    does: 'nothing',
    why: owner
      ? { what: 'no-clause', clause, kind: owner.kind, clauses: CLAUSES[owner.kind] }
      : { what: 'not-understood' },
  };
}

/** `where 203.0.113.9 from studio`: by which route it goes from the table of an interface, a zone, or main. */
function readWhere(site: Site, text: string): Said | undefined {
  const asked = /^where (?:would |does )?(\S+)(?: go)?(?: from (\S+?))?\??$/.exec(text);
  const address = asked ? parseIp(asked[1]!) : undefined;
  if (!asked || address === undefined) return undefined;
  const from = asked[2] ?? 'main';
  const iface = interfaceNamed(site, from) ?? site.interfaces.find((i) => i.zone?.name === from);
  const known = iface || from === 'main' || site.tables.some((t) => t.name === from);
  if (!known) return { does: 'nothing', why: { what: 'no-table', name: from } };
  return { does: 'where', address, table: iface?.table ?? from, from };
}

/** `pc to www.example tcp 443`, or `why can pc not open www.example?`, where opening means a page. */
function readQuestion(text: string): Said | undefined {
  const why = /^why (?:can|does|is) (\S+) (?:not )?(open|reach|ping|get to) (\S+?)(?: (.+?))?\??$/.exec(text);
  if (why)
    return {
      does: 'ask',
      from: why[1]!,
      to: why[3]!,
      service: why[4] ?? (why[2] === 'open' ? 'tcp 443' : undefined),
    };
  const plain = /^(\S+(?: \S+)?) to (\S+?)(?: (.+?))?\??$/.exec(text);
  return plain ? { does: 'ask', from: plain[1]!, to: plain[2]!, service: plain[3] } : undefined;
}

function readStatement(site: Site, text: string, kind: string): Said {
  const document = parseDocument(text, '');
  const fault = faultOf(document);
  if (fault) return { does: 'nothing', why: fault };
  const statement = document.statements[0]!;
  const same = 'name' in statement ? site.statements.find((s) => s.subject === statement.subject) : undefined;
  if (same) return { does: 'nothing', why: { what: 'there-already', subject: statement.subject } };
  const made = [addStatement(site, statement.kind, text, placeOf(site, statement))];
  // A zone that is named on the way is made on the way.
  if (statement.kind === 'interface' && statement.zone && !zoneNamed(site, statement.zone.name))
    made.push(addStatement(site, 'zone', `zone ${statement.zone.name}:`, zonePlace(site, 'inside')));
  return homeOf(site, statement.kind)
    ? { does: 'edit', changes: joinChanges(...made), writes: text }
    : { does: 'nothing', why: { what: 'no-file', kind } };
}

/** Where a statement that is said belongs: what is said of few stands before what is said of many. */
function placeOf(site: Site, s: Statement): Parameters<typeof addStatement>[3] {
  switch (s.kind) {
    case 'zone':
      return zonePlace(
        site,
        s.upstream ? 'upstream' : s.dmz ? 'dmz' : s.management ? 'management' : 'inside',
      );
    case 'leave':
      return s.who.type === 'any'
        ? {}
        : leavePlace(site, s.who.type === 'name' ? s.who.name : '', s.via.name);
    case 'passage':
      return s.from.name === 'any' || s.to.name === 'any' ? {} : passagePlace(site, s.from.name, s.to.name);
    default:
      return {};
  }
}

/** Clauses of a statement changed, where its outcome reads without a fault that it did not have; else why not. */
function faultless(site: Site, owner: Statement, op: ClauseOp, writes: string): Said {
  const changes = changeClauses(site, owner, [op]);
  if (!changes.length) return { does: 'nothing', why: { what: 'so-already' } };
  const { text, problems } = documentOf(site, owner);
  const next = applyEdits(text, changes[0]!.edits);
  const after = parseDocument(next.slice(owner.start, owner.end + next.length - text.length), '');
  const fault = faultOf(after);
  return fault && !problems.some((p) => p.subject === owner.subject && p.fatal)
    ? { does: 'nothing', why: fault }
    : { does: 'edit', changes, writes };
}

/** What keeps a text from being read, if anything does. */
function faultOf({ problems }: Document): NotSaid | undefined {
  const fault = problems.find((p) => p.fatal);
  if (!fault) return undefined;
  const { expected, got } = fault.code === 'syntax' ? fault.values : { expected: '', got: '' };
  return { what: 'fault', expected, got };
}
