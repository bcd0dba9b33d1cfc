/** The text of the second of two boxes: what is its own stands where the first one's stood, and the other way round. */
import { formatIp, formatPrefix, isIpv4 } from '#core/addr';
import { clausesOf, isOfBox } from '#core/notation';
import type { ClauseOp, FileChange, Statement } from '#core/notation';
import { pairedInterfaces, primaryAddress, twinSite } from '#core/site';
import type { Interface, Site } from '#core/site';
import { changeClauses, changesTo, joinChanges, siteAfter } from './change';
import { rename } from './references';

/** Takes a clause away as often as it stands. */
const without = (s: Statement, ...names: readonly string[]): ClauseOp[] =>
  names.flatMap((name) => clausesOf(s, name).map((): ClauseOp => ({ do: 'remove', name })));

/** What is the first box's alone, and says nothing of the second. */
const ALONE = ['also', 'address6', 'gateway6', 'advertises', 'mac'] as const;

/**
 * Makes a site its twin's side, as `twinSite` reckons it: interfaces that the twin has not got are off, so that what
 * speaks of them still reads. Undefined where the text names no twin, or gives it no address anywhere.
 */
export function toTwin(site: Site): FileChange[] | undefined {
  const { box } = site;
  const twin = box?.twin?.value;
  const paired = pairedInterfaces(site);
  if (!box?.name || !twin || !twinSite(site)) return undefined;
  const renamed = siteAfter(site, rename(site, 'box', box.name, twin.name));
  const names = new Set(paired.map((i) => i.name));
  const own = renamed.box!;
  const changes = [
    changeClauses(renamed, own, [
      ...without(own, 'lowers'),
      ...own.lowers.flatMap(({ by, without: uplinks }): ClauseOp[] => {
        const kept = uplinks.map((u) => u.name).filter((u) => names.has(u));
        return kept.length ? [{ do: 'add', text: `lowers ${by} without ${kept.join(' ')}` }] : [];
      }),
      { do: 'set', name: 'priority', text: `priority ${twin.priority}` },
      { do: 'set', name: 'twin', text: `twin ${box.name} priority ${box.priority}` },
    ]),
    ...[...renamed.ports.values()].flatMap(({ statement: s }) =>
      s?.mac ? [changeClauses(renamed, s, without(s, 'mac'))] : [],
    ),
    ...renamed.interfaces.flatMap((i) =>
      i.off ? [] : [changeClauses(renamed, i.statement, names.has(i.name) ? swapped(i) : OFF)],
    ),
  ];
  return changesTo(site, siteAfter(renamed, joinChanges(...changes)));
}

/** The box file of the second box, as one text; undefined where `toTwin` makes none. */
export function twinText(site: Site): string | undefined {
  const changes = toTwin(site);
  return (
    changes &&
    siteAfter(site, changes)
      .documents.filter((d) => d.statements.some(isOfBox))
      .map((d) => d.text)
      .join('\n')
  );
}

const OFF: readonly ClauseOp[] = [{ do: 'add', text: 'off' }];

function swapped(iface: Interface): ClauseOp[] {
  const own = primaryAddress(iface)!;
  const { id, addresses, other } = iface.shared!;
  if (!isIpv4(own.address) || other === undefined) throw new Error(`${iface.name} has no twin`);
  const shared = `virtual ${addresses.map(formatIp).join(' ')} id ${id} with ${formatIp(own.address)}`;
  return [
    ...without(iface.statement, ...ALONE),
    { do: 'set', name: 'address', text: `address ${formatPrefix({ address: other, length: own.length })}` },
    { do: 'set', name: 'virtual', text: shared },
  ];
}
