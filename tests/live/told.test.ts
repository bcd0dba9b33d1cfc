/** What a live box does where what it was told does not stand any more: puts it back, or says so; and who is left outside. */
import { expect } from 'chai';
import { Field, PLACES, until } from './field';
import { BOX, WORKS, ended, needsField, storyOf } from './story';

describe('what a live box was told', () => {
  let field: Field;
  const { file, keep, runs } = storyOf(() => field);
  const there = (line: string) => field.console(line).status === 0;
  const drift = () => field.live('drift', BOX).out;
  const table = 'nft list table inet gate';

  before(needsField);
  beforeEach(() => (field = new Field()));
  afterEach(() => field.takeUp());

  it('is put back where it goes: rules, forwarding, a rule of routing, a server; and the box says when', async () => {
    keep(WORKS.replace('names 192.0.2.53', 'names 192.0.2.53, serves names'));
    const passes = () => field.pings(field.ns.desk, PLACES.far);
    expect(passes()).to.equal(true);
    field.console('nft flush ruleset');
    await until(() => there(table), 'the rules are back');
    const said = `${table} | grep -c comment`;
    const whole = field.console(said).out;
    field.console(
      `for c in $(${table} | sed -n 's/.*chain \\([^ ]*\\) {/\\1/p'); do nft flush chain inet gate $c; done`,
    );
    await until(() => field.console(said).out === whole, 'what is taken out of the rules is back');
    field.console('sysctl -qw net.ipv4.ip_forward=0');
    await until(passes, 'packets are passed on again');
    const rules = 'ip rule show | grep -c "proto 77"';
    const before = field.console(rules).out;
    field.console('while ip rule del proto 77 2>/dev/null; do :; done; ip rule show');
    field.console(`kill $(cat /run/jolly-gate/daemons/jolly-gate-unbound-conf.pid)`);
    await until(() => field.console(rules).out === before, 'the rules of routing are back');
    await until(() => there('pgrep -x unbound'), 'who serves names is back');
    const state = ended(field.live('state', BOX), 0).out;
    expect(state)
      .to.match(/gone, and put back by the box \d+ s ago: the rules of passing/)
      .and.match(/put back.*: .*forwarding/)
      .and.match(/put back.*: .*who serves names \(unbound\)/);
    expect(ended(field.live('drift', BOX), 0).out).to.contain('as it was told');
  });

  it('is told to stand no more where the box leaves it, and is told again without a trial', async () => {
    keep(WORKS);
    field.console(`kill -- -$(cat /run/jolly-gate/keeper.pid)`);
    field.console(
      'ip link add br-theirs type bridge; ip link set p3 master br-theirs; nft add table ip theirs; nft "add chain ip theirs f { type filter hook forward priority 5; policy drop; }"',
    );
    await until(() => /keeper is stopped/.test(drift()), 'the keeper is missed');
    expect(drift())
      .to.contain('somebody put studio into br-theirs')
      .and.contain(
        'a table of somebody else, ip theirs, judges the same packets (forward), and refuses some',
      );
    ended(field.live('again', BOX), 0);
    // What is not ours is left alone, and goes on being told.
    const rest = drift();
    expect(rest).to.not.contain('keeper').and.to.not.contain('br-theirs');
    expect(rest).to.contain('ip theirs');
    const pinging = field.serve(field.ns.desk, 'ping', '-q', '-i', '0.3', PLACES.far);
    expect(ended(field.live('why', BOX, PLACES.desk, PLACES.far), 1).out).to.match(
      /was dropped: by somebody else’s chain, ip theirs f/,
    );
    process.kill(-pinging.pid!, 'SIGKILL');
    field.console('nft delete table ip theirs');
    ended(field.live('drift', BOX), 0);
    expect(field.pings(field.ns.desk, PLACES.far)).to.equal(true);
  });

  it('comes up at the start as far as there are ports for it, the seat’s among them, and says what is missing', () => {
    keep(`${WORKS}interface spare: on p2, zone studio, address 10.61.30.1/24, answers ping\n`);
    ended(field.live('save', BOX), 0);
    field.powerCut();
    // Nobody has plugged the card of p2 in again.
    field.in(field.ns.box, 'ip link del p2');
    field.powerOn();
    expect(field.pings(field.ns.desk, PLACES.far), 'the desk gets out').to.equal(true);
    expect(drift()).to.contain('spare is gone');
    expect(ended(field.live('log', BOX), 0).out).to.contain('port p2 is missing on this box');
  });

  it('is told where somebody else configures it only once they handed it over, and is theirs again at the end', async () => {
    // As a fresh Debian has it: a file, and a client whose address and route would stand beside ours.
    const theirs = `auto lo p1 p2
iface lo inet loopback
iface p1 inet dhcp
  metric 5
# the spare
iface p2 inet manual
`;
    const client = `#!/bin/sh
ip link set p1 up; ip addr add 198.51.100.21/29 dev p1; ip route add default via 198.51.100.17 metric 5; sleep 3600
`;
    field.console(`mkdir -p /etc/network && cat >/etc/network/interfaces <<'E'\n${theirs}E`);
    field.console(`cat >/run/dhclient <<'E'\n${client}E`);
    field.console('chmod +x /run/dhclient; setsid /run/dhclient -i p1 </dev/null >/dev/null 2>&1 &');
    field.console('ip link add br9 type bridge; ip addr add 10.99.0.1/24 dev br9; ip link set br9 up');
    const hasAddress = () => there('ip addr show p1 | grep -q 198.51.100.21/');
    await until(hasAddress, 'their client has an address');

    // A promise about somebody who stands in another file cannot be judged here, and keeps nobody.
    const draft = file(`${WORKS}expect internet never reaches wheel\nexpect studio reaches world ping\n`);
    const refused = ended(field.live('try', BOX, draft, '--seconds', '60'), 1).out;
    expect(refused)
      .to.contain('p1: ifupdown configures it (/etc/network/interfaces)')
      .and.contain('p1: a DHCP client of somebody else (dhclient)')
      .and.contain('live adopt --take p1');
    expect(ended(field.live('meet', BOX), 0).out).to.contain('p2: ifupdown configures it');
    ended(field.live('adopt', BOX, '--take', 'p1,p7'), 2);
    ended(field.live('adopt', BOX, '--take', 'p1'), 0);
    // Handed over, not taken yet: it is theirs until something of ours runs.
    expect(there('pgrep -x dhclient')).to.equal(true);
    const tried = ended(field.live('try', BOX, draft, '--stay-if', 'proven', '--seconds', '3600'), 0);
    expect(tried.err).to.contain(
      'not judged without the files of what is around the box: expect internet never',
    );
    expect(tried.err).to.match(/warning: br9 has an address and the text does not name it/);
    expect(there('pgrep -x dhclient'), 'their client').to.equal(false);
    expect(hasAddress(), 'its address').to.equal(false);
    expect(field.console('ip route show default').out, 'its route').to.not.contain('metric 5');
    ended(field.live('drift', BOX), 0);

    const saysFile = () => field.console('cat /etc/network/interfaces').out;
    expect(saysFile(), 'a power cut now leaves the box as it was').to.equal(theirs);
    ended(field.live('save', BOX), 0);
    expect(saysFile()).to.equal(`# jolly-gate: auto lo p1 p2
auto lo p2
iface lo inet loopback
# jolly-gate: iface p1 inet dhcp
# jolly-gate:   metric 5
# the spare
iface p2 inet manual
`);
    ended(field.console('/usr/local/sbin/jolly-gate-hinge remove'), 0);
    expect(saysFile()).to.equal(theirs);
    await until(hasAddress, 'their client has its address again');
  });

  it('is also whom the box itself asks for names, and IPv6 where the machine had none, until nothing of ours runs', async () => {
    const asks = () => field.console('cat /etc/resolv.conf').out;
    field.console(
      'rm /etc/resolv.conf; ln -s ../run/theirs.conf /etc/resolv.conf; echo nameserver 192.0.2.9 >/run/theirs.conf',
    );
    const asksName = () => field.console('getent ahostsv4 example.com').out;
    // IPv6 is off on this machine; the text wants it on one interface.
    const off = 'net.ipv6.conf.p1.disable_ipv6 net.ipv6.conf.p3.disable_ipv6 net.ipv6.conf.lo.disable_ipv6';
    const isOff = () => field.console(`sysctl -n ${off}`).out.replace(/\s/g, '');
    field.console(`for k in ${off}; do sysctl -qw $k=1; done`);
    keep(
      WORKS.replace('names 192.0.2.53', 'names 192.0.2.53, domain kiln.example').replace(
        'address 10.61.20.1/24',
        'address 10.61.20.1/24, address6 fd61:20:1::1/64',
      ),
    );
    expect(isOff()).to.equal('100');
    expect(asks()).to.match(/^#.*\nsearch kiln\.example\nnameserver 192\.0\.2\.53\n$/);
    expect(asksName()).to.contain(PLACES.far);
    // Somebody else writes it: ours is back at the keeper’s next look.
    field.console('echo nameserver 192.0.2.9 >/etc/resolv.conf');
    await until(() => asks().includes('192.0.2.53'), 'the box asks whom it was told');
    ended(field.console('/usr/local/sbin/jolly-gate-hinge remove'), 0);
    expect(isOff()).to.equal('111');
    expect(asks()).to.equal('nameserver 192.0.2.9\n');
    expect(field.console('readlink /etc/resolv.conf').out).to.equal('../run/theirs.conf\n');
  });

  it('is tried, taken back and kept though /run is full, and a line that dies meanwhile is noticed', async () => {
    keep(WORKS);
    const { running } = runs();
    const other = file(WORKS.replace('10.61.20.1/24', '10.61.21.1/24'), 'other.gate');
    field.console(
      'mount -o remount,size=4m /run; dd if=/dev/zero of=/run/fill bs=4k; dd if=/dev/zero of=/run/rest bs=1',
    );
    field.live('try', BOX, other, '--seconds', '3600');
    expect(runs().running).to.not.equal(running);
    ended(field.console('/usr/local/sbin/jolly-gate-hinge back someorder'), 0);
    expect(runs()).to.include({ running }).and.not.have.property('trial');
    expect(field.pings(field.ns.desk, PLACES.far)).to.equal(true);
    const dead = () => field.console('cat /run/jolly-gate/dead').out.includes('fibre');
    expect(dead()).to.equal(false);
    field.in(field.ns.isp, 'ip link set e1 down');
    await until(dead, 'the pulled cable to be noticed', () => field.log);
    field.in(field.ns.isp, 'ip link set e1 up');
    await until(
      () => !dead(),
      'the cable to be noticed again',
      () => field.log,
    );
    field.console('rm /run/fill /run/rest');
    ended(field.live('drift', BOX), 0);
  });

  it('is no way in because the text answers there: ssh is what we came by', () => {
    keep(WORKS.replace('answers ping ssh', 'answers ping ssh https'));
    const shut = file(WORKS.replace('answers ping ssh', 'answers ping https'));
    const refused = ended(field.live('try', BOX, shut, '--seconds', '60'), 1);
    expect(refused.out + refused.err).to.match(/overrule it with `--overrule lockout`/);
  });
});
