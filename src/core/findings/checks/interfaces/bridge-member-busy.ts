import { changeClauses, dropStatement } from '#core/edits';
import { allWords, clausesOf } from '#core/notation';
import type { Statement } from '#core/notation';
import type { Interface, Site } from '#core/site';
import { check } from '../../finding';
import type { Mend } from '../../finding';
import { live } from '../../queries';

/** A member of a bridge that is still an interface of its own, with an address or asking for one. */
export const bridgeMemberBusy = check({
  code: 'bridge-member-busy',
  *run({ site }) {
    for (const bridge of live(site)) {
      if (bridge.statement.carrier?.by !== 'bridge') continue;
      for (const member of bridge.statement.carrier.ports) {
        const other = live(site).find(
          (i) =>
            i !== bridge && i.tag === bridge.tag && i.ports.includes(member.name) && i.carrier !== 'bridge',
        );
        if (!other) continue;
        const has = other.dynamic
          ? `asks for an address by ${other.dynamic}`
          : other.addresses.length
            ? 'has an address'
            : 'takes its frames';
        const freed = freePort(site, other);
        const out = withoutMember(site, bridge, member.name);
        yield {
          statement: bridge.statement,
          at: member.at,
          others: [other.statement],
          values: { name: bridge.name, port: member.name, other: other.name, has },
          // A port that still asks for an address was forgotten; one that works for somebody was meant.
          mends: other.dynamic ? [...freed, out] : [out, ...freed],
        };
      }
    }
  },
});

/** Drops the other interface, where nothing else speaks of it. */
function freePort(site: Site, other: Interface): Mend[] {
  const spoken = site.statements.some((s) => s !== other.statement && mentions(s, other.name));
  if (spoken) return [];
  return [
    {
      what: 'drop-interface',
      values: { name: other.name },
      changes: dropStatement(site, other.statement),
    },
  ];
}

const mentions = (s: Statement, name: string): boolean => allWords(s).some((w) => w.text === name);

/** Takes a port out of a bridge; a bridge that is left with one port becomes that port's interface. */
export function withoutMember(site: Site, bridge: Interface, port: string): Mend {
  const left = [...new Set(bridge.ports.filter((p) => p !== port))];
  const tag = bridge.tag === undefined ? '' : ` tag ${bridge.tag}`;
  const text = left.length > 1 ? `bridge ${left.join(' ')}${tag}` : `on ${left[0] ?? port}${tag}`;
  const { start, end } = clausesOf(bridge.statement, 'bridge')[0]!;
  return {
    what: 'leave-bridge',
    values: { port, name: bridge.name },
    changes: changeClauses(site, bridge.statement, [{ do: 'replace', start, end, text }]),
  };
}
