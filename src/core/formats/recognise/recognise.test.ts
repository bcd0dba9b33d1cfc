import { expect } from 'chai';
import { readFileSync, readdirSync } from 'node:fs';
import { join } from 'node:path';
import { writeYang } from '../yang';
import { GOOD, siteFrom } from '#core/testkit';
import { writePcapng } from '../pcapng';
import { isCapture, recogniseText } from './index';

describe('what is dropped or pasted', () => {
  it('is told apart by what stands in it', () => {
    const cases: readonly (readonly [string, string, string?])[] = [
      [GOOD, 'gate'],
      ['zone lab:\n', 'gate'],
      ['interfcae x', 'gate', 'broken.gate'],
      [readFileSync('demo/wiring.gate', 'utf8'), 'gate'],
      ['[{"ifname":"eth0","link_type":"ether"}]', 'ip-link'],
      ['[{"ifname":"eth0","addr_info":[]}]', 'ip-addr'],
      ['[{"dst":"default","gateway":"192.0.2.1","dev":"eth0"}]', 'ip-route'],
      ['1: lo: <LOOPBACK,UP,LOWER_UP> mtu 65536 qdisc noqueue\n2: eth0: <BROADCAST,UP> mtu 1500', 'ip-plain'],
      ['default via 192.0.2.1 dev eth0 proto dhcp\n', 'ip-plain'],
      ['name;VLAN;subnet;gateway\noffice;20;10.61.20.0/24;10.61.20.1', 'address-plan'],
      ['198.51.100.18/29 gw .17 dns 192.0.2.53', 'sheet'],
      ['PPPoE\nUsername: u@line.example\nPassword: tide-7', 'sheet'],
      ['Dear Sir, see you on Monday at 10.30.', 'unknown'],
      ['{"a":1}', 'unknown'],
      ['[1,2', 'unknown'],
      ['', 'unknown'],
      ['zone of comfort', 'unknown'],
    ];
    for (const [text, is, name] of cases) expect(recogniseText(text, name), text.slice(0, 40)).to.equal(is);
    expect(recogniseText(JSON.stringify(writeYang(siteFrom(GOOD))))).to.equal('yang');
  });

  it('knows every sheet of the corpus for one', () => {
    const folder = 'tests/corpus/sheets';
    const sheets = readdirSync(folder).filter((f) => f.endsWith('.txt'));
    const missed = sheets.filter((f) => recogniseText(readFileSync(join(folder, f), 'utf8')) !== 'sheet');
    expect(sheets.length > 20 && missed.length <= sheets.length / 20, missed.join(' ')).to.equal(true);
  });

  it('knows a capture by its first bytes', () => {
    expect(isCapture(writePcapng([]))).to.equal(true);
    expect(isCapture(new Uint8Array([0xd4, 0xc3, 0xb2, 0xa1, 2, 0]))).to.equal(true);
    expect(isCapture(new TextEncoder().encode('zone a:'))).to.equal(false);
  });
});
