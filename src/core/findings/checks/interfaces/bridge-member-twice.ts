import { changeClauses } from '#core/edits';
import { check } from '../../finding';
import { live, pairs } from '../../queries';
import { withoutMember } from './bridge-member-busy';

/** A port that is in one bridge twice, or in two bridges with the same tag. */
export const bridgeMemberTwice = check({
  code: 'bridge-member-twice',
  *run({ site }) {
    const bridges = live(site).filter((i) => i.carrier === 'bridge');
    for (const b of bridges) {
      const again = b.statement.carrier!.ports.find((p, i) => b.ports.indexOf(p.name) < i);
      if (!again) continue;
      const once = [...new Set(b.ports)];
      const tag = b.tag === undefined ? '' : ` tag ${b.tag}`;
      yield {
        statement: b.statement,
        at: again.at,
        values: { name: b.name, port: again.name, other: '' },
        mends: [
          {
            what: 'once',
            values: { port: again.name },
            changes: changeClauses(site, b.statement, [
              { do: 'set', name: 'bridge', text: `bridge ${once.join(' ')}${tag}` },
            ]),
          },
        ],
      };
    }
    for (const [a, b] of pairs(bridges)) {
      const shared = b.statement.carrier!.ports.find((p) => a.ports.includes(p.name));
      if (!shared || a.tag !== b.tag) continue;
      yield {
        statement: b.statement,
        at: shared.at,
        others: [a.statement],
        values: { name: b.name, port: shared.name, other: a.name },
        mends: [withoutMember(site, b, shared.name)],
      };
    }
  },
});
