import { expect } from 'chai';
import { expose, wrap } from 'comlink';
import fc from 'fast-check';
import { patchOf } from '#core/base';
import { GOOD, good } from '#core/testkit';
import { startWorker } from './client';
import type { Life, Spawn } from './client';
import { workerApi } from './api';
import { derive } from './engine';
import type { DeriveRequest, Derived, SentRequest, WorkerApi } from './protocol';
import { TextReceiver, TextSender } from './texts';

const request = (generation: number, text = GOOD): DeriveRequest => ({
  generation,
  draft: [{ name: 'site.gate', text }],
  factoryPassword: false,
});
const turn = () => new Promise((go) => setTimeout(go));

/** Workers whose jobs end when they are told to, and all that the page is told. */
function scene(limit?: number) {
  const told: string[] = [];
  const jobs: { readonly life: number; readonly what: string; answer(value: unknown): void }[] = [];
  const deaths: ((why: string) => void)[] = [];
  const ended: number[] = [];
  const spawn: Spawn = (died) => {
    const life = deaths.push(died);
    const job = (what: string) => () => new Promise((answer) => jobs.push({ life, what, answer }));
    const find = (r: SentRequest) => job(`find ${r.generation}${r.whole ? ' whole' : ''}`)();
    const derived = (r: SentRequest) => job(`derive ${r.generation}${r.whole ? ' whole' : ''}`)();
    const api = { find, derive: derived, failingMends: () => Promise.resolve([]), ask: job('ask') };
    return { api, end: () => ended.push(life) } as unknown as Life;
  };
  const client = startWorker(
    {
      found: (f) => told.push(`found ${f.length}`),
      done: (d) => told.push(`done ${d.generation}`),
      failed: (why) => told.push(`failed: ${why}`),
    },
    spawn,
    limit,
  );
  /** Answers the job that waits, whole. */
  const answer = async (what: string) => {
    await turn();
    const job = jobs.shift();
    expect(job?.what).to.equal(what);
    const generation = Number(/\d+/.exec(what)![0]);
    job!.answer(patchOf(undefined, what.startsWith('find') ? [] : { generation }));
    await turn();
  };
  return { client, told, jobs, deaths, ended, answer };
}

describe("the page's end of the worker", () => {
  it('tells findings first and then the proof, and begins of what waits only the newest', async () => {
    const { client, told, answer } = scene();
    client.derive(request(1));
    for (const n of [2, 3, 4]) client.derive(request(n));
    await answer('find 1 whole');
    // What is old is told to nobody, and its proof is not begun.
    await answer('find 4');
    await answer('derive 4 whole');
    expect(told).to.deep.equal(['found 0', 'done 4']);
    client.close();
  });

  it('starts a worker that died anew, with the request it died of, once, and tells whoever waits', async () => {
    const { client, told, jobs, deaths, answer } = scene();
    client.derive(request(1));
    await answer('find 1 whole');
    const asked = client.ask({ files: [], from: 'a', to: 'b' }).then(
      () => 'answered',
      (why: Error) => why.message,
    );
    await turn();
    deaths[0]!('out of memory');
    expect(await asked).to.equal('out of memory');
    jobs.length = 0;
    await turn();
    expect(deaths).to.have.length(2);
    client.derive(request(2));
    deaths[1]!('again');
    await turn();
    // What it died of twice is given up; what waited is begun.
    expect(told).to.deep.equal(['found 0', 'failed: again']);
    jobs.splice(0, jobs.length - 1);
    client.derive(request(3));
    await answer('find 2 whole');
    await answer('find 3');
    await answer('derive 3 whole');
    expect(told.at(-1)).to.equal('done 3');
    client.close();
  });

  it('ends what takes too long, says what it was, and goes on with another life', async () => {
    const { client, told, jobs, deaths, ended, answer } = scene(30);
    client.derive(request(1));
    await new Promise((go) => setTimeout(go, 60));
    expect(told).to.deep.equal(['failed: looking for faults took more than 0.03 s and was ended']);
    expect([ended, deaths.length]).to.deep.equal([[1], 2]);
    // The dead one's last word and its death are nobody's business any more.
    deaths[0]!('killed');
    jobs.shift()!.answer(patchOf(undefined, []));
    client.derive(request(2));
    await answer('find 2 whole');
    await answer('derive 2 whole');
    expect(told.slice(1)).to.deep.equal(['found 0', 'done 2']);
    client.close();
  });

  it('tells the page by patches what the other end derives: both ends, over a channel', async () => {
    const time = { clock: () => 0, pause: () => Promise.resolve() };
    const sizes: number[] = [];
    const asked: number[] = [];
    const { port1, port2 } = new MessageChannel();
    const api = workerApi(time);
    const sized = (job: (r: SentRequest) => unknown) => (r: SentRequest) => {
      asked.push(JSON.stringify(r).length);
      const patch = job(r);
      sizes.push(JSON.stringify(patch ?? '').length);
      return patch;
    };
    expose({ ...api, find: sized((r) => api.find(r)), derive: sized((r) => api.derive(r)) }, port2);
    const done: Derived[] = [];
    const failed: string[] = [];
    const client = startWorker(
      { found: () => undefined, done: (d) => done.push(d), failed: (why) => failed.push(why) },
      () => ({ api: wrap<WorkerApi>(port1), end: () => (port1.close(), port2.close()) }),
    );
    const texts = [GOOD, good(['.50-.199', '.50-.198']), good([', guard\n', '\n'])];
    for (const [i, text] of texts.entries()) {
      client.derive(request(i + 1, text));
      while (done.length <= i && !failed.length) await turn();
      expect(failed).to.deep.equal([]);
      const fresh = derive(request(i + 1, text), () => 0);
      expect(done[i]).to.deep.equal(structuredClone(fresh));
    }
    expect(sizes[3], 'an edit is told by what it changed').to.be.below(sizes[1]! / 4);
    expect(asked[2], 'and sent as it was made').to.be.below(asked[0]! / 4);
    client.close();
  });
});

describe('texts on their way to the worker', () => {
  const anyFiles = fc.array(
    fc.record({ name: fc.constantFrom('box.gate', 'wiring.gate'), text: fc.string({ maxLength: 12 }) }),
    { maxLength: 3 },
  );

  it('arrive as they were sent, whatever was sent before', () => {
    fc.assert(
      fc.property(fc.array(anyFiles), (all) => {
        const [sender, receiver] = [new TextSender(), new TextReceiver()];
        for (const files of all)
          expect(receiver.receive(structuredClone(sender.send(files)))).to.deep.equal(files);
      }),
    );
  });

  it('are not made of what an end has not got', () => {
    const sender = new TextSender();
    const files = (text: string) => [{ name: 'box.gate', text }];
    sender.send(files('one'));
    expect(() => new TextReceiver().receive(sender.send(files('two')))).to.throw('box.gate');
    const late = new TextReceiver();
    late.receive(new TextSender().send(files('zero')));
    late.receive(files('one'));
    sender.send(files('two and a half'));
    expect(() => late.receive(sender.send(files('three')))).to.throw('cannot be made');
  });
});
