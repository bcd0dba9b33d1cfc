import { expect } from 'chai';
import fc from 'fast-check';
import { mustIpv4, mustPrefix } from '#core/addr';
import type { Ipv4, Prefix } from '#core/addr';
import { diffSites } from '#core/change';
import { twinSite } from '#core/site';
import type { Site } from '#core/site';
import { maskSecrets } from '#core/notation';
import { changeTexts } from '#words';
import { GOOD, changed, codesOf, good, siteFrom } from '#core/testkit';
import {
  copyText,
  holdsSecrets,
  moveSubnet,
  moveToPort,
  moveToZone,
  moveZone,
  pasteStatements,
  plugIn,
  promoteAddress,
  readSaid,
  rename,
  replug,
  toTwin,
  toggleMember,
  withSecretsOf,
  writeInside,
  leaveSecretsOut,
  lineOnSheet,
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

  it('rename any thing with every place that speaks of it', () => {
    const text = `port p3: label "x"
table t: route 10.0.0.0/8 drop
zone office:
interface lab: on p3 tag 20, zone office, table t, address 10.61.20.1/24
door shop: 198.51.100.20 tcp 443 > 10.61.20.5
expect internet reaches door shop
expect station pc reaches far www.example
switch core: at p3, carries 20, jack 1 tag 20
switch deep: at core/1, jack 1 tag 20
station pc: at deep/1, address by dhcp
circuit c: at p3 tag 9, block 198.51.100.16/29
far www.example: address 192.0.2.80
`;
    const names = {
      port: 'p3',
      table: 't',
      door: 'shop',
      switch: 'core',
      station: 'pc',
      circuit: 'c',
      interface: 'lab',
      far: 'www.example',
    } as const;
    for (const [kind, from] of Object.entries(names)) {
      const to = kind === 'far' ? 'shop.example' : 'renamed';
      const after = changed(text, rename(siteFrom(text), kind as keyof typeof names, from, to));
      const word = new RegExp(`(?<![\\w.-])${from.replace('.', '\\.')}(?![\\w.-]|://)`, 'g');
      const [had, got] = [
        [...text.matchAll(word)].length,
        [...after.matchAll(new RegExp(to.replace('.', '\\.'), 'g'))].length,
      ];
      expect(
        siteFrom(after).nameProblems.map((p) => p.code),
        after,
      ).to.deep.equal(siteFrom(text).nameProblems.map((p) => p.code));
      // Address octets and other things of the name stay.
      expect(got > 0 && got <= had, `${kind} ${from}`).to.equal(true);
      expect(changed(after, rename(siteFrom(after), kind as keyof typeof names, to, from))).to.equal(text);
    }
  });

  it('read what is said: statements, clauses for a thing, questions, and why not', () => {
    const said = (line: string) => readSaid(site(), line);
    const text = (line: string) => {
      const s = said(line);
      return s.does === 'edit' ? changed(GOOD, s.changes) : s.does === 'nothing' ? s.why?.what : s.does;
    };
    expect(text('zone lab:')).to.equal(GOOD.replace('zone office:\n', 'zone office:\nzone lab:\n'));
    expect(text('desk lends .60-.70')).to.equal(GOOD.replace('.50-.199', '.60-.70'));
    expect(text('desk also .2')).to.contain('address 10.61.20.1/24, also .2, lends');
    expect(text('line no guard')).to.equal(GOOD.replace('ping, guard', 'ping'));
    expect(text('interface lab: on p3, zone lab, address 10.61.30.1/24'))
      .to.contain('\nzone lab:\n')
      .and.contain('\ninterface lab: on p3');
    expect(text('desk lends .60-')).to.equal('fault');
    expect(text('zone office:')).to.equal('there-already');
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
    expect(text('blah')).to.equal('not-understood');
  });

  it('write First light as sets that leave nothing to find fault with', () => {
    let text = 'box edge:\nport p1:\nport p2:\n';
    const step = (changes: Parameters<typeof changed>[1]) => (text = changed(text, changes));
    step(plugIn(siteFrom(text), 'p1', 'p2').changes);
    const terms = {
      kind: 'static',
      network: '198.51.100.16/29',
      gateway: '198.51.100.17',
      routed: { block: '203.0.113.8/29', address: '198.51.100.18' },
      names: ['192.0.2.53'],
    } as const;
    step(
      writeUplink(
        siteFrom(text),
        'interface line: on p1, zone world, address 198.51.100.18/29, gateway .17, names 192.0.2.53, answers ping, guard',
        'line',
        terms,
      ).changes,
    );
    expect(lineOnSheet(siteFrom(text), terms), 'the bench knows of the line what the sheet says').to.equal(
      'line',
    );
    expect(lineOnSheet(siteFrom(text), { ...terms, gateway: '198.51.100.22' })).to.equal(undefined);
    expect(lineOnSheet(siteFrom(text.replace('circuit line: at p1', '$&, silent')), terms)).to.equal(
      undefined,
    );
    step(writeInside(siteFrom(text), 'office', 'p2', mustPrefix('10.61.20.0/24') as Prefix<Ipv4>).changes);
    expect(codesOf(text)).to.deep.equal(['time-missing']);
    const session = writeUplink(
      siteFrom(text),
      'interface line: pppoe on p1 tag 7 user "kiln" secret "clay", zone world, address by pppoe, answers ping, guard',
      'line',
      { kind: 'pppoe', tag: 7, user: 'kiln', secret: 'clay' },
    );
    expect(changed(text, session.changes)).to.contain('circuit line: at p1 tag 7, pppoe "kiln" "clay" gives');
    expect(codesOf(changed(text, session.changes)), 'the desk still opens pages').to.deep.equal([
      'time-missing',
    ]);
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

describe('the order of addresses', () => {
  const LINE = 'address 198.51.100.18/29, gateway .17';
  const many = (also: string) => good([LINE, `address 198.51.100.18/29, ${also}, gateway .17`]);
  const line = (text: string) => siteFrom(text).interfaces.find((i) => i.name === 'line')!;
  const values = (text: string) => line(text).addresses.map((a) => a.prefix.address);

  it('makes another address the primary, and every address stays', () => {
    const before = many('also .19 .20-.22');
    const after = changed(before, promoteAddress(siteFrom(before), line(before), mustIpv4('198.51.100.21')));
    expect(after).to.contain(
      'address 198.51.100.21/29, also 198.51.100.18/29 198.51.100.19/29 198.51.100.20/29 198.51.100.22/29',
    );
    expect(after, 'the short gateway still means the same').to.contain('gateway .17');
    expect(new Set(values(after))).to.deep.equal(new Set(values(before)));
  });

  it('keeps the lengths of a second subnet when it comes first', () => {
    const before = good(['address 10.61.20.1/24', 'address 10.61.20.1/24, also 10.61.21.1/25 .2-.4']);
    const s = siteFrom(before);
    const after = changed(before, promoteAddress(s, s.interfaces[1]!, mustIpv4('10.61.21.1')));
    expect(siteFrom(after).interfaces[1]!.addresses.map((a) => a.prefix.length)).to.deep.equal([
      25, 24, 24, 24, 24,
    ]);
  });
});

describe('members, order and plugs', () => {
  it('makes a bridge of a port and takes it apart again, byte for byte', () => {
    const tagged = good(['on p2,', 'on p2 tag 20 pcp 3,']);
    const bridged = changed(tagged, toggleMember(siteFrom(tagged), siteFrom(tagged).interfaces[1]!, 'p3'));
    expect(bridged).to.contain('interface desk: bridge p2 p3 tag 20,');
    const s = siteFrom(bridged);
    expect(changed(bridged, toggleMember(s, s.interfaces[1]!, 'p2'))).to.contain('desk: on p3 tag 20,');
  });

  it('moves a zone with its own lines only', () => {
    const text = good(['zone office:', '# of the people\nzone office:\n  within drop # why']);
    const after = changed(text, moveZone(siteFrom(text), 'office', 0));
    expect(siteFrom(after).zones.map((z) => z.name)).to.deep.equal(['office', 'world']);
    expect(after.split('\n').sort()).to.deep.equal(text.split('\n').sort());
    expect(moveZone(siteFrom(text), 'office', 2), 'nothing is further in').to.deep.equal([]);
  });

  it('plugs a cable in elsewhere', () => {
    const s = site();
    expect(changed(GOOD, replug(s, s.stations[0]!, 'core/2'))).to.contain('station pc: at core/2,');
  });
});

describe('secrets', () => {
  const SECRET = 'Klei-2026';
  const spellings = [
    'interface a: pppoe on p1 user "u" secret "X"',
    'interface a: pppoe on p1 user "u", secret "X"',
    'interface a: PPPoE on p1 user "u" SECRET "X"',
    'interfcae a: pppoe on p1 user "u" secret "X"',
    'interface a: on p1 # was secret "X"',
    '# secret: X',
    '# secret = X, as the sheet says',
    'interface a: pppoe on p1 user "u" secret "Y" secret "X"',
    'interface a: pppoe on p1 user "u" secret="X"',
    'interface a: pppoe on p1 user "u" secret X',
    'interface a: pppoe on p1 user "u" secret\n  "X"',
    'interface a: pppoe on p1 user "u" secret "X',
    'interface a: on p1, note "secret: X"',
    'circuit c: at p1, pppoe "u" "X" gives 198.18.0.2 peer 198.18.0.1',
    'circuit c: at p1, pppoe "u", "X" gives 198.18.0.2 peer 198.18.0.1',
    'circiut c: at p1, pppoe "u" "X" gives',
    'circuit c: at p1, ppoe "u" "X"',
    'circuit c: at p1, pppoe "u" X gives 198.18.0.2 peer 198.18.0.1',
    'circuit c: at p1, pppoe u X gives 198.18.0.2 peer 198.18.0.1',
    'circuit c: at p1, pppoe "u"\n  "X" gives 198.18.0.2 peer 198.18.0.1',
    'circuit c: at p1, pppoe "u" # the next is secret\n  "X" gives',
    'station s: at p1, secret "X"',
    'secret "X"',
  ];
  for (const spelling of spellings)
    it(`go from ${JSON.stringify(spelling)}`, () => {
      const text = `zone a: upstream\n${spelling.replace('X', SECRET)}\nzone b:\n`;
      const { text: bare, left } = leaveSecretsOut(text);
      expect(bare).to.not.contain(SECRET);
      expect(left).to.be.above(0);
      expect(maskSecrets(text)).to.not.contain(SECRET);
      expect(bare).to.match(/^zone a: upstream\n[^]*\nzone b:\n$/);
    });

  it('are not seen where none are', () => {
    for (const text of [
      'interface a: on p1, address by pppoe, answers ping ssh, note "the secret is in the safe"',
      'interface a: pppoe on p1 user "u", zone world, address by pppoe, gateway learned',
      'station s: at p1, keeps .9 for 02:61:00:00:20:20 "printer", note "secretary"',
      'port p1: label "one", note "two"',
      '# the secret is with Ada',
      GOOD,
    ])
      expect([leaveSecretsOut(text), maskSecrets(text)]).to.deep.equal([{ text, left: 0 }, text]);
  });

  it('are never a part of a difference', () => {
    const [was, now] = ['old-one', 'new-one'].map((s) =>
      siteFrom(
        `interface a: pppoe on p1 user "u" secret "${s}"\ncircuit c: at p1, pppoe "u" "${s}" gives 198.18.0.2 peer 198.18.0.1\n`,
      ),
    );
    const texts = diffSites(was!, now!).flatMap(changeTexts);
    expect(texts).to.deep.equal(['a: another secret', 'circuit c: another secret']);
    const gone = [...diffSites(was!, siteFrom('')), ...diffSites(siteFrom(''), was!)].flatMap(changeTexts);
    expect(gone.join()).to.not.contain('old-one');
  });
});

describe('the text of the second of two boxes', () => {
  const TWO = `box a: names 192.0.2.53, priority 150, twin b priority 90, lowers 60 without line spare, lowers 5 without spare
port p1: mac 02:61:00:00:00:01
zone world: upstream
zone office:
interface line: on p1, zone world, address 198.51.100.19/29, also .21, virtual .18 id 1 with .20, gateway .17
interface spare: on p5, zone world, address by dhcp, priority 2
interface desk: on p3 tag 20, zone office, address 10.61.20.2/24, virtual .1 .4 id 20 with .3, lends .50-.99 gateway .9,
  also 10.61.21.1/24, address6 2001:db8:20::1/64, advertises, mac 02:61:00:00:00:02, answers ping
passage office > world: allow
leave any > spare: as interface
`;
  /** What of a site is another box's: names and addresses. */
  const seen = (s: Site) => ({
    box: [s.box!.name, s.box!.priority, s.box!.twin?.value],
    lowers: s.box!.lowers.map((l) => [l.by, l.without.map((u) => u.name)]),
    macs: [...s.ports.values()].map((p) => p.mac),
    interfaces: s.interfaces.map((i) =>
      i.off
        ? [i.name, 'off']
        : [i.name, i.addresses.map((a) => a.prefix), i.shared, i.pools, i.mac, i.gateway],
    ),
  });

  it('is what the bench takes for the second box, and the first again of what both have', () => {
    const first = siteFrom(TWO);
    const text = changed(TWO, toTwin(first)!);
    const second = siteFrom(text);
    expect(second.statements.filter((s) => s.broken)).to.deep.equal([]);
    expect(seen(second)).to.deep.equal(seen(twinSite(first)!));
    // What nobody has is written as it was.
    expect(text).to.include('leave any > spare: as interface').and.include('lends .50-.99 gateway .9');
    const back = siteFrom(changed(text, toTwin(second)!));
    expect(seen(back)).to.deep.equal(seen(twinSite(second)!));
    expect(back.interfaces.find((i) => i.name === 'desk')!.addresses[0]).to.deep.include({
      prefix: mustPrefix('10.61.20.2/24'),
    });
    expect(toTwin(siteFrom(GOOD))).to.equal(undefined);
  });
});

describe('statements copied and pasted', () => {
  it('come with free names, make the zones they lack, and can be copied again', () => {
    const text =
      'interface desk: on p5, zone lab, address 10.61.9.1/24\ninterface till: on p6, zone office\nzone office:';
    const pasted = pasteStatements(site(), text)!;
    expect(pasted.renamed).to.deep.equal([{ from: 'desk', to: 'desk-2' }]);
    expect(pasted.subjects).to.deep.equal(['interface/desk-2', 'interface/till']);
    const after = siteFrom(changed(GOOD, pasted.changes));
    expect(after.zones.map((z) => z.name)).to.deep.equal(['world', 'office', 'lab']);
    expect(after.interfaces.map((i) => i.name)).to.deep.equal(['line', 'desk', 'desk-2', 'till']);
    expect(copyText(after, [after.interfaces[2]!.statement])).to.equal(
      'interface desk-2: on p5, zone lab, address 10.61.9.1/24',
    );
  });

  it('leave alone what is no statement', () => {
    for (const text of ['hello', '', 'interface', 'box other: admin me'])
      expect(pasteStatements(site(), text), text).to.equal(undefined);
  });
});

describe('secrets', () => {
  const TEXT = `interface line: pppoe on p1 tag 7 user "kiln" secret "cl\\"ay", zone world # keep\ncircuit c: at p1, pppoe "kiln" "cl\\"ay" gives 203.0.113.7 peer 203.0.113.1\n`;

  it('are left out of what is handed on, and come back from what is at hand', () => {
    const bare = leaveSecretsOut(TEXT).text;
    expect(bare).to.not.contain('ay"');
    expect(bare).to.contain('user "kiln", zone world # keep');
    expect([holdsSecrets(TEXT), holdsSecrets(bare), holdsSecrets(GOOD)]).to.deep.equal([true, false, false]);
    expect(withSecretsOf(bare, TEXT)).to.equal(TEXT);
    expect(withSecretsOf(bare.replace('"kiln",', '"other",'), TEXT), 'another login').to.contain(
      'user "other", zone',
    );
  });
});
