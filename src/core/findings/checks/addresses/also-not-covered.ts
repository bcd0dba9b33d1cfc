import { formatPrefix, isIpv4, overlaps, prefixEquals, servicesWithin } from '#core/addr';
import type { Ipv4, Prefix } from '#core/addr';
import { changeClauses } from '#core/edits';
import { clausesOf, written } from '#core/notation';
import type { Span, Statement, StatementOf, Who } from '#core/notation';
import { staticNetworks } from '#core/site';
import type { Site } from '#core/site';
import { check } from '../../finding';
import { live } from '../../queries';

/** A rule or a known that names the old prefix of a network, but not the one added beside it. */
export const alsoNotCovered = check({
  code: 'also-not-covered',
  *run({ site }) {
    for (const iface of live(site)) {
      const nets = staticNetworks(iface).filter((n): n is Prefix<Ipv4> => isIpv4(n.address));
      const [old, ...added] = nets;
      if (!old) continue;
      for (const net of added) {
        for (const { statement, clause, prefixes } of namedPrefixes(site)) {
          if (!prefixes.some((p) => prefixEquals(p, old)) || prefixes.some((p) => overlaps(p, net))) continue;
          if (isMet(site, statement, net)) continue;
          yield {
            statement,
            at: clause,
            others: [iface.statement],
            values: { old: formatPrefix(old), added: formatPrefix(net), name: iface.name },
            mends: clause
              ? [
                  {
                    what: 'name-too',
                    values: { added: formatPrefix(net) },
                    changes: changeClauses(site, statement, [
                      { do: 'replace', start: clause.end, end: clause.end, text: ` ${formatPrefix(net)}` },
                    ]),
                  },
                ]
              : [],
          };
        }
      }
    }
  },
});

/** Whether another statement that does the same names the network, so that both together do. */
function isMet(site: Site, s: Statement, net: Prefix): boolean {
  const covers = (whos: readonly Who[]) =>
    !whos.length ||
    whos.some((w) => w.type === 'any' || (w.type === 'addresses' && w.prefix && overlaps(w.prefix, net)));
  switch (s.kind) {
    case 'leave':
      return site.leaves.some(
        (o) => o !== s && o.via.name === s.via.name && sameLeave(o, s) && covers([o.who]),
      );
    case 'passage':
      return site.passages.some(
        (o) =>
          o !== s &&
          o.from.name === s.from.name &&
          o.to.name === s.to.name &&
          o.verdict === s.verdict &&
          servicesWithin(s.services, o.services) &&
          (s.sources.length ? covers(o.sources) : true) &&
          (s.destinations.length ? covers(o.destinations) : true),
      );
    default:
      return false;
  }
}

const sameLeave = (a: StatementOf<'leave'>, b: StatementOf<'leave'>): boolean =>
  a.as?.by === b.as?.by &&
  (a.as?.by !== 'address' || (b.as?.by === 'address' && a.as.address.value === b.as.address.value));

/** Every list of addresses in the rules and known hosts that names whole networks, with its clause where it has one. */
function namedPrefixes(site: Site): { statement: Statement; clause?: Span; prefixes: Prefix[] }[] {
  const of = (whos: readonly Who[]) =>
    whos.flatMap((w) => (w.type === 'addresses' && w.prefix ? [w.prefix] : []));
  const clauseOf = (s: Statement, name: string): Span | undefined => {
    const clause = clausesOf(s, name)[0];
    return clause && { start: clause.start, end: clause.end, line: s.line, column: 1 };
  };
  return [
    ...site.passages.flatMap((s) => [
      { statement: s, clause: clauseOf(s, 'from'), prefixes: of(s.sources) },
      { statement: s, clause: clauseOf(s, 'to'), prefixes: of(s.destinations) },
    ]),
    ...site.knowns.map((s) => {
      const first = written(s).clauses[0];
      return {
        statement: s,
        clause: first && { start: first.start, end: first.end, line: s.line, column: 1 },
        prefixes: s.items.flatMap((i) => (i.value.prefix ? [i.value.prefix] : [])),
      };
    }),
    ...site.leaves.map((s) => ({ statement: s, prefixes: of([s.who]) })),
  ];
}
