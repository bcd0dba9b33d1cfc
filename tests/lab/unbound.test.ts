/** unbound, told what a text says, asked beside the bench: records, backwards, and domains that are asked elsewhere. */
import { spawn, spawnSync } from 'node:child_process';
import { mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { setTimeout as delay } from 'node:timers/promises';
import { expect } from 'chai';
import { formatIp, mustIpv4, parseIp } from '#core/addr';
import { Bench } from '#core/bench';
import { generationOf } from '#core/linux';
import { modelOf } from '#core/model';
import { siteFrom } from '#core/testkit';
import { DNS_TYPE, decodeDns, dnsQuestion, encodeDns, reverseName } from '#core/wire';
import { endNamespaces, whyNot } from './lab';

const TEXT = `box first: names 192.0.2.53, domain kiln.example, serves names, forwards shop.example 10.61.20.53
zone world: upstream
zone office:
interface line: on p1, zone world, address 198.51.100.18/29, gateway .17
interface desk: on p2, zone office, address 10.61.20.1/24, answers dns
record press: 10.61.20.9 2001:db8::9
record www.elsewhere.example: 10.61.20.80
circuit northmoor: at p1, block 198.51.100.16/29, gateway .17
station pc: at p2, address 10.61.20.5/24, gateway .1, names 10.61.20.1
far dns.example: address 192.0.2.53, resolves
far www.elsewhere.example: address 192.0.2.80
`;

/** Name, type, and the answer that bench and unbound give. */
const ASKED: readonly (readonly [string, keyof typeof DNS_TYPE, readonly string[]])[] = [
  ['press.kiln.example', 'a', ['10.61.20.9']],
  ['press.kiln.example', 'aaaa', ['2001:db8::9']],
  ['press', 'a', ['10.61.20.9']],
  [reverseName(mustIpv4('10.61.20.9')), 'ptr', ['press.kiln.example']],
  [reverseName(parseIp('2001:db8::9')!), 'ptr', ['press.kiln.example']],
  // Inside it is another address than outside.
  ['www.elsewhere.example', 'a', ['10.61.20.80']],
  ['www.elsewhere.example', 'aaaa', []],
];

describe('names that the box answers for', () => {
  const site = siteFrom(TEXT);

  it('the bench answers them, with real messages', () => {
    const bench = new Bench(modelOf(site)).boot();
    const { endpoints } = bench.hosts.get('pc')!;
    for (const [name, type, wanted] of ASKED) {
      const question = encodeDns(dnsQuestion(7, name, DNS_TYPE[type]));
      const attempt = endpoints.ask(mustIpv4('10.61.20.1'), 53, question);
      bench.wait(() => attempt.done, 5000);
      const read = decodeDns(attempt.data!);
      const got = read.ok
        ? [...read.value.addresses.map(formatIp), ...(read.value.pointer ? [read.value.pointer] : [])]
        : [];
      expect(got, `${name} ${type}`).to.deep.equal(wanted);
    }
    // Nobody answers at the resolver of that domain, and no other is asked.
    const lost = endpoints.resolve(mustIpv4('10.61.20.1'), 'till.shop.example', {}, 4000);
    bench.wait(() => lost.done, 8000);
    expect(lost.result).to.equal('silence');
  });

  it('unbound answers the same, and asks for a domain where it is told', async function () {
    const lacks = spawnSync('sh', [
      '-c',
      'command -v unbound && command -v dig && command -v python3',
    ]).status;
    const why = whyNot() ?? (lacks ? 'no unbound or dig' : undefined);
    if (why !== undefined) {
      console.log(`    no name is asked for: ${why}`);
      this.skip();
    }
    const ns = `jg${process.pid}-dns`;
    const folder = mkdtempSync(join(tmpdir(), 'jg-dns-'));
    const told = generationOf(modelOf(site), []).files.find((f) => f.name === 'unbound.conf')!.text;
    const config = join(folder, 'unbound.conf');
    writeFileSync(config, told.replaceAll('/run/jolly-gate', folder));
    const checked = spawnSync('unbound-checkconf', [config], { encoding: 'utf8' });
    expect(checked.status, checked.stdout + checked.stderr).to.equal(0);
    const ip = (...args: string[]) => spawnSync('ip', args, { encoding: 'utf8' });
    const inside = (command: string, args: readonly string[]) =>
      spawn('ip', ['netns', 'exec', ns, command, ...args], { stdio: 'ignore' });
    ip('netns', 'add', ns);
    ip('-n', ns, 'link', 'set', 'lo', 'up');
    for (const a of ['10.61.20.1/24', '10.61.20.53/24']) ip('-n', ns, 'addr', 'add', a, 'dev', 'lo');
    // The resolver of the other domain says one thing only: 10.61.7.7.
    const other = inside('python3', [
      '-c',
      `import socket
s = socket.socket(socket.AF_INET, socket.SOCK_DGRAM)
s.bind(("10.61.20.53", 53))
while True:
    d, a = s.recvfrom(512)
    end = d.index(b"\\0", 12) + 5
    s.sendto(d[:2] + b"\\x85\\x80\\0\\1\\0\\1\\0\\0\\0\\0" + d[12:end] + b"\\xc0\\x0c\\0\\1\\0\\1\\0\\0\\0\\x3c\\0\\4" + bytes([10, 61, 7, 7]), a)`,
    ]);
    const unbound = inside('unbound', ['-d', '-c', config]);
    try {
      await delay(1200);
      const dig = (name: string, type: string) =>
        ip('netns', 'exec', ns, 'dig', '+short', '+time=2', '+tries=1', '@10.61.20.1', name, type)
          .stdout.trim()
          .split('\n')
          .filter(Boolean)
          .map((line) => line.replace(/\.$/, ''));
      for (const [name, type, wanted] of ASKED)
        expect(dig(name, type), `${name} ${type}`).to.deep.equal(wanted);
      expect(dig('till.shop.example', 'a')).to.deep.equal(['10.61.7.7']);
    } finally {
      for (const child of [unbound, other]) child.kill('SIGKILL');
      endNamespaces([ns]);
      rmSync(folder, { recursive: true, force: true });
    }
  });
});
