/** Which of an interface's addresses is the primary one. */
import { formatPrefix, formatRangeShort, isIpv4, offsetIp, rangeContains } from '#core/addr';
import type { Ip, Range } from '#core/addr';
import { clausesOf } from '#core/notation';
import type { AlsoItem, ClauseOp, FileChange } from '#core/notation';
import { primaryAddress } from '#core/site';
import type { Interface, Site } from '#core/site';
import { changeClauses } from './change';

interface Item {
  readonly range: Range;
  readonly length: number;
}

/** The secondary addresses of an interface as they are written: single ones and ranges, in order. */
export const secondaryAddresses = (iface: Interface): readonly AlsoItem[] =>
  iface.statement.also.map((a) => a.value);

/** Makes a secondary address the primary one; the old primary becomes the first secondary. */
export function promoteAddress(site: Site, iface: Interface, address: Ip): FileChange[] {
  const old = primaryAddress(iface);
  const from = iface.statement.also.find((a) => rangeContains(a.value.range, address))?.value;
  if (!old || !from || !isIpv4(address)) return [];
  const rest = iface.statement.also.flatMap((a): Item[] =>
    a.value === from
      ? around(from.range, address).map((range) => ({ range, length: from.length }))
      : [a.value],
  );
  const first = { range: { first: old.address, last: old.address }, length: old.length };
  return changeClauses(site, iface.statement, [
    ...alsoOps(iface, [first, ...rest], from.length),
    { do: 'set', name: 'address', text: `address ${formatPrefix({ address, length: from.length })}` },
  ]);
}

/** The parts of a range on both sides of an address in it. */
function around({ first, last }: Range, address: Ip): Range[] {
  const before = address > first ? [{ first, last: offsetIp(address, -1)! }] : [];
  const after = address < last ? [{ first: offsetIp(address, 1)!, last }] : [];
  return [...before, ...after];
}

/** Writes the secondary addresses anew, as one clause. A range without a length of its own has the primary's. */
function alsoOps(iface: Interface, items: readonly Item[], primaryLength: number | undefined): ClauseOp[] {
  const texts = items.flatMap(({ range, length }) => {
    if (range.first === range.last) return [formatPrefix({ address: range.first, length })];
    if (length === primaryLength) return [formatRangeShort(range)];
    const out: string[] = [];
    for (let a: Ip | undefined = range.first; a !== undefined && a <= range.last; a = offsetIp(a, 1))
      out.push(formatPrefix({ address: a, length }));
    return out;
  });
  const clauses = clausesOf(iface.statement, 'also').length;
  return [
    ...Array.from({ length: clauses - 1 }, (): ClauseOp => ({ do: 'remove', name: 'also', nth: 1 })),
    { do: 'set', name: 'also', text: `also ${texts.join(' ')}` },
  ];
}
