/** Sites of the corpus boot on the bench, and each says in its first line what must come of it. */
import { expect } from 'chai';
import { readFileSync, readdirSync } from 'node:fs';
import { formatIp } from '#core/addr';
import { findingsOf, good, GOOD, reachFrom, reachOf, siteFrom } from '#core/testkit';
import { promiseText, stageText, stepText, traceText } from '#words';
import { bootBench, prove, proveOn, traceFlow } from './index';
import type { Proof, StageResult, Trace } from './index';

const FOLDER = 'tests/corpus/sites';
const failAt = (stages: readonly StageResult[]) => stages.find((s) => s.result === 'fail')?.stage;

/** `uplink NAME passes`, `uplink6 NAME fails at STAGE`, `desk NAME skips STAGE`, `promises hold`, `promise LINE fails`. */
function check(proof: Proof, outcome: string): void {
  const [kind, name = '', word, ...rest] = outcome.split(' ');
  const stage = rest[rest.length - 1];
  if (kind === 'promises' || kind === 'promise') {
    const asked = proof.promises.filter((p) => kind === 'promises' || p.statement.line === Number(name));
    expect(asked.length, outcome).to.be.greaterThan(0);
    for (const p of asked) {
      const told = `line ${p.statement.line}: ${promiseText(p)}`;
      expect(p.result, told).to.equal(word === 'fails' ? 'fail' : 'pass');
    }
    return;
  }
  const stages =
    kind === 'desk'
      ? proof.desks.find((d) => d.station === name)?.stages
      : proof.uplinks.find((u) => u.interface === name && u.family === (kind === 'uplink' ? 'ipv4' : 'ipv6'))
          ?.stages;
  expect(stages, outcome).to.not.equal(undefined);
  const told = stages!.map((s) => `${s.stage} ${s.result}: ${stageText(s)}`).join('\n');
  if (word === 'skips') expect(stages!.find((s) => s.stage === stage)?.code, told).to.equal('not-permitted');
  else expect(failAt(stages!), told).to.equal(stage);
  for (const s of stages!) expect(stageText(s)).to.match(/^[^{}]{3,}$/);
}

/** The errors and warnings of a site, as the corpus writes them. */
const troubles = (text: string): string =>
  findingsOf(text)
    .filter((f) => f.severity !== 'advice')
    .map((f) => `${f.code} ${f.subject}`)
    .sort()
    .join('; ') || 'nothing';

describe('the proof', () => {
  for (const file of readdirSync(FOLDER))
    it(file, () => {
      const text = readFileSync(`${FOLDER}/${file}`, 'utf8');
      const site = siteFrom(text, file);
      const finds = /^# finds: (.*)$/m.exec(text)?.[1];
      if (finds !== undefined) expect(troubles(text), 'errors and warnings').to.equal(finds);
      const proof = prove(reachOf(site));
      for (const outcome of /^# outcome: (.*)$/m.exec(text)![1]!.split('; ')) check(proof, outcome);
      expect(prove(reachOf(site), {}, { seed: 1 }), 'the same seed replays').to.deep.equal(proof);
    });

  it('says in one sentence what was seen and what to do', () => {
    const said = (name: string) => {
      const proof = prove(reachFrom(readFileSync(`${FOLDER}/${name}.gate`, 'utf8')));
      return [...proof.uplinks, ...proof.desks]
        .flatMap((l) => l.stages.filter((s) => s.result === 'fail').map(stageText))
        .join(' | ');
    };
    expect(said('bad-gateway')).to.contain('198.51.100.20 does not answer ARP on p1');
    expect(said('bad-dead-beyond')).to.contain(
      '198.51.100.17 answers, nothing behind it does: 3 pings to 192.0.2.80 lost',
    );
    expect(said('bad-leave')).to.contain('shows the private source 10.61.20.50');
    expect(said('bad-no-lease')).to.match(/\d+ DHCP questions on p1/);
    expect(said('bad-mtu')).to.contain('too big for line (MTU 1400)');
  });

  it('marks what rests on a supposition', () => {
    const bare = siteFrom(GOOD.replace(/^(circuit|station|far).*\n/gm, ''));
    const proof = prove(reachOf(bare));
    expect(proof.uplinks[0]!.supposed).to.equal(true);
    expect(proof.desks[0]!.supposed).to.equal(true);
    expect(prove(reachFrom(GOOD)).uplinks[0]!.supposed).to.equal(false);
  });

  for (const routed of ['', ' routed'])
    it(`supposes a circuit that carries the block of its interface${routed}`, () => {
      const text = `${GOOD.replace(/^circuit.*\n/gm, '')
        .replace('gateway .17, answers', `gateway .17, block 203.0.113.8/29${routed}, answers`)
        .replace(
          'leave any',
          'leave office > line: as 203.0.113.9\nleave any',
        )}door web: 203.0.113.10 tcp 80 > 10.61.21.10 tcp 80
station pc2: at p3, address 10.61.21.10/24, gateway 10.61.21.1, listens tcp 80
`;
      const site = siteFrom(
        `${text}interface more: on p3, zone office, address 10.61.21.1/24
expect internet reaches door web
expect office leaves as 203.0.113.9
expect office reaches internet
`,
      );
      for (const p of prove(reachOf(site)).promises)
        expect([p.result, promiseText(p)][0], promiseText(p)).to.equal('pass');
      expect(
        findingsOf(site.documents[0]!.text).filter((f) => f.code === 'expectation-failed'),
      ).to.deep.equal([]);
    });

  it('stops a bench on which something goes on and on, says so, and has promises judged by the reach', () => {
    const site = siteFrom(`${GOOD}expect office reaches internet\n`);
    const proof = prove(reachOf(site), {}, { most: 8 });
    expect(proof.spent).to.equal(true);
    expect(proof.promises.map((p) => p.code)).to.deep.equal(['promise-reckoned']);
    expect(prove(reachOf(site)).spent).to.equal(false);
  });

  const TWO = `${good([', guard\n', ', guard, watch 192.0.2.80\n'])}interface spare: on p4, zone world, address by dhcp, priority 2, answers ping, guard
circuit second: at p4, lends 203.0.113.140-.150 in 203.0.113.128/26, gateway .129, names 192.0.2.53
expect office reaches internet
`;
  it('does not call reached what is reached but cannot answer', () => {
    // The desk's network is the provider's too: packets get out, and the answers are looked for on the wrong side.
    const text = good(
      [
        'interface line: on p1, zone world, address 198.51.100.18/29, gateway .17, answers ping, guard',
        'interface line: on p1, zone world, address by dhcp, answers ping',
      ],
      ['leave any > world: as interface\n', ''],
      [
        'block 198.51.100.16/29, gateway .17',
        'lends 10.61.20.200-.210 in 10.61.20.0/24, gateway .254, names 192.0.2.53, translating',
      ],
    );
    expect(prove(reachFrom(`${text}expect office reaches internet\n`)).promises[0]!.result).to.equal('fail');
  });

  it('fails over when a line is cut, and when a provider is dead behind its own gateway', () => {
    for (const drill of [{ cut: ['northmoor'] }, { cut: ['p1'] }, { dead: ['northmoor'] }]) {
      const proof = prove(reachFrom(TWO), drill);
      expect(
        proof.uplinks.map((u) => u.active),
        JSON.stringify(drill),
      ).to.deep.equal([false, true]);
      expect(proof.promises[0]!.result).to.equal('pass');
      const egress = proof.desks[0]!.stages.find((s) => s.stage === 'egress')!;
      expect(egress.values.seen).to.equal('203.0.113.140');
    }
    const unwatched = TWO.replace(', watch 192.0.2.80', '');
    const proof = prove(reachFrom(unwatched), { dead: ['northmoor'] });
    expect(
      proof.uplinks.map((u) => u.active),
      'without a watch nobody notices',
    ).to.deep.equal([true, false]);
    expect(proof.promises[0]!.result).to.equal('fail');
    expect(bootBench(reachFrom(TWO), { cut: ['p9'] }).wrong).to.deep.equal(['p9']);
  });

  it('comes back to the first line after it has been good for a while', () => {
    const reach = reachFrom(TWO);
    const { bench } = bootBench(reach, { dead: ['northmoor'] });
    bench.deaden('northmoor', false);
    bench.scheduler.pass(10_000);
    expect(proveOn(bench, reach).uplinks[0]!.active, 'not at once').to.equal(false);
    bench.scheduler.pass(60_000);
    expect(bench.box.interface('line')!.monitor!.alive).to.equal(true);
  });

  it('keeps promises of every form, and says why one is not kept', () => {
    const text = `${good(['zone office:', 'zone shop: dmz\nzone office:'])}interface shop: on p3, zone shop, address 10.61.50.1/24, answers ping
station server: at p3, address 10.61.50.10/24, gateway 10.61.50.1, listens tcp 8443
passage office > shop: allow tcp 8443
expect office reaches internet tcp 443
expect office reaches server tcp 8443
expect office reaches server tcp 22
expect shop never reaches office
expect office never reaches shop
expect office leaves as 198.51.100.18
expect office leaves as 198.51.100.19
expect desk answers ping from pc
expect shop answers ping from server
expect line answers ping from server
expect office reaches 203.0.113.77
expect office reaches 10.99.0.1
`;
    const { promises } = prove(reachFrom(text));
    expect(promises.map((p) => p.result)).to.deep.equal([
      'pass',
      'pass',
      'fail',
      'pass',
      'fail',
      'pass',
      'fail',
      'pass',
      'pass',
      'pass',
      'pass',
      'fail',
    ]);
    expect(promiseText(promises[2]!)).to.contain('office > shop: no passage lets it pass');
    expect(promiseText(promises[4]!)).to.contain('pc reaches server (10.61.50.10) with tcp 8443');
    expect(promiseText(promises[6]!)).to.contain('pc is seen as 198.51.100.18, not 198.51.100.19');
    for (const p of promises) expect(promiseText(p)).to.match(/^[^{}]{4,}$/);
  });
});

describe('a trace', () => {
  const trace = (text: string, from: string, to: string) => traceFlow(reachFrom(text), { from, to }) as Trace;

  it('tells verdict, deciding statement, way out and the address that is seen', () => {
    const rows: [
      text: string,
      from: string,
      to: string,
      verdict: string,
      line: number | undefined,
      says: RegExp,
      why: string,
    ][] = [
      [GOOD, 'pc', 'www.example', 'answered', 6, /seen as 198\.51\.100\.18/, 'a desk to the internet'],
      [GOOD, 'office', '192.0.2.80', 'answered', 6, /seen as/, 'a zone is its first station'],
      [
        GOOD,
        '10.61.20.77',
        'www.example',
        'answered',
        6,
        /seen as/,
        'an address where nobody sits is a probe',
      ],
      [GOOD, 'pc', '10.61.20.1', 'answered', 5, /answered/, 'the box itself'],
      [
        GOOD,
        'line',
        'www.example',
        'answered',
        undefined,
        /198\.51\.100\.18/,
        'the box, bound to an interface',
      ],
      [GOOD, 'www.example', '198.51.100.18', 'answered', 4, /answered/, 'from outside to the box'],
      [
        GOOD,
        'www.example',
        '10.61.20.50',
        'unroutable',
        undefined,
        /nobody on the internet has 10\.61\.20\.50/,
        'private addresses are not on the internet',
      ],
      [
        good(['passage office > world: allow', 'passage office > world: drop']),
        'pc',
        'www.example',
        'dropped',
        6,
        /swallowed by passage\/office>world#1, line 6/,
        'a drop',
      ],
      [
        good(['passage office > world: allow', 'passage office > world: reject']),
        'pc',
        'www.example',
        'rejected',
        6,
        /turned away/,
        'a reject',
      ],
      [
        good(['passage office > world: allow\n', '']),
        'pc',
        'www.example',
        'dropped',
        undefined,
        /no passage lets it pass/,
        'nothing allows it',
      ],
      [
        good(['leave any > world: as interface\n', '']),
        'pc',
        'www.example',
        'dropped',
        undefined,
        /private source 10\.61\.20\.50/,
        'no leaving address',
      ],
      [
        good(['leave any > world: as interface', 'leave any > world: never']),
        'pc',
        'www.example',
        'dropped',
        7,
        /never goes out/,
        'never',
      ],
      [
        good([', gateway .17, answers', ', answers']),
        'pc',
        'www.example',
        'unroutable',
        undefined,
        /no route to 192\.0\.2\.80/,
        'no default route',
      ],
      [
        good(['ping dns ssh https', 'dns ssh']),
        'pc',
        '10.61.20.1',
        'dropped',
        5,
        /desk does not answer that/,
        'the box does not answer',
      ],
      [
        GOOD,
        'pc',
        '10.61.20.99',
        'unresolved',
        undefined,
        /no ARP answer from 10\.61\.20\.99/,
        'a neighbour that is not there',
      ],
      [
        GOOD,
        'pc',
        '198.51.100.20',
        'unresolved',
        undefined,
        /no ARP answer from 198\.51\.100\.20/,
        'nobody on the segment',
      ],
    ];
    for (const [text, from, to, verdict, line, says, why] of rows) {
      const t = trace(text, from, to);
      expect(t.verdict, `${why}: ${t.steps.map((s) => `${s.node} ${s.code}`).join(', ')}`).to.equal(verdict);
      if (line !== undefined) expect(t.decided?.line, why).to.equal(line);
      expect(traceText(t), why).to.match(says);
      for (const s of t.steps) expect(stepText(s)).to.match(/^[^{}]{3,}$/);
    }
  });

  it('goes through every switch there and back, with the tag, and counts down the time to live', () => {
    const text = good(
      ['interface desk: on p2,', 'interface desk: on p2 tag 20,'],
      [
        'station pc: at p2,',
        'switch core: at p2, carries 20, jack 1 tag 20\nswitch far-end: at core/1, jack 4 tag 1\nstation pc: at far-end/4,',
      ],
    );
    const { steps } = trace(text, 'pc', 'www.example');
    const told = steps.filter((s) => s.stage === 'switch').map((s) => `${s.node}: ${stepText(s)}`);
    expect(told).to.deep.equal([
      'far-end: in at far-end/4, out at far-end uplink',
      'core: in at core/1, out at core uplink with tag 20',
      'core: in at core uplink, out at core/1',
      'far-end: in at far-end uplink, out at far-end/4',
    ]);
    const lives = steps.filter((s) => ['sent', 'departed', 'received'].includes(s.code));
    expect(lives.map((s) => [s.node, s.packet.ttl])).to.deep.equal([
      ['pc', 64],
      ['first', 63],
      ['www.example', 62],
      ['www.example', 64],
      ['first', 62],
      ['pc', 62],
    ]);
    expect(stepText(lives[1]!)).to.match(/TTL 63$/);
  });

  it('tells of a door that is asked for and not open to whoever asks', () => {
    const door = 'door shop: 198.51.100.19 tcp 443 > 10.61.20.50 tcp 8443';
    const told = (text: string, from: string) => {
      const service = [{ kind: 'ports', proto: 6, first: 443, last: 443 }] as const;
      const t = traceFlow(reachFrom(text), { from, to: '198.51.100.19', service }) as Trace;
      return t.steps.filter((s) => s.stage === 'door').map(stepText)[0];
    };
    const lab = 'zone lab:\ninterface lab: on p3, zone lab, address 10.61.30.1/24\n';
    expect(told(`${GOOD}${lab}${door}\n`, 'lab')).to.equal(
      'door/shop is asked for, but not open to lab: no passage lets it reach 10.61.20.50 with the service inside',
    );
    expect(told(`${GOOD}${door}, from 203.0.113.9\n`, 'www.example')).to.equal(
      'door/shop is asked for, but not open to 192.0.2.80, whom its from does not name',
    );
    expect(told(`${GOOD}${door}\n`, 'www.example')).to.equal('the door leads to 10.61.20.50');
  });

  it('shows another address where one is chosen, by file order', () => {
    const t = trace(
      good(['leave any', 'leave office > line: as 198.51.100.20\nleave any']),
      'pc',
      'www.example',
    );
    expect([t.verdict, t.out, formatIp(t.seenAs!)]).to.deep.equal(['answered', 'line', '198.51.100.20']);
  });

  it('says what it cannot follow', () => {
    const fault = (from: string, to: string) =>
      traceFlow(reachFrom(`${GOOD}station off-pc: at p5, off, address by dhcp\n`), { from, to });
    expect(fault('nobody', 'pc')).to.deep.equal({ what: 'unknown', name: 'nobody' });
    expect(fault('off-pc', 'pc')).to.deep.equal({ what: 'no-address', name: 'off-pc' });
    expect(fault('pc', '2001:db8::1'), 'no address of that family').to.deep.equal({
      what: 'no-address',
      name: 'pc',
    });
  });
});
