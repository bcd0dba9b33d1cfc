/** `A leaves as ADDRESS`: by the active uplink every source shows it. */
import { familyOf, formatIp } from '#core/addr';
import type { Ip } from '#core/addr';
import { seenBy } from '../ladder';
import { begin, finishAll, byActive, leftAs } from './attempts';
import type { Try } from './attempts';
import { usualServices } from './services';
import type { Judging, PromiseResult } from './judging';

export function judgeLeavesAs({
  bench,
  pointed,
  promise,
  sources,
  told,
  pass,
  fail,
}: Judging<'leaves-as'>): PromiseResult {
  const targets = [...bench.fars.values()]
    .filter((f) => !f.silent)
    .flatMap((f) => f.setup.addresses.filter((a) => familyOf(a) === familyOf(promise.address)).slice(0, 1));
  if (!targets.length) return fail('promise-no-target', { to: 'internet' });
  const insiders = sources.filter((s) => !bench.fars.has(s.name));
  const speaking = insiders.filter((s) => s.addresses.some((a) => familyOf(a) === familyOf(promise.address)));
  if (!speaking.length) return fail('promise-no-pair', {});
  for (const from of speaking) {
    let seen: Ip | undefined;
    let first: Try | undefined;
    // Any service that gets out will do: rules may let only some through.
    const asked = usualServices(bench).flatMap((service) => targets.map((target) => ({ service, target })));
    for (const { service, target } of asked) {
      const t = begin(bench, from, { name: 'internet', address: target }, service);
      if (!t) continue;
      finishAll(bench, [t]);
      first ??= t;
      const now = seenBy(bench, t.mark);
      // The active uplink counts before one that a statement of sending chose.
      const usual = byActive(bench, t, target);
      if (now !== undefined && (usual || seen === undefined)) seen = now;
      if (now !== undefined && usual) break;
    }
    if (seen === undefined)
      return first ? fail('promise-not-reached', told(first)) : fail('promise-no-pair', {});
    if (seen !== promise.address)
      return fail('promise-other-address', {
        from: from.name,
        seen: formatIp(seen),
        wanted: formatIp(promise.address),
      });
  }
  // Where nobody can sit, behind another router, the flow that the reach points to is put on the line.
  const witness = pointed()?.witness;
  const left = witness && leftAs(bench, witness);
  if (left !== undefined && left !== promise.address)
    return fail('promise-other-address', {
      from: formatIp(witness!.source),
      seen: formatIp(left),
      wanted: formatIp(promise.address),
    });
  return pass('promise-leaves-as', { wanted: formatIp(promise.address) });
}
