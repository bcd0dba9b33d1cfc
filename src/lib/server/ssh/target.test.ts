import { expect } from 'chai';
import { Ssh } from './ssh';
import { readTarget, targetText } from './target';

describe('whom to call', () => {
  it('is a host, with a user and a port where they are said', () => {
    for (const text of [
      'box',
      'admin@10.61.99.1',
      'root@box.example:2222',
      'admin@[2001:db8::1]:22',
      '[fe80::1%p8]',
    ])
      expect(targetText(readTarget(text)!)).to.equal(text);
  });

  it('is nothing that ssh or a shell could take for something else', () => {
    for (const text of [
      '',
      '-oProxyCommand=id',
      'a b',
      'root@-x',
      'box;id',
      'box:0',
      'box:70000',
      '$(id)',
      'a@b@c',
      'root@',
    ])
      expect(readTarget(text), text).to.equal(undefined);
  });

  it('is told to ssh behind `--`, with the key of the target wherever the box is found', () => {
    const args = new Ssh({ user: 'root', host: '10.61.99.1', port: 2222 }).args('10.61.98.1');
    expect(args.slice(-2)).to.deep.equal(['--', '10.61.99.1']);
    expect(args).to.include.members([
      'HostKeyAlias=10.61.99.1',
      'HostName=10.61.98.1',
      'StrictHostKeyChecking=yes',
    ]);
    expect(args).to.include('ControlPath=none');
  });
});
