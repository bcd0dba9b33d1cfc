import { expect } from 'chai';
import fc from 'fast-check';
import { parseDocument } from '#core/notation';
import { correctSheet, readHandoff, sheetFields, sheetText } from './index';
import type { Corrections } from './index';

const SHEET =
  'IP: 198.51.100.18\nMask: 255.255.255.248\nGateway: 198.51.100.33\nVLAN 7\nVLAN 8\nDNS 192.0.2.53\n';
const put = (rows: Corrections, sheet = SHEET) => correctSheet(readHandoff(sheet), rows);
const codes = (rows: Corrections, sheet?: string) => put(rows, sheet).contradictions.map((c) => c.code);

describe('a sheet corrected row by row', () => {
  it('is just what was read where nothing is corrected', () => {
    expect(put({})).to.deep.equal({ ...readHandoff(SHEET), faults: [] });
    expect(codes({})).to.deep.equal(['vlan-twice', 'gateway-outside']);
  });

  it('a correction settles what it is about, and what no longer fits is said anew', () => {
    expect(codes({ gateway: '198.51.100.17' })).to.deep.equal(['vlan-twice']);
    expect(codes({ gateway: '198.51.100.17', vlan: '8' })).to.deep.equal([]);
    expect(codes({ gateway: '198.51.100.18', vlan: '8' })).to.deep.equal(['gateway-is-address']);
    expect(
      codes({ gateway: '198.51.100.17', vlan: '8', length: '255.255.255.252', address: '198.51.100.19' }),
    ).to.deep.equal(['address-not-host']);
    expect(put({ gateway: '', vlan: '' }).missing).to.deep.equal(['gateway']);
    expect(put({ address: '198.51.100.34/29', vlan: '' }).statement.replace(/\s+/g, ' ')).to.equal(
      'interface uplink: on p1, zone world, address 198.51.100.34/29, gateway 198.51.100.33, names 192.0.2.53',
    );
  });

  it('a line is written without any sheet, of each kind', () => {
    expect(put({ kind: 'dhcp', vlan: '7' }, '').statement).to.equal(
      'interface uplink: on p1 tag 7, zone world, address by dhcp',
    );
    const login = put({ kind: 'pppoe', user: 'a "b"', secret: 'x' }, '');
    expect([login.missing, login.statement]).to.deep.equal([
      [],
      'interface uplink: pppoe on p1 user "a \\"b\\"" secret "x", zone world, address by pppoe',
    ]);
    expect(put({ address: '203.0.113.7', length: '/32', gateway: '203.0.113.1' }, '').found.onlink).to.equal(
      true,
    );
  });

  it('what is no value of its row is told there, and counts as absent', () => {
    const bad: Corrections = {
      address: '198.51.100.300',
      length: '255.0.255.0',
      also: ',',
      gateway: '::1',
      names: 'none',
      vlan: '4095',
      mtu: '12',
      block: '203.0.113.1/28',
      address6: '2001:db8::1',
      gateway6: '192.0.2.1',
      kind: 'isdn',
    };
    expect([...put(bad).faults].sort()).to.deep.equal(Object.keys(bad).sort());
  });

  it('whatever is put into the rows, the statement reads; and each row gives back what it shows', () => {
    const text = fc.oneof(
      fc.string({ maxLength: 14 }),
      fc.constantFrom('198.51.100.18', '/29', '7', '2001:db8::1/64', '.17', 'a, b', '"', '#'),
    );
    const kinds = fc.constantFrom('static', 'dhcp', 'pppoe');
    fc.assert(
      fc.property(
        kinds,
        fc.dictionary(fc.constantFrom(...sheetFields('static'), 'user', 'secret'), text),
        (kind, rows) => {
          const now = put({ ...rows, kind });
          expect(parseDocument(now.statement, '').problems.filter((p) => p.fatal)).to.deep.equal([]);
          const again = Object.fromEntries(
            sheetFields(now.found.kind).map((f) => [f, sheetText(now.found, f)]),
          );
          expect(put(again).found).to.deep.include(
            Object.fromEntries(
              sheetFields(now.found.kind).flatMap((f) =>
                now.found[f] === undefined ? [] : [[f, now.found[f]]],
              ),
            ),
          );
        },
      ),
      { numRuns: 300 },
    );
  });
});
