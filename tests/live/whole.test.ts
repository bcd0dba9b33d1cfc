/**
 * The box as a whole Debian, systemd being its process 1: timers, power cuts, what is learned by networkd, and daemons
 * at the start. Without the rights, or without systemd on this machine, it is skipped, and says so.
 */
import { expect } from 'chai';
import { writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { howMany } from '#core/testkit';
import { Field, PLACES, WORKS, noWholeBox, pause, until } from './field';
import type { Ran } from './field';

const BOX = `root@${PLACES.console}`;
const HINGE = '/usr/local/sbin/jolly-gate-hinge';
const why = noWholeBox();

const good = (ran: Ran): Ran => {
  expect(ran.status, `${ran.out}\n${ran.err}`).to.equal(0);
  return ran;
};

/** An uplink that learns everything, a network inside that is lent and advertised, names served. */
const LEARNS = `box edge: names 192.0.2.53, serves names, time 192.0.2.53
zone world: upstream
zone studio:
zone stewards: management
interface harbour: on p2, zone world, address by dhcp, address6 by slaac and dhcpv6, watch 192.0.2.2 every 1s lost 2, answers ping, guard
interface studio: on p3, zone studio, address 10.61.20.1/24, address6 from harbour subnet 1, advertises, lends .100-.110, answers ping dns
interface console: on p8, zone stewards, address 10.61.99.1/26, answers ping ssh
passage studio > world: allow
leave any > world: as interface
door shop: harbour tcp 443 > 10.61.20.50 tcp 8443
`;

/** A provider that lends addresses, advertises and delegates networks on the second line. */
function lendingProvider(field: Field): void {
  const { isp } = field.ns;
  const { folder } = field;
  field.in(
    isp,
    'sysctl -qw net.ipv6.conf.all.forwarding=1; ip addr add 2001:db8:1::1/64 dev e2 nodad; ip addr add 2001:db8:80::80/128 dev lo nodad; ip route add 2001:db8:4000::/36 via fe80::61:ff:fe00:2 dev e2',
  );
  field.serve(
    isp,
    'dnsmasq',
    ...'-k -C /dev/null --port=0 --interface=e2 --bind-interfaces --dhcp-authoritative --no-ping --dhcp-range=203.0.113.20,203.0.113.21,1h --dhcp-option=3,203.0.113.17 --dhcp-option=6,192.0.2.2 --pid-file= --user=root'.split(
      ' ',
    ),
    `--dhcp-leasefile=${folder}/isp.leases`,
  );
  const subnet = {
    subnet: '2001:db8:1::/64',
    interface: 'e2',
    pools: [{ pool: '2001:db8:1::100-2001:db8:1::1ff' }],
    'pd-pools': [{ prefix: '2001:db8:4000::', 'prefix-len': 36, 'delegated-len': 56 }],
  };
  const kea = {
    Dhcp6: {
      'interfaces-config': {
        interfaces: ['e2'],
        'service-sockets-max-retries': 200,
        'service-sockets-retry-wait-time': 300,
      },
      'server-id': { type: 'EN', 'enterprise-id': 32473, identifier: '0102', persist: false },
      'lease-database': { type: 'memfile', persist: false },
      subnet6: [subnet],
    },
  };
  writeFileSync(join(folder, 'kea6.json'), JSON.stringify(kea));
  const radvd =
    'interface e2 { AdvSendAdvert on; AdvManagedFlag on; MinRtrAdvInterval 3; MaxRtrAdvInterval 4; prefix 2001:db8:1::/64 { AdvOnLink on; AdvAutonomous on; }; };\n';
  writeFileSync(join(folder, 'radvd.conf'), radvd);
  field.serve(
    isp,
    'env',
    `KEA_PIDFILE_DIR=${folder}`,
    'KEA_LOCKFILE_DIR=none',
    'kea-dhcp6',
    '-c',
    join(folder, 'kea6.json'),
  );
  field.serve(
    isp,
    'radvd',
    '-n',
    '-C',
    join(folder, 'radvd.conf'),
    '-p',
    join(folder, 'radvd.pid'),
    '-m',
    'none',
  );
}

/** Sends a datagram every 5 ms, whatever becomes of it. */
const SENDER = `
import socket, sys, time
s = socket.socket(socket.AF_INET, socket.SOCK_DGRAM)
while True:
    try: s.sendto(b'x', (sys.argv[1], 9))
    except OSError: pass
    time.sleep(0.005)
`;

describe('a whole Debian as the box', function () {
  let field: Field;
  const keep = (text: string) =>
    good(field.live('try', BOX, field.file('draft.gate', text), '--stay-if', 'proven', '--seconds', '3600'));
  const runs = () =>
    JSON.parse(field.live('state', BOX, '--json').out) as {
      box: { running: string; startup: string; trial?: object };
      dead: string[];
    };

  before(function () {
    if (why === undefined) return;
    console.log(`    no whole box is tried: ${why}`);
    this.skip();
  });
  beforeEach(() => (field = new Field(true)));
  afterEach(() => field.takeUp());

  it('goes back by its own timer, and boots what was saved after a power cut on trial and in the middle of saving', async () => {
    keep(WORKS);
    good(field.live('save', BOX));
    const { running } = runs().box;
    const other = field.file('other.gate', WORKS.replace('10.61.20.1/24', '10.61.21.1/24'));
    // Whoever asks is too late on a slow machine: the box's log has what was.
    field.live('try', BOX, other, '--seconds', '15');
    await until(
      () => new RegExp(`try \\w+ from ${running} for 15 s[^]*back to ${running} \\(timer\\)`).test(field.log),
      'it went back by its timer',
      () => field.log,
    );
    await until(() => runs().box.trial === undefined, 'the trial is over');
    expect(runs().box.running).to.equal(running);
    expect(field.live('drift', BOX).status).to.equal(0);
    expect(
      field.console('systemctl list-timers --no-legend "jolly*"; systemctl --failed --no-legend').out,
    ).to.equal('');
    // On trial, with much time left. From before the cut until all is up again somebody outside sends to the desk what no
    // rule lets pass, and a file of the machine switches forwarding on before anything of ours runs.
    field.live('try', BOX, other, '--seconds', '3600');
    const { isp, desk } = field.ns;
    field.console('echo net.ipv4.ip_forward=1 >/etc/sysctl.d/90-theirs.conf');
    field.in(isp, 'ip route add 10.61.20.0/24 via 198.51.100.18');
    field.in(
      desk,
      'nft "add table ip seen; add chain ip seen in { type filter hook prerouting priority 0; }; add rule ip seen in udp dport 9 counter"',
    );
    const arrived = () =>
      Number(/packets (\d+)/.exec(field.in(desk, 'nft list chain ip seen in').out)?.[1] ?? NaN);
    const sending = field.serve(isp, 'python3', '-c', SENDER, PLACES.desk);
    field.powerCut();
    field.powerOn();
    expect(runs().box).to.include({ running, startup: running }).and.not.have.property('trial');
    expect(field.live('drift', BOX).status).to.equal(0);
    expect(field.pings(field.ns.desk, PLACES.far)).to.equal(true);
    expect(arrived(), 'packets that came through while it started').to.equal(0);
    // They would have: without a keeper and without rules they do.
    field.console('systemctl stop jolly-gate-keeper; nft delete table inet gate');
    await until(() => arrived() > 0, 'an open router passes them');
    process.kill(-sending.pid!, 'SIGKILL');
    good(field.live('again', BOX));
    // The plug is pulled again and again while it saves: it starts with one of the two, whole.
    for (let n = 0; n < howMany(2, 6); n++) {
      field.live('try', BOX, other, '--seconds', '3600');
      const id = runs().box.running;
      field.console(`${HINGE} stay ${id}`);
      field.console(`(sleep 0.${String(n * 2).padStart(2, '0')}; ${HINGE} save) >/dev/null 2>&1 &`);
      await pause(20 * n);
      field.powerCut();
      field.powerOn();
      const now = runs().box;
      expect([running, id]).to.include(now.running);
      expect(now.startup).to.equal(now.running);
      expect(field.live('drift', BOX).out).to.contain('as it was told');
      field.console(`${HINGE} apply ${running} && ${HINGE} save`);
    }
  });

  it('learns addresses and a network to hand on, lends, serves names, and does so again after a power cut', async () => {
    lendingProvider(field);
    // The console’s port has an address from a file of somebody else, until it is handed over.
    field.console(
      `printf '[Match]\nName=p[89]\n\n[Network]\nAddress=10.99.8.1/24\n' >/etc/systemd/network/30-theirs.network; systemctl restart systemd-networkd`,
    );
    await until(
      () => field.console('ip -br addr show p8').out.includes('10.99.8.1/24'),
      'their address is there',
    );
    const tried = field.live('try', BOX, field.file('draft.gate', LEARNS), '--seconds', '60');
    expect(tried.out).to.contain(
      'p8: systemd-networkd configures it (/etc/systemd/network/30-theirs.network)',
    );
    good(field.live('adopt', BOX, '--take', 'p8'));
    keep(LEARNS);
    good(field.live('save', BOX));
    const { desk, isp } = field.ns;
    const works = async () => {
      field.in(
        desk,
        'sysctl -qw net.ipv6.conf.d1.accept_ra=1; ip -6 addr flush dev d1; ip link set d1 down; ip link set d1 up; ip route replace default via 10.61.20.1',
      );
      await until(() => field.pings(desk, PLACES.far), 'the desk gets out');
      await until(() => field.pings(desk, '2001:db8:80::80'), 'the desk gets out by IPv6');
      expect(field.in(desk, 'ip -br addr show d1').out).to.match(/2001:db8:4000:1:/);
      await until(
        () => field.in(desk, 'dig +short +time=1 +tries=1 @10.61.20.1 example.com').out.trim() === PLACES.far,
        'names are served',
      );
      // The door is at the address that was learned.
      const own = /203\.0\.113\.2\d/.exec(field.console('ip -br addr show p2').out)![0];
      const listening = field.serve(desk, 'python3', '-m', 'http.server', '--bind', '10.61.20.50', '8443');
      await until(
        () => field.in(isp, `curl -s -o /dev/null -m 1 -w '%{http_code}' http://${own}:443/`).out === '200',
        'the door is open',
      );
      process.kill(-listening.pid!, 'SIGKILL');
      expect(field.live('drift', BOX).out).to.contain('as it was told');
      const whose = field.console('ps -C kea-dhcp4,unbound -o comm=,user= | sort').out.trim().split(/\s+/);
      expect(whose).to.deep.equal(['kea-dhcp4', '_kea', 'unbound', 'unbound']);
    };
    await works();
    field.powerCut();
    field.powerOn();
    await works();
    expect(field.console('systemctl --failed --no-legend').out).to.equal('');
    // The provider is dead behind its own gateway: what is learned does not help.
    field.in(isp, 'ip addr del 192.0.2.2/32 dev lo');
    await until(() => runs().dead.includes('harbour'), 'the uplink counts as dead');
    expect(field.pings(desk, PLACES.far)).to.equal(false);
  });

  it('has what it shares with a second box, after its keepalived was killed and after a power cut', async () => {
    keep(
      WORKS.replace('box edge:', 'box edge: twin edge-b,').replace(
        'address 10.61.20.1/24',
        'address 10.61.20.2/24, virtual .1 id 20 with .3, lends .100-.110',
      ),
    );
    good(field.live('save', BOX));
    const { desk } = field.ns;
    const shares = async () => {
      await until(() => field.live('state', BOX).out.includes('this one is active'), 'it is active');
      await until(() => field.pings(desk, PLACES.far), 'the desk gets out by what is shared');
      await until(
        () =>
          field.console('systemctl is-active jolly-gate-active-kea4-active-main-json').out.trim() ===
          'active',
        'the active one lends',
      );
      expect(field.live('drift', BOX).out).to.contain('as it was told');
    };
    await shares();
    field.console('systemctl kill -s KILL --kill-who=all jolly-gate-keepalived-conf');
    await pause(1000);
    await shares();
    field.powerCut();
    field.powerOn();
    await shares();
    expect(field.console('systemctl --failed --no-legend').out).to.equal('');
  });

  it('calls an uplink that learns its address when no other lives, and asks the resolver that it learned there', async () => {
    lendingProvider(field);
    keep(
      `${WORKS}known press: name press.example
interface harbour: on p2, zone world, address by dhcp, on-demand, watch 192.0.2.2 every 1s lost 2
`,
    );
    const { desk, isp } = field.ns;
    // Of these two resolvers only the learned one knows the name.
    field.serve(
      isp,
      'dnsmasq',
      ...'-k -C /dev/null --no-resolv --no-hosts --user=root --pid-file= --bind-interfaces --listen-address=192.0.2.2 --address=/press.example/10.99.0.9'.split(
        ' ',
      ),
    );
    const state = () =>
      JSON.parse(field.live('state', BOX, '--json').out) as { names: { addresses: string[]; by?: string }[] };
    expect(state().names.map((n) => n.by)).to.deep.equal([undefined]);
    expect(field.console('ip -4 -br addr show dev p2').out).to.not.contain('203.0.113.');
    field.in(isp, 'ip link set e1 down');
    await until(() => field.pings(desk, PLACES.far), 'who stands by is called, and gets an address');
    await until(() => state().names[0]!.by === '192.0.2.2', 'the learned resolver is asked');
    await until(
      () => field.console('cat /etc/resolv.conf').out.includes('nameserver 192.0.2.2'),
      'the box itself asks it, too',
    );
    expect(state().names[0]!.addresses).to.deep.equal(['10.99.0.9']);
    expect(field.live('drift', BOX).out).to.contain('as it was told');
    field.in(isp, 'ip link set e1 up');
    const rests = () => !field.console('ip -br link show dev p2').out.includes('LOWER_UP');
    await until(() => rests() && field.pings(desk, PLACES.far), 'it rests again');
    // What was known stands while nobody is there to ask.
    expect(state().names[0]!.addresses).to.deep.equal(['10.99.0.9']);
    expect(field.live('drift', BOX).out).to.contain('as it was told');
  });

  it('survives what a person at its console does to it in the middle of a trial', async () => {
    keep(WORKS);
    const { running } = runs().box;
    const other = field.file('other.gate', WORKS.replace('10.61.20.1/24', '10.61.21.1/24'));
    field.live('try', BOX, other, '--seconds', '3600');
    // Its own keeper is killed and comes back; a reload of networkd takes nothing away.
    field.console(
      'systemctl kill -s KILL jolly-gate-keeper; systemctl start systemd-networkd; networkctl reload; ip route flush proto 77',
    );
    expect(field.timeIsOver()).to.equal(true);
    await until(() => runs().box.running === running, 'it went back');
    expect(field.live('drift', BOX).out).to.contain('as it was told');
    expect(field.pings(field.ns.desk, PLACES.far)).to.equal(true);

    // What is stopped or thrown away without a trial: the keeper puts it back, and without a keeper it is told.
    keep(WORKS.replace('names 192.0.2.53', 'names 192.0.2.53, serves names'));
    field.console('systemctl stop jolly-gate-unbound-conf; nft flush ruleset');
    const back = 'systemctl -q is-active jolly-gate-unbound-conf && nft list table inet gate';
    await until(() => field.console(back).status === 0, 'rules and names are back');
    field.console('systemctl stop jolly-gate-keeper jolly-gate-unbound-conf');
    const told = field.live('drift', BOX).out;
    expect(told).to.contain('keeper is stopped').and.contain('who serves names (unbound) is stopped');
    expect(field.live('again', BOX).status).to.equal(0);
    expect(field.live('drift', BOX).out).to.contain('as it was told');
  });
});
