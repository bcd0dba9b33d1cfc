/** A switch: learns where MAC addresses are, keeps VLANs apart, speaks 802.1Q on its trunk. IEEE 802.1Q §8.8. */
import type { Mac } from '#core/addr';
import { memo } from '#core/base';
import { BROADCAST, ETHERTYPE, decodeEthernet, decodeIp, retagged } from '#core/wire';
import { macFor } from '#core/site';
import { Aggregate } from './aggregate';
import type { AggregateSetup } from './aggregate';
import { Nic } from './link';
import type { Frame, Machine } from './link';
import type { Scheduler } from './scheduler';
import type { Tracer } from './trace';

interface SwitchPort {
  readonly nic: Nic;
  /** The VLAN of untagged frames; absent where those get nowhere. */
  readonly native?: number;
  /** VLANs that travel tagged; a set for a trunk, absent for an access port. */
  readonly tagged?: ReadonlySet<number>;
}

export class Switch implements Machine {
  private readonly ports: SwitchPort[] = [];
  private readonly aggregates: Aggregate[] = [];
  /** By VLAN, then by address. */
  private readonly learned = new Map<number, Map<Mac, SwitchPort>>();

  constructor(
    readonly name: string,
    private readonly trace?: Tracer,
  ) {}

  /** Adds a port; `tagged` makes it a trunk. VLAN 0 stands for "untagged" on a switch without VLANs. */
  addPort(name: string, native: number | undefined, tagged?: ReadonlySet<number>): Nic {
    const nic = new Nic(this, name);
    this.ports.push({ nic, native, tagged });
    return nic;
  }

  /** A port over several cables: the sockets are plugged, the port is one. */
  addAggregate(
    setup: Omit<AggregateSetup, 'system'>,
    scheduler: Scheduler,
    native: number,
    tagged: ReadonlySet<number>,
  ): readonly Nic[] {
    const made = new Aggregate(this, { ...setup, system: macFor(`switch ${this.name}`) }, scheduler);
    this.aggregates.push(made);
    this.ports.push({ nic: made.nic, native, tagged });
    return made.sockets;
  }

  /** Begins to speak with the other ends of its aggregations. */
  start(): void {
    for (const aggregate of this.aggregates) aggregate.start();
  }

  carrierChanged(nic: Nic): void {
    this.aggregates.find((a) => a.sockets.includes(nic))?.carrierChanged(nic);
    for (const known of this.learned.values())
      for (const [mac, port] of known) if (port.nic === nic) known.delete(mac);
  }

  receive(socket: Nic, frame: Frame): void {
    const aggregate = this.aggregates.find((a) => a.sockets.includes(socket));
    if (aggregate && !aggregate.receive(socket, frame)) return;
    const nic = aggregate?.nic ?? socket;
    const port = this.ports.find((p) => p.nic === nic);
    const ethernet = decodeEthernet(frame.bytes);
    // Slow protocols are for the next machine only (IEEE 802.1Q §8.6.3).
    if (!port || !ethernet.ok || ethernet.value.type === ETHERTYPE.slow) return;
    const { vlan: tag, source, destination } = ethernet.value;
    // A priority tag (VID 0) is untagged traffic, IEEE 802.1Q §6.9.1.
    const id = tag && tag.id !== 0 ? tag.id : undefined;
    if (id !== undefined && id !== port.native && !port.tagged?.has(id)) return;
    if (id !== undefined && !port.tagged) return;
    const vlan = id ?? port.native;
    if (vlan === undefined) return;
    memo(this.learned, vlan, () => new Map<Mac, SwitchPort>()).set(source, port);
    const known = destination === BROADCAST ? undefined : this.find(vlan, destination);
    if (frame.mark !== undefined && this.trace && known && known !== port) {
      const packet = decodeIp(ethernet.value.type, ethernet.value.payload);
      if (packet)
        this.trace(frame.mark, {
          node: this.name,
          stage: 'switch',
          code: 'switched',
          packet,
          interface: port.nic.name,
          jack: known.nic.name,
          tag: vlan === known.native ? undefined : vlan,
        });
    }
    // The frame goes out in two forms at most, each made once and only where somebody needs it.
    const pcp = tag?.pcp ?? 0;
    let tagged = id === undefined ? undefined : frame;
    let bare = tag === undefined ? frame : undefined;
    for (const out of known ? [known] : this.ports) {
      if (out === port || !takes(out, vlan)) continue;
      if (vlan === out.native)
        out.nic.send((bare ??= { bytes: retagged(frame.bytes, undefined), mark: frame.mark }));
      else out.nic.send((tagged ??= { bytes: retagged(frame.bytes, { id: vlan, pcp }), mark: frame.mark }));
    }
  }

  private find(vlan: number, mac: Mac): SwitchPort | undefined {
    return this.learned.get(vlan)?.get(mac);
  }
}

const takes = (port: SwitchPort, vlan: number): boolean => port.native === vlan || !!port.tagged?.has(vlan);
