import { formatIp } from '#core/addr';
import { interfaceFor } from '#core/site';
import { check } from '../../finding';
import { live } from '../../queries';
import { addAnswer } from '../../mending';

/** The administrator's own seat has no way into the box. */
export const seatCut = check({
  code: 'seat-cut',
  *run(c) {
    const seat = c.wiring.stations.find((s) => s.seat && s.statement);
    if (!seat?.statement?.seat) return;
    const iface = interfaceFor(c.site, c.wiring, seat);
    const own = [c.prospects.stations.get(seat.name), c.prospects.stations6.get(seat.name)];
    const addresses = own.flatMap((p) => p?.address ?? []);
    const [address] = addresses;
    const login = ['ssh', 'https', 'http'];
    const others = live(c.site).some((i) =>
      i.answers.some((a) => a.services.some((s) => login.includes(s.name))),
    );
    // Where nobody gets in at all, that is the fault to tell.
    if (!others) return;
    const rules = iface ? (c.rules.answers.get(iface.name) ?? []) : [];
    const welcome = rules.some(
      (r) => login.includes(r.name) && (!r.sources || addresses.some((a) => r.sources?.has(a))),
    );
    if (iface && welcome && iface.addresses.length) return;
    yield {
      statement: seat.statement,
      at: seat.statement.seat,
      others: iface ? [iface.statement] : [],
      values: {
        name: seat.name,
        interface: iface?.name ?? '',
        address: address === undefined ? '' : formatIp(address),
      },
      mends: iface
        ? [
            {
              what: 'answer-login',
              values: { name: iface.name },
              changes: addAnswer(c.site, iface, 'ssh https'),
            },
          ]
        : [],
    };
  },
});
