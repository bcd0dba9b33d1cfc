/** Sheets as people get them, and what Linux boxes report: this machine and namespaces of our own included. */
import { expect } from 'chai';
import fc from 'fast-check';
import { execFileSync } from 'node:child_process';
import { readFileSync, readdirSync } from 'node:fs';
import { formatIp, maskOfLength, parseIp } from '#core/addr';
import { contradictionText, ledgerOf } from '#words';
import { oneLine, parseDocument, written } from '#core/notation';
import { codesOf, howMany } from '#core/testkit';
import { readHandoff } from './handoff';
import { readLinuxBox } from './linux';
import { readYang } from './yang';
import type { LinuxReports } from './linux';
import { writePcapng } from './pcapng';

const SHEETS = 'tests/corpus/sheets';
interface Wanted {
  readonly found: Record<string, unknown>;
  readonly missing: string[];
  readonly contradictions: string[];
  readonly statement?: string;
  /** Fields that must not be there. */
  readonly absent?: string[];
  /** What is found of each, where the sheet speaks of several. */
  readonly circuits?: Record<string, unknown>[];
}
const wanted = JSON.parse(readFileSync(`${SHEETS}/expected.json`, 'utf8')) as Record<string, Wanted>;

/** A sheet after something that happens to sheets. */
function damaged(text: string, what: string, n: number, other: string): string {
  const lines = text.split('\n');
  const i = n % lines.length;
  const at = n % (text.length + 1);
  switch (what) {
    case 'digit':
      return text.slice(0, at) + text.slice(at).replace(/[0-9]/, String(n % 10));
    case 'cut':
      return text.slice(0, at) + text.slice(at + 1 + (n % 7));
    case 'line':
      return lines.filter((_, k) => k !== i).join('\n');
    case 'twice':
      return [...lines.slice(0, i), lines[i], ...lines.slice(i)].join('\n');
    case 'join':
      return lines.join(n % 2 ? ' ' : '\t');
    case 'swap':
      return [...lines.slice(i), ...lines.slice(0, i)].join('\n');
    case 'other':
      return `${text}\n${other}`;
    default:
      return text;
  }
}

/** The values of a statement that came from a sheet: everything but the notation's words, name, port and zone. */
function valuesOf(statement: string): string[] {
  const [s] = parseDocument(statement, '').statements;
  return written(s!)
    .clauses.flatMap((c) => c.words.slice(1).map((w) => w.value))
    .filter(
      (w) =>
        !/^(?:on|p[0-9]|tag|zone|world|by|user|secret|routed|onlink|and|dhcp|pppoe|slaac|dhcpv6)$/.test(w),
    )
    .flatMap((w) => (w.includes('@') ? [w] : w.split(/[/-](?=[0-9.]+$)/)));
}

/** Whether a value is written there: as it is, as a mask or length, or by its last octet behind a point or dash. */
function standsOn(text: string, value: string): boolean {
  const apart = (v: string) => new RegExp(`(?<![0-9])0*${v.replace(/[.*+?^${}()|[\]\\]/g, '\\$&')}(?![0-9])`);
  if (text.includes(value) && (!/^[0-9.]+$/.test(value) || apart(value).test(text))) return true;
  if (/^[0-9]+$/.test(value) && Number(value) <= 32)
    return text.includes(formatIp(maskOfLength(Number(value))));
  const [, head, octet] = /^([0-9]+\.[0-9]+\.[0-9]+)\.([0-9]+)$/.exec(value) ?? [];
  if (head !== undefined) return text.includes(`${head}.`) && apart(octet!).test(text);
  return (
    parseIp(value) !== undefined &&
    [...text.matchAll(/[0-9a-f:]+/gi)].some((m) => parseIp(m[0]) === parseIp(value))
  );
}

describe('the provider’s sheet', () => {
  for (const file of readdirSync(SHEETS).filter((f) => f.endsWith('.txt')))
    it(file, () => {
      const want = wanted[file.replace('.txt', '')]!;
      const read = readHandoff(readFileSync(`${SHEETS}/${file}`, 'utf8'));
      expect(read.found).to.deep.include(want.found);
      expect(read.missing).to.deep.equal(want.missing);
      expect(read.contradictions.map((c) => c.code)).to.deep.equal(want.contradictions);
      for (const c of read.contradictions) expect(contradictionText(c)).to.match(/^[^{}]{10,}$/);
      if (want.statement) expect(read.statement).to.equal(want.statement);
      const faults = parseDocument(read.statement, '').problems.filter((p) => p.code !== 'mask-missing');
      expect(faults, 'the statement reads').to.deep.equal([]);
      for (const field of want.absent ?? []) expect(read.found).to.not.have.property(field);
      expect(read.circuits?.length).to.equal(want.circuits?.length);
      for (const [i, circuit] of (want.circuits ?? []).entries())
        expect(read.circuits![i]!.found).to.deep.include(circuit);
    });

  it('makes nothing up: every value of every statement stands on the sheet, whatever happens to the sheet', () => {
    const sheets = readdirSync(SHEETS)
      .filter((f) => f.endsWith('.txt'))
      .map((f) => readFileSync(`${SHEETS}/${f}`, 'utf8'));
    const damage = fc.tuple(
      fc.constantFrom('none', 'digit', 'cut', 'line', 'twice', 'join', 'swap', 'other'),
      fc.nat(100_000),
      fc.constantFrom(...sheets),
    );
    fc.assert(
      fc.property(fc.constantFrom(...sheets), fc.array(damage, { maxLength: 4 }), (sheet, damages) => {
        const text = damages.reduce((t, [what, n, other]) => damaged(t, what, n, other), sheet);
        const read = readHandoff(text);
        for (const circuit of read.circuits ?? [read])
          for (const value of valuesOf(circuit.statement))
            expect(
              standsOn(text, value),
              `${value} of “${circuit.statement}” on the sheet:\n${text}`,
            ).to.equal(true);
      }),
      { numRuns: howMany(1000, 6000) },
    );
  });

  it('never shows a password in its ledger', () => {
    const { found } = readHandoff(readFileSync(`${SHEETS}/pppoe.txt`, 'utf8'));
    expect(
      ledgerOf(found)
        .map((r) => r.value)
        .join(),
    ).to.not.contain('kiln-fired');
  });
});

const mustRead = (reports: LinuxReports) => {
  const read = readLinuxBox(reports);
  if (!read.ok) throw new Error(`${read.fault.report}: ${read.fault.why}`);
  return read.value;
};
const ip = (namespace: string | undefined, ...args: string[]) =>
  execFileSync('ip', [...(namespace ? ['-n', namespace] : []), ...args], {
    encoding: 'utf8',
    stdio: ['ignore', 'pipe', 'pipe'],
  });
const reportsOf = (namespace?: string): LinuxReports => ({
  link: ip(namespace, '-j', '-d', 'link'),
  addr: ip(namespace, '-j', 'addr'),
  route: ip(namespace, '-j', 'route'),
});

describe('a Linux box’s reports', () => {
  it('reads ports, VLANs, bridges, addresses and the default route, and lists what it leaves', () => {
    const link = (ifname: string, more: object = {}) => ({
      ifname,
      flags: ['BROADCAST', 'UP', 'LOWER_UP'],
      mtu: 1500,
      link_type: 'ether',
      address: '02:00:00:00:00:01',
      ...more,
    });
    const reports: LinuxReports = {
      link: JSON.stringify([
        { ifname: 'lo', flags: ['LOOPBACK', 'UP'], link_type: 'loopback' },
        link('enp3s0'),
        link('eth1', { flags: ['BROADCAST'], master: 'br0', mtu: 9000 }),
        link('LAN 2', { master: 'br0' }),
        link('enp3s0.30', {
          link: 'enp3s0',
          linkinfo: { info_kind: 'vlan', info_data: { id: 30, protocol: '802.1Q' } },
        }),
        link('br0', { linkinfo: { info_kind: 'bridge' } }),
        link('wg0', { link_type: 'none', linkinfo: { info_kind: 'wireguard' } }),
      ]),
      addr: JSON.stringify([
        {},
        {
          ifname: 'enp3s0',
          addr_info: [
            { family: 'inet', local: '198.51.100.18', prefixlen: 29, scope: 'global' },
            { family: 'inet', local: '198.51.100.19', prefixlen: 29, scope: 'global', secondary: true },
            { family: 'inet6', local: 'fe80::1', prefixlen: 64, scope: 'link' },
          ],
        },
        {
          ifname: 'enp3s0.30',
          addr_info: [{ family: 'inet', local: '10.61.30.1', prefixlen: 24, scope: 'global' }],
        },
        {
          ifname: 'br0',
          addr_info: [{ family: 'inet', local: '10.61.20.1', prefixlen: 24, scope: 'global' }],
        },
      ]),
      route: JSON.stringify([
        { dst: 'default', gateway: '198.51.100.17', dev: 'enp3s0', flags: [] },
        { dst: '10.61.20.0/24', dev: 'br0', protocol: 'kernel', scope: 'link', flags: [] },
        { dst: '10.9.0.0/16', gateway: '10.61.20.9', dev: 'br0', flags: [] },
        { dst: '10.66.0.0/16', type: 'blackhole', flags: [] },
      ]),
    };
    const { text, left } = mustRead(reports);
    expect(text).to.equal(`# read from the box
port enp3s0: mac 02:00:00:00:00:01
port eth1: off, mac 02:00:00:00:00:01, mtu 9000
port lan-2: label "LAN 2", mac 02:00:00:00:00:01
zone outside: upstream
zone inside:
table main: route 10.9.0.0/16 via 10.61.20.9, route 10.66.0.0/16 drop
interface enp3s0: on enp3s0, zone outside, address 198.51.100.18/29, also 198.51.100.19/29,
  gateway 198.51.100.17
interface enp3s0-30: on enp3s0 tag 30, zone inside, address 10.61.30.1/24
interface br0: bridge eth1 lan-2, zone inside, address 10.61.20.1/24
`);
    expect(left).to.deep.equal(['wg0: a link of kind wireguard']);
    expect(codesOf(text)).to.not.include('syntax').and.not.include('name-unknown');
  });

  it('reads tables by VRF devices and by rules for one interface, and names every other rule', () => {
    const link = (ifname: string, more: object = {}) => ({
      ifname,
      flags: ['UP'],
      mtu: 1500,
      link_type: 'ether',
      address: '02:00:00:00:00:01',
      ...more,
    });
    const has = (ifname: string, family: string, local: string, prefixlen: number) => ({
      ifname,
      addr_info: [{ family, local, prefixlen, scope: 'global' }],
    });
    const { text, left } = mustRead({
      link: JSON.stringify([
        link('p1', { master: 'guests' }),
        link('p2'),
        link('p3'),
        link('guests', { linkinfo: { info_kind: 'vrf', info_data: { table: 100 } } }),
      ]),
      addr: JSON.stringify([
        has('p1', 'inet', '198.51.100.18', 29),
        has('p2', 'inet6', '2001:db8:61::1', 64),
        has('p3', 'inet', '10.61.30.1', 24),
      ]),
      route: JSON.stringify([
        { dst: 'default', gateway: '198.51.100.17', dev: 'p1', table: 100 },
        { dst: '10.9.0.0/16', gateway: '198.51.100.20', dev: 'p1', table: 100 },
        { dst: 'default', gateway: '2001:db8:61::fe', dev: 'p2', protocol: 'static' },
      ]),
      rule: JSON.stringify([
        { priority: 0, src: 'all', table: 'local' },
        { priority: 1000, src: 'all', l3mdev: null },
        { priority: 1500, src: 'all', iif: 'p3', table: 200 },
        { priority: 1600, src: '10.61.30.0', srclen: 24, table: '300' },
        { priority: 32766, src: 'all', table: 'main' },
      ]),
    });
    expect(text).to.equal(`# read from the box
port p1: mac 02:00:00:00:00:01
port p2: mac 02:00:00:00:00:01
port p3: mac 02:00:00:00:00:01
zone outside: upstream
zone inside:
table t100: route 10.9.0.0/16 via 198.51.100.20 on p1
table t200:
interface p1: on p1, zone outside, table t100, address 198.51.100.18/29, gateway 198.51.100.17
interface p2: on p2, zone outside, address6 2001:db8:61::1/64, gateway6 2001:db8:61::fe
interface p3: on p3, zone inside, table t200, address 10.61.30.1/24
`);
    expect(left).to.deep.equal(['the routing rule 1600 (src 10.61.30.0 table 300 srclen 24)']);
    expect(codesOf(text)).to.not.include('syntax').and.not.include('name-unknown');
  });

  it('says which report cannot be read, and why', () => {
    expect(readLinuxBox({ link: 'eth0: <UP>', addr: '[]', route: '[]' })).to.deep.include({ ok: false });
    const wrong = readLinuxBox({ link: '[{"ifname": 3}]', addr: '[]', route: '[]' });
    expect(wrong.ok ? '' : `${wrong.fault.report} ${wrong.fault.why}`).to.match(/^link 0\.ifname/);
    expect(mustRead({ link: '', addr: '', route: '' }).text).to.equal('# read from the box\n');
  });

  it('reads this very machine', function () {
    let reports: LinuxReports;
    try {
      reports = reportsOf();
    } catch {
      this.skip();
    }
    const { text } = mustRead(reports);
    expect(parseDocument(text, 'box').problems).to.deep.equal([]);
  });

  it('reads a namespace with several cables and a bridge', function () {
    const name = `gate-${process.pid}`;
    try {
      ip(undefined, 'netns', 'add', name);
    } catch {
      this.skip();
    }
    try {
      for (const [a, b] of [
        ['wan0', 'far0'],
        ['lan1', 'pc1'],
        ['lan2', 'pc2'],
      ] as const)
        ip(name, 'link', 'add', a, 'type', 'veth', 'peer', 'name', b);
      for (const l of ['wan0', 'far0', 'lan1', 'pc1', 'lan2', 'pc2']) ip(name, 'link', 'set', l, 'up');
      ip(name, 'addr', 'add', '198.51.100.18/29', 'dev', 'wan0');
      ip(name, 'addr', 'add', '198.51.100.19/29', 'dev', 'wan0');
      ip(name, 'addr', 'add', '10.61.20.1/24', 'dev', 'lan1');
      ip(name, 'route', 'add', 'default', 'via', '198.51.100.17', 'dev', 'wan0');
      ip(name, 'route', 'add', '10.9.0.0/16', 'via', '10.61.20.9');
      const { text } = mustRead(reportsOf(name));
      expect(text).to.contain(
        'interface wan0: on wan0, zone outside, address 198.51.100.18/29, also 198.51.100.19/29,\n  gateway 198.51.100.17',
      );
      expect(text)
        .to.contain('interface lan1: on lan1, zone inside, address 10.61.20.1/24')
        .and.contain('route 10.9.0.0/16 via 10.61.20.9');
      expect(text.match(/^port /gm)).to.have.length(6);
      expect(codesOf(text))
        .to.not.include('syntax')
        .and.not.include('no-default-route')
        .and.not.include('route-unreachable');
    } finally {
      ip(undefined, 'netns', 'del', name);
    }
  });
});

describe('capture files', () => {
  it('has one interface block for each port, and comments in UTF-8', () => {
    const bytes = writePcapng(
      [
        { time: 1.5, port: 'p1', inbound: true, bytes: new Uint8Array(60), followed: true },
        { time: 2, port: 'p2', inbound: false, bytes: new Uint8Array(61) },
      ],
      () => 'décidé · ✓ 𝔊',
    );
    const view = new DataView(bytes.buffer);
    const types: number[] = [];
    for (let at = 0; at < bytes.length; at += view.getUint32(at + 4, true))
      types.push(view.getUint32(at, true));
    expect(types).to.deep.equal([0x0a0d0d0a, 1, 1, 6, 6]);
    expect(new TextDecoder('utf-8', { fatal: false }).decode(bytes)).to.contain('décidé · ✓ 𝔊');
  });
});

describe('foreign data', () => {
  const nasty = fc.oneof(
    fc.string({ maxLength: 20 }),
    fc.constantFrom(
      'a\npassage any > any: allow',
      'b\rzone x:',
      '"',
      '\\',
      '# c',
      'a\u2028b',
      ' d',
      'e,f',
      '\u0085',
    ),
  );

  it('of a Linux box never becomes a statement that the reader did not make', () => {
    fc.assert(
      fc.property(fc.array(nasty, { minLength: 1, maxLength: 4 }), nasty, nasty, (names, word, route) => {
        const links = names.map((ifname, i) => ({
          ifname,
          flags: ['UP'],
          link_type: 'ether',
          master: i ? word : undefined,
        }));
        const read = readLinuxBox({
          link: JSON.stringify(links),
          addr: JSON.stringify(
            names.map((ifname) => ({
              ifname,
              addr_info: [{ family: 'inet', local: '10.0.0.1', prefixlen: 24, scope: word }],
            })),
          ),
          route: JSON.stringify([
            { dst: route, dev: names[0], table: word },
            { dst: 'default', gateway: route, dev: names[0] },
          ]),
        });
        if (!read.ok) return;
        const { text, left } = read.value;
        for (const s of parseDocument(text, '').statements)
          expect(['port', 'zone', 'interface', 'table']).to.include(s.kind);
        expect(text).to.not.match(/^passage/m);
        // As it is printed, what was not taken is a comment, on one line.
        for (const l of left) expect(oneLine(l)).to.not.match(/[\r\n\u2028]/);
      }),
    );
  });

  it('of another system’s JSON is refused or stays in its place', () => {
    fc.assert(
      fc.property(nasty, nasty, nasty, (name, description, clause) => {
        const read = readYang(
          JSON.stringify({
            'ietf-interfaces:interfaces': {
              interface: [{ name, description, 'jolly-gate:clause': ['on p1', clause] }],
            },
            [name]: {},
          }),
        );
        if (!read.ok) return;
        expect(parseDocument(read.text, '').statements.map((s) => s.kind)).to.deep.equal(['interface']);
      }),
    );
  });
});

describe('sheets and reports of any kind', () => {
  const LINES = [
    'IP address: 198.51.100.18',
    'Subnet mask: 255.255.255.248',
    'Default gateway: 198.51.100.17',
    'DNS servers: 192.0.2.53, 192.0.2.54',
    'NTP: 192.0.2.123',
    'VLAN: 132',
    'MTU: 1492',
    'Customer number: 4711',
    '',
    'Best regards',
  ];

  it('say the same whatever the order of their lines', () => {
    const want = readHandoff(LINES.join('\n'));
    expect(want.missing).to.deep.equal([]);
    fc.assert(
      fc.property(fc.shuffledSubarray(LINES, { minLength: LINES.length }), (lines) => {
        expect(readHandoff(lines.join('\n')).found).to.deep.equal(want.found);
      }),
    );
  });

  it('never throw, and always make a statement that reads or lacks only what the sheet lacks', () => {
    const word = fc.oneof(
      fc.constantFrom(
        'IP',
        'mask',
        'gw',
        'dns',
        '198.51.100.18/29',
        '255.255.255.0',
        '.17',
        '.18–.22',
        '10.0.0.1',
        'PPPoE',
        'user: a"b',
        'password: x\\y',
        'VLAN 7',
        '|',
        '\t',
        '\n',
        '/33',
        '999.1.1.1',
      ),
      fc.string({ maxLength: 6 }),
    );
    fc.assert(
      fc.property(fc.array(word, { maxLength: 25 }), (words) => {
        const read = readHandoff(words.join(' '));
        const codes = parseDocument(read.statement, '').problems.map((p) => p.code);
        expect(
          codes.filter((c) => c !== 'mask-missing' && c !== 'mask-invalid'),
          read.statement,
        ).to.deep.equal([]);
      }),
      { numRuns: 300 },
    );
  });

  it('of a box become a text that reads, whatever its links are called', () => {
    const ifname = fc.oneof(
      fc.constantFrom('eth0', 'any', 'LAN', 'br-lan', 'enp0s31f6', 'eth0.20@eth0', 'zone'),
      fc.string({ minLength: 1, maxLength: 18 }),
    );
    const link = fc.record({
      ifname,
      flags: fc.constantFrom(['UP'], []),
      mtu: fc.constantFrom(1500, 9000, 1400),
      address: fc.constantFrom('02:00:00:00:00:01', '00:00:00:00:00:00', 'x'),
    });
    fc.assert(
      fc.property(fc.uniqueArray(link, { maxLength: 6, selector: (l) => l.ifname }), (links) => {
        const addr = links.map((l, i) => ({
          ifname: l.ifname,
          addr_info: [{ family: 'inet', local: `10.61.${i}.1`, prefixlen: 24, scope: 'global' }],
        }));
        const route = links
          .slice(0, 1)
          .map((l) => ({ dst: 'default', gateway: '10.61.0.254', dev: l.ifname, flags: [] }));
        const { text } = mustRead({
          link: JSON.stringify(links),
          addr: JSON.stringify(addr),
          route: JSON.stringify(route),
        });
        expect(parseDocument(text, 'box').problems, text).to.deep.equal([]);
      }),
    );
  });
});
