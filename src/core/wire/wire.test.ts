/** Every protocol: decode∘encode is identity, cut or changed bytes are a typed failure, and known frames read as published. */
import { expect } from 'chai';
import fc from 'fast-check';
import { formatIp, formatMac, ipv4, mustIpv4, mustMac, parseIp } from '#core/addr';
import type { Ipv4, Ipv6, Mac } from '#core/addr';
import {
  BROADCAST,
  ETHERTYPE,
  decodeArp,
  decodeControl,
  decodeDhcp,
  decodeDhcpv6,
  decodeDns,
  decodeEthernet,
  decodeIcmp,
  decodeLacp,
  decodeVrrp,
  encodeLacp,
  encodeVrrp,
  decodeIcmp6,
  decodeIpv4,
  decodeIpv6,
  decodeNd,
  decodePpp,
  decodePppoe,
  decodeTcp,
  decodeUdp,
  encodeArp,
  encodeControl,
  encodeDhcp,
  encodeDhcpv6,
  encodeDns,
  encodeEthernet,
  encodeIcmp,
  encodeIcmp6,
  encodeIpv4,
  encodeIpv6,
  encodeNd,
  encodePpp,
  encodePppoe,
  encodeTcp,
  encodeUdp,
  groupMac,
  ipv4Packet,
  readOptions,
  solicitedNode,
  writeOptions,
} from './index';
import type {
  Arp,
  ControlOption,
  Dhcp,
  Dhcpv6,
  Dns,
  Ethernet,
  Icmp,
  Lacp,
  LacpEnd,
  Nd,
  Pppoe,
  Tcp,
  Udp,
  Vrrp,
} from './index';
import type { Result } from '#core/base';

const u = (bits: number) => fc.integer({ min: 0, max: 2 ** bits - 1 });
const address = fc.integer({ min: 0, max: 0xffffffff }).map((n) => ipv4(n >>> 0));
const mac = fc.integer({ min: 0, max: 2 ** 48 - 1 }).map((n) => n as Mac);
const data = fc.uint8Array({ maxLength: 80 });
/** Values as sorted plain data, absent fields left out. */
const plain = (value: unknown): string =>
  JSON.stringify(
    Object.entries(value as object)
      .filter(([, v]) => v !== undefined)
      .sort(([a], [b]) => (a < b ? -1 : 1)),
    bytesToList,
  );
const same = (a: unknown, b: unknown) => plain(a) === plain(b);
const bytesToList = (_: string, v: unknown) =>
  v instanceof Uint8Array ? [...v] : typeof v === 'bigint' ? `0x${v.toString(16)}` : v;
const A = mustIpv4('192.0.2.1');
const B = mustIpv4('198.51.100.2');
const hex = (text: string) =>
  Uint8Array.from(text.replace(/\s/g, '').match(/../g) ?? [], (x) => parseInt(x, 16));

const ethernet: fc.Arbitrary<Ethernet> = fc.record(
  {
    destination: mac,
    source: mac,
    vlan: fc.record({ id: u(12), pcp: u(3) }),
    type: u(16).filter((t) => t !== 0x8100),
    payload: fc.uint8Array({ minLength: 46, maxLength: 90 }),
  },
  { requiredKeys: ['destination', 'source', 'type', 'payload'] },
);
const lacpEnd: fc.Arbitrary<LacpEnd> = fc.record({
  system: mac,
  key: fc.integer({ min: 0, max: 0xffff }),
  port: fc.integer({ min: 0, max: 0xffff }),
  active: fc.boolean(),
  short: fc.boolean(),
  aggregatable: fc.boolean(),
  sync: fc.boolean(),
  collecting: fc.boolean(),
  distributing: fc.boolean(),
  defaulted: fc.boolean(),
  expired: fc.boolean(),
});
const lacp: fc.Arbitrary<Lacp> = fc.record({ actor: lacpEnd, partner: lacpEnd });
const arp: fc.Arbitrary<Arp> = fc.record({
  operation: fc.constantFrom('request', 'reply'),
  senderMac: mac,
  senderIp: address,
  targetMac: mac,
  targetIp: address,
});
const icmp: fc.Arbitrary<Icmp> = fc.oneof(
  fc.record({
    type: fc.constantFrom('echo-request' as const, 'echo-reply' as const),
    identifier: u(16),
    sequence: u(16),
    data,
  }),
  fc.record({ type: fc.constant('unreachable' as const), code: u(4), mtu: u(16), about: data }),
  fc.record({ type: fc.constant('time-exceeded' as const), code: u(1), about: data }),
);
const udp: fc.Arbitrary<Udp> = fc.record({ sourcePort: u(16), destinationPort: u(16), data });
const flag = fc.boolean();
const tcp: fc.Arbitrary<Tcp> = fc.record(
  {
    sourcePort: u(16),
    destinationPort: u(16),
    sequence: u(32),
    acknowledgment: u(32),
    syn: flag,
    ack: flag,
    fin: flag,
    rst: flag,
    psh: flag,
    window: u(16),
    mss: u(16),
    data,
  },
  {
    requiredKeys: [
      'sourcePort',
      'destinationPort',
      'sequence',
      'acknowledgment',
      'syn',
      'ack',
      'fin',
      'rst',
      'psh',
      'window',
      'data',
    ],
  },
);
const text = fc.stringMatching(/^[a-z]{1,12}$/);
const dhcp: fc.Arbitrary<Dhcp> = fc.record(
  {
    reply: flag,
    type: fc.constantFrom('discover', 'offer', 'request', 'decline', 'ack', 'nak', 'release', 'inform'),
    transaction: u(32),
    clientIp: address,
    yourIp: address,
    relay: address.filter((a) => a !== 0),
    hops: fc.integer({ min: 1, max: 16 }),
    clientMac: mac,
    broadcast: flag,
    mask: address,
    routers: fc.array(address, { maxLength: 3 }),
    names: fc.array(address, { maxLength: 4 }),
    requested: address,
    server: address,
    leaseTime: u(32),
    renewal: u(32),
    rebinding: u(32),
    hostName: text,
    message: text,
    others: fc
      .uniqueArray(
        fc.tuple(
          fc.constantFrom(15, 42, 43, 66, 119, 150, 200),
          fc.uint8Array({ minLength: 1, maxLength: 40 }),
        ),
        {
          selector: ([code]) => code,
        },
      )
      .map((all) => new Map(all)),
  },
  {
    requiredKeys: [
      'reply',
      'type',
      'transaction',
      'clientIp',
      'others',
      'yourIp',
      'clientMac',
      'broadcast',
      'routers',
      'names',
    ],
  },
);
const dns: fc.Arbitrary<Dns> = fc.record({
  id: u(16),
  response: fc.constant(true),
  rcode: u(3),
  name: fc.array(text, { minLength: 1, maxLength: 4 }).map((l) => l.join('.')),
  type: fc.constant(1),
  addresses: fc.array(address, { maxLength: 4 }),
});
const pointing: fc.Arbitrary<Dns> = fc.record({
  id: u(16),
  response: fc.constant(true),
  rcode: u(3),
  name: text,
  type: fc.constant(12),
  addresses: fc.constant([]),
  pointer: fc.array(text, { minLength: 1, maxLength: 4 }).map((l) => l.join('.')),
});

const address6 = fc.bigInt({ min: 0n, max: (1n << 128n) - 1n }).map((n) => n as Ipv6);
const prefix6 = fc
  .tuple(
    address6,
    u(7).map((n) => n % 129),
  )
  .map(([address, length]) => ({ address, length }));
const nd: fc.Arbitrary<Nd> = fc.oneof(
  fc.record({ type: fc.constant('router-ask' as const), mac }),
  fc.record({ type: fc.constant('ask' as const), target: address6, mac }),
  fc.record({
    type: fc.constant('answer' as const),
    target: address6,
    router: fc.boolean(),
    solicited: fc.boolean(),
    mac,
  }),
  fc.record({
    type: fc.constant('router' as const),
    managed: fc.boolean(),
    other: fc.boolean(),
    lifetime: u(16),
    mac,
    mtu: u(32),
    prefixes: fc.array(
      fc.record({
        prefix: prefix6,
        onLink: fc.boolean(),
        autonomous: fc.boolean(),
        valid: u(32),
        preferred: u(32),
      }),
      { maxLength: 3 },
    ),
    names: fc.array(address6, { maxLength: 3 }),
  }),
);
const given = <T>(value: fc.Arbitrary<T>) =>
  fc.record(
    {
      id: u(32),
      renewal: u(32),
      rebinding: u(32),
      items: fc.array(fc.record({ value, preferred: u(32), valid: u(32) }), { maxLength: 1 }),
      status: u(16),
    },
    { requiredKeys: ['id', 'renewal', 'rebinding', 'items'] },
  );
const dhcpv6: fc.Arbitrary<Dhcpv6> = fc.record(
  {
    type: fc.constantFrom('solicit', 'advertise', 'request', 'renew', 'rebind', 'reply', 'release'),
    transaction: u(24),
    client: mac,
    server: mac,
    addresses: given(address6),
    delegation: given(prefix6),
    names: fc.array(address6, { maxLength: 3 }),
  },
  { requiredKeys: ['type', 'transaction', 'names'] },
);
const tag = fc.record({ type: u(16), value: data });
const pppoe: fc.Arbitrary<Pppoe> = fc.oneof(
  fc.record({
    code: fc.constantFrom(0x09, 0x07, 0x19, 0x65, 0xa7),
    session: u(16),
    tags: fc.array(tag, { maxLength: 4 }),
    payload: fc.constant(new Uint8Array(0)),
  }),
  fc.record({ code: fc.constant(0), session: u(16), tags: fc.constant([]), payload: data }),
);
const options: fc.Arbitrary<ControlOption[]> = fc.array(
  fc.record({ type: u(8), value: fc.uint8Array({ maxLength: 20 }) }),
  {
    maxLength: 5,
  },
);
const SIX = parseIp('2001:db8::1') as Ipv6;
const OTHER = parseIp('2001:db8::2') as Ipv6;

interface Codec<T> {
  readonly name: string;
  readonly values: fc.Arbitrary<T>;
  readonly encode: (value: T) => Uint8Array;
  readonly decode: (bytes: Uint8Array) => Result<T, unknown>;
}
const codec = <T>(
  name: string,
  values: fc.Arbitrary<T>,
  encode: (v: T) => Uint8Array,
  decode: (b: Uint8Array) => Result<T, unknown>,
): Codec<unknown> => ({ name, values, encode, decode }) as unknown as Codec<unknown>;

const CODECS = [
  codec('ethernet', ethernet, encodeEthernet, decodeEthernet),
  codec('arp', arp, encodeArp, decodeArp),
  codec('lacp', lacp, encodeLacp, decodeLacp),
  codec(
    'vrrp',
    fc.record({
      id: fc.integer({ min: 1, max: 255 }),
      priority: u(8),
      interval: u(12),
      addresses: fc.array(address, { maxLength: 20 }),
    }) as fc.Arbitrary<Vrrp>,
    (v) => encodeVrrp(v, A, B),
    (b) => decodeVrrp(b, A, B),
  ),
  codec(
    'ipv4',
    fc
      .tuple(address, address, u(8), u(8), data)
      .map(([source, destination, protocol, ttl, payload]) =>
        ipv4Packet({ source, destination, protocol, ttl, payload }),
      ),
    encodeIpv4,
    decodeIpv4,
  ),
  codec('icmp', icmp, encodeIcmp, decodeIcmp),
  codec(
    'udp',
    udp,
    (v) => encodeUdp(v, A, B),
    (b) => decodeUdp(b, A, B),
  ),
  codec(
    'tcp',
    tcp,
    (v) => encodeTcp(v, A, B),
    (b) => decodeTcp(b, A, B),
  ),
  codec('dhcp', dhcp, encodeDhcp, decodeDhcp),
  codec('dns', dns, encodeDns, decodeDns),
  codec('dns', pointing, encodeDns, decodeDns),
  codec(
    'dns for IPv6',
    dns.chain((d) => fc.array(address6).map((addresses) => ({ ...d, type: 28, addresses }))),
    encodeDns,
    decodeDns,
  ),
  codec(
    'ipv6',
    fc.tuple(address6, address6, u(8), u(8), data).map(([source, destination, protocol, ttl, payload]) => ({
      source,
      destination,
      protocol,
      ttl,
      payload,
    })),
    encodeIpv6,
    decodeIpv6,
  ),
  codec(
    'icmp for IPv6',
    // Codes of IPv4 that IPv6 has no number for come back as another.
    icmp
      .filter((i) => i.type !== 'other' && (i.type !== 'unreachable' || [0, 1, 3, 13].includes(i.code)))
      .map((i) => (i.type === 'unreachable' ? { ...i, mtu: 0 } : i)),
    (v) => encodeIcmp6(v, SIX, OTHER),
    (b) => decodeIcmp6(b, SIX, OTHER),
  ),
  codec(
    'neighbour discovery',
    nd,
    (v) => encodeIcmp6(encodeNd(v), SIX, OTHER),
    (b) => {
      const read = decodeIcmp6(b, SIX, OTHER);
      if (!read.ok) return read;
      return read.value.type === 'other'
        ? decodeNd(read.value)
        : { ok: false, error: 'no neighbour discovery' };
    },
  ),
  codec('dhcpv6', dhcpv6, encodeDhcpv6, decodeDhcpv6),
  codec('pppoe', pppoe, encodePppoe, (b) => {
    const read = decodePppoe(b);
    // Of discovery the tags count, of a session the payload.
    return read.ok && read.value.code !== 0
      ? { ok: true, value: { ...read.value, payload: new Uint8Array(0) } }
      : read;
  }),
  codec('ppp', fc.record({ protocol: u(16), payload: data }), encodePpp, decodePpp),
  codec('ppp control', fc.record({ code: u(8), identifier: u(8), data }), encodeControl, decodeControl),
  codec(
    'ppp options',
    fc.record({ options }),
    ({ options: o }) => writeOptions(o),
    (b) => {
      const read = readOptions(b);
      return read ? { ok: true, value: { options: read } } : { ok: false, error: 'cut' };
    },
  ),
];

describe('protocols as bytes', () => {
  for (const { name, values, encode, decode } of CODECS)
    it(`${name}: what is encoded decodes to the same, and damaged bytes never throw`, () => {
      fc.assert(
        fc.property(values, u(16), u(8), u(16), (value, at, put, cut) => {
          const bytes = encode(value);
          const before = bytes.slice();
          const back = decode(bytes);
          expect(back.ok && same(back.value, value), JSON.stringify(back, bytesToList)).to.equal(true);
          decode(bytes.subarray(0, cut % (bytes.length + 1)));
          const damaged = bytes.slice();
          damaged[at % bytes.length] = put;
          decode(damaged);
          expect(bytes).to.deep.equal(before);
        }),
      );
    });

  it('refuses a changed octet by its checksum', () => {
    const packet = encodeIpv4(
      ipv4Packet({
        source: A,
        destination: B,
        protocol: 1,
        payload: encodeIcmp({ type: 'echo-request', identifier: 1, sequence: 1, data: hex('0102') }),
      }),
    );
    for (const at of [8, 12, 19]) {
      const damaged = packet.slice();
      damaged[at]! ^= 1;
      const read = decodeIpv4(damaged);
      expect(read.ok ? '' : read.error.what).to.equal('checksum');
    }
    const segment = encodeUdp({ sourcePort: 53, destinationPort: 4000, data: hex('00') }, A, B);
    expect(decodeUdp(segment, A, mustIpv4('198.51.100.3')).ok, 'the pseudo header counts').to.equal(false);
  });

  it('reads published frames', () => {
    // An IPv4 header worked through in many texts on RFC 1071: its checksum is b861.
    const header = decodeIpv4(hex('4500 0073 0000 4000 4011 b861 c0a8 0001 c0a8 00c7' + '00'.repeat(95)));
    expect(header.ok && header.value.ttl).to.equal(64);
    // A padded 802.1Q frame, priority 5, VLAN 100, carrying ARP.
    const frame = decodeEthernet(hex('ffffffffffff 020000000001 8100 a064 0806' + '00'.repeat(46)));
    expect(frame.ok && frame.value.vlan).to.deep.equal({ id: 100, pcp: 5 });
    // A name that ends in a pointer (RFC 1035 §4.1.4), here to the question itself.
    const answer = decodeDns(
      hex(
        '0001 8180 0001 0001 0000 0000 03777777 076578616d706c65 00 0001 0001 c00c 0001 0001 0000012c 0004 c0000250',
      ),
    );
    expect(answer.ok && answer.value).to.deep.include({
      name: 'www.example',
      addresses: [mustIpv4('192.0.2.80')],
    });
    // A pointer to itself is a loop, not a hang.
    expect(decodeDns(hex('0001 8180 0001 0000 0000 0000 c00c 0001 0001')).ok).to.equal(false);
  });

  it('pads short frames as a cable wants them, and keeps the length of what is inside', () => {
    const bytes = encodeEthernet({
      destination: BROADCAST,
      source: mustMac('02:00:00:00:00:01'),
      type: ETHERTYPE.ipv4,
      payload: encodeIpv4(ipv4Packet({ source: A, destination: B, protocol: 99, payload: hex('0102') })),
    });
    expect(bytes).to.have.length(60);
    const outer = decodeEthernet(bytes);
    const inner = outer.ok ? decodeIpv4(outer.value.payload) : undefined;
    expect(inner?.ok && [...inner.value.payload]).to.deep.equal([1, 2]);
  });

  it('sends a UDP checksum of zero as all ones (RFC 768)', () => {
    for (let i = 0; i < 65536; i++) {
      const bytes = encodeUdp({ sourcePort: i, destinationPort: 0, data: hex('') }, 0 as Ipv4, 0 as Ipv4);
      expect(bytes[6]! | bytes[7]!).to.not.equal(0);
    }
  });

  it('asks for a neighbour in the group of its last 24 bits (RFC 4291 §2.7.1, RFC 2464 §7)', () => {
    const group = solicitedNode(parseIp('4037::01:800:200e:8c6c') as Ipv6);
    expect(formatIp(group)).to.equal('ff02::1:ff0e:8c6c');
    expect(formatMac(groupMac(group))).to.equal('33:33:ff:0e:8c:6c');
  });

  it('makes a neighbour message with an option of length zero void (RFC 4861 §4.6)', () => {
    const body = new Uint8Array(28);
    body[20] = 1;
    const read = decodeNd({ type: 'other', number: 135, code: 0, body });
    expect(read.ok ? '' : read.error.what).to.equal('malformed');
  });
});
