/** Every other kind of statement: its name, and what it cannot stand without. */
import { NAMED_KINDS, parseDocument } from '#core/notation';
import type { Kind } from '#core/notation';
import { freeName } from '#core/model';
import type { Model } from '#core/model';
import type { Site } from '#core/site';
import { FORMS, HEAD, LEAD, printOption, slotOffers, slotsOf } from '../forms';
import type { Field, Values } from '../forms';
import { Sheet, ask, pick, refuse } from './gesture';
import type { Ask, Gesture } from './gesture';
import { nameFault } from './names';

/** Fields that a new statement of a kind is asked for, beside its head. */
const ASKED: Readonly<Partial<Record<Kind, readonly string[]>>> = {
  table: ['route'],
  port: ['label'],
  circuit: ['at', 'gives', 'gateway'],
  switch: ['at', 'carries'],
  router: ['leg', 'gateway'],
  station: ['at', 'address'],
  far: ['address', 'listens'],
  box: ['names'],
};

/** Whether a statement cannot stand without it. */
const isHead = (field: Field): boolean => field.key === HEAD || field.key === LEAD;

const fieldsOf = (kind: Kind): readonly Field[] =>
  FORMS[kind].filter((f) => isHead(f) || ASKED[kind]?.includes(f.key));

/** The asks of a field: the way, where there are several, and the slots of the chosen one. */
function fieldAsks(model: Model, field: Field, put: Values): Ask[] {
  const [first] = field.options;
  const way = field.options.find((o) => o.key === put[`${field.key}-way`]) ?? first!;
  const ways = field.options.map((o) => o.key);
  return [
    ...(ways.length > 1 ? [pick(`${field.key}-way`, way.key, ways)] : []),
    ...slotsOf(way).map((slot) => ({
      slot: { ...slot, key: `${field.key}-${slot.key}`, may: slot.may || !isHead(field) },
      value: '',
      offers: slotOffers(model, undefined, field, slot),
    })),
  ];
}

export const plain = (kind: Kind): Gesture => ({
  asks: (model, place, put) => [
    ...(NAMED_KINDS.has(kind)
      ? [
          ask(
            'name',
            'word',
            kind === 'port'
              ? (place.port ?? '')
              : freeName(model.site, kind, kind === 'far' ? 'www.example' : (NAMES[kind] ?? kind)),
          ),
        ]
      : []),
    ...fieldsOf(kind).flatMap((field) => fieldAsks(model, field, put)),
  ],
  write: ({ site }, values) => {
    const name = values['name'] ?? '';
    const isNamed = NAMED_KINDS.has(kind);
    const fault = isNamed ? nameFault(site, kind, name) : undefined;
    if (fault) return refuse('name', fault);
    const subject = isNamed ? `${kind}/${name}` : '';
    let head = isNamed ? name : '';
    const clauses: string[] = [];
    for (const field of fieldsOf(kind)) {
      const way = field.options.find((o) => o.key === values[`${field.key}-way`]) ?? field.options[0]!;
      const own = Object.fromEntries(slotsOf(way).map((s) => [s.key, values[`${field.key}-${s.key}`] ?? '']));
      const text = printOption(way, own);
      const isAsked = isHead(field) || Object.values(own).some((v) => v.trim());
      if (text === undefined && isAsked) {
        const lacks = slotsOf(way).find((s) => !s.may && !own[s.key]?.trim());
        return refuse(lacks && `${field.key}-${lacks.key}`, { what: 'needed' });
      }
      if (text === undefined || (!isAsked && slotsOf(way).length)) continue;
      if (field.key === HEAD) head = text;
      else clauses.push(text);
    }
    const colon = kind === 'expect' ? '' : ':';
    const said = `${kind} ${head}${colon}${clauses.length ? ` ${clauses.join(', ')}` : ''}`;
    return new Sheet(site).add(kind, said).done(subject || subjectOf(site, said));
  },
});

/** The subject of a statement without a name that comes behind its like: `send/any by line#2`. */
function subjectOf(site: Site, said: string): string {
  const alone = parseDocument(said, '').statements[0]?.subject ?? '';
  const head = alone.slice(0, alone.lastIndexOf('#') + 1);
  return `${head}${site.statements.filter((s) => s.subject.startsWith(head)).length + 1}`;
}

const NAMES: Readonly<Partial<Record<Kind, string>>> = {
  known: 'printers',
  record: 'printer',
  table: 'guest',
  circuit: 'line',
  switch: 'core',
  router: 'hall',
  station: 'pc',
  box: 'edge',
};
