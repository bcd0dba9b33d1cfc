/** The rows of State: each leads to its statement, of the bench as of a live box. */
import { expect } from 'chai';
import { sightOf } from '#core/box';
import type { LiveState } from '#core/box';
import { generationOf } from '#core/linux';
import { modelFrom } from '#core/testkit';
import { benchRows, liveRows } from './rows';

const model = modelFrom(`zone world: upstream
zone office:
interface fibre: on p1, zone world, address 198.51.100.18/29, gateway .17
interface desk: on p2 tag 20, zone office, address 10.61.20.1/24, answers ssh
passage office > world: allow tcp 443
passage office > world: allow ping
station pc: at p2, address 10.61.20.9/24
`);
const state: LiveState = {
  ok: true,
  box: {
    hinge: 'h',
    boot: 'b',
    uptime: 72,
    kernel: '6.1',
    systemd: true,
    running: 'aa',
    startup: 'none',
    tools: [],
    others: [],
  },
  busy: false,
  text: '',
  link: [
    { ifname: 'lo' },
    {
      ifname: 'p1',
      address: '02:61:00:00:00:01',
      flags: ['UP'],
      mtu: 1500,
      stats64: { rx: { packets: 7, bytes: 700, dropped: 2, errors: 1 }, tx: { packets: '9' } },
    },
    { ifname: 7 },
    null as never,
  ],
  addr: [{ ifname: 'p1', addr_info: [{ local: '198.51.100.18', prefixlen: 29, scope: 'global' }, 'x'] }],
  route4: [
    { dst: 'default', gateway: '198.51.100.17', dev: 'p1', protocol: '77', metric: 5, flags: ['linkdown'] },
    { dst: '198.51.100.18', table: 'local', dev: 'p1' },
  ],
  route6: [{ dst: '10.61.20.0/24', dev: 'p2.20', table: 7700001, protocol: '77' }],
  rule4: [],
  rule6: [],
  neigh: [
    { dst: '198.51.100.17', dev: 'p1', lladdr: '02:00:00:00:00:09', state: ['REACHABLE'] },
    { dst: '10.61.20.7', dev: 'p2.20', state: ['FAILED'] },
  ],
  counters: { nftables: [] },
  tables: { nftables: [] },
  leases:
    'address,hwaddr,client_id,valid_lifetime,expire,subnet_id,fqdn_fwd,fqdn_rev,hostname,state\n10.61.20.50,02:aa:00:00:00:01,,3600,1800000000,1,0,0,pc,0\n10.61.20.51,02:aa:00:00:00:02,,3600,1800000000,1,0,0,x,0\n10.61.20.51,02:aa:00:00:00:02,,0,1800000000,1,0,0,x,2\nnonsense\n',
  dead: 'fibre\n',
  part: 'active',
  named: 'vendor update.example 192.0.2.53 60 192.0.2.81,192.0.2.80,\nvendor gone.example - 0\n',
  settings: '',
  restored: '',
  drifted: '',
};

describe('the rows of State', () => {
  it('of a live box: by interface, with what is dead or lost, and nothing guessed', () => {
    const sight = sightOf(state);
    expect(sight).to.deep.include({ dead: ['fibre'], part: 'active' });
    const rows = liveRows(model, sight, [
      'tcp      6 431999 ESTABLISHED src=10.61.20.9 dst=192.0.2.80 sport=40000 dport=443 src=192.0.2.80 dst=198.51.100.18 sport=443 dport=40000 [ASSURED] mark=1 use=1',
      'icmp     1 29 src=10.61.20.9 dst=192.0.2.90 type=8 code=0 id=7 [UNREPLIED] src=192.0.2.90 dst=10.61.20.9 type=0 code=0 id=7 use=1',
    ]);
    expect(rows.routes.map((r) => [...r.cells, r.subject, !!r.bad])).to.deep.equal([
      ['main', '0.0.0.0/0', '198.51.100.17', 'fibre', 'told by us', 'no cable', 'interface/fibre', true],
      ['7700001', '10.61.20.0/24', 'direct', 'desk', 'told by us', 'active', 'interface/desk', false],
    ]);
    expect(rows.neighbours.map((r) => r.cells.join(' '))).to.deep.equal([
      '198.51.100.17 fibre 02:00:00:00:00:09 reachable',
      '10.61.20.7 desk – failed',
    ]);
    expect(rows.leases.map((r) => r.cells.slice(0, 3).join(' '))).to.deep.equal([
      '10.61.20.50 02:aa:00:00:00:01 pc',
    ]);
    expect(rows.ports[0]!.cells).to.deep.equal([
      'p1',
      'no cable',
      '198.51.100.18/29',
      '1500',
      '7 (700 B)',
      '0 (0 B)',
      '3',
    ]);
    expect(rows.names.map((r) => [...r.cells, r.subject, r.bad])).to.deep.equal([
      ['update.example', 'vendor', '192.0.2.81 192.0.2.80', '192.0.2.53', '12 s ago', 'known/vendor', false],
      ['gone.example', 'vendor', 'nobody', 'nobody answers', 'again every 5 s', 'known/vendor', true],
    ]);
    expect(rows.flows.map((r) => r.cells.slice(1).join(' | '))).to.deep.equal([
      '10.61.20.9 | 192.0.2.80 | tcp 443 | 198.51.100.18 | assured',
      '10.61.20.9 | 192.0.2.90 | icmp |  | unreplied',
    ]);
  });

  it('counts lead to their statements, by the comments that the box was told', () => {
    const gate = generationOf(model, []).files.find((f) => f.name === 'gate.nft')!.text;
    const told = [...gate.matchAll(/^ *counter (\S+) \{ comment "([^"]+)"/gm)].map(
      ([, , comment]) => comment!,
    );
    const counters = {
      nftables: told.map((comment, i) => ({ counter: { comment, packets: i + 1, bytes: 0 } })),
    };
    const rows = liveRows(model, sightOf({ ...state, counters }), []).hits;
    const own = new Set(model.site.statements.map((s) => s.subject));
    const led = rows.filter((r) => r.subject !== undefined && own.has(r.subject)).map((r) => r.cells[0]);
    expect(led).to.include.members(['passage office > world', 'passage office > world (2)']);
    expect(led.some((x) => x?.startsWith('interface desk: answers'))).to.equal(true);
  });

  it('of the bench: routes with why they are not used, and who sits where', () => {
    const rows = benchRows(model, undefined);
    expect(rows.routes.map((r) => r.cells.join(' '))).to.include(
      'main 0.0.0.0/0 198.51.100.17 fibre static active',
    );
    expect(rows.neighbours.map((r) => r.cells[1])).to.include('pc');
  });
});
