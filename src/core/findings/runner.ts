/** Runs every check and silences consequences whose cause is told on the same subject. */
import { memo } from '#core/base';
import { ReachMemory } from '#core/reach';
import type { Reach } from '#core/reach';
import { CHECKS } from './checks';
import { SEVERITIES } from './finding';
import type { Check, Code, Context, Finding, Observed } from './finding';

/** Cause first, then what it silences on the same subject (behaviour, "Findings"). */
const SILENCES: readonly (readonly [Code, readonly Code[]])[] = [
  ['syntax', ['no-address', 'no-zone', 'leave-missing']],
  ['tag-duplicate', ['subnet-overlap']],
  [
    'mask-missing',
    ['no-address', 'gateway-off-subnet', 'no-default-route', 'lends-outside-subnet', 'keep-outside-subnet'],
  ],
  [
    'mask-invalid',
    ['no-address', 'gateway-off-subnet', 'no-default-route', 'lends-outside-subnet', 'keep-outside-subnet'],
  ],
  ['address-special', ['subnet-overlap', 'leave-missing']],
  ['keep-duplicate', ['address-duplicate']],
  ['gateway-is-self', ['gateway-not-host', 'gateway-off-subnet']],
  ['gateway-not-host', ['gateway-off-subnet']],
  ['lends-covers-fixed', ['address-duplicate']],
  ['lends-on-client', ['lends-outside-subnet', 'lends-upstream']],
  ['tag-range', ['tag-duplicate']],
  ['name-unknown', ['no-zone']],
  ['subnet-full', ['lends-too-small']],
  ['switch-loop', ['tag-not-carried', 'jack-unknown']],
  ['interface-off', ['port-off']],
  ['guard-blocks-upstream', ['guard-missing']],
  ['door-to-nowhere', ['expectation-failed', 'door-lost-on-failover', 'door-leaves-elsewhere']],
  ['door-foreign', ['door-lost-on-failover', 'door-leaves-elsewhere']],
  ['door-clash', ['door-lost-on-failover']],
  ['door-ambiguous', ['door-lost-on-failover']],
  // What a gateway makes of an inside interface is told once.
  [
    'gateway-inside',
    [
      'gateway-is-self',
      'gateway-off-subnet',
      'gateway-not-host',
      'guard-missing',
      'lends-upstream',
      'no-names',
      'uplink-tie',
      'uplink-unwatched',
      'watch-single',
      'address-private-upstream',
    ],
  ],
  ['bridge-member-busy', ['tag-duplicate', 'subnet-overlap']],
  ['suffix-nowhere', ['passage-empty']],
];

/** Causes that silence a code on every subject. */
const SILENCES_ALL: readonly (readonly [Code, readonly Code[]])[] = [
  ['no-default-route', ['zone-without-upstream']],
];

/** What silences a code: causes on the same subject, and causes anywhere. */
const causesOf = (table: typeof SILENCES): ReadonlyMap<Code, readonly Code[]> => {
  const out = new Map<Code, Code[]>();
  for (const [cause, over] of table) for (const code of over) memo(out, code, (): Code[] => []).push(cause);
  return out;
};
const CAUSES = causesOf(SILENCES);
const CAUSES_ANYWHERE = causesOf(SILENCES_ALL);

/** Everything a check looks at. With the memory of earlier sites, less of the reach is reckoned anew. */
export const contextOf = (reach: Reach, observed: Observed = {}, memory = new ReachMemory()): Context => ({
  ...reach.model,
  reach,
  memory,
  observed,
});

/** Values that say where something stands, which edits elsewhere move. */
const PLACES = new Set(['line', 'file', 'subject']);

/** Gives findings their names: code, subject, and what of their values is no place. Twins are numbered. */
function identified(findings: readonly Omit<Finding, 'id'>[]): Finding[] {
  const seen = new Map<string, number>();
  return findings.map((f) => {
    const values = Object.entries(f.values)
      .filter(([key, value]) => value !== '' && !PLACES.has(key))
      .map(([, value]) => value);
    const id = `${f.code}:${f.subject.replace(/^line [0-9]+$/, 'line')} ${values.join('|')}`;
    const n = (seen.get(id) ?? 0) + 1;
    seen.set(id, n);
    return { id: n > 1 ? `${id} ~${n}` : id, ...f };
  });
}

/** What one check finds. */
const foundBy = (check: Check, context: Context): Omit<Finding, 'id'>[] =>
  [...check.run(context)].map((found) => ({
    code: check.code,
    severity: found.severity ?? SEVERITIES[check.code],
    subject: found.subject ?? found.statement.subject,
    file: found.statement.file,
    at: found.at ?? found.statement.head,
    values: found.values,
    others: found.others ?? [],
    mends: (found.mends ?? []).filter((m) => m.changes.some((x) => x.edits.length > 0)),
  }));

/** The findings of one code, those among them that would be silenced too. */
export const findOnly = (context: Context, code: Code): Finding[] =>
  identified(
    [
      ...CHECKS.filter((check) => check.code === code).flatMap((check) => foundBy(check, context)),
      ...readingFindings(context),
    ].filter((f) => f.code === code),
  );

/** All findings of a site, in file order: by file as given, then by place. */
export function findAll(context: Context): Finding[] {
  const all = identified([
    ...CHECKS.flatMap((check) => foundBy(check, context)),
    ...readingFindings(context),
  ]);
  const told = new Set(all.map((f) => `${f.code} ${f.subject}`));
  const codes = new Set<string>(all.map((f) => f.code));
  const silenced = (f: Finding) =>
    // No way out is the cause of every promise that finds none.
    (f.code === 'expectation-failed' && !!f.values.outward && codes.has('no-default-route')) ||
    CAUSES.get(f.code)?.some((cause) => told.has(`${cause} ${f.subject}`)) ||
    CAUSES_ANYWHERE.get(f.code)?.some((cause) => codes.has(cause));
  const order = new Map(context.site.documents.map((d, i) => [d.file, i]));
  return all
    .filter((f) => !silenced(f))
    .sort(
      (a, b) =>
        (order.get(a.file) ?? 0) - (order.get(b.file) ?? 0) ||
        a.at.start - b.at.start ||
        (a.code < b.code ? -1 : a.code > b.code ? 1 : 0),
    );
}

/** What reading itself found: these come with their places, not from statements. */
function readingFindings(context: Context): Omit<Finding, 'id'>[] {
  return context.site.documents.flatMap((document) =>
    document.problems.map((p): Omit<Finding, 'id'> => ({
      code: p.code,
      severity: SEVERITIES[p.code],
      subject: p.subject,
      file: p.file,
      at: p.at,
      values: { subject: p.subject, ...p.values },
      others: [],
      mends: p.proposal
        ? [
            {
              what: 'replace',
              values: { text: p.proposal.text.trim() || 'nothing' },
              changes: [
                {
                  file: p.file,
                  edits: [{ start: p.proposal.at.start, end: p.proposal.at.end, text: p.proposal.text }],
                },
              ],
            },
          ]
        : [],
    })),
  );
}
