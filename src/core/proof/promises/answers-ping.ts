/** `X answers ping from A`: the box itself echoes at every IPv4 address of X. */
import { PROTO, isIpv4 } from '#core/addr';
import { interfaceNamed } from '#core/site';
import { begin, finishAll } from './attempts';
import type { Judging, PromiseResult } from './judging';

export function judgeAnswersPing({
  bench,
  promise,
  sources,
  told,
  pass,
  fail,
}: Judging<'answers-ping'>): PromiseResult {
  const { site } = bench;
  const iface = interfaceNamed(site, promise.interface.name);
  const own = iface && bench.box.states().get(iface.name)?.addresses;
  if (!iface || !own?.length) return fail('promise-no-target', { to: promise.interface.name });
  let count = 0;
  for (const from of sources)
    for (const { address } of own) {
      if (!isIpv4(address) || !from.addresses.some(isIpv4)) continue;
      const t = begin(bench, from, { name: iface.name, address }, { proto: PROTO.icmp, echo: true });
      if (!t) continue;
      finishAll(bench, [t]);
      count++;
      // A door may take the ping and somebody else answer it, or it may go around by the internet to another table.
      const own = bench.stepsOf(t.mark).filter((s) => s.node === bench.box.name);
      const said = own.find((s) => s.code !== 'arrived' && s.code !== 'door-closed');
      const by = own.find((s) => s.code === 'arrived')?.interface;
      // The same address in another table is another interface's.
      const itself = said?.code === 'box-answers' && interfaceNamed(site, by)?.table === iface.table;
      if (t.attempt.result !== 'answered' || !itself) return fail('promise-no-ping', told(t));
    }
  return count ? pass('promise-pings', { count: String(count) }) : fail('promise-no-pair', {});
}
