/** Sites for tests: text to Site in one step, and generators of statements. */
import fc from 'fast-check';
import { contextOf, findAll } from '#core/findings';
import type { Code, Finding, Observed } from '#core/findings';
import { parseDay } from '#core/base';
import { modelOf } from '#core/model';
import type { Model } from '#core/model';
import { applyEdits, parseDocument } from '#core/notation';
import type { FileChange } from '#core/notation';
import { Reach } from '#core/reach';
import { buildSite } from '#core/site';
import type { Site } from '#core/site';

/** The day on which sites of tests are asked about; a real clock is behind it. */
export const TODAY = parseDay('2026-06-15')!;

/** The site that one text makes. */
export const siteFrom = (text: string, file = 'site.gate'): Site =>
  buildSite([parseDocument(text, file)], TODAY);

/** The model that one text makes. */
export const modelFrom = (text: string, file?: string): Model => modelOf(siteFrom(text, file));

/** All there is to ask about the reach of a site. */
export const reachOf = (site: Site): Reach => new Reach(modelOf(site));
export const reachFrom = (text: string, file?: string): Reach => reachOf(siteFrom(text, file));

/** The findings of one text. */
export const findingsOf = (text: string, observed?: Observed): Finding[] =>
  findAll(contextOf(reachFrom(text), observed));

export const codesOf = (text: string, observed?: Observed): Code[] =>
  findingsOf(text, observed).map((f) => f.code);

/** The text after changes of its one file. */
export const changed = (text: string, changes: readonly FileChange[]): string =>
  changes.reduce((t, c) => applyEdits(t, c.edits), text);

/** A small office that nothing is wrong with: the ground that broken twins are made from. */
export const GOOD = `box first: names 192.0.2.53, time 192.0.2.123, serves names
zone world: upstream
zone office:
interface line: on p1, zone world, address 198.51.100.18/29, gateway .17, answers ping, guard
interface desk: on p2, zone office, address 10.61.20.1/24, lends .50-.199, answers ping dns ssh https
passage office > world: allow
leave any > world: as interface
circuit northmoor: at p1, block 198.51.100.16/29, gateway .17
station pc: at p2, address by dhcp
far www.example: address 192.0.2.80, listens tcp 80 443
far dns1.example: address 192.0.2.53, resolves
`;

/** GOOD with pieces of text replaced, each of which must be there. */
export function good(...swaps: readonly (readonly [string, string])[]): string {
  let text = GOOD;
  for (const [from, to] of swaps) {
    if (!text.includes(from)) throw new Error(`“${from}” is not in the good site`);
    text = text.replace(from, to);
  }
  return text;
}

const name = fc
  .tuple(
    fc.constantFrom('a', 'b', 'lan', 'shop', 'x1'),
    fc.integer({ min: 0, max: 99 }).map((n) => `q${n}`),
  )
  .map(([a, b]) => `${a}-${b}`);
const octet = fc.integer({ min: 0, max: 255 });
const quad = fc.tuple(octet, octet, octet, octet).map((o) => o.join('.'));
const prefix = fc.tuple(quad, fc.integer({ min: 8, max: 30 })).map(([a, l]) => `${a}/${l}`);
const masked = fc
  .tuple(quad, fc.constantFrom('255.255.255.0', '255.255.255.248'))
  .map(([a, m]) => `${a} mask ${m}`);
const short = octet.map((o) => `.${o}`);
const service = fc.constantFrom('ping', 'tcp 80 443', 'udp 53 ping', 'dns', 'any', 'tcp udp 53', 'proto 50');
const clause = fc.oneof(
  fc.integer({ min: 1, max: 8 }).map((n) => `on p${n}`),
  name.map((n) => `zone ${n}`),
  fc.oneof(prefix, masked).map((p) => `address ${p}`),
  fc.tuple(short, short).map(([a, b]) => `also ${a} ${b}/24`),
  quad.map((a) => `gateway ${a}`),
  fc.tuple(short, short).map(([a, b]) => `lends ${a}-${b} for 2h`),
  fc.constantFrom(
    'answers ping',
    'answers ssh https 8443 from any',
    'guard',
    'off',
    'note "a \\"quoted\\" # note"',
  ),
  short.map((a) => `keeps ${a} for 02:61:00:00:20:20 "printer"`),
);
/** Statements that may be right or wrong, with spaces, comments and line breaks put in where the notation allows them. */
export const anyStatement: fc.Arbitrary<string> = fc.oneof(
  fc
    .tuple(
      name,
      fc.array(fc.tuple(clause, fc.constantFrom(', ', ' ,', ',\n  ', ',  # why\n\t')), { maxLength: 6 }),
    )
    .map(([n, parts]) => {
      const body = parts.map(([text, gap], i) => (i < parts.length - 1 ? text + gap : text)).join('');
      return `interface ${n}: ${body}`;
    }),
  fc.tuple(name, name, service).map(([a, b, s]) => `passage ${a} > ${b}: allow ${s}`),
  fc.tuple(name, name).map(([a, b]) => `expect ${a} reaches ${b}`),
  fc.tuple(name, quad).map(([n, a]) => `known ${n}: ${a}`),
  name.map((n) => `zone ${n}:`),
  quad.map((a) => `leave any > world: as ${a}`),
);
export const anyText: fc.Arbitrary<string> = fc
  .tuple(
    fc.boolean(),
    fc.constantFrom('\n', '\r\n'),
    fc.array(fc.oneof({ weight: 4, arbitrary: anyStatement }, fc.constantFrom('# a comment', '')), {
      maxLength: 8,
    }),
  )
  .map(([bom, eol, lines]) => (bom ? '\ufeff' : '') + lines.join('\n').replace(/\n/g, eol) + eol);

export { EVERYTHING, anySite, anyTwins } from './sites';
export type { SiteShape } from './sites';
export { ASKED_SERVICES, compareAtBox, comparePromises } from './truth';
export type { Disagreement } from './truth';
export { anyCrossing } from './crossings';
export { withoutDaemons } from './deployed';
export { anyBrokenSite } from './broken';
export { damages } from './damage';
export { howMany, isDeep, seedOr } from './seed';
