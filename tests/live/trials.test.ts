/** A box with a real sshd in a field of namespaces: trials that go back, knocks, drift and what is told again. */
import { expect } from 'chai';
import { Field, PLACES, until } from './field';
import { BOX, WORKS, ended, json, needsField, storyOf } from './story';

describe('a live box', () => {
  let field: Field;
  const { file, keep, runs } = storyOf(() => field);

  before(needsField);
  beforeEach(() => (field = new Field()));
  afterEach(() => field.takeUp());

  it('is met, tried, proven, kept and saved, boots what was saved, and can be rid of us again', async () => {
    const met = json<{ ports: { name: string }[] }>(ended(field.live('meet', BOX, '--json'), 0));
    expect(met.ports.map((p) => p.name)).to.include.members(['p1', 'p2', 'p3', 'p8']);
    // Somebody else's things stay somebody else's.
    field.console(
      'ip addr add 10.9.9.9/32 dev p2; nft add table inet theirs; ip rule add pref 77 fwmark 9 lookup 9',
    );
    keep(WORKS);
    expect(field.pings(field.ns.desk, PLACES.far)).to.equal(true);
    ended(field.live('drift', BOX), 0);
    const before = runs().running;
    expect(field.live('save', BOX).status).to.equal(0);
    // What is tried again is there already: nothing is told, and no packet is lost.
    const ping = `ping -q -i 0.005 -c 400 ${PLACES.far}`;
    const again = field.begin('try', BOX, file(WORKS), '--stay-if', 'proven', '--seconds', '3600');
    expect(field.in(field.ns.desk, ping).out).to.contain(' 0% packet loss');
    await until(() => again.exitCode !== null, 'the second trial ends');
    expect(again.exitCode).to.equal(0);
    field.powerCut();
    field.powerOn();
    expect(runs().running).to.equal(before);
    expect(field.pings(field.ns.desk, PLACES.far)).to.equal(true);
    ended(field.live('drift', BOX), 0);
    field.console(
      'ip addr add 10.9.9.9/32 dev p2; nft list table inet theirs || nft add table inet theirs; ip rule add pref 77 fwmark 9 lookup 9',
    );
    expect(field.console('/usr/local/sbin/jolly-gate-hinge remove').status).to.equal(0);
    const left = field.console(
      'ip -br addr; ip route show table all proto 77; ip rule; nft list tables; cat /proc/sys/net/ipv4/ip_forward',
    ).out;
    expect(left)
      .to.match(/p8@\S+ +UP +10\.61\.99\.1\/26/)
      .and.contain('10.9.9.9/32')
      .and.contain('fwmark 0x9');
    expect(left)
      .to.contain('inet theirs')
      .and.match(/\n0\n$/);
    expect(left).to.not.contain('inet gate').and.not.contain('198.51.100');
  });

  it('goes back by itself when nobody stays, also when its address moved under the session', async () => {
    keep(WORKS);
    const before = runs().running;
    const moved = WORKS.replace('10.61.99.1/26', '10.61.98.1/26');
    // Nobody follows: the crossing says so before, and it is tried all the same.
    const lost = field.begin('try', BOX, file(moved), '--seconds', '3600', '--overrule', 'lockout');
    await until(
      () => field.console('ip -br addr show p8').out.includes('10.61.98.1/26'),
      'it has the new address',
    );
    // Whoever tried hears nothing any more, and looks for the box.
    await until(() => field.in(field.ns.pc, 'ss -Htn state syn-sent').out !== '', 'the box is looked for');
    // The last resort asks: while a trial goes on, and once there is none, nothing is started anew (here it could not be).
    const lastResort = () => field.console('/usr/local/sbin/jolly-gate-hinge resort').status;
    expect(lastResort()).to.equal(0);
    await until(() => field.timeIsOver(), 'the trial is there to be over');
    await until(() => field.pings(field.ns.pc, PLACES.console), 'the old address is back');
    expect(lastResort()).to.equal(0);
    await until(() => lost.exitCode !== null, 'whoever tried is told');
    expect(lost.exitCode).to.equal(1);
    expect(runs()).to.include({ running: before }).and.not.have.property('trial');
    // The PC follows: the box is found at its new address, by the key of the old one, and stays.
    field.in(field.ns.pc, 'ip addr add 10.61.98.10/26 dev s1');
    const found = ended(
      field.live(
        'try',
        BOX,
        file(moved),
        '--seconds',
        '3600',
        '--overrule',
        'lockout',
        '--stay-if',
        'proven',
        '--json',
      ),
      0,
    );
    expect(json(found)).to.deep.include({ stayed: true });
    expect(field.pings(field.ns.pc, '10.61.98.1')).to.equal(true);
    expect(field.pings(field.ns.pc, PLACES.console)).to.equal(false);
  });

  it('refuses a draft that would let nobody in, and when overruled knocks, finds nobody let in, and goes back', async () => {
    keep(WORKS);
    const before = runs().running;
    const forgets = WORKS.replace('answers ping ssh\n', 'answers ping\n');
    const no = json(ended(field.live('try', BOX, file(forgets), '--overrule', 'no-way-in', '--json'), 1));
    expect(no).to.include({ lockout: true });
    expect(runs().running).to.equal(before);
    const tried = json<{ knocks: { answers: boolean }[] }>(
      ended(
        field.live(
          'try',
          BOX,
          file(forgets),
          '--overrule',
          'no-way-in',
          '--overrule',
          'lockout',
          '--seconds',
          '3600',
          '--json',
        ),
        1,
      ),
    );
    expect(tried.knocks.map((k) => k.answers)).to.deep.equal([false]);
    field.timeIsOver();
    await until(() => field.live('state', BOX).status === 0, 'somebody gets in again');
    expect(runs().running).to.equal(before);
  });

  it('tells what somebody changed behind our back, and takes it back when told again', () => {
    keep(WORKS);
    field.console(
      'ip addr add 10.61.20.9/24 dev p3; ip addr del 10.61.20.1/24 dev p3; ip route add 203.0.113.0/24 via 198.51.100.17; nft add rule inet gate input tcp dport 2222 accept; ip link set p1 mtu 1400; sysctl -qw net.ipv4.conf.all.arp_ignore=0',
    );
    const told = ended(field.live('drift', BOX), 1).out;
    for (const line of [
      'studio: somebody added the address 10.61.20.9/24',
      'studio: the address 10.61.20.1/24 is gone',
      'somebody added the route 203.0.113.0/24 via 198.51.100.17 dev p1',
      'somebody added to the rules: tcp dport 2222 accept',
      'the setting net/ipv4/conf/all/arp_ignore is 0, and was told 1',
    ])
      if (typeof line === 'string') expect(told).to.contain(line);
      else expect(told).to.match(line);
    keep(WORKS);
    const rest = ended(field.live('drift', BOX), 1).out;
    // What is not ours is told, and left alone.
    expect(rest.trim().split('\n')).to.have.members([
      'studio: somebody added the address 10.61.20.9/24',
      'somebody added the route 203.0.113.0/24 via 198.51.100.17 dev p1',
    ]);
    expect(ended(field.live('adopt', BOX), 0).out)
      .to.contain('interface studio: on p3')
      .and.contain('# not taken: studio');
  });
});
