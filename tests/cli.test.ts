/** The command line as others call it, built (`npm run build`): exit status, JSON, and errors with their place. */
import { expect } from 'chai';
import { spawnSync } from 'node:child_process';
import { mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { GOOD } from '#core/testkit';

const folder = mkdtempSync(join(tmpdir(), 'gate-cli-'));
after(() => rmSync(folder, { recursive: true }));
const put = (name: string, text: string | Uint8Array) => {
  const file = join(folder, name);
  writeFileSync(file, text);
  return file;
};
/** The built command; the source itself where its lines are counted (`npm run coverage`). */
const COMMAND =
  process.env.NODE_V8_COVERAGE === undefined ? ['bin/jolly-gate.js'] : ['--import', 'tsx', 'src/cli/main.ts'];
function run(args: readonly string[], input = '') {
  const result = spawnSync(process.execPath, [...COMMAND, ...args], {
    encoding: 'utf8',
    input,
  });
  return { status: result.status, out: result.stdout, err: result.stderr.replace(/^npm warn.*\n/gm, '') };
}
const json = (args: readonly string[], input = '') => {
  const r = run([...args, '--json'], input);
  return { status: r.status, doc: JSON.parse(r.out) as Doc };
};
/** What the commands print, as far as it is asked about here. */
interface Doc {
  readonly findings: FindingJson[];
  readonly uplinks: Record<string, unknown>[];
  readonly expectations: { result: string }[];
  readonly steps: { node: string }[];
  readonly [key: string]: unknown;
}
interface FindingJson {
  code: string;
  severity: string;
  subject: string;
  file: string;
  line: number;
  message: string;
  mends: { label: string }[];
}

describe('the command line', function () {
  const good = put('good.gate', GOOD);

  it('--at: what has an end is over by the day that is asked about, for every command', () => {
    const ending = put('ending.gate', GOOD.replace('passage office > world: allow', '$&, until 2026-12-31'));
    const codes = (day: string) => json(['check', ending, '--at', day]).doc.findings.map((f) => f.code);
    expect(codes('2026-12-01')).to.deep.equal([]);
    expect(codes('2026-12-20')).to.deep.equal(['until-soon']);
    expect(codes('2027-01-01')).to.include('until-past');
    const page = (day: string) =>
      run(['trace', ending, '--from', 'pc', '--to', 'www.example', '--service', 'tcp 80', '--at', day]);
    expect([page('2026-12-31').status, page('2027-01-01').status]).to.deep.equal([0, 1]);
    expect(page('2027-01-01').out).to.contain('no passage lets it pass');
    const wrong = run(['check', ending, '--at', '31.12.2026', '--json']);
    expect(wrong.status).to.equal(2);
    expect(JSON.parse(wrong.out)).to.have.nested.property('error.message').that.contains('2026-12-31');
  });

  it('drill and what-if: an outage and a weak point are status 1, with their numbers', () => {
    const two = put(
      'two.gate',
      `${GOOD.replace('answers ping, guard', 'answers ping, guard, watch 192.0.2.80 every 2s lost 2')}interface spare: on p4, zone world, address 203.0.113.2/29, gateway .1, priority 2, answers ping, guard\ncircuit radio: at p4, block 203.0.113.0/29, gateway .1\n`,
    );
    const { status, doc } = json(['drill', two, '--from', 'pc', '--for', '20', '--do', '4 deaden northmoor']);
    expect(status).to.equal(1);
    expect(doc).to.have.property('lost').that.is.within(20, 80);
    expect(doc).to.have.property('row').that.has.length(200);
    expect((doc.seen as { as?: string }[]).map((x) => x.as)).to.deep.equal([
      '198.51.100.18',
      undefined,
      '203.0.113.2',
    ]);
    expect(run(['drill', two, '--from', 'pc', '--do', '4 explode northmoor']).status).to.equal(2);
    expect(run(['drill', two, '--from', 'nobody']).err).to.contain('no station is called nobody');
    const board = json(['what-if', two]);
    expect(board.status).to.equal(1);
    const faults = board.doc.faults as { fault: string; outcomes: { is: string; by?: string }[] }[];
    expect(faults.map((f) => [f.fault, f.outcomes[0]!.is, f.outcomes[0]!.by])).to.deep.equal([
      ['cut p1', 'on', 'spare'],
      ['cut p2', 'dead', undefined],
      ['cut p4', 'on', 'line'],
      ['dead northmoor', 'on', 'spare'],
      ['dead radio', 'on', 'line'],
    ]);
  });

  it('promises about a failure are put to the bench, and check says nothing of them', () => {
    const text = `${GOOD}expect office reaches internet while cut p2\nexpect office reaches internet while cut p9\nexpect pc leaves as 198.51.100.18 while dead nothing\n`;
    const file = put('while.gate', text);
    expect(json(['check', file]).doc.findings).to.deep.equal([]);
    expect(json(['prove', file]).doc.expectations.map((e) => e.result)).to.deep.equal([
      'fail',
      'fail',
      'fail',
    ]);
  });

  it('book: one page by itself, that runs nothing and holds no secret', () => {
    const { out, status } = run(['book', good, '--html', '--at', '2026-06-15']);
    expect(status).to.equal(0);
    expect(out)
      .to.match(/^<!doctype html>/)
      .and.contain('As of 2026-06-15')
      .and.not.match(/<script|https?:/);
    expect(json(['book', good]).doc.sections)
      .to.be.an('array')
      .that.has.length.greaterThan(6);
  });

  it('check: findings in file order, status 1 only for errors, mends printed', () => {
    expect(json(['check', good])).to.deep.equal({ status: 0, doc: { findings: [] } });
    const bad = put(
      'bad.gate',
      GOOD.replace('.50-.199', '.1-.199').replace('zone office:', 'zone office:\nzone spare:'),
    );
    const { status, doc } = json(['check', bad]);
    const findings = doc.findings;
    expect(status).to.equal(1);
    expect(findings.map((f) => [f.code, f.severity, f.subject, f.line])).to.deep.equal([
      ['zone-unused', 'advice', 'zone/spare', 4],
      ['lends-covers-box', 'error', 'interface/desk', 6],
    ]);
    expect(Object.keys(findings[1]!)).to.deep.equal([
      'code',
      'severity',
      'subject',
      'file',
      'line',
      'message',
      'mends',
    ]);
    expect(findings[1]!.mends[0]!.label).to.equal('lend 10.61.20.2-.199');
    const mended = run(['check', bad, '--mend', 'lends-covers-box:interface/desk']);
    expect([mended.status, mended.out]).to.deep.equal([
      0,
      readFileSync(bad, 'utf8').replace('.1-.199', '10.61.20.2-.199'),
    ]);
    expect(run(['check', bad, '--mend', 'zone-unused']).status).to.equal(2);
    const broken = json(['check', '-'], 'zone a\nzone b:\n');
    expect(broken.doc.findings.map((f) => [f.code, f.file])).to.deep.include(['syntax', 'standard input']);
  });

  it('check: reads the whole example of the contract without an error', () => {
    const example = /```\n(# box file[\s\S]*?)```/.exec(readFileSync('docs/notation.md', 'utf8'))![1]!;
    const { status, doc } = json(['check', '-'], example);
    expect(status).to.equal(0);
    expect(doc.findings.filter((f) => f.severity === 'error')).to.deep.equal([]);
  });

  it('prove: ladders, desks, leases, promises and routes, bad when a promise fails or nothing passes', () => {
    const { status, doc } = json(['prove', 'docs/first.gate']);
    expect(status).to.equal(0);
    expect(Object.keys(doc)).to.deep.equal(['uplinks', 'desks', 'leases', 'expectations', 'routes']);
    const uplink = doc.uplinks[0]!;
    expect(uplink).to.include({ interface: 'line', family: 'ipv4', active: true, supposed: false });
    expect((uplink.stages as { stage: string }[]).map((s) => s.stage).join(' ')).to.equal(
      'carrier address gateway-neighbour gateway-ping beyond-ping resolver name name-ping page egress',
    );
    expect(doc.leases).to.deep.equal([
      { station: 'pc', address: '10.61.20.50', gateway: '10.61.20.1', names: ['10.61.20.1'] },
    ]);
    expect(doc.expectations.map((e) => e.result)).to.deep.equal(['pass', 'pass', 'pass']);
    expect(doc.routes).to.deep.include({
      table: 'main',
      prefix: '0.0.0.0/0',
      via: '198.51.100.17',
      interface: 'line',
      origin: 'static',
      active: true,
    });
    const dead = json(['prove', 'docs/first.gate', '--dead', 'northmoor']);
    expect(dead.status).to.equal(1);
    expect(run(['prove', 'docs/first.gate', '--cut', 'nowhere']).status).to.equal(2);
  });

  it('trace: verdict, deciding statement and steps; status 1 where it is not answered', () => {
    const capture = join(folder, 'out.pcapng');
    const { status, doc } = json([
      'trace',
      'docs/first.gate',
      '--from',
      'pc',
      '--to',
      'www.example',
      '--service',
      'tcp 443',
      '--pcapng',
      capture,
    ]);
    expect([status, doc.verdict, doc.by, doc.line, doc.seenAs, doc.out]).to.deep.equal([
      0,
      'answered',
      'passage office > world',
      9,
      '198.51.100.18',
      'line',
    ]);
    expect(doc.steps[0]).to.include({ node: 'pc', stage: 'sent' });
    expect(readFileSync(capture).readUInt32LE(0)).to.equal(0x0a0d0d0a);
    const drop = json([
      'trace',
      'docs/first.gate',
      '--from',
      'www.example',
      '--to',
      '198.51.100.18',
      '--service',
      'ssh',
    ]);
    expect([drop.status, drop.doc.verdict]).to.deep.equal([1, 'dropped']);
    expect(
      run(['trace', 'docs/first.gate', '--from', 'pc', '--to', 'www.example', '--service', 'tpc 443']).status,
    ).to.equal(2);
  });

  it('reach: every pair with its verdict, services, lines and what is shown outside', () => {
    const text = `${GOOD}door shop: 198.51.100.19 tcp 443 > 10.61.20.5 tcp 8443
station server: at p2, address 10.61.20.5/24, gateway 10.61.20.1, listens tcp 8443
`;
    const { status, doc } = json(['reach', put('reach.gate', text)]);
    const { sources, destinations, cells } = doc as unknown as {
      sources: { kind: string; name: string }[];
      destinations: { kind: string; name: string }[];
      cells: {
        from: string;
        to: string;
        verdict: string;
        services: string[];
        by: number[];
        leavesAs?: string;
      }[];
    };
    expect(status).to.equal(0);
    expect(sources)
      .to.deep.include({ kind: 'zone', name: 'office' })
      .and.deep.include({ kind: 'station', name: 'pc' });
    expect(destinations)
      .to.deep.include({ kind: 'box', name: 'first' })
      .and.deep.include({ kind: 'door', name: 'shop' });
    expect(cells).to.have.length(sources.length * destinations.length);
    const cell = (from: string, to: string) => cells.find((c) => c.from === from && c.to === to)!;
    expect(cell('office', 'internet')).to.include({ verdict: 'all', leavesAs: '198.51.100.18' });
    expect(cell('office', 'internet').by).to.deep.equal([6]);
    expect(cell('internet', 'office')).to.include({ verdict: 'none' });
    expect(cell('internet', 'shop')).to.deep.include({ verdict: 'all', services: ['tcp 443'] });
    expect(cell('office', 'first').services).to.include.members(['tcp 22', 'udp 53', 'ping']);
    const rows = json(['reach', put('reach.gate', text), '--from', 'office']).doc;
    expect(rows).to.deep.equal({
      sources: sources.filter((s) => s.name === 'office'),
      destinations,
      cells: cells.filter((c) => c.from === 'office'),
    });
    expect(run(['reach', put('reach.gate', text), '--from', 'nobody']).status).to.equal(2);
    const vlans = Array.from(
      { length: 1020 },
      (_, i) => `interface v${i}: on p3 tag ${i + 1}, zone office, address 10.${i >> 8}.${i & 255}.1/24\n`,
    );
    const wide = put('wide.gate', `${GOOD}${vlans.join('')}`);
    expect(json(['reach', wide])).to.deep.include({ status: 2 });
    expect((json(['reach', wide]).doc as { error?: { message: string } }).error?.message).to.contain(
      'with --from NAME',
    );
    expect(run(['convert', good, '--to', 'linux']).out)
      .to.match(/^p1 198\.51\.100\.18\/29$/m)
      .and.match(/snat ip to 198\.51\.100\.18/);
  });

  it('plan and review', () => {
    const seat = `${GOOD.replace('station pc: at p2, address by dhcp', 'station pc: at p2, address by dhcp, seat')}`;
    const [box, wiring] = [/^(circuit|station|far)/, /^(?!circuit|station|far)/].map((drop, i) =>
      put(
        i ? 'wiring.gate' : 'old.gate',
        seat
          .split('\n')
          .filter((l) => !drop.test(l))
          .join('\n'),
      ),
    );
    const moved = put('moved.gate', readFileSync(box!, 'utf8').replace('10.61.20.1/24', '10.61.30.1/24'));
    const plan = json(['plan', box!, moved, wiring!]);
    expect(plan.status).to.equal(0);
    expect(plan.doc.lockout).to.equal(false);
    expect(plan.doc.changes).to.deep.equal([
      {
        subject: 'interface/desk',
        kind: 'changed',
        text: 'desk: address 10.61.30.1/24 (was 10.61.20.1/24)',
      },
    ]);
    const steps = plan.doc.steps as unknown as { text: string; seat: string; todo?: string }[];
    expect(steps.map((s) => s.seat)).to.deep.equal(['kept', 'moved', 'kept']);
    expect(steps[1]!.todo).to.match(/renew the lease \(it gets 10\.61\.30\.50\/24\)/);
    const shut = put('shut.gate', readFileSync(box!, 'utf8').replace(' ssh https', ''));
    const lockout = json(['plan', box!, shut, wiring!]);
    expect([lockout.status, lockout.doc.lockout]).to.deep.equal([1, true]);
    expect(run(['plan', box!, shut, wiring!, '--seat', 'nobody']).status).to.equal(2);
    expect(json(['plan', box!, box!, wiring!]).doc).to.deep.equal({ changes: [], steps: [], lockout: false });
    expect(run(['review', box!, moved, wiring!]).out).to.match(
      /## Crossing, with pc at the desk\n\n- \[ \] `1\. desk/,
    );
    const odd = put('odd.gate', `${readFileSync(box!, 'utf8')}port p9: label "<b>&"\n`);
    expect(run(['review', box!, odd, '--html']).out).to.contain('label &quot;&lt;b&gt;&amp;&quot;');
  });

  it('two boxes: the text of the second, who is changed first, and what fails is put to the bench', () => {
    const pair = 'tests/corpus/sites/ten-pair.gate';
    const twin = run(['convert', pair, '--to', 'twin']);
    expect(twin.out).to.match(/^box second: .*priority 100, twin first priority 150/m);
    expect(twin.out).to.match(/address 10\.61\.20\.3\/24, virtual 10\.61\.20\.1 id 20 with 10\.61\.20\.2/);
    expect(run(['convert', good, '--to', 'twin']).status).to.equal(2);
    const changed = put('changed.gate', readFileSync(pair, 'utf8').replace('lends .50-.99', 'lends .50-.98'));
    expect(run(['plan', pair, changed]).out).to.match(
      /^second, which stands by, comes first.*\n {4}second: .*lends/,
    );
    // Two virtual routers would each have the address.
    const other = put('other.gate', readFileSync(pair, 'utf8').replace('id 20', 'id 21'));
    expect(json(['plan', pair, other]).doc.standby).to.deep.include({ standby: 'second', apart: ['desk'] });
    expect(run(['plan', pair, other]).out).to.match(/desk: .*both would be active/);
    expect(run(['prove', pair, '--cut', 'first']).out).to.match(
      /✓ line \d+: expect office reaches internet$/m,
    );
  });

  it('read-handoff, read-box and convert', () => {
    const sheet = json(['read-handoff', 'tests/corpus/sheets/labelled.txt']);
    expect(Object.keys(sheet.doc)).to.deep.equal(['found', 'missing', 'contradictions', 'statement']);
    expect(json(['read-handoff', 'tests/corpus/sheets/gateway-outside.txt']).status).to.equal(1);
    const empty = put('empty.json', '[]');
    expect(json(['read-box', '--link', empty, '--addr', empty, '--route', empty]).doc).to.deep.equal({
      text: '# read from the box\n',
      left: [],
    });
    expect(run(['read-box', '--link', empty]).status).to.equal(2);
    const loose = put(
      'loose.gate',
      'zone   a :   upstream\ninterface x: address 10.0.0.1 mask 255.255.255.0\n',
    );
    const demo = ['demo/box.gate', 'demo/wiring.gate'];
    const open = put('open.json', run(['convert', ...demo, '--to', 'json']).out);
    const back = put('back.gate', run(['convert', open, '--to', 'notation']).out);
    expect(json(['convert', back, '--to', 'json']).doc).to.deep.equal(
      json(['convert', ...demo, '--to', 'json']).doc,
    );
    expect(run(['convert', empty, '--to', 'notation']).status).to.equal(2);
    expect(run(['convert', ...demo, '--to', 'wiring-sheet']).out).to.match(
      /\| p3 \| core switch \| 20 \| switch core \| studio \| studio \| 10\.61\.20\.1\/24 \|[\s\S]*\| 5 \| 40 \| tills \| till-1 \|/,
    );
    expect(run(['convert', loose, '--to', 'notation']).out).to.equal(
      'zone a: upstream\ninterface x: address 10.0.0.1/24\n',
    );
  });

  it('exits with 2 and says where, when the call or the input cannot be used', () => {
    const broken = put('broken.gate', 'zone a:\ninterface x: gatewey .1\n');
    const error = json(['prove', broken]);
    expect(error.status).to.equal(2);
    expect(error.doc.error).to.deep.include({ file: broken, line: 2, column: 14 });
    for (const args of [
      ['prove', join(folder, 'none.gate')],
      ['prove'],
      ['frobnicate'],
      ['check', good, '--nonsense'],
      ['check', folder],
    ]) {
      const r = run([...args, '--json']);
      expect(r.status, args.join(' ')).to.equal(2);
      expect((JSON.parse(r.out) as { error: { message: string } }).error.message, args.join(' ')).to.match(
        /.{8,}/,
      );
    }
    expect(run(['check', put('latin.gate', Uint8Array.of(0x7a, 0xff, 0xfe))]).err).to.contain('not UTF-8');
    expect(run(['--help']).status).to.equal(0);
  });
});
