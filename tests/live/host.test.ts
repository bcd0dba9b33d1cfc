/**
 * The machine that tests and practice boxes run on: told by hand itself, with files of others where ours go, and with what a
 * run left that was killed. Boxes see nothing of it and change nothing of it.
 */
import { expect } from 'chai';
import { spawn, spawnSync } from 'node:child_process';
import type { ChildProcess } from 'node:child_process';
import { createHash } from 'node:crypto';
import {
  cpSync,
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

/** Files outside the checkout that have changed since a file was made, names in the user's home, users, namespaces, mounts. */
function listed(folder?: string): Record<string, string> {
  const said = (line: string) => spawnSync('sh', ['-c', line], { encoding: 'utf8' }).stdout;
  const marker = join(process.env.APART!, 'began');
  if (!existsSync(marker)) writeFileSync(marker, '');
  return {
    files: said(
      `find /etc /usr /var/lib /opt /srv /boot -xdev -path "$PWD" -prune -o -newer ${marker} -print -o -cnewer ${marker} -print`,
    ),
    temporary: readdirSync(tmpdir())
      .filter((name) => folder === undefined || !folder.endsWith(name))
      .join('\n'),
    home: said('cd "$(getent passwd 0 | cut -d: -f6)" && ls -A . .config .cache 2>/dev/null'),
    packages: said('sha256sum /var/lib/dpkg/status /etc/passwd /etc/group'),
    namespaces: said('ip netns list'),
    mounts: readFileSync('/proc/mounts', 'utf8'),
  };
}

/** An archive of two packages, one of which needs the other, as the only one that this machine knows. */
function archiveOf(folder: string): void {
  const shell = (line: string): void => {
    const done = spawnSync('sh', ['-ec', line], { encoding: 'utf8', cwd: folder });
    expect(done.status, done.stderr).to.equal(0);
  };
  shell(
    'mkdir archive; mount -t tmpfs none /etc/apt; cd /etc/apt; mkdir trusted.gpg.d apt.conf.d preferences.d',
  );
  writeFileSync('/etc/apt/sources.list', `deb [trusted=yes] copy:${folder}/archive ./\n`);
  const packages: string[] = [];
  for (const [name, needs] of [
    ['jg-shed', 'base-files, jg-shed-more'],
    ['jg-shed-more', 'base-files'],
  ] as const) {
    const control = `Package: ${name}\nVersion: 1\nArchitecture: all\nMaintainer: nobody <nobody@example.com>\nDepends: ${needs}\nDescription: of a test\n`;
    shell(
      `mkdir -p ${name}/DEBIAN ${name}/usr/sbin ${name}/lib ${name}/etc
       echo lib of ${name} >${name}/lib/${name}; echo x >${name}/etc/${name}
       printf '#!/bin/sh\ncat /usr/lib/jg-shed-more\n' >${name}/usr/sbin/${name}; chmod 755 ${name}/usr/sbin/${name}
       printf '#!/bin/sh\ntouch /etc/jg-was-installed\n' >${name}/DEBIAN/postinst; chmod 755 ${name}/DEBIAN/postinst`,
    );
    writeFileSync(join(folder, name, 'DEBIAN', 'control'), control);
    shell(`dpkg-deb --build ${name} archive/${name}.deb`);
    const deb = readFileSync(join(folder, 'archive', `${name}.deb`));
    const sum = createHash('sha256').update(deb).digest('hex');
    packages.push(`${control}Filename: ./${name}.deb\nSize: ${deb.length}\nSHA256: ${sum}\n`);
  }
  writeFileSync(join(folder, 'archive', 'Packages'), packages.join('\n'));
}

/** The demo, as its script starts it once all is built; ready when it says where it is. */
async function beginDemo(): Promise<ChildProcess> {
  const line = readFileSync('scripts/demo.sh', 'utf8').trim().split('\n').at(-1)!;
  const demo = spawn('bash', ['-c', `${line} --port 0`], { stdio: ['ignore', 'pipe', 'inherit'] });
  let said = '';
  demo.stdout.on('data', (text: Buffer) => (said += text.toString()));
  await until(
    () => said.includes('shows its host key'),
    'the demo has its practice box',
    () => said,
  );
  return demo;
}

/** What runs of a practice field, in this process namespace. */
const fieldProcesses = (): string =>
  spawnSync('ps', ['-C', 'sshd,dnsmasq,python3', '-o', 'pid=,args='], { encoding: 'utf8' }).stdout;

describe('the machine that boxes are tried on', () => {
  let field: Field;
  const { keep, runs } = storyOf(() => field);
  before(needsField);

  it('may have been told by hand: a box begins from nothing, and what was found is untouched', function () {
    // These are places of this machine: only in a mount namespace of the test's own may anything be put there.
    if (process.env.APART === undefined) this.skip();
    // Mounts of files do not show through what is laid over a folder.
    const users = ['/etc/passwd', '/etc/group'].map((file) => [file, readFileSync(file)] as const);
    for (const place of ['/etc', '/usr/local', '/var/lib']) {
      const over = mkdtempSync(join(tmpdir(), 'jg-host-'));
      mkdirSync(join(over, 'up'));
      mkdirSync(join(over, 'work'));
      const options = `lowerdir=${place},upperdir=${over}/up,workdir=${over}/work`;
      expect(spawnSync('mount', ['-t', 'overlay', 'overlay', '-o', options, place]).status, place).to.equal(
        0,
      );
    }
    for (const [file, lines] of users) writeFileSync(file, lines);
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

  it('has programs fetched for it, not installed: no package, user or unit is new, and no file outside', function () {
    if (process.env.APART === undefined) this.skip();
    const folder = mkdtempSync(join(tmpdir(), 'jg-shed-'));
    archiveOf(folder);
    cpSync('scripts', join(folder, 'scripts'), { recursive: true });
    const before = listed(folder);
    const run = (script: string, words: string[], input = '') =>
      spawnSync('bash', [join(folder, 'scripts', script), ...words], { encoding: 'utf8', input });
    const list = 'jg-shed jg-shed\nsh dash\n';
    const fetched = run('tools.sh', [], list);
    expect(fetched.status, fetched.stderr).to.equal(0);
    expect(fetched.stderr).to.contain('fetched into build/tools, not installed: jg-shed\n');
    expect(spawnSync('sh', ['-c', 'command -v jg-shed']).status).to.not.equal(0);
    expect(run('with-tools.sh', ['jg-shed']).stdout).to.equal('lib of jg-shed-more\n');
    expect(run('with-tools.sh', ['sh', '-c', 'id -un unbound; ls /usr/local']).stdout).to.equal(
      `unbound\n${readdirSync('/usr/local').join('\n')}\n`,
    );
    // What is there is not fetched again, and what no archive has is named.
    expect(run('tools.sh', [], list)).to.include({ status: 0, stderr: '' });
    const none = run('tools.sh', [], 'jg-none jg-none\n');
    expect(none.status).to.not.equal(0);
    expect(none.stderr).to.contain('jg-none');
    expect(listed(folder)).to.deep.equal(before);
  });

  it('has nothing left of a demo that was ended, nor, once there was another, of one that was killed', async function () {
    if (process.env.APART === undefined) this.skip();
    const before = listed();
    const killed = await beginDemo();
    expect(fieldProcesses()).to.contain('sshd');
    killed.kill('SIGKILL');
    await until(() => fieldProcesses() === '', 'all that it began has ended', fieldProcesses);
    for (const signal of ['SIGHUP', 'SIGTERM', 'SIGINT'] as const) {
      const demo = await beginDemo();
      demo.kill(signal);
      await until(() => demo.exitCode !== null || demo.signalCode !== null, `${signal} ends it`);
      expect(fieldProcesses()).to.equal('');
      expect(listed(), signal).to.deep.equal(before);
    }
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
