/**
 * `npm run pairs:live [PAIRS] [SEED]`: generated sites applied one over the other and back on one kernel. Nothing of ours
 * is left behind, nothing of others' is touched, and flows that both texts allow lose no packet.
 */
import { spawn, spawnSync } from 'node:child_process';
import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import fc from 'fast-check';
import { deviceOf, generationOf, streamOf } from '#core/linux';
import type { Generation } from '#core/linux';
import { EVERYTHING, anySite, anyTwins, modelFrom, siteFrom, withoutDaemons } from '#core/testkit';
import { hingeText } from '../../src/lib/server/hinge';
import { OwnRoot } from '../../src/lib/server/practice/root';
import { noField } from './field';

const HINGE = '/usr/local/sbin/jolly-gate-hinge';
const own = `jp${process.pid}`;
const folder = mkdtempSync(join(tmpdir(), 'jg-pairs-'));
const root = new OwnRoot(folder);
root.install('jolly-gate-hinge', hingeText());

const done = (ns: string, line: string, input?: string) => root.run(ns, line, input, { JG_NO_KEEPER: 'yes' });
const run = (ns: string, line: string, input?: string): string => {
  const { stdout, stderr } = done(ns, line, input);
  return stdout + stderr;
};

/** A line of shell in a namespace, with this machine's root: what is around the box. */
const around = (ns: string, line: string) => spawnSync('ip', ['netns', 'exec', ns, 'sh', '-c', line]);

/**
 * Everything of a kernel that a text could leave behind, in an order that does not depend on when it came. What `ip`
 * complains of is left out: it opens every namespace of the machine to name the other end of a cable, and complains of
 * one that another test is just making or unmaking.
 */
function shape(ns: string): string {
  const { stdout, stderr } = done(
    ns,
    `ip -o link | sed 's/^[0-9]*: //; s/qdisc.*//' | sort; ip -o addr show scope global | sed 's/^[0-9]*: //' | sort
     for f in 4 6; do ip -$f route show table all | grep -vE 'fe80|^multicast' | sort; ip -$f rule | sort; done
     nft list ruleset | sed "s,packets [0-9]* bytes [0-9]*,,"; for k in net/ipv4/ip_forward net/ipv6/conf/all/forwarding net/ipv4/conf/all/rp_filter net/ipv4/conf/all/arp_ignore; do cat /proc/sys/$k; done`,
  );
  if (!/^lo: /m.test(stdout)) throw new Error(`a kernel told nothing of itself: ${stderr}`);
  return stdout;
}

/** Waits a moment until a kernel has a shape: links take their time to say how they are. */
function settled(ns: string, wanted: string): string {
  for (let n = 0; ; n++) {
    const now = shape(ns);
    if (now === wanted || n === 20) return now;
    spawnSync('sleep', ['0.1']);
  }
}

/** What is deployed, without the daemons. */
const deployed = (text: string): Generation => withoutDaemons(generationOf(modelFrom(text), []));

/** Two networks that every text has, and a flow between them that it allows: it may lose nothing. */
const BOTH = `passage keep-a > keep-b: allow ping
zone keep-a:
zone keep-b:
interface keep-a: on k1, zone keep-a, address 10.240.1.1/24
interface keep-b: on k2, zone keep-b, address 10.240.2.1/24
`;
const ENDS = [`${own}-a`, `${own}-b`] as const;

/** One pair; what is wrong. */
async function pair(one: string, other: string): Promise<string[]> {
  const ns = own;
  const [a, b] = [BOTH + one, BOTH + other];
  for (const place of ['etc/jolly-gate', 'run/jolly-gate'])
    rmSync(root.at(place), { recursive: true, force: true });
  for (const n of [ns, ...ENDS]) spawnSync('ip', ['netns', 'add', n]);
  try {
    const devices = new Set(
      [a, b].flatMap((text) => {
        const site = siteFrom(text);
        return [...site.ports.keys(), ...site.interfaces.map((i) => deviceOf(site, i))];
      }),
    );
    const names = [...devices].filter((d) => !/^(lo|k[12]|br-.*)$/.test(d));
    around(
      ns,
      [
        'sysctl -qw net.ipv4.ip_forward=0 net.ipv6.conf.default.accept_dad=0; ip link set lo up',
        ...names.map((d, n) => `ip link add ${d} type veth peer name y${n}; ip link set y${n} up`),
        ...[1, 2].map((n) => `ip link add k${n} type veth peer name eth0 netns ${ENDS[n - 1]}`),
        // Somebody else's.
        'ip link add theirs type dummy; ip link set theirs up; ip addr add 10.250.0.1/24 dev theirs',
        'ip route add 10.251.0.0/16 via 10.250.0.9; ip rule add pref 50 fwmark 7 lookup 50; ip route add default via 10.250.0.9 table 50',
        'nft add table inet theirs; nft "add chain inet theirs c { type filter hook input priority 10 ; }"; nft add rule inet theirs c tcp dport 1 drop',
      ].join('\n'),
    );
    for (const [n, end] of ENDS.entries())
      around(
        end,
        `ip link set eth0 up; ip addr add 10.240.${n + 1}.2/24 dev eth0; ip route add default via 10.240.${n + 1}.1`,
      );
    const before = shape(ns);
    const [first, second] = [deployed(a), deployed(b)];
    const wrong: string[] = [];
    const told = (order: string, input?: string) => {
      const out = run(ns, `${HINGE} ${order}`, input);
      if (!out.includes('"ok":true')) wrong.push(`${order}: ${out.slice(0, 300)}`);
    };
    told(`stage ${first.id}`, streamOf(first));
    told(`stage ${second.id}`, streamOf(second));
    told(`apply ${first.id}`);
    // Links have said how they are once what they say is the same twice.
    const alone = settled(ns, shape(ns));
    around(ENDS[0], 'ping -q -c1 -W1 10.240.2.2');
    const flow = spawn(
      'ip',
      ['netns', 'exec', ENDS[0], 'ping', '-q', '-i', '0.002', '-w', '3', '10.240.2.2'],
      {
        stdio: ['ignore', 'pipe', 'ignore'],
      },
    );
    let said = '';
    flow.stdout.on('data', (d: Buffer) => (said += d.toString()));
    const over = new Promise((resolve) => flow.on('close', resolve));
    told(`apply ${second.id}`);
    told(`apply ${first.id}`);
    flow.kill('SIGINT');
    await over;
    if (!/ 0% packet loss/.test(said)) wrong.push(`a flow lost packets: ${said.split('\n').at(-3)}`);
    const back = settled(ns, alone);
    if (back !== alone) wrong.push(`there and back is not the same:\n${difference(alone, back)}`);
    told('remove');
    const left = settled(ns, before);
    if (left !== before) wrong.push(`something is left behind or missing:\n${difference(before, left)}`);
    return wrong;
  } finally {
    for (const n of [ns, ...ENDS]) spawnSync('ip', ['netns', 'del', n]);
  }
}

const difference = (a: string, b: string): string => {
  const [x, y] = [a.split('\n'), b.split('\n')];
  return [
    ...x.filter((l) => !y.includes(l)).map((l) => `- ${l}`),
    ...y.filter((l) => !x.includes(l)).map((l) => `+ ${l}`),
  ].join('\n');
};

/** Asks that many pairs; every third site has the same addresses in two tables. */
export async function askPairs(count: number, seed: number): Promise<string[]> {
  const site = fc.oneof(
    anySite(EVERYTHING),
    anySite({ ...EVERYTHING, odd: false }),
    anyTwins({ ...EVERYTHING, odd: false }),
  );
  try {
    const out: string[] = [];
    for (const [n, [a, b]] of fc.sample(fc.tuple(site, site), { numRuns: count, seed }).entries())
      for (const w of await pair(a, b)) out.push(`pair ${n}: ${w}\n${a}\n-- then\n${b}`);
    return out;
  } finally {
    rmSync(folder, { recursive: true, force: true });
  }
}

if (process.argv[1]?.endsWith('pairs.ts')) {
  const why = noField();
  if (why !== undefined) {
    console.log(`no pairs are applied here: ${why}`);
    process.exit(0);
  }
  const [count, seed] = [Number(process.argv[2] ?? 300), Number(process.argv[3] ?? 1)];
  const start = Date.now();
  const wrong = await askPairs(count, seed);
  for (const w of wrong.slice(0, 5)) console.log(w);
  console.log(
    `${count} pairs in ${((Date.now() - start) / 1000).toFixed(0)} s; ${wrong.length ? `${wrong.length} faults` : 'nothing of ours left, nothing of others’ touched'}`,
  );
  process.exitCode = wrong.length ? 1 : 0;
}
