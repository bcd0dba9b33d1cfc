import { expect } from 'chai';
import fc from 'fast-check';
import { mustPrefix } from '#core/addr';
import type { Ipv4, Prefix } from '#core/addr';
import { GOOD, changed, codesOf, siteFrom } from '#core/testkit';
import {
  interfaceText,
  moveSubnet,
  moveToPort,
  moveToZone,
  plugIn,
  readSaid,
  rename,
  writeInside,
  writeUplink,
} from './index';

const site = () => siteFrom(GOOD);
const desk = () => site().interfaces.find((i) => i.name === 'desk')!;

describe('edits that the views ask for', () => {
  it('touch one clause', () => {
    expect(changed(GOOD, moveToZone(site(), desk(), 'world'))).to.equal(
      GOOD.replace('on p2, zone office', 'on p2, zone world'),
    );
    expect(changed(GOOD, moveToPort(site(), desk(), 'p7'))).to.equal(GOOD.replace('on p2', 'on p7'));
  });

  it('rename a zone wherever it is named, and nothing of another kind', () => {
    const after = changed(GOOD, rename(site(), 'zone', 'office', 'studio'));
    expect(after).to.equal(
      GOOD.replace('zone office:', 'zone studio:')
        .replace('zone office,', 'zone studio,')
        .replace('passage office', 'passage studio'),
    );
    expect(codesOf(after)).to.deep.equal([]);
  });

  it('start an interface with the next free subnet, or by DHCP outside', () => {
    expect(interfaceText(site(), 'lab', 'p3', 'office', 10)).to.equal(
      'interface lab: on p3 tag 10, zone office, address 10.61.30.1/24, answers ping',
    );
    expect(interfaceText(site(), 'spare', 'p3', 'world')).to.equal(
      'interface spare: on p3, zone world, address by dhcp',
    );
  });

  it('read what is said: statements, clauses for a thing, questions, and why not', () => {
    const said = (line: string) => readSaid(site(), line);
    const text = (line: string) => {
      const s = said(line);
      return s.does === 'edit' ? changed(GOOD, s.changes) : s.does === 'nothing' ? s.why : s.does;
    };
    expect(text('zone lab:')).to.equal(GOOD.replace('zone office:\n', 'zone office:\nzone lab:\n'));
    expect(text('desk lends .60-.70')).to.equal(GOOD.replace('.50-.199', '.60-.70'));
    expect(text('desk also .2')).to.contain('address 10.61.20.1/24, also .2, lends');
    expect(text('line no guard')).to.equal(GOOD.replace('ping, guard', 'ping'));
    expect(text('interface lab: on p3, zone lab, address 10.61.30.1/24'))
      .to.contain('\nzone lab:\n')
      .and.contain('\ninterface lab: on p3');
    expect(text('desk lends .60-')).to.contain('expected');
    expect(text('zone office:')).to.contain('is there already');
    expect(text('desk')).to.equal('go');
    expect(said('why can pc not open www.example?')).to.deep.equal({
      does: 'ask',
      from: 'pc',
      to: 'www.example',
      service: 'tcp 443',
    });
    expect(said('pc to www.example tcp 443')).to.deep.equal({
      does: 'ask',
      from: 'pc',
      to: 'www.example',
      service: 'tcp 443',
    });
    expect(text('desk guard')).to.contain('guard');
    expect(text('blah')).to.contain('Say a statement');
  });

  it('write First light as sets that leave nothing to find fault with', () => {
    let text = 'box edge:\nport p1:\nport p2:\n';
    const step = (changes: Parameters<typeof changed>[1]) => (text = changed(text, changes));
    step(plugIn(siteFrom(text), 'p1', 'p2').changes);
    step(
      writeUplink(
        siteFrom(text),
        'interface line: on p1, zone world, address 198.51.100.18/29, gateway .17, names 192.0.2.53, answers ping, guard',
        'line',
        { kind: 'static', network: '198.51.100.16/29', gateway: '198.51.100.17', names: ['192.0.2.53'] },
      ).changes,
    );
    step(writeInside(siteFrom(text), 'office', 'p2', mustPrefix('10.61.20.0/24') as Prefix<Ipv4>).changes);
    expect(codesOf(text)).to.deep.equal(['time-missing']);
    expect(text.match(/^zone .*$/gm)).to.deep.equal(['zone world: upstream', 'zone office:']);
    const again = writeInside(siteFrom(text), 'office', 'p2', mustPrefix('10.61.20.0/24') as Prefix<Ipv4>);
    expect(changed(text, again.changes).match(/^interface office/gm), 'twice is once').to.have.length(1);
  });
});

describe('moving a subnet', () => {
  const octet = fc.integer({ min: 2, max: 250 });
  it('there and back again is no change, and every address in it went along', () => {
    fc.assert(
      fc.property(octet, octet, fc.integer({ min: 1, max: 200 }), (a, b, third) => {
        fc.pre(third !== 20 && a !== b);
        const [low, high] = [Math.min(a, b), Math.max(a, b)];
        const text = `${GOOD.replace('.50-.199', `.${low}-.${high} gateway .1`)}known k: 10.61.20.${a} # here
passage office > world: drop ssh, from 10.61.20.0/25 10.61.20.${low}-.${high}, to 192.0.2.0/24
door d: 198.51.100.19 tcp 443 > 10.61.20.${b} tcp 8443
`;
        const [here, there] = ['10.61.20.0/24', `10.61.${third}.0/24`].map(
          (p) => mustPrefix(p) as Prefix<Ipv4>,
        ) as [Prefix<Ipv4>, Prefix<Ipv4>];
        const move = (t: string, from: Prefix<Ipv4>, to: Prefix<Ipv4>) => {
          const s = siteFrom(t);
          return changed(
            t,
            moveSubnet(
              s,
              s.interfaces.find((i) => i.name === 'desk')!,
              from,
              to,
            ),
          );
        };
        const gone = move(text, here, there);
        expect(gone).to.equal(text.replaceAll('10.61.20.', `10.61.${third}.`));
        expect(move(gone, there, here)).to.equal(text);
      }),
    );
  });
});
