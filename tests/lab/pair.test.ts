/** Two boxes by Debian's keepalived, and the same two on the bench: one way to advertise, one time to take over. */
import { spawn, spawnSync } from 'node:child_process';
import { mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { setTimeout as delay } from 'node:timers/promises';
import { expect } from 'chai';
import { formatIp, formatPrefix } from '#core/addr';
import { Bench } from '#core/bench';
import { runDrill } from '#core/proof/drills';
import { primaryAddress, twinSite } from '#core/site';
import type { Site } from '#core/site';
import { modelFrom, reachFrom, siteFrom } from '#core/testkit';
import { VRRP_PROTOCOL, decodeEthernet, decodeIp, decodeVrrp, isIpv4Packet } from '#core/wire';
import { whyNot } from './lab';

const TEXT = `box first: priority 150, twin second priority 100
zone office:
interface desk: on p3, zone office, address 10.61.20.2/24, virtual .1 .9 id 20 with .3, answers ping
switch core: at p3, jack 1 tag 1
station pc: at core/1, address 10.61.20.50/24, gateway .1
`;

/** One of the boxes as keepalived is told of it. */
function configOf({ box, interfaces }: Site): string {
  const [desk] = interfaces;
  const { id, addresses } = desk!.shared!;
  return `global_defs {
  router_id ${box!.name}
  vrrp_version 3
}
vrrp_instance desk {
  interface eth0
  state BACKUP
  virtual_router_id ${id}
  priority ${box!.priority}
  advert_int 1
  virtual_ipaddress {
${addresses.map((a) => `    ${formatIp(a)}/24\n`).join('')}  }
}
`;
}

/** What an advertisement says, by its packet in a frame; undefined where it is none. */
function saidIn(frame: Uint8Array) {
  const ethernet = decodeEthernet(frame);
  const packet = ethernet.ok ? decodeIp(ethernet.value.type, ethernet.value.payload) : undefined;
  if (!packet || !isIpv4Packet(packet) || packet.protocol !== VRRP_PROTOCOL) return undefined;
  const said = decodeVrrp(packet.payload, packet.source, packet.destination);
  return said.ok
    ? { ...said.value, source: packet.source, destination: packet.destination, ttl: packet.ttl }
    : said.error;
}

describe('two boxes on a wire', () => {
  const own = `jg${process.pid}`;
  const [first, second, wire, client] = ['f', 's', 'w', 'c'].map((n) => `${own}-2${n}`) as [
    string,
    string,
    string,
    string,
  ];
  const all = [first, second, wire, client];
  const ip = (...args: string[]) => spawnSync('ip', args, { encoding: 'utf8' });

  it('keepalived advertises as the bench does, and takes over after the same time', async function () {
    this.timeout(90_000);
    const lacks = ['keepalived', 'tcpdump'].find((t) => spawnSync('sh', ['-c', `command -v ${t}`]).status);
    const why = whyNot() ?? (lacks === undefined ? undefined : `no ${lacks}`);
    if (why !== undefined) {
      console.log(`    no two boxes are asked: ${why}`);
      this.skip();
    }
    const folder = mkdtempSync(join(tmpdir(), 'jg-pair-'));
    const sites = { [first]: siteFrom(TEXT), [second]: twinSite(siteFrom(TEXT))! };
    try {
      for (const n of all) ip('netns', 'add', n);
      ip('-n', wire, 'link', 'add', 'br0', 'type', 'bridge');
      ip('-n', wire, 'link', 'set', 'br0', 'up');
      for (const n of [first, second, client]) {
        ip('link', 'add', 'eth0', 'netns', n, 'type', 'veth', 'peer', 'name', n, 'netns', wire);
        ip('-n', wire, 'link', 'set', n, 'master', 'br0', 'up');
        ip('-n', n, 'link', 'set', 'lo', 'up');
        ip('-n', n, 'link', 'set', 'eth0', 'up');
      }
      ip('-n', client, 'addr', 'add', '10.61.20.50/24', 'dev', 'eth0');
      const heard = join(folder, 'heard.pcap');
      const dump = ['netns', 'exec', client, 'tcpdump', '-i', 'eth0', '-U', '-c', '3', '-w', heard, 'vrrp'];
      spawn('ip', dump, { stdio: 'ignore' });
      for (const [n, site] of Object.entries(sites)) {
        ip('-n', n, 'addr', 'add', formatPrefix(primaryAddress(site.interfaces[0]!)!), 'dev', 'eth0');
        const config = join(folder, `${n}.conf`);
        writeFileSync(config, configOf(site));
        const files = ['-p', `${config}.pid`, '-r', `${config}.vrrp`];
        const line = ['netns', 'exec', n, 'keepalived', '-n', '-P', '-D', '-l', '-f', config, ...files];
        spawn('ip', line, { stdio: 'ignore' });
      }
      await delay(9000);

      // What is on the wire is what the bench puts there, all but the MAC addresses: a box keeps its own here.
      const bytes = readFileSync(heard);
      const length = bytes.readUInt32LE(24 + 8);
      const real = saidIn(bytes.subarray(24 + 16, 24 + 16 + length));
      const benched: unknown[] = [];
      new Bench(modelFrom(TEXT), {
        tap: (_time, from, _to, frame) => {
          if (from.owner.name === 'first') benched.push(saidIn(frame.bytes));
        },
      }).boot();
      expect(real).to.deep.equal(benched.find((said) => said !== undefined));

      // Ten pings a second while the cable of the active one is cut.
      const lostBy = async (act: () => void): Promise<number> => {
        const ping = ['netns', 'exec', client, 'ping', '-i', '0.1', '-W', '1', '-c', '90', '10.61.20.1'];
        let said = '';
        const pinging = spawn('ip', ping, { stdio: ['ignore', 'pipe', 'ignore'] });
        pinging.stdout.on('data', (d: Buffer) => (said += d.toString()));
        await delay(2000);
        act();
        await new Promise((resolve) => pinging.on('close', resolve));
        return 90 - new Set([...said.matchAll(/icmp_seq=(\d+) ttl/g)].map((m) => m[1])).size;
      };
      const lost = await lostBy(() => ip('-n', wire, 'link', 'set', first, 'down'));
      const run = runDrill(reachFrom(TEXT), {
        from: 'pc',
        to: '10.61.20.1',
        seconds: 20,
        acts: [{ at: 5000, what: 'cut', on: 'first' }],
      });
      if ('fault' in run) throw new Error(JSON.stringify(run));
      expect(run.noticed.map((n) => [n.interface, n.shared])).to.deep.include([
        'desk',
        { box: 'second', isActive: true },
      ]);
      // Both wait for three advertisements and the skew; where between two of them the cable was cut is not the same.
      expect(lost, `kernel ${lost}, bench ${run.lost} of ten a second`).to.be.within(
        run.lost - 12,
        run.lost + 12,
      );
    } finally {
      for (const n of all) {
        for (const pid of ip('netns', 'pids', n).stdout.trim().split('\n').filter(Boolean))
          try {
            process.kill(Number(pid), 'SIGKILL');
          } catch {
            // It ended meanwhile.
          }
        ip('netns', 'del', n);
      }
      rmSync(folder, { recursive: true, force: true });
    }
  });
});
