/** Drills and the what-if board: their numbers are those of the frames on the wire. */
import { expect } from 'chai';
import { formatIp } from '#core/addr';
import { ndOf, readPacket } from '#core/bench';
import type { Tap } from '#core/bench';
import { decodeEthernet, decodeIp } from '#core/wire';
import { modelFrom, reachFrom } from '#core/testkit';
import { bootBench } from '../prove';
import { faultKey, faultsOf, newWeakPoints, outagesOf, pairsOf, runDrill, tryFaults } from './index';
import type { DrillRun, DrillScript, Outcome, WhatIf, WhatIfRow } from './index';

const OFFICE = (watch: string): string => `zone world: upstream
zone shop: dmz
zone office:
interface fibre: on p1, zone world, address 198.51.100.18/29, gateway .17${watch}
interface radio: on p2, zone world, address by dhcp, priority 2
interface desk: on p3, zone office, address 10.61.20.1/24, lends .50-.99
interface counter: on p4, zone shop, address 10.61.50.1/24
passage office > world: allow
passage shop > world: allow dns
leave any > world: as interface
door orders: 198.51.100.19 tcp 443 > 10.61.50.10
circuit northmoor: at p1, block 198.51.100.16/29, gateway .17
circuit harbour: at p2, lends 203.0.113.140-.180 in 203.0.113.128/26, gateway .129, delay 9 ms
station pc: at p3, address by dhcp
station server: at p4, address 10.61.50.10/24, gateway 10.61.50.1, listens tcp 443
far www.example: address 192.0.2.80, listens tcp 80 443
far noc.example: address 192.0.2.1
`;
const WATCHED = OFFICE(', watch 192.0.2.1 every 2s lost 2, settle 10s');
const PC: Omit<DrillScript, 'acts'> = { from: 'pc', to: 'www.example', seconds: 30 };

function ran(text: string, script: DrillScript): DrillRun {
  const run = runDrill(reachFrom(text), script);
  if ('fault' in run) throw new Error(JSON.stringify(run));
  return run;
}

describe('a drill', () => {
  it('loses just as long as the watch needs, and tells who noticed, what ended, and as whom the world sees it', () => {
    const run = ran(WATCHED, {
      ...PC,
      seconds: 40,
      acts: [
        { at: 5000, what: 'deaden', on: 'northmoor' },
        { at: 20_000, what: 'restore', on: 'northmoor' },
      ],
    });
    expect(run.row.length).to.equal(400);
    const [outage] = run.outages;
    expect(run.outages).to.have.length(1);
    expect(outage!.from).to.equal(5000);
    // Two silences of a watch every two seconds, a second each.
    expect(outage!.to! - outage!.from)
      .to.be.greaterThan(2000)
      .and.at.most(5200);
    expect(run.lost)
      .to.equal(outage!.lost)
      .and.equal((outage!.to! - 5000) / 100);
    const [dead, back] = run.noticed;
    expect([dead!.interface, dead!.dead, back!.dead]).to.deep.equal(['fibre', 'watch', undefined]);
    expect(dead!.ended.map((f) => formatIp(f.destination))).to.include('192.0.2.80');
    expect(outage!.to! - dead!.at, 'the next ping after it was noticed').to.be.within(0, 100);
    expect(back!.at, 'after the settling').to.be.within(30_000, 34_000);
    const seenAt = (s: number) => run.fresh.find((b) => b.at === s * 1000)?.seen;
    expect([seenAt(1), seenAt(6), seenAt(15), seenAt(39)]).to.deep.equal([
      '198.51.100.18',
      undefined,
      '203.0.113.140',
      '198.51.100.18',
    ]);
    // A flow that goes on stays where it is when a better uplink returns.
    expect(run.row.at(-1)!.seen).to.equal('203.0.113.140');
  });

  it('tells what stays elsewhere at fail-back, and of one on demand that it is called, rests, and ends what it carried', () => {
    const acts: DrillScript['acts'] = [
      { at: 5000, what: 'cut', on: 'northmoor' },
      { at: 20_000, what: 'restore', on: 'northmoor' },
    ];
    const backup = ran(WATCHED, { ...PC, seconds: 40, acts });
    const back = backup.noticed.at(-1)!;
    expect([back.interface, back.dead]).to.deep.equal(['fibre', undefined]);
    // The row, and those pings of a second that are not forgotten yet.
    expect(back.staying!.every((f) => formatIp(f.destination) === '192.0.2.80')).to.equal(true);
    expect(back.staying!.length).to.be.greaterThan(20);

    const onCall = WATCHED.replace('by dhcp, priority 2', 'by dhcp, on-demand');
    const run = ran(onCall, { ...PC, seconds: 45, acts });
    expect(
      run.noticed.map(
        (n) => `${n.interface} ${n.called ? 'called' : (n.dead ?? 'used')}${n.staying ? ' stays' : ''}`,
      ),
    ).to.deep.equal(['fibre carrier', 'radio called', 'radio used', 'fibre used', 'radio resting']);
    expect(run.noticed.at(-1)!.ended.length).to.be.greaterThan(20);
    const seenAt = (s: number) => run.fresh.find((b) => b.at === s * 1000)?.seen;
    expect([seenAt(1), seenAt(8), seenAt(44)]).to.deep.equal([
      '198.51.100.18',
      '203.0.113.140',
      '198.51.100.18',
    ]);
    // What it carried begins anew by the other.
    expect(run.row.at(-1)!.seen).to.equal('198.51.100.18');
  });

  it('follows a delegated prefix that changes: hosts begin nothing from the old one, and rules by suffix go along', () => {
    const text = `zone world: upstream
zone office:
interface line: on p1, zone world, address6 by slaac, settle 2s, answers ping
interface desk: on p2, zone office, address 10.61.20.1/24, address6 from line subnet 2, advertises
passage office > world: allow
passage world > office: allow tcp 443, to ::53 of desk
circuit northmoor: at p1, block6 2001:db8:1::/64, delegates6 2001:db8:6100::/56
station pc: at p2, suffix ::53, address 10.61.20.9/24, listens tcp 443
far six.example: address 2001:db8:ffff::80
`;
    const told: string[] = [];
    const tap: Tap = (_, from, to, frame) => {
      const ethernet = decodeEthernet(frame.bytes);
      const packet =
        to.owner.name === 'pc' && ethernet.ok && decodeIp(ethernet.value.type, ethernet.value.payload);
      const nd = packet && ndOf(readPacket(packet));
      if (nd && nd.type === 'router')
        told.push(
          nd.prefixes.map((p) => `${formatIp(p.prefix.address)} ${p.preferred}/${p.valid}`).join(', ') +
            (nd.lifetime ? '' : ' no router'),
        );
    };
    const acts: DrillScript['acts'] = [{ at: 5000, what: 'renumber', on: 'northmoor' }];
    const run = runDrill(reachFrom(text), { from: 'pc', seconds: 30, acts }, { tap }) as DrillRun;
    const seenAt = (s: number) => run.fresh.find((b) => b.at === s * 1000)?.seen;
    expect([seenAt(2), seenAt(29)]).to.deep.equal(['2001:db8:6100:2::53', '2001:db8:6100:102::53']);
    // With nothing delegated the box is no way out; then both are told, the old one for two hours and for nothing new.
    expect([...new Set(told)].slice(-2)).to.deep.equal([
      '2001:db8:6100:2:: 0/7200 no router',
      '2001:db8:6100:102:: 2700/5400, 2001:db8:6100:2:: 0/7200',
    ]);
    const bench = bootBench(reachFrom(text)).bench;
    bench.renumber('northmoor');
    bench.scheduler.pass(20_000);
    const [mine, old] = bench.hosts.get('pc')!.addresses6.map((a) => a.address);
    expect([mine, old].map((a) => formatIp(a!))).to.deep.equal([
      '2001:db8:6100:102::53',
      '2001:db8:6100:2::53',
    ]);
    const asked = bench.fars.get('six.example')!.endpoints.connect(mine!, 443, 10);
    bench.wait(() => asked.done, 5000);
    expect(asked.result, 'the rule by suffix').to.equal('answered');
    expect(bench.renumber('nobody')).to.equal(undefined);
  });

  it('has one that rests say nothing at all: no frame leaves its port until it is called', () => {
    const text = WATCHED.replace('by dhcp, priority 2', 'by dhcp, on-demand, watch 192.0.2.1 every 1s');
    const sentOf = (acts: DrillScript['acts']) => {
      let sent = 0;
      const run = runDrill(
        reachFrom(text),
        { ...PC, acts },
        { tap: (_, from) => from.name === 'p2' && sent++ },
      );
      return { sent, noticed: (run as DrillRun).noticed };
    };
    expect(sentOf([])).to.deep.equal({ sent: 0, noticed: [] });
    const called = sentOf([{ at: 12_000, what: 'cut', on: 'northmoor' }]);
    expect(called.noticed.find((n) => n.called)!.at).to.equal(12_000);
    expect(called.sent).to.be.greaterThan(20);
  });

  it('counts what the wire carried', () => {
    const asked = new Set<number>();
    const answered = new Set<number>();
    const tap: Tap = (_, from, _to, frame) => {
      const ethernet = decodeEthernet(frame.bytes);
      const packet = ethernet.ok && decodeIp(ethernet.value.type, ethernet.value.payload);
      if (!packet || from.owner.name !== 'pc') return;
      const { inner } = readPacket(packet);
      if (inner.protocol === 'icmp' && inner.icmp.type === 'echo-request') asked.add(frame.mark!);
    };
    const replies: Tap = (time, from, to, frame) => {
      tap(time, from, to, frame);
      const ethernet = decodeEthernet(frame.bytes);
      const packet = ethernet.ok && decodeIp(ethernet.value.type, ethernet.value.payload);
      if (!packet || to.owner.name !== 'pc') return;
      const { inner } = readPacket(packet);
      if (inner.protocol === 'icmp' && inner.icmp.type === 'echo-reply') answered.add(frame.mark!);
    };
    const run = runDrill(
      reachFrom(WATCHED),
      { ...PC, acts: [{ at: 3000, what: 'lossy', on: 'northmoor', by: 30 }] },
      { tap: replies },
    ) as DrillRun;
    const good = [...run.row, ...run.fresh].filter((b) => b.trip !== undefined).length;
    expect(asked.size).to.equal(run.row.length + run.fresh.length);
    expect(answered.size).to.equal(good);
    expect(run.lost).to.be.greaterThan(20);
    expect(run.outages, 'loss is no outage').to.deep.equal([]);
  });

  it('is slow where the provider is, and out for as long as a cable is', () => {
    const slow = ran(WATCHED, { ...PC, acts: [{ at: 10_000, what: 'slow', on: 'northmoor', by: 200 }] });
    const trip = (run: DrillRun, at: number) => run.row.find((b) => b.at === at)!.trip!;
    expect(trip(slow, 20_000) - trip(slow, 5000)).to.be.within(390, 402);
    const alone = ran(OFFICE('').replace(/^.*radio.*\n/m, ''), {
      ...PC,
      acts: [{ at: 5000, what: 'replug', on: 'p1' }],
    });
    const [out] = alone.outages;
    expect(out!.from).to.equal(5000);
    // Three seconds without a cable, then the hold-down of a line that failed.
    expect(out!.to ?? 30_000).to.be.greaterThan(8000);
  });

  it('says what it cannot do', () => {
    const reach = reachFrom(WATCHED);
    const fault = (script: Partial<DrillScript>) => runDrill(reach, { ...PC, acts: [], ...script });
    expect(fault({ from: 'nobody' })).to.deep.equal({ fault: 'no-such-place', name: 'nobody' });
    for (const seconds of [Number.NaN, 0, 601])
      expect(fault({ seconds }), String(seconds)).to.deep.equal({ fault: 'bad-time' });
    expect(fault({ to: 'nobody.example' })).to.deep.equal({
      fault: 'no-such-target',
      name: 'nobody.example',
    });
    expect(fault({ acts: [{ at: 0, what: 'deaden', on: 'p1' }] })).to.deep.equal({
      fault: 'no-such-line',
      name: 'p1',
    });
    const beats = (text: string) =>
      [...text].map((c, i) => ({ at: i * 100, trip: c === '.' ? undefined : 1 }));
    expect(outagesOf(beats('|.........|..........||'))).to.deep.equal([{ from: 1100, to: 2100, lost: 10 }]);
    expect(outagesOf(beats(`|${'.'.repeat(12)}`))).to.deep.equal([{ from: 100, to: undefined, lost: 12 }]);
  });
});

function boardOf(text: string, isPairs = false): WhatIf {
  const model = modelFrom(text);
  const singles = faultsOf(model);
  const looking = tryFaults(reachFrom(text), isPairs ? [...singles, ...pairsOf(model)] : singles);
  const rows: WhatIfRow[] = [];
  for (;;) {
    const { done, value } = looking.next();
    if (done) return { bearers: value, rows };
    if (value) rows.push(value);
  }
}
const fate = (o: Outcome): string =>
  o.is === 'on' ? `${o.by} as ${o.seen}${o.after ? ' later' : ''}` : o.is;
const fates = (board: WhatIf, fault: string): Record<string, string> => {
  const row = board.rows.find((r) => faultKey(r.fault) === fault)!;
  return Object.fromEntries(board.bearers.map((b, i) => [b.name, fate(row.outcomes[i]!)]));
};

describe('the what-if board', () => {
  it('tells of every line and provider who goes on, by what, when and as whom, and what is dead', () => {
    const board = boardOf(WATCHED);
    expect(board.rows.map((r) => faultKey(r.fault))).to.deep.equal([
      'cut p1',
      'cut p2',
      'cut p3',
      'cut p4',
      'dead northmoor',
      'dead harbour',
    ]);
    const on = 'fibre as 198.51.100.18';
    expect(fates(board, 'cut p1')).to.deep.equal({
      pc: 'radio as 203.0.113.140',
      server: 'never',
      orders: 'dead',
    });
    expect(fates(board, 'dead northmoor').pc).to.equal('radio as 203.0.113.140 later');
    expect(fates(board, 'dead harbour')).to.include({ pc: on, orders: 'fibre as 198.51.100.19' });
    expect(fates(board, 'cut p3').pc).to.equal('dead');
    expect(fates(board, 'cut p4')).to.include({ pc: on, orders: 'dead' });
  });

  it('agrees with the bench that is asked in the usual way', () => {
    for (const row of boardOf(OFFICE('')).rows) {
      const { bench } = bootBench(reachFrom(OFFICE('')), row.fault);
      const ping = bench.hosts.get('pc')!.endpoints.ping([...bench.fars.values()][0]!.setup.addresses[0]!);
      bench.wait(() => ping.done, 5000);
      expect(row.outcomes[0]!.is === 'on', faultKey(row.fault)).to.equal(ping.result === 'answered');
    }
  });

  it('tries two at once on request, and tells what became weaker', () => {
    const [now, before] = [boardOf(OFFICE(''), true), boardOf(WATCHED, true)];
    expect(now.rows).to.have.length(6 + 13);
    expect(fates(before, 'cut p2 and dead northmoor').pc).to.equal('dead');
    const weaker = newWeakPoints(now, before).map((w) => [
      faultKey(w.fault),
      w.bearers.map((b) => b.name).join(),
    ]);
    expect(weaker).to.deep.include(['dead northmoor', 'pc']);
    expect(newWeakPoints(before, now)).to.deep.equal([]);
  });
});
