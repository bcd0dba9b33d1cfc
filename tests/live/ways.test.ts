/** A live box in a field of namespaces: its uplinks, names, leases and relays, and one real packet followed. */
import { expect } from 'chai';
import { spawnSync } from 'node:child_process';
import { readFileSync } from 'node:fs';
import { Field, PLACES, pause, until } from './field';
import { BOX, WORKS, json, needsField, storyOf } from './story';

describe('a live box and its ways', () => {
  let field: Field;
  const { keep } = storyOf(() => field);

  before(needsField);
  beforeEach(() => (field = new Field()));
  afterEach(() => field.takeUp());

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
    await until(() => way() === 'p2', 'the second uplink is used');
    expect(field.pings(desk, PLACES.far)).to.equal(true);
    expect(json(field.live('state', BOX, '--json'))).to.deep.include({ dead: ['fibre'] });
    expect(field.live('drift', BOX).out).to.contain('as it was told');
    field.in(isp, 'nft delete table ip dead');
    await until(() => way() === 'p1', 'the first uplink is used again');
    // Nobody answers ARP for the gateway any more, though its cable is in.
    field.in(isp, 'ip addr del 198.51.100.17/29 dev e1');
    await until(() => way() === 'p2', 'the second uplink is used when the gateway is gone');
    field.in(isp, 'ip addr add 198.51.100.17/29 dev e1');
    await until(() => way() === 'p1', 'the first uplink is used when it is back');
    // A cable that is pulled counts at once.
    field.in(isp, 'ip link set e1 down');
    await until(() => way() === 'p2', 'the second uplink is used at once');
    // A box that has no time asks late, and what it did not hear by then says nothing of the line.
    const late = '/usr/local/sbin/arping';
    field.console(`printf '#!/bin/sh\nsleep 4\nexit 1\n' >${late} && chmod 755 ${late}`);
    const kept = (what: string) => field.console(`cat /run/jolly-gate/${what}.harbour`).out.trim();
    await until(
      () => kept('late') === '2',
      'two rounds were late',
      () => kept('late'),
    );
    expect([kept('lost'), way()], 'nothing counts as lost').to.deep.equal(['0', 'p2']);
    field.console(`rm ${late}`);
  });

  it('calls an uplink on demand when no other lives, and has it rest again; two that share part the desks', async () => {
    const { isp, desk } = field.ns;
    field.in(isp, 'ip link set e1 up');
    keep(
      `${WORKS}interface harbour: on p2, zone world, address 203.0.113.18/29, gateway .17, on-demand, watch 192.0.2.2 every 1s lost 2\n`,
    );
    const way = (from = '') => /dev (\S+)/.exec(field.console(`ip route get ${PLACES.far} ${from}`).out)?.[1];
    const isUp = () => field.console('cat /sys/class/net/p2/flags').out.trim().endsWith('3');
    await until(() => way() === 'p1' && field.pings(desk, PLACES.far), 'the first uplink is used');
    expect(isUp(), 'who stands by rests').to.equal(false);
    expect(json(field.live('state', BOX, '--json'))).to.deep.include({ dead: [] });
    const proved = json(field.live('prove', BOX, '--json'));
    expect(JSON.stringify(proved)).to.contain('rests while another uplink lives');
    expect(field.live('drift', BOX).out).to.contain('as it was told');
    field.in(isp, 'ip link set e1 down');
    await until(() => way() === 'p2' && field.pings(desk, PLACES.far), 'who stands by is called');
    expect(field.live('drift', BOX).out).to.contain('as it was told');
    field.in(isp, 'ip link set e1 up');
    await until(() => way() === 'p1' && !isUp(), 'it rests again');
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
    // By one of them alone both desks go while the other is not known to live.
    await until(
      () => String([seenBy('10.61.20.50'), seenBy('10.61.20.51')]) === 'e1,e2',
      'both uplinks live, and each has its desk',
    );
    expect(field.live('drift', BOX).out).to.contain('as it was told');
    field.in(isp, 'ip link set e2 down');
    await until(
      () => field.in(desk, `ping -q -c1 -W1 -I 10.61.20.51 ${PLACES.far}`).status === 0,
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
    await until(() => field.pings(desk, PLACES.far), 'the name was asked for');
    expect(field.pings(desk, '192.0.2.1'), 'nobody else').to.equal(false);
    expect(field.live('drift', BOX).out).to.contain('as it was told');
    field.in(isp, 'pkill -STOP -x dnsmasq');
    // The next question is due at once; when it was asked in vain, the one after it is due later.
    const due = () => field.console('cat /run/jolly-gate/named/www.example.com.next').out.trim();
    field.console("sed -i 's/.*/0/' /run/jolly-gate/named/www.example.com.next");
    await until(() => due() !== '0', 'it asks again and nobody answers', due);
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
    await until(() => names()[0]!.addresses.length > 0, 'the name is resolved');
    const [pages, nobody] = names();
    expect(pages).to.include({ name: 'example.com', by: '192.0.2.53' }).and.have.property('age').below(60);
    expect([pages!.addresses, nobody]).to.deep.equal([
      [PLACES.far],
      { known: 'nobody', name: 'gone.example', addresses: [] },
    ]);
    expect(field.in(desk, `curl -s -m 2 http://${PLACES.far}/`).status).to.equal(7);
    expect(field.live('state', BOX).out).to.match(/example\.com \(pages\) \S+, said 192\.0\.2\.53 \d+ s ago/);
  });
});
