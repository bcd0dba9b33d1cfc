import { expect } from 'chai';
import fc from 'fast-check';
import { readFileSync, readdirSync } from 'node:fs';
import { diffSites } from '#core/change';
import { parseDocument } from '#core/notation';
import { buildSite } from '#core/site';
import { EVERYTHING, anySite } from '#core/testkit';
import { readYang, writeYang } from './index';

const siteOf = (...texts: readonly string[]) => buildSite(texts.map((t, i) => parseDocument(t, `f${i}`)));

/** What is another after a site was written and read again. */
function lost(...texts: readonly string[]): string[] {
  const site = siteOf(...texts);
  if (site.documents.some((d) => d.problems.some((p) => p.fatal))) return [];
  const read = readYang(JSON.stringify(writeYang(site)));
  if (!read.ok) return [`${read.where}: ${read.why}`];
  const again = siteOf(read.text);
  return [
    ...read.left,
    ...diffSites(site, again).map((c) => `${c.kind} ${c.text}`),
    ...(JSON.stringify(writeYang(again)) === JSON.stringify(writeYang(site)) ? [] : ['written otherwise']),
  ];
}

describe('JSON after YANG', () => {
  it('says by the standard models what they can say', () => {
    const { 'ietf-interfaces:interfaces': all, 'jolly-gate:site': rest } = writeYang(
      siteOf(
        'zone lab:\ninterface x: on p2 tag 20, zone lab, address 10.61.20.1 mask 255.255.255.0, also .2-.3, address6 fd00::1/64, mtu 1400, lends .50-.99, off, note "the lab"\npassage lab > lab: allow tcp 80\n',
      ),
    );
    expect(all.interface).to.deep.equal([
      {
        name: 'x',
        description: 'the lab',
        type: 'iana-if-type:l2vlan',
        enabled: false,
        'ietf-ip:ipv4': {
          mtu: 1400,
          address: [1, 2, 3].map((n) => ({ ip: `10.61.20.${n}`, 'prefix-length': 24 })),
        },
        'ietf-ip:ipv6': { address: [{ ip: 'fd00::1', 'prefix-length': 64 }] },
        'jolly-gate:clause': ['on p2 tag 20', 'zone lab', 'also .2-.3', 'lends .50-.99'],
      },
    ]);
    expect(rest.statement).to.deep.equal([
      { number: 1, kind: 'zone', head: 'lab', clause: [] },
      { number: 2, kind: 'interface', head: 'x', clause: [] },
      { number: 3, kind: 'passage', head: 'lab > lab', clause: ['allow tcp 80'] },
    ]);
  });

  it('loses nothing of the demo, the corpus and generated sites', () => {
    const demo = ['box', 'wiring'].map((f) => readFileSync(`demo/${f}.gate`, 'utf8'));
    expect(lost(...demo)).to.deep.equal([]);
    for (const file of readdirSync('tests/corpus/sites'))
      expect(lost(readFileSync(`tests/corpus/sites/${file}`, 'utf8')), file).to.deep.equal([]);
    fc.assert(
      fc.property(anySite({ ...EVERYTHING, promises: 3 }), (text) => {
        expect(lost(text)).to.deep.equal([]);
      }),
      { numRuns: 100 },
    );
  });

  it('reads what another system wrote, and lists what has no place', () => {
    const read = readYang(
      JSON.stringify({
        'ietf-interfaces:interfaces': {
          interface: [
            {
              name: 'eth0',
              type: 'iana-if-type:ethernetCsmacd',
              'ietf-ip:ipv4': {
                address: [
                  { ip: '192.0.2.9', 'prefix-length': 24 },
                  { ip: '192.0.2.10', 'prefix-length': 24 },
                ],
                forwarding: true,
              },
            },
            { name: 'eth0.20', type: 'iana-if-type:l2vlan', enabled: false, 'vendor:thing': 1 },
            { name: 'Lo', type: 'iana-if-type:softwareLoopback' },
          ],
        },
        'ietf-system:system': {},
      }),
    );
    expect(read).to.deep.equal({
      ok: true,
      text: 'interface eth0: on eth0, address 192.0.2.9/24, also 192.0.2.10/24\ninterface eth0-20: on eth0 tag 20, off\ninterface lo: loopback\n',
      left: ['ietf-system:system', 'eth0: ietf-ip:ipv4/forwarding', 'eth0.20: vendor:thing'],
    });
  });

  it('says where a document is wrong, and takes no statement in by the back door', () => {
    const rows: readonly [unknown, RegExp, RegExp][] = [
      ['{', /^$/, /JSON|Expected/],
      [{}, /^$/, /neither/],
      [
        { 'jolly-gate:site': { statement: [{ kind: 'zone', head: 'a:\nzone b' }] } },
        /statement\/0\/head/,
        /one line/,
      ],
      [
        { 'jolly-gate:site': { statement: [{ kind: 'zone', head: 'a', clause: ['dmz wide'] }] } },
        /zone\/a/,
        /expected/,
      ],
      [
        {
          'ietf-interfaces:interfaces': {
            interface: [
              { name: 'x', 'ietf-ip:ipv4': { address: [{ ip: '10.0.0.300', 'prefix-length': 8 }] } },
            ],
          },
        },
        /address\/0\/ip/,
        /IP address/,
      ],
    ];
    for (const [document, where, why] of rows) {
      const read = readYang(typeof document === 'string' ? document : JSON.stringify(document));
      expect(read.ok).to.equal(false);
      if (!read.ok)
        expect([read.where, read.why]).to.satisfy(([a, b]: string[]) => where.test(a!) && why.test(b!));
    }
  });
});
