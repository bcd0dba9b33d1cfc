/** A live box in a field of namespaces, and everything that goes wrong between it and whoever tells it. */
import { expect } from 'chai';
import { existsSync, readFileSync } from 'node:fs';
import { join } from 'node:path';
import { generationOf, streamOf } from '#core/linux';
import { modelFrom } from '#core/testkit';
import { Field, JUMP_PORT, PLACES, until } from './field';
import type { Ran } from './field';
import { BOX, WORKS, ended, json, needsField, storyOf } from './story';

describe('a live box in trouble', () => {
  let field: Field;
  const { file, keep, runs } = storyOf(() => field);

  before(needsField);
  beforeEach(() => (field = new Field()));
  afterEach(() => field.takeUp());

  const trouble = (ran: Ran, status: number, says: RegExp | string) => {
    expect(ran.status, ran.out + ran.err).to.equal(status);
    if (typeof says === 'string') expect(ran.out + ran.err).to.contain(says);
    else expect(ran.out + ran.err).to.match(says);
  };
  const tryIt = (text: string, ...more: string[]) =>
    field.live('try', BOX, file(text), '--seconds', '3600', '--stay-if', 'proven', ...more);

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
    // What is reached through a jump host alone, here the box's own loopback, shows its key through it.
    const config = readFileSync(field.config, 'utf8');
    field.file('config', `Host behind\n  HostName 127.0.0.1\n  User root\n  ProxyJump ${BOX}\n${config}`);
    trouble(field.live('meet', 'behind'), 2, shown);
    trouble(field.live('meet', 'behind', '--accept-key', shown), 0, 'runs nothing of ours');
    // Who keeps no keys is told so, and no file of that name is made.
    field.file('config', config.replace(/UserKnownHostsFile .*/, 'UserKnownHostsFile none'));
    trouble(field.live('meet', BOX, '--accept-key', shown), 2, 'keeps no host keys');
    expect(existsSync('none')).to.equal(false);
    field.file('config', config);
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

  it('is itself behind its own jump host, where another has its address and its key', async () => {
    const other = new Field();
    try {
      // As two copies of one disk have it.
      const itsKey = readFileSync(join(field.folder, 'host'), 'utf8');
      other.console('cat >/etc/ssh/host && kill -HUP $(pgrep -o sshd)', itsKey);
      const [pc, there] = [field.ns.pc, other.ns.pc];
      field.in(
        pc,
        `ip link add j1 type veth peer name j2 netns ${there}; ip addr add 198.18.9.1/30 dev j1; ip link set j1 up`,
      );
      field.in(there, 'ip addr add 198.18.9.2/30 dev j2; ip link set j2 up');
      const admin = readFileSync(join(field.folder, 'pc', 'admin.pub'), 'utf8');
      other.console('cat >>~/.ssh/authorized_keys', admin);
      field.jumpHost('127.0.0.1', admin);
      other.jumpHost('198.18.9.2', admin);
      const behind = ['127.0.0.1', '198.18.9.2'].map(
        (jump, n) =>
          `Host box${n}\n  HostName ${PLACES.console}\n  ProxyJump jump${n}\nHost jump${n}\n  HostName ${jump}\n  Port ${JUMP_PORT}\n  StrictHostKeyChecking accept-new\n`,
      );
      field.file('config', behind.join('') + readFileSync(field.config, 'utf8'));
      await until(
        () => field.live('state', 'box0').status === 0 && field.live('state', 'box1').status === 0,
        'both are reached',
      );
      for (const [n, mark] of ['192.0.2.1', '192.0.2.53'].entries())
        ended(
          field.live(
            ...['try', `box${n}`, file(`${WORKS}known mark: ${mark}\n`)],
            ...['--seconds', '3600', '--stay-if', 'proven'],
          ),
          0,
        );
      // One after the other, while the connections of both are open.
      const runs = [0, 1, 0, 1].map(
        (n) => json<{ box: { running: string } }>(field.live('state', `box${n}`, '--json')).box.running,
      );
      expect(runs.slice(2)).to.deep.equal(runs.slice(0, 2));
      expect(runs[0]).to.not.equal(runs[1]);
    } finally {
      other.takeUp();
    }
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

  it('a key that may only watch changes nothing, sees no secret, and its words are never options', () => {
    const login =
      'interface session: pppoe on p2 user "kiln" secret "slip and glaze", zone world, address by pppoe\n';
    ended(field.live('meet', BOX), 0);
    keep(WORKS);
    // What a box was told with a login in it, without a session to call.
    field.console(
      'cd /run/jolly-gate/running/ && echo secret-of-the-box >>box.gate && echo shown-instead >box.shown',
    );
    expect(
      generationOf(modelFrom(WORKS + login), [{ name: 'box.gate', text: WORKS + login }]).files.find(
        (f) => f.name === 'box.shown',
      )?.text,
    )
      .to.contain('user "kiln"')
      .and.not.contain('glaze');
    const only = 'restrict,command="/usr/local/sbin/jolly-gate-hinge watch",from="10.61.99.0/26"';
    field.console(`sed -i 's|^ssh|${only} ssh|' ~/.ssh/authorized_keys`);
    const raw = (line: string) => field.in(field.ns.pc, `ssh -F ${field.config} ${BOX} '${line}'`).out;
    for (const good of [
      'hello',
      'state',
      'adopt',
      'log',
      'flows',
      'ladder p1 198.51.100.17 192.0.2.1 - -',
      'ask ping 192.0.2.1 -',
    ]) {
      const got = raw(good);
      expect(got, good)
        .to.match(/^\{"ok":true/)
        .and.not.contain('secret-of-the-box');
      if (/state|adopt/.test(good)) expect(got, good).to.contain('shown-instead');
    }
    const told = () =>
      field.console('nft list ruleset | sed s/packets.*//; ls -lR --time-style=+ /etc/jolly-gate').out;
    const before = told();
    for (const bad of [
      'stage none',
      'try none 60',
      'stay none',
      'back',
      'save',
      'again',
      'take p1',
      'wake',
      'reboot',
      'remove',
      'apply none',
      'boot',
      'keep',
      'watch save',
    ])
      expect(raw(bad), bad).to.match(/"error":"(watch-only|not-an-order)"/);
    for (const option of [
      'ask name -f.bash_history 192.0.2.53 -',
      'ask ping -f -',
      'log --help',
      'ladder -x - - - -',
    ])
      expect(raw(option), option).to.contain('"error":"not-an-order"');
    expect(told()).to.equal(before);
  });

  it('takes no line that is none of ours, wherever it would lead', () => {
    keep(WORKS);
    const before = runs().running;
    const good = generationOf(modelFrom(WORKS), [{ name: 'box.gate', text: WORKS }]).files;
    for (const [file, line] of [
      ['sysctl', '../../etc/shadow 1'],
      ['sysctl', 'net/../../../etc/x 1'],
      ['forwarding', 'kernel/core_pattern |/tmp/x'],
      ['links', 'p1 port - - up 1500 - - - ; id'],
      ['links', '../p1 port - - up 1500 - - -'],
      ['addresses', 'p1 10.0.0.1/24 peer 10.0.0.2'],
      ['addresses', '-force 10.0.0.1/24'],
      ['routes', '4 - 10.9.0.0/16 -batch /etc/shadow'],
      ['rules', '4 100 $(id) lookup main'],
      ['watches', 'fibre p1 51545 5 3 30 `id` - - -'],
      ['names', '../../x www.example.com 192.0.2.53'],
      ['resolv', 'options use-vc'],
    ] as const) {
      const files = good.map((f) => (f.name === file ? { ...f, text: `${f.text}${line}\n` } : f));
      const hinge = '/usr/local/sbin/jolly-gate-hinge';
      const staged = field.console(`${hinge} stage 00112233445566aa`, streamOf({ files })).out;
      expect(staged, line).to.contain('"error":"refused-line"').and.contain(`${file}: `);
      // Put there by somebody else, it is not used either.
      field.console(
        `cd /etc/jolly-gate/generations && rm -rf 00112233445566aa && cp -r ${before} 00112233445566aa && cat >>00112233445566aa/${file}`,
        `${line}\n`,
      );
      expect(field.console(`${hinge} try 00112233445566aa 60`).out, line).to.contain('none of ours');
      expect(runs().running).to.equal(before);
    }
    expect(field.console('cat ~/.ssh/authorized_keys').out).to.match(/^ssh-ed25519 /);
  });

  it('opens nothing again that has ended, where its clock has lost its time', async () => {
    const { isp, desk } = field.ns;
    keep(
      `${WORKS.replace('passage studio >', 'passage studio > world: drop tcp 81, until 2090-01-01\npassage studio >')}door shop: fibre tcp 8080 > 10.61.20.50 tcp 8080, until 2090-01-01\n`,
    );
    field.serve(desk, 'python3', '-m', 'http.server', '--bind', '10.61.20.50', '8080');
    field.serve(isp, 'python3', '-m', 'http.server', '--bind', PLACES.far, '81');
    const opens = (ns: string, at: string) =>
      field.in(ns, `curl -s -o /dev/null -m 1 http://${at}/`).status === 0;
    await until(() => opens(isp, '198.51.100.18:8080'), 'what is let in for a while comes in');
    // A box may not set this machine's clock: instead it was believed last at a later time.
    field.console('touch -d 2089-01-01 /etc/jolly-gate/clock');
    await until(() => !opens(isp, '198.51.100.18:8080'), 'nobody is let in any more');
    expect(opens(desk, `${PLACES.far}:81`)).to.equal(false);
    expect(field.live('log', BOX).out).to.contain('shows an earlier time than it did');
    expect(field.live('drift', BOX).out).to.contain('as it was told');
    ended(field.live('save', BOX), 0);
    field.powerCut();
    field.powerOn();
    await until(() => field.pings(desk, PLACES.far), 'the box works again');
    expect(opens(isp, '198.51.100.18:8080')).to.equal(false);
    // Who tells it something has looked at it.
    keep(`${WORKS}door shop: fibre tcp 8080 > 10.61.20.50 tcp 8080, until 2090-01-02\n`);
    await until(() => opens(isp, '198.51.100.18:8080'), 'it is let in again');
  });

  it('keeps little of what outsiders have it log, and of leases the newest', async () => {
    keep(`${WORKS}passage world > any: drop, log\n`);
    const flood =
      'import socket; s = socket.socket(socket.AF_INET, socket.SOCK_DGRAM); [s.sendto(b"x", ("10.61.20.50", 9)) for _ in range(60000)]';
    field.in(field.ns.isp, `ip route add 10.61.20.0/24 via 198.51.100.18; python3 -c '${flood}'`);
    const { hits } = json<{ hits: { packets: number }[] }>(field.live('state', BOX, '--json'));
    expect(Math.max(...hits.map((h) => h.packets))).to.be.at.least(10_000);
    // 50 at once and ten a second, a line of some 200 bytes each; ulogd writes behind.
    field.console('sleep 1');
    const kept = field
      .console('du -sk /run/jolly-gate/logs; cat /run/jolly-gate/logs/passed.log | wc -l')
      .out.split(/\s+/);
    expect(Number(kept[0]), kept.join(' ')).to.be.below(600);
    expect(Number(kept[2]), kept.join(' ')).to.be.within(10, 2000);
    // Who writes it is not root, and goes on once it was put aside.
    expect(field.console('ps -C ulogd -o user=').out.trim()).to.equal('ulog');
    const log = '/run/jolly-gate/logs/passed.log';
    field.console(`head -c 600000 /dev/zero >>${log}`);
    await until(() => field.console(`test -e ${log}.1`).status === 0, 'the log was put aside');
    field.in(field.ns.isp, `python3 -c '${flood.replace('60000', '1')}'`);
    await until(() => field.console(`grep -c DPT=9 ${log}`).status === 0, 'the new log is written');
    // One client that renews all day, and what Kea put aside when it made its file short.
    const row = (address: string, ends: number) =>
      `${address},02:00:00:00:00:01,,43200,${ends},1,0,0,desk,0,,0\n`;
    const head =
      'address,hwaddr,client_id,valid_lifetime,expire,subnet_id,fqdn_fwd,fqdn_rev,hostname,state,user_context,pool_id\n';
    const at = '/var/lib/jolly-gate/gate-main.csv';
    field.console(`mkdir -p /var/lib/jolly-gate; cat >${at}.2`, head + row('10.61.20.60', 1_900_000_000));
    field.console(
      `cat >${at}`,
      head + Array.from({ length: 100_000 }, (_, n) => row('10.61.20.50', 1_800_000_000 + n)).join(''),
    );
    const state = field.console('/usr/local/sbin/jolly-gate-hinge state').out;
    expect(state.length).to.be.below(200_000);
    const { leases } = json<{ leases: { address: string; ends: string }[] }>(
      field.live('state', BOX, '--json'),
    );
    expect(leases.map((l) => [l.address, l.ends])).to.have.deep.members([
      ['10.61.20.60', '2030-03-17T17:46:40.000Z'],
      ['10.61.20.50', '2027-01-16T11:46:39.000Z'],
    ]);
  });

  it('changes nothing where the box cannot, and names what is missing', () => {
    keep(WORKS);
    const before = runs().running;
    const rows: readonly (readonly [draft: string, prepare: string, mend: string, says: RegExp | string])[] =
      [
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
          `${WORKS}known m: 10.1.1.1\n`,
          'mount -t tmpfs -o ro none /etc/jolly-gate/generations',
          'umount /etc/jolly-gate/generations',
          /nothing can be written on the box.*read-only/,
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

  it('goes back at once where a daemon does not start', async () => {
    keep(WORKS);
    const before = runs().running;
    // Somebody else is at the place of names already.
    const taken =
      "import socket,time; s=socket.socket(socket.AF_INET,socket.SOCK_DGRAM); s.bind(('127.0.0.1',53)); time.sleep(9999)";
    field.serve(field.ns.box, 'python3', '-c', taken);
    await until(() => field.console('ss -Hlnu sport = :53').out !== '', 'the place of names is taken');
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
    ended(field.live('try', BOX, file(other), '--seconds', '1200'), 0);
    trouble(tryIt(WORKS), 1, 'a trial is running');
    trouble(field.live('save', BOX), 1, 'a trial is running');
    // So much less is left as has gone by meanwhile.
    const [, left] = /goes back to \S+ in (\d+) s/.exec(ended(field.live('extend', BOX, '600'), 0).out)!;
    expect(Number(left)).to.be.within(601, 1800);
    trouble(field.live('back', BOX), 0, 'runs');
    trouble(field.live('stay', BOX), 1, 'no trial is running');
    // An order is carried out once, however often it arrives.
    const [hinge, id] = ['/usr/local/sbin/jolly-gate-hinge', runs().running];
    const first = field.console(`${hinge} try ${id} 3600 order-1 ${id}`).out;
    const again = field.console(`${hinge} try ${id} 3600 order-1 ${id}`).out;
    expect(JSON.parse(again)).to.include({ ok: true, again: true });
    expect(JSON.parse(first)).to.include({ ok: true });
    expect(JSON.parse(field.console(`${hinge} stay ${id} order-2`).out)).to.include({ ok: true });
    expect(JSON.parse(field.console(`${hinge} try ${id} 3600 order-3 none`).out)).to.include({
      error: 'changed-meanwhile',
    });
  });
});
