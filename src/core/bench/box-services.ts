/** What the box does for others in its own name: lending addresses, resolving names, telling the time. */
import { OPTION_NAMES, contains, isIpv4 } from '#core/addr';
import type { DhcpOption, Ip, Ipv4, Prefix } from '#core/addr';
import {
  forwardedTo,
  gatewayAddress,
  interfaceAt,
  poolOf,
  recordNames,
  recordOf,
  twinAddresses,
} from '#core/site';
import type { Interface, Site, Wiring } from '#core/site';
import { DNS_TYPE, RCODE, decodeDns, encodeDns, reverseName } from '#core/wire';
import type { Dns } from '#core/wire';
import { DhcpServer, toldBeside } from './dhcp-server';
import type { Endpoints } from './endpoints';

/** The DHCP server of an interface with pools, or undefined where it lends nothing. */
export function poolsOf(site: Site, wiring: Wiring, def: Interface): DhcpServer | undefined {
  const { pools, reserved } = def;
  const own = def.addresses.map((a) => a.prefix).filter((p): p is Prefix<Ipv4> => isIpv4(p.address));
  const primary = def.addresses.find((a) => a.primary)?.prefix as Prefix<Ipv4> | undefined;
  if (!pools.length || !primary) return undefined;
  // A server probes an address before it offers it (RFC 2131 §2.2), so what is fixed on the segment is not given.
  // Who has it on another segment, in another table, is not asked.
  const fixed = wiring.stations.flatMap((s) =>
    s.address && !s.off && interfaceAt(site, s.landing) === def ? [s.address.address] : [],
  );
  for (const { landing, address } of wiring.routers.flatMap((r) => r.legs))
    if (interfaceAt(site, landing) === def) fixed.push(address.address);
  const boxNames = (site.box?.names ?? []).map((n) => n.value).filter(isIpv4);
  const said = site.box?.domain?.value;
  const domain: DhcpOption[] =
    said === undefined ? [] : [{ code: OPTION_NAMES.domain.code, value: { form: 'text', text: said } }];
  return new DhcpServer({
    address: primary.address,
    pools,
    keeps: reserved.flatMap(({ address, mac }) => (isIpv4(address) ? [{ address, mac }] : [])),
    taken: new Set([...own.map((p) => p.address), ...fixed, ...twinAddresses([def])]),
    terms: (address) => {
      const home = own.find((p) => contains(p, address));
      if (!home) return undefined;
      const pool = poolOf(pools, address) ?? pools[0]!;
      const names = pool.names.filter(isIpv4);
      const ours = gatewayAddress(def, home);
      return {
        length: home.length,
        gateway: (pool.gateway as Ipv4 | undefined) ?? ours,
        names: names.length ? names : site.box?.servesNames ? [ours] : boxNames,
        others: toldBeside(def, address, domain),
      };
    },
  });
}

/** A resolver that the box asks, through an uplink where one is named. */
export interface Asked {
  readonly address: Ip;
  readonly bind?: string;
}

/** What the box says of a name by itself: of its records, forwards and backwards; undefined where it has to ask. */
function localAnswer(site: Site, question: Dns): Dns | undefined {
  const { name, type } = question;
  const record = recordOf(site, name);
  const answer = { ...question, response: true, rcode: RCODE.none };
  if (record) {
    const six = type === DNS_TYPE.aaaa;
    const asked = type === DNS_TYPE.a || six;
    const addresses = record.addresses.map((a) => a.value).filter((a) => asked && isIpv4(a) !== six);
    return { ...answer, addresses };
  }
  if (type !== DNS_TYPE.ptr) return undefined;
  const back = site.records.find((r) => r.addresses.some((a) => reverseName(a.value) === name));
  return back && { ...answer, pointer: recordNames(site, back.name)[0] };
}

/** The box as resolver: it knows its records, and asks its resolvers one after another for the first answer. */
export function serveBoxNames(endpoints: Endpoints, site: Site, resolvers: () => readonly Asked[]): void {
  endpoints.serveUdp(53, (data, _from, reply) => {
    const question = data.slice();
    const read = decodeDns(question);
    if (!read.ok || read.value.response) return;
    const own = localAnswer(site, read.value);
    if (own) {
      reply(encodeDns(own));
      return;
    }
    const elsewhere = forwardedTo(site, read.value.name);
    const servers: readonly Asked[] = elsewhere?.map((address) => ({ address })) ?? resolvers();
    const next = (i: number) => {
      const server = servers[i];
      if (!server) return;
      const attempt = endpoints.ask(server.address, 53, question, { bind: server.bind });
      const then = () => (attempt.data ? reply(attempt.data) : next(i + 1));
      if (attempt.done) then();
      else attempt.then = then;
    };
    next(0);
  });
}

/** The box tells the time: an NTP server's answer in form (RFC 5905 §7.3), with a clock of the bench. */
export function serveTime(endpoints: Endpoints): void {
  endpoints.serveUdp(123, (data, _from, reply) => {
    const answer = new Uint8Array(48);
    answer.set(data.subarray(0, 48));
    // Version as asked, mode 4 (server), stratum 3.
    answer[0] = ((data[0] ?? 0x23) & 0x38) | 4;
    answer[1] = 3;
    answer.set(data.subarray(40, 48), 24);
    reply(answer);
  });
}
