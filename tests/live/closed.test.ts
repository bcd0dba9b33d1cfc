/**
 * The script of `convert --to linux`: cut anywhere it does nothing; where any command of it fails, or it is killed there,
 * the box is never more open than the text says; a second run changes nothing.
 */
import { expect } from 'chai';
import { spawnSync } from 'node:child_process';
import { mkdirSync, mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { generationOf, scriptOf } from '#core/linux';
import { modelFrom } from '#core/testkit';
import { hingeText } from '../../src/lib/server/hinge';
import { OwnRoot } from '../../src/lib/server/practice/root';
import { WORKS, noField } from './field';

const SIX = `${WORKS}interface six: on p2, zone studio, address6 2001:db8:61::1/64\n`;

describe('the script for a Linux box', function () {
  const folder = mkdtempSync(join(tmpdir(), 'jg-closed-'));
  const root = new OwnRoot(folder);
  const ns = `jc${process.pid}`;
  /** Where the script and what is written beside it stand on the box. */
  const script = '/srv/script';
  const [count, shims] = ['/srv/count', '/srv/shim'];
  const text = scriptOf(generationOf(modelFrom(SIX), []), hingeText(), 'edge');

  const run = (line: string): { status: number | null; out: string } => {
    const done = root.run(ns, line, undefined, { JG_NO_KEEPER: 'yes' });
    return { status: done.status, out: done.stdout + done.stderr };
  };
  /** A box as it comes: ports without anything, nothing passes. */
  const fresh = (): void => {
    spawnSync('ip', ['netns', 'del', ns]);
    for (const f of ['etc/jolly-gate', 'run/jolly-gate'])
      rmSync(root.at(f), { recursive: true, force: true });
    run('rm -f /usr/local/sbin/jolly-gate-hinge');
    spawnSync('ip', ['netns', 'add', ns]);
    run(
      'sysctl -qw net.ipv4.ip_forward=0 net.ipv6.conf.all.accept_dad=0 net.ipv6.conf.default.accept_dad=0; for p in p1 p2 p3 p8; do ip link add $p type veth peer name x$p; ip link set x$p up; done',
    );
  };
  /** Whether packets may pass, by family, and whether our rules stand before them. */
  const seen = () => {
    const { out } = run(
      'cat /proc/sys/net/ipv4/ip_forward /proc/sys/net/ipv6/conf/all/forwarding; nft list table inet gate 2>/dev/null | grep -c "policy drop"',
    );
    const [four, six, drops] = out.trim().split('\n').map(Number);
    return { passes: four === 1 || six === 1, closed: drops === 2 };
  };

  before(function () {
    const why = noField();
    if (why === undefined) return writeFileSync(root.at(script), text);
    console.log(`    no script is run: ${why}`);
    this.skip();
  });
  after(() => {
    spawnSync('ip', ['netns', 'del', ns]);
    rmSync(folder, { recursive: true, force: true });
  });

  it('does nothing at all unless all of it is there', () => {
    fresh();
    const lines = text.split('\n').length;
    writeFileSync(
      root.at('srv/cuts'),
      `n=1; while [ $n -lt ${lines - 1} ]; do head -n $n ${script} | sh >/dev/null 2>&1; n=$((n+1)); done`,
    );
    run('sh /srv/cuts');
    expect(seen()).to.deep.equal({ passes: false, closed: false });
    expect(
      run(
        'ls /srv /etc/jolly-gate /usr/local/sbin 2>/dev/null; ip -o addr show scope global; ip rule | wc -l',
      ).out,
    ).to.equal('/srv:\ncuts\nscript\n\n/usr/local/sbin:\n3\n');
    expect(run(`sh ${script}`).status).to.equal(0);
    expect(seen()).to.deep.equal({ passes: true, closed: true });
  });

  it('changes nothing when it is run again', () => {
    fresh();
    expect(run(`sh ${script}`).status).to.equal(0);
    const again = run(
      `while ip -6 addr show tentative | grep -q inet6; do sleep 0.1; done; ip monitor all >/srv/changes & m=$!; sleep 0.3; sh ${script} >/dev/null; sleep 0.2; kill $m; grep -vE "FAILED|STALE|REACHABLE|DELAY|PROBE|fe80:|valid_lft" /srv/changes`,
    );
    // What links say of themselves by and by is not told by us.
    expect(again.out).to.equal('');
  });

  for (const end of ['fails', 'is killed'] as const)
    it(`is never more open than the text says, whichever command ${end}`, () => {
      mkdirSync(root.at(shims), { recursive: true });
      const fault = end === 'fails' ? 'exit 1' : 'kill -9 $PPID; exit 1';
      for (const tool of ['ip', 'nft']) {
        run(`cp $(readlink -f /usr/sbin/${tool}) ${shims}/${tool}.real`);
        writeFileSync(
          root.at(shims, tool),
          `#!/bin/sh\nread -r n <${count}\necho $((n - 1)) >${count}\n[ "$n" = 0 ] && { ${fault}; }\nexec ${shims}/${tool}.real "$@"\n`,
          { mode: 0o755 },
        );
      }
      const shimmed = ['ip', 'nft']
        .map((t) => `mount --bind ${shims}/${t} $(readlink -f /usr/sbin/${t})`)
        .join(' && ');
      let tried = 0;
      for (let n = 0; ; n++) {
        fresh();
        writeFileSync(root.at(count), `${n}\n`);
        run(`${shimmed} && sh ${script}`);
        const { passes, closed } = seen();
        expect(passes && !closed, `command ${n}`).to.equal(false);
        const left = Number(readFileSync(root.at(count), 'utf8'));
        // All commands were carried out before the fault would have come.
        if (left >= 0) break;
        tried++;
      }
      expect(tried).to.be.greaterThan(15);
    });
});
