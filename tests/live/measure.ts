/**
 * `npm run measure:live`: how long orders take on a box in a namespace, asked over ssh from the administrator's PC;
 * medians. The demo's text is told as it is but for its PPPoE session, since no such kernel is at hand everywhere.
 */
import { spawnSync } from 'node:child_process';
import { readFileSync } from 'node:fs';
import { resolve } from 'node:path';
import { deviceOf, generationOf, streamOf } from '#core/linux';
import { modelFrom } from '#core/testkit';
import { hingeText } from '../../src/lib/server/hinge';
import { Field, PLACES, WORKS, noField } from './field';

const HINGE = '/usr/local/sbin/jolly-gate-hinge';
const RUNS = 7;
/** What only asks goes by a connection that stays open, as `live` has it; each link has its own. */
const shared = (link: string): string =>
  `-o ControlMaster=auto -o ControlPersist=20 -o ControlPath=/tmp/jg-measure-${link}-%C`;
const SHARED = shared('quick');
const SLOW = `-o ProxyCommand='python3 ${resolve('tests/live/slow.py')} %h %p 0.2'`;

const why = noField();
if (why !== undefined) {
  console.log(`nothing is measured here: ${why}`);
  process.exit(0);
}

const field = new Field();
const told = (line: string, input?: string) => field.console(`${HINGE} ${line}`, input);
/** An order from the PC, as a person gives it. */
const asked = (line: string, options = ''): string => {
  const ran = field.in(
    field.ns.pc,
    `ssh -F ${field.config} ${options} root@${PLACES.console} ${HINGE} ${line}`,
  );
  if (!ran.out.includes('"ok":true')) throw new Error(`${line}: ${ran.out.slice(0, 300)}${ran.err}`);
  return ran.out;
};
const median = (list: readonly number[]): number =>
  [...list].sort((a, b) => a - b)[Math.floor(list.length / 2)]!;
const spent = (what: () => void): number => {
  const start = performance.now();
  what();
  return (performance.now() - start) / 1000;
};
const line = (name: string, list: readonly number[], wanted: number) => {
  const m = median(list);
  console.log(
    `${name.padEnd(58)} ${m.toFixed(2).padStart(6)} s   wanted < ${wanted} s   ${m < wanted ? 'yes' : 'NO'}`,
  );
};

/** A text on the box, ready to be tried; ports and tags that the field has not are made of pairs. */
function staged(text: string): string {
  const model = modelFrom(text);
  const site = model.site;
  const devices = new Set([...site.ports.keys(), ...site.interfaces.map((i) => deviceOf(site, i))]);
  const lines = [...devices]
    .filter((d) => !/^(p[1238]|lo|br-.*)$/.test(d))
    .map((d, n) => `link add ${d} type veth peer name z${n}-${d.slice(0, 8)}`);
  field.console(`ip -force -batch - 2>/dev/null`, `${lines.join('\n')}\n`);
  const g = generationOf(model, [{ name: 'box.gate', text }]);
  const ran = told(`stage ${g.id}`, streamOf(g));
  if (!ran.out.includes('"ok":true')) throw new Error(ran.out + ran.err);
  return g.id;
}

/** What somebody would write by hand for the desk's way out, and no more. */
const MINIMAL = `table inet minimal {
  chain forward { type filter hook forward priority 0; policy drop; ct state established,related accept; iifname "p3" oifname "p1" accept; }
  chain out { type nat hook postrouting priority 100; oifname "p1" masquerade; }
}
`;
const SECONDS_THROUGH = 3;
/** What a desk gets through the box by iperf3: bytes, or datagrams of 64 bytes, a second. */
function through(kind: 'bytes' | 'datagrams'): number {
  field.in(field.ns.isp, 'iperf3 -s -1 -D -B 192.0.2.1');
  const words = kind === 'bytes' ? '' : '-u -b 0 -l 64';
  const ask = `for n in 1 2 3 4 5 6 7 8 9; do iperf3 -c 192.0.2.1 -J -t ${SECONDS_THROUGH} ${words} >said && break; sleep 0.2; done; cat said; rm said`;
  const { out, err } = field.in(field.ns.desk, `cd ${field.folder} && ${ask}`);
  const { end } = JSON.parse(out) as {
    end: {
      sum_sent: { seconds: number };
      sum_received: { bytes: number; packets: number; lost_packets: number; seconds: number };
    };
  };
  if (!('sum_received' in end)) throw new Error(`iperf3: ${out.slice(0, 300)}${err}`);
  const got = end.sum_received;
  return kind === 'bytes' ? got.bytes / got.seconds : (got.packets - got.lost_packets) / end.sum_sent.seconds;
}
/** A generation's throughput against rules written by hand on the same links and routes, by turns. */
function throughput(name: string, id: string, wanted: number): void {
  if (spawnSync('sh', ['-c', 'command -v iperf3']).status !== 0) {
    console.log(`${name}: not measured, iperf3 is missing`);
    return;
  }
  for (const kind of ['bytes', 'datagrams'] as const) {
    const ours: number[] = [];
    const bare: number[] = [];
    for (let n = 0; n < RUNS; n++) {
      told(`apply ${id}`);
      ours.push(through(kind));
      field.console(
        'kill -- -$(cat /run/jolly-gate/keeper.pid); nft delete table inet gate; nft -f -; sysctl -qw net.ipv4.ip_forward=1',
        MINIMAL,
      );
      bare.push(through(kind));
      field.console('nft delete table inet minimal');
    }
    const ratio = median(ours.map((o, n) => o / bare[n]!));
    const [o, b] = [median(ours), median(bare)].map((m) =>
      kind === 'bytes' ? `${(m / 1e6).toFixed(0)} MB` : m.toFixed(0),
    );
    console.log(
      `${name}: ${kind} a second ${o}, ${b} by rules of two lines, ratio ${ratio.toFixed(3)}   wanted ≥ ${wanted}   ${ratio >= wanted ? 'yes' : 'NO'}`,
    );
  }
}

try {
  field.console(`cat >${HINGE} && chmod 755 ${HINGE}`, hingeText());
  const works = staged(WORKS);
  told(`apply ${works}`);
  const demo = readFileSync('demo/box.gate', 'utf8')
    .split(/\n(?=\S)/)
    .filter((s) => !/^(interface garden|door orders-garden)/.test(s))
    .join('\n');
  const id = staged(demo);
  const tries: number[] = [];
  const backs: number[] = [];
  for (let n = 0; n < RUNS; n++) {
    tries.push(spent(() => asked(`try ${id} 60`)));
    backs.push(spent(() => asked('back')));
  }
  line('try of the demo’s text, servers and all', tries, 1);
  line('back', backs, 1);
  const ladder = `ladder p1 ${PLACES.provider} 192.0.2.1 192.0.2.53 example.com`;
  line(
    'the ladder of a healthy uplink',
    Array.from({ length: RUNS }, () => spent(() => asked(ladder, SHARED))),
    0.5,
  );
  line(
    'state',
    Array.from({ length: RUNS }, () => spent(() => asked('state', SHARED))),
    0.3,
  );
  const overSlow = `${SLOW} ${shared('slow')}`;
  asked('state', overSlow);
  line(
    'state over a link of 200 ms',
    Array.from({ length: RUNS }, () => spent(() => asked('state', overSlow))),
    1.5,
  );

  // Nothing happens on three watched uplinks: what the keeper costs by the box's own count of processes.
  field.in(field.ns.isp, `ip link add e3 type veth peer name w3 netns ${field.ns.box}; ip link set e3 up`);
  field.in(field.ns.isp, 'ip addr add 198.18.0.1/30 dev e3');
  const watched = staged(
    `${WORKS.replace(' every 1s lost 2, settle 2s', '')}interface harbour: on p2, zone world, address 203.0.113.18/29, gateway .17, priority 2, watch 192.0.2.2
interface mast: on w3, zone world, address 198.18.0.2/30, gateway .1, priority 3, watch 192.0.2.53
`,
  );
  told(`apply ${watched}`);
  const counted = () => {
    const { out } = field.console(
      'cat /proc/sys/kernel/ns_last_pid; cut -d" " -f14-17 /proc/$(cat /run/jolly-gate/keeper.pid)/stat',
    );
    const [last = 0, ...ticks] = out.trim().split(/\s+/).map(Number);
    return { last, ticks: ticks.reduce((a, b) => a + b, 0) };
  };
  field.console('sleep 15');
  const SECONDS = 60;
  const [first, second] = [counted(), counted()];
  field.console(`sleep ${SECONDS}`);
  const then = counted();
  // Two counts and the waiting start processes of their own.
  const asking = second.last - first.last;
  const forks = (then.last - second.last - 2 * asking) / SECONDS;
  const core = (then.ticks - second.ticks) / SECONDS;
  console.log(
    `the keeper of three watched uplinks, nothing happening: ${forks.toFixed(1)} processes a second, ${core.toFixed(2)} % of a core   wanted < 1 %   ${core < 1 ? 'yes' : 'NO'}`,
  );

  const many = `${WORKS}${[...Array(400).keys()]
    .map(
      (n) =>
        `zone z${n}:\ninterface v${n}: on p4 tag ${n + 2}, zone z${n}, address 10.${128 + (n >> 8)}.${n & 255}.1/24, answers ping\n`,
    )
    .join(
      '',
    )}${[...Array(3000).keys()].map((n) => `passage z${n % 400} > z${(n * 7 + 1) % 400}: allow tcp ${1000 + n}\n`).join('')}`;
  const large = staged(many);
  line(
    '400 VLANs and 3,000 passages, applied',
    [0, 1, 2].map(() => {
      const took = spent(() => asked(`apply ${large}`));
      asked(`apply ${works}`);
      return took;
    }),
    5,
  );
  throughput('through the box', works, 0.95);
  throughput('through 400 VLANs and 3,000 passages', large, 0.9);
} finally {
  field.takeUp();
}
