/** Connections that stay open: one for each box, told apart by all that ssh is told of it, and only where nobody else reads. */
import { expect } from 'chai';
import { spawnSync } from 'node:child_process';
import { chmodSync, mkdirSync, mkdtempSync, rmSync, symlinkSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { Ssh } from './ssh';

describe('a connection that stays open', () => {
  const folder = mkdtempSync(join(tmpdir(), 'jg-ssh-'));
  const before_ = process.env.XDG_RUNTIME_DIR;
  before(function () {
    if (spawnSync('ssh', ['-V']).error) this.skip();
  });
  beforeEach(() => (process.env.XDG_RUNTIME_DIR = mkdtempSync(join(folder, 'run-'))));
  after(() => {
    if (before_ === undefined) delete process.env.XDG_RUNTIME_DIR;
    else process.env.XDG_RUNTIME_DIR = before_;
    rmSync(folder, { recursive: true });
  });

  /** Its socket, or `none`, by a configuration and the keys that are known. */
  const socketOf = (configured: string, known = '', at?: string): string => {
    const [config, keys] = [join(folder, 'config'), join(folder, 'known')];
    writeFileSync(keys, known);
    const files = `  UserKnownHostsFile ${keys}\n  GlobalKnownHostsFile /dev/null\n`;
    writeFileSync(config, `Host *\n${files}${configured}`);
    const args = new Ssh({ user: 'root', host: '10.61.99.1' }, { config }).args(at, true);
    return args.find((a) => a.startsWith('ControlPath='))!.slice('ControlPath='.length);
  };
  const KEY = 'ssh-ed25519 AAAAC3NzaC1lZDI1NTE5AAAAIOMqqnkVzrm0SdG6UOoqKLsabgH5C9okWi0dh2l9GKJl';
  const OTHER = KEY.replace('GKJl', 'GKJk');

  it('is the same for the same box, and another where anything that tells boxes apart is', () => {
    const one = () => socketOf('  ProxyJump hall.example\n', `10.61.99.1 ${KEY}\n`);
    const others = [
      socketOf('  ProxyJump shed.example\n', `10.61.99.1 ${KEY}\n`),
      socketOf('  ProxyJump hall.example\n', `10.61.99.1 ${OTHER}\n`),
      socketOf('  ProxyJump hall.example\n'),
      socketOf('  ProxyJump hall.example\n  Port 2222\n', `[10.61.99.1]:2222 ${KEY}\n`),
      socketOf('  ProxyJump hall.example\n', `10.61.99.1 ${KEY}\n`, '10.61.98.1'),
    ];
    const folder_ = process.env.XDG_RUNTIME_DIR!;
    expect(one())
      .to.equal(one())
      .and.to.satisfy((s: string) => s.startsWith(folder_));
    expect(new Set([one(), ...others]).size).to.equal(others.length + 1);
    // Keys of other hosts do not count.
    expect(socketOf('  ProxyJump hall.example\n', `10.61.99.1 ${KEY}\n10.61.99.2 ${OTHER}\n`)).to.equal(
      one(),
    );
  });

  it('is had in no folder that others may enter, and in none that is a link', () => {
    const place = join(process.env.XDG_RUNTIME_DIR!, `jolly-gate-${process.getuid!()}`);
    mkdirSync(place);
    chmodSync(place, 0o755);
    expect(socketOf('')).to.equal('none');
    rmSync(place, { recursive: true });
    mkdirSync(`${place}-elsewhere`, { mode: 0o700 });
    symlinkSync(`${place}-elsewhere`, place);
    expect(socketOf('')).to.equal('none');
  });
});
