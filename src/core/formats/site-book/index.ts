/** The site book: everything that somebody wants in a folder, as rows gathered from the model. */
import { formatDay } from '#core/base';
import { formatIp, formatPrefix } from '#core/addr';
import { foldFree, ledgerOf } from '#core/model';
import type { LedgerUse, Model } from '#core/model';
import { clausesOf, written } from '#core/notation';
import type { Statement } from '#core/notation';
import { documentOf, interfaceAt } from '#core/site';
import type { Site } from '#core/site';
import { networkRows, reservationRows } from '../address-plan';
import { wiringSheet } from '../wiring';
import type { WiringSheet } from '../wiring';

export interface BookCircuit {
  readonly name: string;
  readonly at: string;
  readonly interface: string;
  /** What it gives, as it is written. */
  readonly gives: string;
  readonly gateway: string;
  readonly names: string;
  /** Contract, telephone and what else is noted of the circuit and of its interface. */
  readonly notes: readonly string[];
}

export interface BookDoor {
  readonly name: string;
  readonly outside: string;
  readonly inside: string;
  readonly from: string;
  readonly until: string;
  readonly note: string;
}

export interface BookPassage {
  readonly line: string;
  readonly until: string;
  readonly note: string;
}

export interface BookRows {
  readonly box: string;
  readonly admins: readonly string[];
  readonly note: string;
  /** The day that it is of; empty where nobody said. */
  readonly day: string;
  readonly wiring: WiringSheet;
  readonly circuits: readonly BookCircuit[];
  readonly networks: readonly (readonly string[])[];
  readonly reservations: readonly (readonly string[])[];
  readonly block: readonly {
    readonly address: string;
    readonly interface: string;
    readonly uses: readonly { readonly use: LedgerUse; readonly of: string }[];
  }[];
  readonly doors: readonly BookDoor[];
  readonly leaves: readonly string[];
  /** In the order in which they are asked. */
  readonly passages: readonly BookPassage[];
  readonly knowns: readonly { readonly name: string; readonly what: string; readonly note: string }[];
}

/** The words of a statement behind its kind and name, clauses of `but` left out; on one line. */
function said(site: Site, s: Statement, but: readonly string[] = []): string {
  const text = documentOf(site, s).text;
  const { header } = written(s);
  const clauses = written(s).clauses.filter((c) => !but.includes(c.name));
  const head = header.length ? text.slice(header[0]!.start, header.at(-1)!.end) : '';
  const words = clauses.map((c) => text.slice(c.start, c.end)).join(', ');
  return `${head}${words ? `: ${words}` : ''}`.replace(/\s+/g, ' ').trim();
}

const noteOf = (s: Statement): string => s.note?.value ?? '';
const wordsOf = (site: Site, s: Statement, clause: string): string =>
  clausesOf(s, clause)
    .map((c) =>
      documentOf(site, s)
        .text.slice(c.start, c.end)
        .replace(new RegExp(`^${clause}\\s+`), ''),
    )
    .join(' ')
    .replace(/\s+/g, ' ');

/** Gathers the rows. Secrets are in none of them. */
export function bookRows(model: Model): BookRows {
  const { site, wiring } = model;
  const circuits = wiring.circuits
    .filter((c) => !c.supposed && c.statement)
    .map((c): BookCircuit => {
      const s = c.statement!;
      const iface = interfaceAt(site, c.landing);
      const gives = c.session
        ? `PPPoE as ${c.session.user}, ${formatIp(c.session.gives)}`
        : c.lends
          ? `DHCP ${wordsOf(site, s, 'lends')}`
          : c.prefix
            ? `static ${formatPrefix(c.prefix)}`
            : '';
      const routed = c.routes.map((r) => `routes ${formatPrefix(r.prefix)} via ${formatIp(r.via)}`);
      return {
        name: c.name,
        at: wordsOf(site, s, 'at'),
        interface: iface?.name ?? '',
        gives: [gives, ...routed].filter(Boolean).join('; '),
        gateway: c.gateway === undefined ? '' : formatIp(c.gateway),
        names: c.names.map(formatIp).join(' '),
        notes: [noteOf(s), iface ? noteOf(iface.statement) : ''].filter(Boolean),
      };
    });
  return {
    box: site.box?.name || 'box',
    admins: site.box?.admin ?? [],
    note: site.box ? noteOf(site.box) : '',
    day: site.today === undefined ? '' : formatDay(site.today),
    wiring: wiringSheet(model),
    circuits,
    networks: networkRows(site),
    reservations: reservationRows(site),
    block: foldFree(ledgerOf(model)).map(({ address, last, interface: of, uses }) => ({
      address: last === undefined ? formatIp(address) : `${formatIp(address)} – ${formatIp(last)}`,
      interface: of,
      uses: uses.map((u) => ({ use: u.use, of: subjectName(u.subject) })),
    })),
    doors: site.doors.map((d) => {
      const lead = documentOf(site, d).text.slice(d.start, d.end);
      const [outside = '', inside = ''] = lead
        .replace(/^door\s+\S+:?\s*/, '')
        .split(',')[0]!
        .replace(/\s+/g, ' ')
        .split('>')
        .map((t) => t.trim());
      return {
        name: d.name,
        outside,
        inside,
        from: wordsOf(site, d, 'from'),
        until: d.until ? formatDay(d.until.value) : '',
        note: noteOf(d),
      };
    }),
    leaves: [...site.leaves, ...site.sends].map((s) => `${s.kind} ${said(site, s)}`),
    passages: site.passages.map((p) => ({
      line: said(site, p, ['until', 'note']),
      until: p.until ? formatDay(p.until.value) : '',
      note: noteOf(p),
    })),
    knowns: site.knowns.map((k) => ({
      name: k.name,
      what: said(site, k, ['note']).replace(/^\S+\s*/, ''),
      note: noteOf(k),
    })),
  };
}

const subjectName = (subject: string | undefined): string =>
  subject === undefined ? '' : subject.replace('/', ' ').replace('>', ' > ').replace(/#1$/, '');
