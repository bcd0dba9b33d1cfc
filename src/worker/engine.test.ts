import { expect } from 'chai';
import { GOOD, good } from '#core/testkit';
import { promiseText } from '#words';
import { ask, derive, failingMends, find, plan, remember } from './engine';
import type { PlanView } from './protocol';
import { deskGroups, desksSentence, ladderSentence, sameLadder } from '../lib/ui/ladder/ladders';

const file = (text: string) => [{ name: 'site.gate', text }];
const request = (draft: string, running?: string) => ({
  generation: 3,
  draft: file(draft),
  running: running === undefined ? undefined : file(running),
  factoryPassword: false,
});

describe('the worker', () => {
  it('derives findings and proofs as plain data that survives the way to the page', () => {
    let now = 0;
    const derived = derive(
      request(
        `${good(['gateway .17, answers', 'gateway .20, answers'])}expect office reaches internet\n`,
        GOOD,
      ),
      () => (now += 5),
    );
    expect(structuredClone(derived)).to.deep.equal(derived);
    expect([derived.generation, derived.took]).to.deep.equal([3, 20]);
    expect(derived.draft.promises.map((p) => [p.text, p.result])).to.deep.equal([
      ['expect office reaches internet', 'fail'],
    ]);
    expect(ladderSentence(derived.draft.uplinks[0]!.stages)).to.contain('198.51.100.20 does not answer ARP');
    expect(ladderSentence(derived.running!.uplinks[0]!.stages)).to.equal('seen outside as 198.51.100.18');
    expect(sameLadder(derived.draft.uplinks[0]!.stages, derived.running!.uplinks[0]!.stages)).to.equal(false);
  });

  it('has promises judged by the reach once the bench took its time, and says so', () => {
    let now = 0;
    const text = `${GOOD}expect office reaches internet\nexpect office never reaches internet\nexpect office reaches\n`;
    const { promises } = derive(request(text), () => (now += 1500)).draft;
    expect(promises.map((p) => [p.result, p.code])).to.deep.equal([
      ['pass', 'promise-reached'],
      ['fail', 'promise-reckoned-not'],
      ['fail', 'promise-unread'],
    ]);
    expect(promiseText(promises[1]!)).to.equal(
      '10.61.20.50 reaches 192.0.2.80 with ping by passage/office>world#1, line 6',
    );
    const all = derive(request(text), () => (now += 3000)).draft.promises;
    expect(promiseText(all[0]!)).to.match(/^holds by the reach; the bench/);
  });

  it('remembers the proof of what runs until that changes', () => {
    const last = remember();
    const first = derive(request(GOOD, GOOD), () => 0, last);
    const again = derive(request(good(['.50-.199', '.50-.198']), GOOD), () => 0, last);
    expect(again.running).to.equal(first.running);
    const other = derive(request(GOOD, good(['.50-.199', '.50-.198'])), () => 0, last);
    expect(other.running).to.not.equal(first.running);
  });

  it('tells a factory password, and answers a question with its steps', () => {
    expect(
      derive({ ...request(GOOD), factoryPassword: true }, () => 0).findings.map((f) => f.code),
    ).to.deep.equal(['first-password']);
    const answer = ask({ files: file(GOOD), from: 'pc', to: 'www.example', service: 'tcp 443' });
    expect(answer.ok && [answer.verdict, answer.sentence]).to.deep.equal([
      'answered',
      'pc to www.example, tcp 443: answered, seen as 198.51.100.18',
    ]);
    expect(answer.ok && answer.steps.find((s) => s.stage === 'passage')?.subject).to.equal(
      'passage/office>world#1',
    );
    expect(ask({ files: file(GOOD), from: 'pc', to: 'nobody' })).to.deep.equal({
      ok: false,
      why: '“nobody” is no name of this site and no address',
    });
    expect(ask({ files: file(GOOD), from: 'pc', to: 'www.example', service: 'tpc' }).ok).to.equal(false);
  });

  it('tells of mends that do not do what they offer, until another text is asked about', async () => {
    const last = remember();
    find(request(good(['gateway .17, answers', 'gateway .20, answers'])), last);
    find(request(good([', guard\n', '\n'])), last);
    const [finding] = last.found!.raw.filter((f) => f.mends.length);
    expect(finding!.code).to.equal('guard-missing');
    const idle = { what: 'replace' as const, values: { text: '' }, changes: [] };
    const raw = [{ ...finding!, mends: [...finding!.mends, idle] }];
    last.found = { ...last.found!, raw };
    const time = { clock: () => 0, pause: () => Promise.resolve() };
    const trying = failingMends(3, last, time);
    expect(await trying).to.deep.equal([{ finding: finding!.id, index: 1 }]);
    const later = failingMends(3, last, time);
    find({ ...request(GOOD), generation: 4 }, last);
    expect(await later, 'a newer one is asked about').to.deep.equal([]);
    expect(await failingMends(3, last, time)).to.deep.equal([]);
  });

  it('tells desks that cannot from desks that may not', () => {
    const text = `${good(['zone office:', 'zone shop: dmz\nzone office:'])}interface shop: on p3, zone shop, address 10.61.50.1/24, answers ping
interface tills: on p4, zone office, address 10.61.40.1/24, lends .9-.20, answers ping
station server: at p3, address 10.61.50.10/24, gateway 10.61.50.1
station till: at p4, address by dhcp
`;
    const groups = deskGroups(derive(request(text), () => 0).draft);
    expect(groups.map((g) => [g.interface, g.open, g.total, g.fail?.stage, g.closed])).to.deep.equal([
      ['desk', 1, 1, undefined, false],
      ['shop', 0, 1, undefined, true],
      ['tills', 0, 1, 'resolver', false],
    ]);
    expect(desksSentence(groups)).to.equal('1 of 3 open a page; tills stop at resolver; shop may not');
  });
});

describe('a crossing', () => {
  const RUNNING = `box tide: names 192.0.2.53
zone desk: management
interface console: on p8, zone desk, address 10.61.99.1/24, answers ping https
station laptop: at p8, address 10.61.99.10/24, gateway 10.61.99.1, seat
`;
  const running = file(RUNNING);
  const draft = file(RUNNING.replace('10.61.99.1/24, answers', '10.61.97.1/24, answers'));
  let tick = 0;
  /** A clock on which every look takes a while, so that the worker pauses at each. */
  const slow = { clock: () => (tick += 21), pause: () => Promise.resolve() };

  it('is told as soon as there is one, and then as a better one is found', async () => {
    const told: string[] = [];
    const end = await plan(running, draft, (view) => view && told.push(fates(view)), slow, remember());
    expect(told[0]).to.contain('cut');
    expect(fates(end)).to.match(/^(kept )*kept moved( kept)*$/);
  });

  it('ends with what there is when that will do, or when another is asked for', async () => {
    const last = remember();
    const end = await plan(running, draft, () => last.planning++, slow, last);
    expect(fates(end)).to.contain('cut');
  });
});

const fates = (view: PlanView): string => view.steps.map((s) => s.fate).join(' ');
