/**
 * A box with a real sshd in a field of namespaces: orders, trials that go back, ladders, drift, and everything that goes
 * wrong on the way. Without the rights it is skipped, and says so.
 */
import { expect } from 'chai';
import { spawnSync } from 'node:child_process';
import { readFileSync } from 'node:fs';
import { Field, PLACES, WORKS, noField, pause, until } from './field';
import type { Ran } from './field';

const BOX = `root@${PLACES.console}`;
const why = noField();

/** A step of a story: what is called, with what end. */
const ended = (ran: Ran, status: number): Ran => {
  expect(ran.status, `${ran.out}\n${ran.err}`).to.equal(status);
  return ran;
};
const json = <T = Record<string, unknown>>(ran: Ran): T => JSON.parse(ran.out) as T;

describe('a live box', function () {
  this.timeout(120_000);
  let field: Field;
  const file = (text: string, name = 'draft.gate') => field.file(name, text);
  /** Tries a text and stays with it. */
  const keep = (text: string) =>
    ended(field.live('try', BOX, file(text), '--stay-if', 'proven', '--seconds', '30'), 0);
  const runs = () =>
    json<{ box: { running: string; trial?: object } }>(field.live('state', BOX, '--json')).box;

  before(function () {
    if (why === undefined) return;
    console.log(`    no live box is tried: ${why}`);
    this.skip();
  });
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
    const again = field.begin('try', BOX, file(WORKS), '--stay-if', 'proven', '--seconds', '30');
    expect(field.in(field.ns.desk, ping).out).to.contain(' 0% packet loss');
    await until(() => again.exitCode !== null, 20, 'the second trial ends');
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
    const lost = field.live('try', BOX, file(moved), '--seconds', '6', '--overrule', 'lockout', '--json');
    expect(lost.status, lost.out + lost.err).to.equal(1);
    await until(() => field.pings(field.ns.pc, PLACES.console), 8, 'the old address is back');
    expect(runs()).to.include({ running: before }).and.not.have.property('trial');
    // The PC follows: the box is found at its new address, by the key of the old one, and stays.
    field.in(field.ns.pc, 'ip addr add 10.61.98.10/26 dev s1');
    const found = ended(
      field.live(
        'try',
        BOX,
        file(moved),
        '--seconds',
        '20',
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
          '15',
          '--json',
        ),
        1,
      ),
    );
    expect(tried.knocks.map((k) => k.answers)).to.deep.equal([false]);
    await until(() => field.live('state', BOX).status === 0, 25, 'somebody gets in again');
    expect(runs().running).to.equal(before);
  });

  it('tells what somebody changed behind our back, and takes it back when told again', () => {
    keep(WORKS);
    field.console(
      'ip addr add 10.61.20.9/24 dev p3; ip addr del 10.61.20.1/24 dev p3; ip route add 203.0.113.0/24 via 198.51.100.17; nft add rule inet gate input tcp dport 2222 accept; ip link set p1 mtu 1400; sysctl -qw net.ipv4.ip_forward=0',
    );
    const told = ended(field.live('drift', BOX), 1).out;
    for (const line of [
      'studio: somebody added the address 10.61.20.9/24',
      'studio: the address 10.61.20.1/24 is gone',
      'somebody added the route 203.0.113.0/24 via 198.51.100.17 dev p1',
      'somebody added to the rules: tcp dport 2222 accept',
      'the setting net/ipv4/ip_forward is 0, and was told 1',
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

  it('follows one real packet to the statement that decides', async () => {
    keep(`${WORKS}passage studio > stewards: reject tcp 80\n`);
    const asked = async (args: readonly string[], ns: string, send: string) => {
      const out = field.file('why.json', '');
      const trace = field.serve(
        field.ns.pc,
        'sh',
        '-c',
        `node bin/jolly-gate.js live why --ssh-config ${field.config} ${BOX} ${args.join(' ')} --json >${out}`,
      );
      while (trace.exitCode === null) {
        field.in(ns, send);
        await pause(150);
      }
      return JSON.parse(spawnSync('cat', [out], { encoding: 'utf8' }).stdout) as {
        verdict: string;
        by?: string;
      };
    };
    expect(await asked(['studio', PLACES.far], field.ns.desk, `ping -q -c1 -W1 ${PLACES.far}`)).to.include({
      verdict: 'passed',
      by: 'passage studio > world',
    });
    expect(
      await asked(['studio', PLACES.pc, "'tcp 80'"], field.ns.desk, `curl -s -m1 http://${PLACES.pc}/`),
    ).to.include({ verdict: 'rejected', by: 'passage studio > stewards' });
    field.in(field.ns.isp, 'ip route add 10.61.20.0/24 via 198.51.100.18');
    const in_ = await asked(
      ['fibre', PLACES.desk],
      field.ns.isp,
      `ping -q -c1 -W1 -I 192.0.2.80 ${PLACES.desk}`,
    );
    expect(in_.verdict).to.equal('dropped');
    expect(in_.by).to.equal(undefined);
  });

  it('leaves a provider that is dead behind its own gateway, and comes back to it', async () => {
    keep(
      `${WORKS}interface harbour: on p2, zone world, address 203.0.113.18/29, gateway .17, priority 2, watch 192.0.2.2 every 1s lost 2\n`,
    );
    const { isp, desk } = field.ns;
    const way = () => /dev (\S+)/.exec(field.console(`ip route get ${PLACES.far}`).out)?.[1];
    expect([way(), field.pings(desk, PLACES.far)]).to.deep.equal(['p1', true]);
    field.in(
      isp,
      'nft add table ip dead; nft "add chain ip dead f { type filter hook prerouting priority -300 ; }"; nft add rule ip dead f iif e1 ip daddr 192.0.2.0/24 drop',
    );
    await until(() => way() === 'p2', 12, 'the second uplink is used');
    expect(field.pings(desk, PLACES.far)).to.equal(true);
    expect(json(field.live('state', BOX, '--json'))).to.deep.include({ dead: ['fibre'] });
    expect(field.live('drift', BOX).out).to.contain('as it was told');
    field.in(isp, 'nft delete table ip dead');
    await until(() => way() === 'p1', 12, 'the first uplink is used again');
    // Nobody answers ARP for the gateway any more, though its cable is in.
    field.in(isp, 'ip addr del 198.51.100.17/29 dev e1');
    await until(() => way() === 'p2', 12, 'the second uplink is used when the gateway is gone');
    field.in(isp, 'ip addr add 198.51.100.17/29 dev e1');
    await until(() => way() === 'p1', 15, 'the first uplink is used when it is back');
    // A cable that is pulled counts at once.
    field.in(isp, 'ip link set e1 down');
    await until(() => way() === 'p2', 4, 'the second uplink is used at once');
  });

  it('calls an uplink on demand when no other lives, and has it rest again; two that share part the desks', async () => {
    const { isp, desk } = field.ns;
    field.in(isp, 'ip link set e1 up');
    keep(
      `${WORKS}interface harbour: on p2, zone world, address 203.0.113.18/29, gateway .17, on-demand, watch 192.0.2.2 every 1s lost 2\n`,
    );
    const way = (from = '') => /dev (\S+)/.exec(field.console(`ip route get ${PLACES.far} ${from}`).out)?.[1];
    const isUp = () => field.console('cat /sys/class/net/p2/flags').out.trim().endsWith('3');
    await until(() => way() === 'p1' && field.pings(desk, PLACES.far), 10, 'the first uplink is used');
    expect(isUp(), 'who stands by rests').to.equal(false);
    expect(json(field.live('state', BOX, '--json'))).to.deep.include({ dead: [] });
    const proved = json(field.live('prove', BOX, '--json'));
    expect(JSON.stringify(proved)).to.contain('rests while another uplink lives');
    expect(field.live('drift', BOX).out).to.contain('as it was told');
    field.in(isp, 'ip link set e1 down');
    await until(() => way() === 'p2' && field.pings(desk, PLACES.far), 12, 'who stands by is called');
    expect(field.live('drift', BOX).out).to.contain('as it was told');
    field.in(isp, 'ip link set e1 up');
    await until(() => way() === 'p1' && !isUp(), 15, 'it rests again');
    expect(field.pings(desk, PLACES.far)).to.equal(true);
    expect(field.live('drift', BOX).out).to.contain('as it was told');

    // Both on duty, one to one: desks of even addresses by the first, of odd ones by the second.
    keep(
      `${WORKS.replace('gateway .17, watch', 'gateway .17, share 1, watch')}interface harbour: on p2, zone world, address 203.0.113.18/29, gateway .17, share 1, watch 192.0.2.2 every 1s lost 2\n`,
    );
    field.in(desk, 'ip addr add 10.61.20.51/24 dev d1');
    const seenBy = (from: string) => {
      field.in(
        isp,
        'nft delete table ip seen; nft add table ip seen; nft "add chain ip seen f { type filter hook prerouting priority -300 ; }"; nft add rule ip seen f iif e1 icmp type echo-request counter; nft add rule ip seen f iif e2 icmp type echo-request counter',
      );
      expect(field.in(desk, `ping -q -c1 -W1 -I ${from} ${PLACES.far}`).status).to.equal(0);
      return [...field.in(isp, 'nft list table ip seen').out.matchAll(/iif "(e\d)".*packets (\d+)/g)].flatMap(
        ([, dev, n]) => (n === '1' ? [dev] : []),
      );
    };
    await until(() => seenBy('10.61.20.51').includes('e2'), 8, 'both uplinks live');
    expect(seenBy('10.61.20.50')).to.deep.equal(['e1']);
    expect(field.live('drift', BOX).out).to.contain('as it was told');
    field.in(isp, 'ip link set e2 down');
    await until(
      () => field.in(desk, `ping -q -c1 -W1 -I 10.61.20.51 ${PLACES.far}`).status === 0,
      6,
      'the desk of the dead one goes on',
    );
    field.in(isp, 'ip link set e2 up; nft delete table ip seen');
  });

  it('lets pass what a name leads to, asks for it again, and keeps what it knew while nobody answers', async () => {
    const { isp, desk } = field.ns;
    keep(
      WORKS.replace(
        'passage studio > world: allow',
        'known vendor: name www.example.com\npassage studio > world: allow ping, to vendor',
      ),
    );
    await until(() => field.pings(desk, PLACES.far), 8, 'the name was asked for');
    expect(field.pings(desk, '192.0.2.1'), 'nobody else').to.equal(false);
    expect(field.live('drift', BOX).out).to.contain('as it was told');
    const next = "sed -i 's/.*/0/' /run/jolly-gate/named/www.example.com.next";
    field.in(isp, 'pkill -STOP -x dnsmasq');
    field.console(next);
    await pause(4000);
    expect(field.pings(desk, PLACES.far), 'what was known stands').to.equal(true);
    field.in(isp, 'pkill -CONT -x dnsmasq');
    expect(field.pings(desk, PLACES.far)).to.equal(true);
  });

  it('asks a DHCP server elsewhere for its desks, and says by which interface', async function () {
    if (spawnSync('sh', ['-c', 'command -v dhcrelay']).status !== 0) this.skip();
    keep(
      WORKS.replace('10.61.20.1/24, answers ping', `10.61.20.1/24, relays ${PLACES.provider}, answers ping`),
    );
    const { desk, isp } = field.ns;
    field.in(isp, 'ip route replace 10.61.20.0/24 via 198.51.100.18');
    const log = field.file('dhcp.log', '');
    field.serve(
      isp,
      'dnsmasq',
      ...'-k -C /dev/null --user=root --pid-file= --port=0 --log-dhcp --dhcp-authoritative'.split(' '),
      ...['--interface=e1', `--log-facility=${log}`, `--dhcp-leasefile=${log}.leases`],
      '--dhcp-range=10.61.20.120,10.61.20.125,255.255.255.0,2h',
      ...['--dhcp-option=option:router,10.61.20.1', '--dhcp-option=option:dns-server,192.0.2.53'],
    );
    const hook = field.file(
      'hook',
      '#!/bin/sh\n[ "$1" = bound ] && echo "$ip/$mask $router $dns $lease"; exit 0\n',
    );
    spawnSync('chmod', ['755', hook]);
    const ask = () => field.in(desk, `udhcpc -f -q -n -t 5 -i d1 -s ${hook}`).out.trim().split('\n').at(-1);
    await until(
      () => /^10\.61\.20\.12\d\/24 10\.61\.20\.1 192\.0\.2\.53 7200$/.test(ask() ?? ''),
      20,
      'a lease from elsewhere',
    );
    expect(readFileSync(log, 'utf8')).to.match(/circuit-id|agent-id|82 /);
  });

  it('gives addresses, names and the way out to a desk that asks, and knows what names lead to', async () => {
    // Turned away by what a name leads to, which nobody has written.
    const named =
      'known pages: name example.com\nknown nobody: name gone.example\npassage studio > world: reject tcp 80, to pages\n';
    keep(
      named +
        WORKS.replace('names 192.0.2.53', 'names 192.0.2.53, serves names').replace(
          '10.61.20.1/24, answers ping',
          '10.61.20.1/24, lends .100-.110 for 2h, keeps .20 for 02:61:00:00:20:20, answers ping dns',
        ),
    );
    const { desk } = field.ns;
    const hook = field.file(
      'hook',
      '#!/bin/sh\n[ "$1" = bound ] && echo "$ip/$mask $router $dns $lease"; exit 0\n',
    );
    spawnSync('chmod', ['755', hook]);
    const ask = () => field.in(desk, `udhcpc -f -q -n -t 3 -i d1 -s ${hook}`).out.trim().split('\n').at(-1);
    expect(ask()).to.equal('10.61.20.100/24 10.61.20.1 10.61.20.1 7200');
    field.in(desk, 'ip link set d1 down; ip link set d1 address 02:61:00:00:20:20; ip link set d1 up');
    expect(ask()).to.equal('10.61.20.20/24 10.61.20.1 10.61.20.1 7200');
    expect(field.in(desk, 'dig +short +time=2 @10.61.20.1 example.com').out.trim()).to.equal(PLACES.far);
    const { leases } = json<{ leases: { address: string }[] }>(field.live('state', BOX, '--json'));
    expect(leases.map((l) => l.address)).to.include('10.61.20.100');
    const names = () =>
      json<{ names: { name: string; addresses: string[]; by?: string; age?: number }[] }>(
        field.live('state', BOX, '--json'),
      ).names;
    await until(() => names()[0]!.addresses.length > 0, 10, 'the name is resolved');
    const [pages, nobody] = names();
    expect(pages).to.include({ name: 'example.com', by: '192.0.2.53' }).and.have.property('age').below(60);
    expect([pages!.addresses, nobody]).to.deep.equal([
      [PLACES.far],
      { known: 'nobody', name: 'gone.example', addresses: [] },
    ]);
    expect(field.in(desk, `curl -s -m 2 http://${PLACES.far}/`).status).to.equal(7);
    expect(field.live('state', BOX).out).to.match(/example\.com \(pages\) \S+, said 192\.0\.2\.53 \d+ s ago/);
  });

  describe('in trouble', () => {
    const trouble = (ran: Ran, status: number, says: RegExp | string) => {
      expect(ran.status, ran.out + ran.err).to.equal(status);
      if (typeof says === 'string') expect(ran.out + ran.err).to.contain(says);
      else expect(ran.out + ran.err).to.match(says);
    };
    const tryIt = (text: string, ...more: string[]) =>
      field.live('try', BOX, file(text), '--seconds', '10', '--stay-if', 'proven', ...more);

    it('says who is not reached and why, and knows a key only once somebody accepts it', () => {
      const key = field.hostKey;
      const files = { write: (text: string) => field.file('known_hosts', text) };
      files.write('');
      trouble(field.live('state', BOX), 2, 'its host key is not known here');
      trouble(field.live('meet', BOX), 2, /--accept-key SHA256:/);
      trouble(field.live('meet', BOX, '--accept-key', 'SHA256:nonsense'), 2, 'does not show SHA256:nonsense');
      const shown = /SHA256:\S+/.exec(field.live('meet', BOX).err)![0];
      trouble(field.live('meet', BOX, '--accept-key', shown), 0, 'runs nothing of ours');
      trouble(field.live('state', BOX), 0, 'runs nothing of ours');
      files.write(`${PLACES.console} ${key.slice(0, -8)}AAAAAAAA\n`);
      trouble(field.live('state', BOX), 2, /host key is another one than before|not known here/);
      files.write(`${PLACES.console} ${key}\n`);
      trouble(field.live('state', 'root@10.61.99.9'), 2, /no way to it|does not answer in time/);
      trouble(field.live('state', `${BOX}:23`), 2, 'nothing listens for ssh');
      trouble(field.live('state', 'nobody@10.61.99.1'), 2, 'does not let this user in');
      trouble(field.live('state', 'no-such-box.invalid'), 2, 'leads to no address');
      for (const bad of ['-oProxyCommand=id', 'root@10.61.99.1;id', 'a b', ''])
        trouble(field.live('state', '--', bad), 2, 'is no box to call');
    });

    it('needs root, and says so', () => {
      field.console(
        'useradd -m -d /var/lib/steward -s /bin/sh steward; mkdir -p /var/lib/steward/.ssh; cp ~/.ssh/authorized_keys /var/lib/steward/.ssh/; chown -R steward /var/lib/steward; sed -i "s/^steward:!/steward:*/" /etc/shadow',
      );
      trouble(field.live('state', 'steward@10.61.99.1'), 2, 'not root there');
    });

    it('a key that may only call the hinge calls nothing else', () => {
      ended(field.live('meet', BOX), 0);
      const only = 'restrict,command="/usr/local/sbin/jolly-gate-hinge",from="10.61.99.0/26"';
      field.console(`sed -i 's|^ssh|${only} ssh|' ~/.ssh/authorized_keys`);
      keep(WORKS);
      trouble(field.live('drift', BOX), 0, 'as it was told');
      const raw = (line: string) => field.in(field.ns.pc, `ssh -F ${field.config} ${BOX} '${line}'`);
      for (const bad of [
        'sh -c id',
        'hello; id',
        'try ../../x 5',
        'stage ../x',
        '$(id)',
        'state `id`',
        'log 5 | id',
        'apply x/y',
      ]) {
        const got = raw(bad);
        expect(got.status, bad).to.not.equal(0);
        expect(got.out, bad)
          .to.match(/"error":"(not-an-order|not-staged)"/)
          .and.not.contain('uid=');
      }
      field.console('echo "# older" >> /usr/local/sbin/jolly-gate-hinge');
      trouble(field.live('state', BOX), 2, 'the hinge there is another one than ours');
    });

    it('changes nothing where the box cannot, and names what is missing', () => {
      keep(WORKS);
      const before = runs().running;
      const rows: readonly (readonly [
        draft: string,
        prepare: string,
        mend: string,
        says: RegExp | string,
      ])[] = [
        [
          `${WORKS}interface x: on p9, zone studio, address 10.9.0.1/24\n`,
          '',
          '',
          'port p9 is missing on this box',
        ],
        [
          `${WORKS}interface x: on p3 tag 20, zone studio, address 10.9.0.1/24\n`,
          '',
          '',
          /rehearsal: .*(Unknown device type|vlan)|proven|stays/,
        ],
        [
          WORKS.replace('10.61.20.1/24,', '10.61.20.1/24, lends .50-.60,'),
          'mount --bind /dev/null /usr/sbin/kea-dhcp4',
          'umount /usr/sbin/kea-dhcp4',
          'kea-dhcp4 is not installed on this box',
        ],
        [
          WORKS.replace('names 192.0.2.53', 'names 192.0.2.53, serves names'),
          'mv /usr/sbin/unbound-checkconf /usr/sbin/uc 2>/dev/null; true',
          'true',
          /proven|stays|unbound|names/,
        ],
        [
          `${WORKS}known k: 10.1.1.1\n`,
          'mkdir -p /etc/jolly-gate/generations; mount -t tmpfs -o size=16k none /etc/jolly-gate/generations',
          'umount /etc/jolly-gate/generations',
          /no room|not on this box|did not arrive whole/,
        ],
        [
          `${WORKS}known l: 10.1.1.1\n`,
          'mount --bind /dev/null /usr/sbin/nft',
          'umount /usr/sbin/nft',
          'no nftables',
        ],
      ];
      for (const [draft, prepare, mend, says] of rows.filter(([, p]) => !p.includes('checkconf'))) {
        if (prepare) field.console(prepare);
        const ran = tryIt(draft, '--overrule', 'names-unanswered');
        if (mend) field.console(mend);
        if (ran.status === 0) {
          // This kernel can, and so it stayed: back to where we were.
          keep(WORKS);
          continue;
        }
        trouble(ran, 1, says);
        expect(runs(), draft).to.include({ running: before }).and.not.have.property('trial');
        trouble(field.live('drift', BOX), 0, 'as it was told');
      }
    });

    it('goes back at once where a daemon does not start', () => {
      keep(WORKS);
      const before = runs().running;
      field.console(
        '(setsid nc -l -u -p 53 -s 127.0.0.1 </dev/null >/dev/null 2>&1 || setsid python3 -c "import socket,time; s=socket.socket(socket.AF_INET,socket.SOCK_DGRAM); s.bind((\'127.0.0.1\',53)); time.sleep(60)" </dev/null >/dev/null 2>&1) & sleep 0.3',
      );
      trouble(
        tryIt(WORKS.replace('names 192.0.2.53', 'names 192.0.2.53, serves names')),
        1,
        /went back.*does not stay up/s,
      );
      expect(runs()).to.include({ running: before }).and.not.have.property('trial');
      trouble(field.live('drift', BOX), 0, 'as it was told');
    });

    it('lets one trial run at a time, and nobody overtake unseen what another did', () => {
      keep(WORKS);
      const other = `${WORKS}known k: 10.1.1.1\n`;
      ended(field.live('try', BOX, file(other), '--seconds', '60'), 0);
      trouble(tryIt(WORKS), 1, 'a trial is running');
      trouble(field.live('save', BOX), 1, 'a trial is running');
      trouble(field.live('extend', BOX, '120'), 0, /goes back to \S+ in 1[678]\d s/);
      trouble(field.live('back', BOX), 0, 'runs');
      trouble(field.live('stay', BOX), 1, 'no trial is running');
      // An order is carried out once, however often it arrives.
      const [hinge, id] = ['/usr/local/sbin/jolly-gate-hinge', runs().running];
      const first = field.console(`${hinge} try ${id} 30 order-1 ${id}`).out;
      const again = field.console(`${hinge} try ${id} 30 order-1 ${id}`).out;
      expect(JSON.parse(again)).to.include({ ok: true, again: true });
      expect(JSON.parse(first)).to.include({ ok: true });
      expect(JSON.parse(field.console(`${hinge} stay ${id} order-2`).out)).to.include({ ok: true });
      expect(JSON.parse(field.console(`${hinge} try ${id} 30 order-3 none`).out)).to.include({
        error: 'changed-meanwhile',
      });
    });
  });
});
