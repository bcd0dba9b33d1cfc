/** A live box driven from the page: the practice box of the demo, told and asked over real ssh. */
import { expect } from 'chai';
import { spawn, spawnSync } from 'node:child_process';
import { createServer, request } from 'node:http';
import { noField } from '../../src/lib/server/practice/field';
import { TIME_IS_OVER } from '../live/field';
import { marked, openPage } from './browser';
import { BOX, WIRING, linkOf } from './practice';
import type { Page } from './browser';

const why = noField(['dnsmasq']);
let page: Page;
/** A namespace of the practice field. Other fields may lie on this machine: this one is named by its server's process. */
const spaceOf = (at: string): string => {
  const all = spawnSync('ip', ['netns', 'list'], { encoding: 'utf8' }).stdout;
  return new RegExp(`^jf${page.serverPid()}-\\d+-${at}`, 'm').exec(all)![0];
};
/** A line of shell in one of them, for what somebody does behind our back. */
const console_ = (line: string, at = 'box'): void => {
  const done = spawnSync('ip', ['netns', 'exec', spaceOf(at), 'sh', '-c', line], { encoding: 'utf8' });
  if (done.status !== 0) throw new Error(done.stderr);
};
/** Process 1 of the practice box, by the number that it has on this machine. */
const boxPid = (): string => {
  const line = `for p in $(ip netns pids ${spaceOf('box')}); do grep -q '^NSpid:.*[[:space:]]1$' /proc/$p/status && echo $p && break; done`;
  return spawnSync('sh', ['-c', line], { encoding: 'utf8' }).stdout.trim();
};
/** Puts the draft on trial, whatever stands in the way of it: as long as may be, since a test says when its time is over. */
const tryDraft = async () => {
  await page.click('view-change');
  await page.fill('trial-seconds', '3600');
  await page.tries();
};
/** The shell line, at the practice box's console. */
const atConsole = (line: string) =>
  spawnSync('nsenter', ['-t', boxPid(), '-m', '-n', '-p', 'sh', '-c', line], { encoding: 'utf8' });
/** Has the time of the box's trial be over. */
const timeIsOver = () => expect(atConsole(TIME_IS_OVER).status, 'a trial was there to be over').to.equal(0);

/** What somebody changes at the box's console, how it is told, and how they undo what is theirs: the box leaves that alone. */
const CHANGES: readonly { what: string; line: string; says: RegExp; undo?: string }[] = [
  {
    what: 'an address',
    line: 'ip addr del 10.61.20.1/24 dev p3',
    says: /studio: the address 10\.61\.20\.1\/24 is gone/,
  },
  {
    what: 'a port',
    line: 'ip link add br9 type bridge && ip link set p3 master br9',
    says: /somebody put studio into br9/,
  },
  {
    what: 'the keeper',
    line: 'kill -s KILL -- -$(cat /run/jolly-gate/keeper.pid)',
    says: /keeper is stopped/,
  },
  {
    what: 'a route of theirs',
    line: 'ip route add 203.0.113.0/24 via 10.61.20.50',
    says: /somebody added the route .*203\.0\.113\.0\/24/,
    undo: 'ip route del 203.0.113.0/24',
  },
  {
    what: 'a table of theirs',
    line: 'nft "add table inet theirs; add chain inet theirs f { type filter hook forward priority 9; policy drop; }"',
    says: /a table of somebody else, inet theirs, judges the same packets/,
    undo: 'nft delete table inet theirs',
  },
];

describe('a live box in the page', function () {
  before(async function () {
    if (why !== undefined) {
      console.log(`    there is no practice box here: ${why}`);
      this.skip();
    }
    page = await openPage({ serving: ['--practice'] });
    await page.fresh();
    await page.open({ 'box.gate': BOX, 'wiring.gate': WIRING });
    await page.sees('box-state', /bench/);
  });
  after(async () => page?.close());

  it('is met by a link that works once and a key that is compared once, and is taken for this site', async () => {
    await page.driver.get('about:blank');
    const link = linkOf(page);
    await page.driver.get(link);
    await page.click('connect-practice');
    await page.get('accept-key');
    await page.sees('connect', /was never met/);
    const print = /host key as (SHA256:\S+?)"/.exec(page.printed())![1]!;
    expect(await (await page.get('connect')).getText()).to.contain(print);
    await page.click('accept-key');
    await page.sees('devices', /p1[\s\S]*p8/);
    await page.click('take-live');
    await page.sees('live-chip', /live 10\.61\.99\.1 · \d\.\d s ago/);
    // A stolen link is worth nothing, and the address bar has it no more.
    expect(await page.driver.getCurrentUrl()).to.not.contain('live=');
    const { status, body } = await post('enter', { ticket: link.split('live=')[1] });
    expect([status, body]).to.satisfy(([s, b]: [number, string]) => s === 200 && b.includes('used already'));
  });

  it('is tried once a port is handed over by whoever configures it, with the box’s own countdown, knocks, stays, and is saved', async () => {
    atConsole('mkdir -p /etc/network; echo "iface p1 inet dhcp" >/etc/network/interfaces');
    await tryDraft();
    await page.sees('live-refused', /p1: ifupdown configures it \(\/etc\/network\/interfaces\)/);
    await page.click('hand-over');
    await page.sees('countdown', /[1-9]\d?:\d\d/);
    await page.sees('knocks', /✓ 10\.61\.99\.1 lets a new connection in/);
    await page.sees('live-fibre', /passes/);
    await page.click('stay');
    await page.sees('box-state', /not saved/);
    await page.click('save');
    await page.sees('box-state', /all agree/);
  });

  it('tells a pulled cable and one that is plugged again', async () => {
    await page.click('view-state');
    await page.sees('live-fibre', /passes/);
    await page.click('hand-p1');
    await page.sees('live-fibre', /no carrier/);
    await page.click('hand-p1');
    await page.sees('live-fibre', /passes/);
  });

  it('shows what the box knows, each row with its statement, asks its kernel, and pings from it', async () => {
    await page.sees('table-routes', /0\.0\.0\.0\/0\s+198\.51\.100\.17\s+fibre/);
    await page.fill('state-filter', '10.61.20');
    await page.sees('rows-routes', /\d of \d+ rows/);
    await page.fill('state-filter', ' ');
    await page.fill('where-to', '192.0.2.80');
    await page.sees('where-answer', /goes out by fibre to 198\.51\.100\.17/);
    await page.sees('where-kernel', /192\.0\.2\.80 via 198\.51\.100\.17 dev p1/);
    await page.fill('ping-to', '192.0.2.80');
    await page.click('ping');
    await page.sees('ping-sum', /[2-9] of [2-9] answered/);
    await page.click('ping');
    await page.fill('why-from', 'wheel');
    await page.fill('why-to', 'example.com');
    await page.click('why');
    // The desk begins one flow after another until the box has seen a first packet.
    const again = 'while :; do ping -c 1 -W 1 192.0.2.80; sleep 0.2; done >/dev/null';
    const desk = spawn('ip', ['netns', 'exec', spaceOf('desk'), 'sh', '-c', again]);
    await page.sees(
      'why-0',
      /10\.61\.20\.50 to 192\.0\.2\.80 came in by .* and passed: passage studio > world/,
    );
    desk.kill();
    await page.click('section-ports');
    await page.sees('table-ports', /p1\s+up\s+198\.51\.100\.18\/29/);
    await page.click('section-neighbours');
    await page.sees('table-neighbours', /198\.51\.100\.17\s+fibre/);
  });

  it('catches a login that was forgotten: nobody new gets in, and it goes back by itself', async () => {
    await page.write('console answers ping');
    await tryDraft();
    await page.sees('live-refused', /nothing at the desk lets anybody in/);
    await page.click('overrule-lockout');
    await page.sees('knocks', /✕ 10\.61\.99\.1 lets no new connection in/);
    // To go back is what is proposed; to stay asks first, by the address.
    await page.holds(
      `${marked('go-back')}[0].matches('.btn-primary') && !${marked('stay')}[0].matches('.btn-primary')`,
      'it proposes to stay',
    );
    await page.click('stay');
    await page.sees('stay-asks', /No new connection gets in at 10\.61\.99\.1/);
    timeIsOver();
    await page.sees('box-state', /draft differs/);
    await page.sees('live-chip', /s ago/);
    await page.control('z');
    await page.sees('box-state', /all agree/);
  });

  it('follows the box to its new address once the PC sits there, and stays from there', async () => {
    await page.write('console address 10.61.98.1/26');
    await tryDraft();
    await page.sees('live-lost', /No answer from .*It is looked for on and on/);
    await page.fill('sit-address', '10.61.98.10/26');
    await page.fill('sit-gateway', '10.61.98.1');
    await page.click('sit');
    await page.sees('live-chip', /live 10\.61\.98\.1 · \d/);
    await page.sees('knocks', /✓ 10\.61\.98\.1 lets a new connection in/);
    await page.click('stay');
    await page.sees('box-state', /not saved/);
  });

  it('tells what somebody did by hand, and takes it into the draft', async () => {
    console_('ip addr add 10.61.20.9/24 dev p3');
    await page.click('view-change');
    await page.sees('hand-drift', /studio: somebody added the address 10\.61\.20\.9\/24/);
    await page.sees('box-state', /by hand \(1\)/);
    await page.click('adopt-0');
    await page.sees('change', /studio: .*also 10\.61\.20\.9\/24/);
    await page.control('z');
    console_('ip addr del 10.61.20.9/24 dev p3');
    await page.sees('box-state', /not saved|all agree/);
  });

  it('tells again what somebody switched off, and says what the box has put back by itself', async () => {
    console_('ip link set p3 down');
    await page.click('view-state');
    await page.sees('hand-drift', /studio was switched off/);
    await page.sees('strip-by-hand', /changed by hand/);
    await page.click('view-board');
    await page.sees('slab-studio', /by hand/);
    await page.click('view-state');
    await page.click('tell-again');
    await page.sees('box-state', /not saved|all agree/);
    await page.gone('hand-drift');
    console_('nft flush ruleset');
    await page.sees('restored', /put back by the box \d+ s ago: the rules of passing/);
    await page.sees('box-state', /not saved|all agree/);
  });

  for (const { what, line, says, undo } of CHANGES)
    it(`sees ${what} that somebody changed, on every view, until it is told again or undone`, async () => {
      expect(atConsole(line).stderr).to.equal('');
      await page.click('view-state');
      await page.sees('hand-drift', says);
      await page.sees('box-state', /by hand/);
      await page.sees('strip-by-hand', /changed by hand/);
      if (undo === undefined) await page.click('tell-again');
      else expect(atConsole(undo).stderr).to.equal('');
      await page.gone('hand-drift');
      await page.sees('box-state', /not saved|all agree/);
    });

  it('says that nobody knows how a trial ended while the box is silent, and goes on once it is found', async () => {
    await page.write('studio answers ping dns');
    await tryDraft();
    await page.get('countdown');
    await page.sees('live-fibre', /passes/);
    console_('ip link set p8 down');
    await page.get('live-lost');
    await page.later(3700);
    await page.sees('trial-over', /should have gone back .* asked on and on\. Give this PC the address/);
    await page.sees('box-state', /trial is over/);
    await page.gone('checks');
    await page.holds(
      `[...${marked('stay')}, ...${marked('go-back')}].every((b) => b.disabled)`,
      'it takes orders',
    );
    console_('ip link set p8 up');
    await page.sees('box-state', /on trial [1-9]/);
    await page.sees('live-fibre', /passes/);
    await page.gone('trial-over');
  });

  it('goes back though the page is closed, and two pages see the same', async () => {
    const first = await page.driver.getWindowHandle();
    await page.driver.switchTo().newWindow('tab');
    await page.driver.get(page.origin);
    await page.sees('live-chip', /live 10\.61\.98\.1|live 10\.61\.99\.1/);
    await page.driver.close();
    await page.driver.switchTo().window(first);
    await page.driver.get('about:blank');
    timeIsOver();
    await page.driver.get(page.origin);
    await page.sees('live-chip', /\d s ago/);
    await page.sees('box-state', /draft differs/);
  });

  it('knows somebody else’s trial for theirs, and that it is over', async () => {
    await page.control('z');
    await page.click('view-change');
    await page.sees('live-chip', /\d s ago/);
    // At its console, somebody tries what was staged last and does not run.
    const hinge = '/usr/local/sbin/jolly-gate-hinge';
    const line = `cd /etc/jolly-gate/generations && g=$(ls -t | grep -v "$(basename "$(readlink /run/jolly-gate/running)")" | head -1) && ${hinge} try $g 3600 theirs`;
    expect(atConsole(line).stdout).to.contain('"ok":true');
    await page.sees('their-trial', /Somebody else began this trial/);
    expect(await (await page.get('stay')).isEnabled()).to.equal(false);
    timeIsOver();
    await page.gone('countdown');
    await page.sees('box-state', /not saved|all agree/);
  });

  /** Sends what a page of another origin could make a browser send, or what no browser would. */
  const post = (
    path: string,
    body: unknown,
    headers: Readonly<Record<string, string>> = {},
  ): Promise<{ status: number; body: string }> =>
    new Promise((resolve, reject) => {
      const all = {
        host: new URL(page.origin).host,
        origin: page.origin,
        'content-type': 'application/json',
        ...headers,
      };
      const sent = request(`${page.origin}/live/${path}`, { method: 'POST', headers: all }, (answer) => {
        let text = '';
        answer.on('data', (d: Buffer) => (text += d.toString()));
        answer.on('end', () => resolve({ status: answer.statusCode ?? 0, body: text }));
      });
      sent.on('error', reject);
      sent.end(JSON.stringify(body));
    });

  it('refuses every page that is not its own', async () => {
    const token = await page.driver.executeScript<string>('return localStorage.getItem("jolly-gate live")');
    const good = { authorization: `Bearer ${token}` };
    const rows: readonly (readonly [why: string, headers: Record<string, string>, status: number])[] = [
      ['its own page', good, 200],
      ['no token', {}, 401],
      ['an old token', { authorization: `Bearer ${'x'.repeat(43)}` }, 401],
      ['another origin', { ...good, origin: 'http://evil.example' }, 403],
      ['another port of this machine', { ...good, origin: 'http://127.0.0.1:9' }, 403],
      ['a name that was bound anew', { ...good, host: 'evil.example', origin: 'http://evil.example' }, 403],
      ['a sandboxed frame', { ...good, origin: 'null' }, 403],
      ['another site, by what the browser says', { ...good, 'sec-fetch-site': 'cross-site' }, 403],
      ['a form', { ...good, 'content-type': 'application/x-www-form-urlencoded' }, 415],
      ['plain text, as a form may send it', { ...good, 'content-type': 'text/plain' }, 415],
    ];
    for (const [reason, headers, status] of rows)
      expect((await post('boxes', {}, headers)).status, reason).to.equal(status);
    expect((await post('order', { box: 'other', order: { do: 'save' } }, good)).status).to.equal(404);
    for (const bad of [
      { box: 'practice', order: { do: 'format' } },
      { box: '-oProxyCommand=id', order: { do: 'save' } },
      { box: 'practice', order: { do: 'extend', seconds: 1e9 } },
      { box: 'practice', target: 'root@192.0.2.1' },
    ])
      expect((await post('order', bad, good)).status, JSON.stringify(bad)).to.equal(400);
    expect(
      (await post('ask', { box: 'practice', ask: { what: 'ping', to: '$(id)' } }, good)).status,
    ).to.equal(400);
  });

  it('is not reached from a real page of another origin, by form, fetch or socket', async () => {
    const evil = createServer((_, res) => {
      res.setHeader('content-type', 'text/html');
      res.end('<!doctype html><title>evil</title>');
    });
    await new Promise<void>((resolve) => evil.listen(0, '127.0.0.1', resolve));
    const { port } = evil.address() as { port: number };
    try {
      await page.driver.get(`http://127.0.0.1:${port}/`);
      const seen = await page.driver.executeAsyncScript<string[]>(
        `const done = arguments[arguments.length - 1];
         const to = ${JSON.stringify(page.origin)};
         const tries = [
           fetch(to + '/live/boxes', { method: 'POST', body: '{}', headers: { 'content-type': 'application/json' } }),
           fetch(to + '/live/boxes', { method: 'POST', body: '{}', mode: 'no-cors' }).then((r) => { if (r.type === 'opaque') throw new Error('opaque'); return r; }),
           new Promise((ok, no) => { const s = new WebSocket(to.replace('http', 'ws') + '/live/watch'); s.onopen = ok; s.onerror = () => no(new Error('socket')); }),
         ];
         Promise.allSettled(tries).then((all) => done(all.map((a) => a.status)));`,
      );
      expect(seen).to.deep.equal(['rejected', 'rejected', 'rejected']);
    } finally {
      evil.close();
    }
    await page.driver.get(page.origin);
    await page.sees('live-chip', /\d s ago/);
  });

  it('is as at first once it is laid anew, and the page goes on with it', async () => {
    await page.click('view-change');
    await page.click('hand-anew');
    await page.click('view-state');
    await page.click('section-ports');
    await page.sees('table-ports', /p8\s+up\s+10\.61\.99\.1\/26/);
    await page.sees('live-chip', /live 10\.61\.99\.1 · \d/);
  });

  it('says that the server is gone, and that a new one gave out a new link', async () => {
    await page.stopServer();
    await page.sees('live-chip', /no answer \d/);
    await page.startServer();
    await page.holds(
      `/started anew/.test(${marked('live-chip')}[0]?.title)`,
      'nobody says that the server was started anew',
    );
    // The page without live boxes works as before.
    await page.write('zone guests:');
    await page.driver.get('about:blank');
    await page.driver.get(linkOf(page));
    // It is another box than before, and its key is to be compared anew.
    await page.sees('live-chip', /no answer/);
    await page.click('live-chip');
    await page.click('connect-practice');
    await page.click('accept-key');
  });

  it('is led through First light from an empty router to one that is saved, by its real lamps and its own ladder', async () => {
    await page.click('first-light-live');
    await page.sees('lamp-p1', /dark/);
    await page.click('wake');
    await page.sees('lamp-p1', /lit/);
    await page.click('hand-p1');
    await page.sees('lamp-p1', /dark/);
    await page.click('hand-p1');
    await page.sees('lamp-p1', /lit/);
    await page.fill('desk-port', 'p8');
    await page.click('plug');
    await page.click('next');
    await page.click('take-sheet');
    await page.holds(`${marked('sheet')}[0].value.includes('198.51.100.18')`, 'the sheet is not taken');
    await page.click('write-uplink');
    await page.click('write-inside');
    await page.sees('desks-say', /1 of 1 open a page/);
    await page.click('to-trial');
    await page.click('try');
    await page.sees('countdown', /^[12]:\d\d$/);
    await page.sees('knocks', /✓ 10\.61\.99\.1 lets a new connection in/);
    await page.sees('checks', /live[\s\S]*passes/);
    await page.click('stay');
    await page.click('save-finish');
    await page.sees('box-state', /all agree/);
    await page.sees('live-chip', /live 10\.61\.99\.1/);
  });
});
