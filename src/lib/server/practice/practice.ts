/** A box to practise with: what a person would do by hand in a field, done for who only has a screen. */
import { spawnSync } from 'node:child_process';
import { writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { parsePrefix, parseIp } from '#core/addr';
import type { Hand } from '#core/box';
import type { BoxEntry } from '../live/boxes';
import { Field, LINE_SHEET, PLACES, sweep } from './field';

/** The far end of each port's cable. */
const ENDS = {
  p1: ['isp', 'e1'],
  p2: ['isp', 'e2'],
  p3: ['desk', 'd1'],
  p4: ['pc', 's4'],
  p8: ['pc', 's1'],
} as const;

export class Practice extends Field {
  constructor() {
    sweep();
    super();
    const { box, pc } = this.ns;
    // A free port, and the other end of the PC's cable should it be moved there.
    this.batch(undefined, [
      `link add p4 netns ${box} address 02:61:00:00:00:04 type veth peer name s4 netns ${pc}`,
    ]);
    // Nobody has been here before: the key of the box is to be compared once.
    writeFileSync(this.known, '');
    this.powerOn();
  }

  /** How the server calls it: over real ssh, from the PC in the field. */
  get entry(): BoxEntry {
    return {
      name: 'practice',
      target: { user: 'root', host: PLACES.console },
      ssh: { config: this.config, through: ['ip', 'netns', 'exec', this.ns.pc] },
      practice: true,
      sheet: LINE_SHEET,
    };
  }

  /** What the box's console shows of its key. */
  get fingerprint(): string {
    const shown = spawnSync('ssh-keygen', ['-l', '-f', join(this.folder, 'host.pub')], { encoding: 'utf8' });
    return /SHA256:\S+/.exec(shown.stdout)?.[0] ?? '';
  }

  private cable(port: keyof typeof ENDS, state: 'up' | 'down'): void {
    const [who, end] = ENDS[port];
    this.batch(this.ns[who], [`link set ${end} ${state}`]);
    if (who === 'desk' && state === 'up') this.batch(this.ns.desk, ['route replace default via 10.61.20.1']);
  }

  /** Does something in the field; why it cannot is returned. */
  hand(hand: Hand): string | undefined {
    switch (hand.do) {
      case 'plug':
      case 'unplug':
        this.cable(hand.port, hand.do === 'plug' ? 'up' : 'down');
        return undefined;
      case 'sit': {
        const address = parsePrefix(hand.address);
        const gateway = hand.gateway === undefined ? undefined : parseIp(hand.gateway);
        if (!address) return `${hand.address} is no address with its length`;
        if (hand.gateway !== undefined && gateway === undefined) return `${hand.gateway} is no address`;
        const [here, there] = hand.port === 'p8' ? ['s1', 's4'] : ['s4', 's1'];
        this.batch(this.ns.pc, [
          `link set ${there} down`,
          `addr flush dev ${there}`,
          `addr flush dev ${here}`,
          `link set ${here} up`,
          `addr add ${hand.address} dev ${here}`,
        ]);
        // A gateway on no network of the PC leads nowhere, as on any PC.
        if (hand.gateway !== undefined)
          this.in(this.ns.pc, `ip route replace default via ${hand.gateway} dev ${here}`);
        return undefined;
      }
      case 'power':
        this.powerCut();
        this.powerOn();
        return undefined;
      case 'anew':
        this.setUpAnew();
        for (const port of ['p1', 'p2', 'p3'] as const) this.cable(port, 'up');
        return this.hand({
          do: 'sit',
          port: 'p8',
          address: `${PLACES.pc}/26`,
          gateway: PLACES.console,
        });
    }
  }
}
