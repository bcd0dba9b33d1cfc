/**
 * The machine that tests and practice boxes run on: told by hand itself, with files of others where ours go, and with what a
 * run left that was killed. Boxes see nothing of it and change nothing of it.
 */
import { expect } from 'chai';
import { spawn, spawnSync } from 'node:child_process';
import { createHash } from 'node:crypto';
import {
  existsSync,
  mkdirSync,
  mkdtempSync,
  readFileSync,
  readdirSync,
  rmSync,
  symlinkSync,
  writeFileSync,
} from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { Field, PLACES, WORKS, until } from './field';
import { BOX, needsField, storyOf } from './story';

/** What lies on a machine whose administrator told it by hand, an older hinge among it. */
function tellThisMachine(): void {
  for (const place of [
    '/etc/jolly-gate/generations/deadbeefdeadbeef',
    '/run/jolly-gate',
    '/var/lib/jolly-gate',
  ])
    mkdirSync(place, { recursive: true });
  mkdirSync('/usr/local/sbin', { recursive: true });
  symlinkSync('generations/deadbeefdeadbeef', '/etc/jolly-gate/startup');
  symlinkSync('/etc/jolly-gate/generations/deadbeefdeadbeef', '/run/jolly-gate/running');
  writeFileSync(
    '/run/jolly-gate/trial',
    'gen=deadbeefdeadbeef\nfrom=none\nuntil=99999999\nhow=setsid\npid=1\norder=x\n',
  );
  writeFileSync('/var/lib/jolly-gate/gate-main.csv', 'somebody else’s leases\n');
  writeFileSync('/usr/local/sbin/jolly-gate-hinge', '#!/bin/sh\ntouch /run/jolly-gate/called\n', {
    mode: 0o755,
  });
}
const TOLD = ['/etc/jolly-gate', '/run/jolly-gate', '/var/lib/jolly-gate', '/usr/local/sbin'];

/** All files under some places, with what is in them. */
const held = (): string[] =>
  TOLD.flatMap((place) =>
    readdirSync(place, { recursive: true, withFileTypes: true }).map((entry) => {
      const path = join(entry.parentPath, entry.name);
      return `${path} ${entry.isFile() ? createHash('sha256').update(readFileSync(path)).digest('hex') : ''}`;
    }),
  );

describe('the machine that boxes are tried on', () => {
  let field: Field;
  const { keep, runs } = storyOf(() => field);
  before(needsField);

  it('may have been told by hand: a box begins from nothing, and what was found is untouched', function () {
    // These are places of this machine: only in a mount namespace of the test's own may anything be put there.
    if (process.env.APART === undefined) this.skip();
    for (const place of ['/etc', '/usr/local', '/var/lib']) {
      const over = mkdtempSync(join(tmpdir(), 'jg-host-'));
      mkdirSync(join(over, 'up'));
      mkdirSync(join(over, 'work'));
      const options = `lowerdir=${place},upperdir=${over}/up,workdir=${over}/work`;
      expect(spawnSync('mount', ['-t', 'overlay', 'overlay', '-o', options, place]).status, place).to.equal(
        0,
      );
    }
    tellThisMachine();
    const before = held();
    for (const isWhole of [false, true]) {
      field = new Field(isWhole);
      try {
        expect(
          field.console('cat /etc/jolly-gate/startup /run/jolly-gate/running; ls /usr/local/sbin').out,
        ).to.equal('');
        keep(WORKS);
        expect(runs()).to.include({ startup: 'none' }).and.not.have.property('trial');
        expect(field.live('save', BOX).status).to.equal(0);
        field.powerCut();
        field.powerOn();
        expect(runs().running).to.equal(runs().startup);
        expect(field.pings(field.ns.desk, PLACES.far)).to.equal(true);
      } finally {
        field.takeUp();
      }
    }
    expect(held()).to.deep.equal(before);
  });

  it('has nothing left of a run that was killed: no process, namespace or mount', async function () {
    if (process.env.APART === undefined) this.skip();
    const folder = mkdtempSync(join(tmpdir(), 'jg-apart-'));
    const begun = join(folder, 'tmp', 'begun');
    const job = `ip netns add left-over && (setsid ip netns exec left-over sleep 86399 &) && mount -t tmpfs none /mnt && touch "$TMPDIR/begun" && sleep 86398`;
    // Its parent is killed, as by somebody who looks for the name of the command.
    const parent = spawn('sh', ['-c', `bash scripts/apart.sh ${folder} sh -c '${job}'; true`], {
      stdio: 'ignore',
    });
    await until(() => existsSync(begun), 'the job has begun');
    const sleepers = () => spawnSync('pgrep', ['-f', 'sleep 8639[89]'], { encoding: 'utf8' }).stdout;
    expect(sleepers()).to.not.equal('');
    parent.kill('SIGKILL');
    await until(() => sleepers() === '', 'all that it began has ended', sleepers);
    expect(spawnSync('ip', ['netns', 'list'], { encoding: 'utf8' }).stdout).to.not.contain('left-over');
    expect(readFileSync('/proc/mounts', 'utf8')).to.not.match(/ \/mnt /);
    rmSync(folder, { recursive: true, force: true });
  });
});
