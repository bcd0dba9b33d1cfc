/** Kea, told what a text says, and Debian's own client before it: which options come, to whom. */
import { spawn, spawnSync } from 'node:child_process';
import { mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { setTimeout as delay } from 'node:timers/promises';
import { expect } from 'chai';
import { generationOf } from '#core/linux';
import { reachOf, siteFrom } from '#core/testkit';
import { prove } from '#core/proof';
import { modelOf } from '#core/model';
import { endNamespaces, whyNot } from './lab';

const PHONE = '02:61:00:00:20:60';
const PRESS = '02:61:00:00:20:20';
const TEXT = `box first: names 192.0.2.53, domain kiln.example
zone office:
interface desk: on p2, zone office, address 10.61.20.1/24, lends .50-.99, option ntp .1 192.0.2.123,
  option search kiln.example shop.example, option tftp boot.kiln.example for .20, option boot-file press.0 for .20,
  option domain inner.example for .60-.69, keeps .20 for ${PRESS}, keeps .60 for ${PHONE}
switch core: at p2, jack 1 tag 1, jack 2 tag 1, jack 3 tag 1
station pc: at core/1, address by dhcp, mac 02:61:00:00:20:99
station press: at core/2, address by dhcp, mac ${PRESS}
station phone: at core/3, address by dhcp, mac ${PHONE}
`;

/** What udhcpc calls the options in its hook's environment. */
const CALLED: Readonly<Record<string, string>> = {
  ntp: 'ntpsrv',
  search: 'search',
  tftp: 'tftp',
  'boot-file': 'bootfile',
  domain: 'domain',
};

describe('options of DHCP', () => {
  const own = `jg${process.pid}`;
  const [box, client] = [`${own}-kea`, `${own}-cl`];

  it('Kea tells a real client what the bench foretells, pool by pool and reservation by reservation', async function () {
    const why =
      whyNot() ??
      (spawnSync('sh', ['-c', 'command -v kea-dhcp4 && command -v udhcpc']).status
        ? 'no kea or udhcpc'
        : undefined);
    if (why !== undefined) {
      console.log(`    no lease is asked for: ${why}`);
      this.skip();
    }
    const site = siteFrom(TEXT);
    const told = generationOf(modelOf(site), []).files.find((f) => f.name.startsWith('kea4'))!.text;
    const folder = mkdtempSync(join(tmpdir(), 'jg-kea-'));
    const config = join(folder, 'kea.json');
    writeFileSync(config, told.replaceAll('/var/lib/jolly-gate', folder));
    writeFileSync(join(folder, 'hook'), `#!/bin/sh\nenv >${folder}/got\n`, { mode: 0o755 });
    const ip = (...args: string[]) => spawnSync('ip', args, { encoding: 'utf8' });
    const env = {
      ...process.env,
      KEA_PIDFILE_DIR: folder,
      KEA_LOCKFILE_DIR: 'none',
      KEA_DHCP_DATA_DIR: folder,
    };
    for (const n of [box, client]) ip('netns', 'add', n);
    const kea = (() => {
      ip('link', 'add', 'p2', 'netns', box, 'type', 'veth', 'peer', 'name', 'eth0', 'netns', client);
      ip('-n', box, 'addr', 'add', '10.61.20.1/24', 'dev', 'p2');
      ip('-n', box, 'link', 'set', 'p2', 'up');
      return spawn('ip', ['netns', 'exec', box, 'kea-dhcp4', '-c', config], { env, stdio: 'ignore' });
    })();
    try {
      const checked = spawnSync('ip', ['netns', 'exec', box, 'kea-dhcp4', '-t', config], {
        env,
        encoding: 'utf8',
      });
      expect(`${checked.stdout}${checked.stderr}`).to.not.contain('ERROR');
      await delay(1500);
      for (const lease of prove(reachOf(site)).leases) {
        const { mac } = modelOf(site).wiring.stations.find((s) => s.name === lease.station)!;
        const hardware = mac.toString(16).padStart(12, '0').match(/../g)!.join(':');
        ip('-n', client, 'link', 'set', 'eth0', 'down');
        ip('-n', client, 'link', 'set', 'eth0', 'address', hardware, 'up');
        const asked = ['search', 'bootfile', 'tftp'].flatMap((o) => ['-O', o]);
        ip(
          'netns',
          'exec',
          client,
          'udhcpc',
          '-f',
          '-q',
          '-n',
          '-i',
          'eth0',
          '-t',
          '5',
          '-s',
          join(folder, 'hook'),
          ...asked,
        );
        const got = Object.fromEntries(
          readFileSync(join(folder, 'got'), 'utf8')
            .split('\n')
            .map((line) => [line.slice(0, line.indexOf('=')), line.slice(line.indexOf('=') + 1)]),
        );
        expect(got.ip, lease.station).to.equal(lease.address);
        for (const [ours, theirs] of Object.entries(CALLED))
          expect(got[theirs], `${lease.station}: ${ours}`).to.equal(lease.options?.[ours]);
      }
    } finally {
      kea.kill('SIGKILL');
      endNamespaces([box, client]);
      rmSync(folder, { recursive: true, force: true });
    }
  });
});
