/** The site book in words: sections with their heads, and as one page of HTML that needs nothing else. */
import { markdownRow, markdownRule, markdownText } from '#core/base';
import type { BookRows } from '#core/formats/site-book';
import type { ReachEnd } from '#core/reach';
import { LEG_HEADS, jackTagsText, legCells } from './wiring';

export interface BookTable {
  readonly heads: readonly string[];
  readonly rows: readonly (readonly string[])[];
}

export interface BookSection {
  readonly head: string;
  readonly lines: readonly string[];
  readonly tables: readonly (BookTable & { readonly caption?: string })[];
}

export interface Book {
  readonly title: string;
  readonly about: readonly string[];
  readonly sections: readonly BookSection[];
}

/** What is not in the model: what was proved and found, already in words. */
export interface BookTold {
  readonly site: string;
  readonly reach: readonly {
    readonly from: string;
    readonly to: string;
    readonly what: string;
    readonly as: string;
  }[];
  readonly promises: readonly { readonly text: string; readonly holds: boolean; readonly why: string }[];
  readonly findings: readonly { readonly severity: string; readonly where: string; readonly text: string }[];
}

/** Whether the book tells of an end of the reach: networks and hosts stand in their zones. */
export const isBooked = ({ kind }: Pick<ReachEnd, 'kind'>): boolean =>
  kind === 'zone' || kind === 'internet' || kind === 'box' || kind === 'door';

const USES = {
  gateway: 'gateway',
  box: 'the box',
  also: 'secondary',
  shared: 'shared by both boxes',
  twin: 'the second box',
  door: '',
  leaves: '',
  free: 'free',
} as const;

/** A section that has something to say; others are left out, but for those whose emptiness is worth knowing. */
const section = (
  head: string,
  tables: BookSection['tables'],
  lines: readonly string[] = [],
): BookSection => ({
  head,
  lines,
  tables: tables.filter((t) => t.rows.length > 0),
});

export function bookOf(rows: BookRows, told: BookTold): Book {
  const { wiring } = rows;
  const errors = told.findings.filter((f) => f.severity === 'error');
  const others = told.findings.filter((f) => f.severity !== 'error');
  const sections = [
    section('Ports and cables', [
      {
        heads: ['port', 'label', 'tag', 'plugged in', 'interface', 'zone', 'addresses'],
        rows: wiring.ports.map((p) => [
          p.port + (p.off ? ' (off)' : ''),
          p.label,
          p.tag === undefined ? (p.interface ? 'untagged' : '') : String(p.tag),
          p.plugged.join(', '),
          p.interface,
          p.zone,
          p.addresses.join(', '),
        ]),
      },
    ]),
    section('Circuits', [
      {
        heads: ['circuit', 'at', 'interface', 'gives', 'gateway', 'name servers', 'contract and telephone'],
        rows: rows.circuits.map((c) => [
          c.name,
          c.at,
          c.interface,
          c.gives,
          c.gateway,
          c.names,
          c.notes.join('; '),
        ]),
      },
    ]),
    section('Address plan', [
      { heads: ['name', 'VLAN', 'subnet', 'the box', 'pool', 'zone', 'note'], rows: rows.networks },
      { caption: 'Reservations', heads: ['device', 'MAC', 'address', 'network'], rows: rows.reservations },
      {
        caption: 'Known hosts and networks',
        heads: ['name', 'what', 'note'],
        rows: rows.knowns.map((k) => [k.name, k.what, k.note]),
      },
    ]),
    section('Public addresses', [
      {
        heads: ['address', 'uplink', 'use'],
        rows: rows.block.map((b) => [
          b.address,
          b.interface,
          b.uses.map((u) => USES[u.use] || u.of).join(', '),
        ]),
      },
    ]),
    section(
      'Doors',
      [
        {
          heads: ['door', 'public side', 'inside', 'from', 'ends after', 'note'],
          rows: rows.doors.map((d) => [d.name, d.outside, d.inside, d.from || 'anyone', d.until, d.note]),
        },
      ],
      rows.doors.length ? [] : ['Nothing inside is published.'],
    ),
    section(
      'Who reaches what',
      [
        {
          heads: ['from', 'to', 'with', 'seen as'],
          rows: told.reach.map((r) => [r.from, r.to, r.what, r.as]),
        },
      ],
      told.reach.length ? ['What is not in this table does not pass.'] : ['Nothing passes.'],
    ),
    section('Passages, in the order in which they are asked', [
      {
        heads: ['passage', 'ends after', 'note'],
        rows: rows.passages.map((p) => [p.line, p.until, p.note]),
      },
      { caption: 'Leaving and sending', heads: ['statement'], rows: rows.leaves.map((l) => [l]) },
    ]),
    section(
      'Promises',
      [
        {
          heads: ['', 'promise', 'what was seen'],
          rows: told.promises.map((p) => [p.holds ? 'holds' : 'FAILS', p.text, p.holds ? '' : p.why]),
        },
      ],
      told.promises.length ? [] : ['Nothing is promised.'],
    ),
    ...wiring.switches.map((s) =>
      section(`Switch ${s.name}${s.at ? `, trunk at ${s.at}` : ''}`, [
        {
          heads: ['jack', 'tag', 'interface', 'plugged in', 'address', 'MAC'],
          rows: s.jacks.map((j) => [
            String(j.jack),
            jackTagsText(j),
            j.interface,
            j.plugged,
            j.address,
            j.mac,
          ]),
        },
      ]),
    ),
    ...wiring.routers.map((r) =>
      section(`Router ${r.name}${r.gateway ? `, everything else to ${r.gateway}` : ''}`, [
        { heads: LEG_HEADS, rows: r.legs.map(legCells) },
      ]),
    ),
    section(
      'Errors that stand, overruled where this runs',
      [{ heads: ['where', 'what'], rows: errors.map((f) => [f.where, f.text]) }],
      errors.length ? [] : ['None.'],
    ),
    section(
      'Open findings',
      [{ heads: ['weight', 'where', 'what'], rows: others.map((f) => [f.severity, f.where, f.text]) }],
      others.length ? [] : ['None.'],
    ),
  ];
  return {
    title: `Site book of ${told.site}`,
    about: [
      `Box ${rows.box}${rows.admins.length ? `, administered by ${rows.admins.join(', ')}` : ''}`,
      ...(rows.day ? [`As of ${rows.day}`] : []),
      ...(rows.note ? [rows.note] : []),
    ],
    sections: sections.filter((s) => s.lines.length > 0 || s.tables.length > 0),
  };
}

const ENTITIES: Readonly<Record<string, string>> = { '&': '&amp;', '<': '&lt;', '>': '&gt;', '"': '&quot;' };
/** Text as HTML shows it. */
export const htmlText = (text: string): string => text.replace(/[&<>"]/g, (c) => ENTITIES[c]!);

/** Rows are not cut, heads of tables are repeated, heads of sections stay with what follows. */
const BOOK_STYLE = `@page{size:A4;margin:16mm 14mm}
body{font:10.5pt/1.4 system-ui,sans-serif;color:#1d1b17;background:#fff;max-width:190mm;margin:10mm auto;padding:0 4mm}
h1{font-size:20pt;margin:0 0 2mm}h2{font-size:13pt;margin:8mm 0 2mm;break-after:avoid}
p{margin:1mm 0}nav a{color:inherit;margin-inline-end:4mm}
table{border-collapse:collapse;width:100%;margin:2mm 0 4mm}caption{text-align:start;font-weight:600;padding:1mm 0;break-after:avoid}
thead{display:table-header-group}tr{break-inside:avoid}
th,td{border-bottom:.3mm solid #b9b2a2;padding:1mm 2mm 1mm 0;text-align:start;vertical-align:top;overflow-wrap:break-word}
th{font-size:9pt;color:#55503f}td{font-variant-numeric:tabular-nums}
@media print{body{margin:0;max-width:none;padding:0}nav{display:none}}`;

/** The book as one file. */
export function bookHtml({ title, about, sections }: Book): string {
  const cells = (tag: 'th' | 'td', row: readonly string[]) =>
    `<tr>${row.map((c) => `<${tag}${tag === 'th' ? ' scope="col"' : ''}>${htmlText(c)}</${tag}>`).join('')}</tr>`;
  return [
    '<!doctype html>',
    '<html lang="en"><head><meta charset="utf-8"><meta name="viewport" content="width=device-width">',
    `<title>${htmlText(title)}</title><style>${BOOK_STYLE}</style></head><body>`,
    `<h1>${htmlText(title)}</h1>`,
    ...about.map((l) => `<p>${htmlText(l)}</p>`),
    `<nav aria-label="sections">${sections.map((s, i) => `<a href="#s${i}">${htmlText(s.head)}</a>`).join(' ')}</nav>`,
    ...sections.flatMap((s, i) => [
      `<h2 id="s${i}">${htmlText(s.head)}</h2>`,
      ...s.lines.map((l) => `<p>${htmlText(l)}</p>`),
      ...s.tables.map(
        (t) =>
          `<table>${t.caption ? `<caption>${htmlText(t.caption)}</caption>` : ''}<thead>${cells('th', t.heads)}</thead><tbody>${t.rows.map((r) => cells('td', r)).join('\n')}</tbody></table>`,
      ),
    ]),
    '</body></html>',
    '',
  ].join('\n');
}

/** The book as Markdown, for reading in a terminal or a wiki. */
export function bookMarkdown({ title, about, sections }: Book): string {
  return [
    `# ${markdownText(title)}`,
    ...about.map(markdownText),
    ...sections.flatMap((s) => [
      `## ${s.head}`,
      ...s.lines.map(markdownText),
      ...s.tables.flatMap((t) => [
        ...(t.caption ? [`### ${markdownText(t.caption)}`] : []),
        [markdownRow(t.heads), markdownRule(t.heads), ...t.rows.map(markdownRow)].join('\n'),
      ]),
    ]),
    '',
  ].join('\n\n');
}
