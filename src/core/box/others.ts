/** Who else configures a live box, as its hinge tells it. */

/** Somebody else who configures a device of a box, or every one of them. */
export interface Other {
  /** A program: `ifupdown`, `client` (of DHCP), `networkd`, `NetworkManager`, `connman`, `dhcpcd`, `keepalived`, `nftables`. */
  readonly who: string;
  /** Absent where it is not for one device. */
  readonly device?: string;
  /** Its file, or the name of a client. */
  readonly how?: string;
}

/** Reads a line `WHO DEVICE HOW`. */
export function readOther(line: string): Other {
  const [who = '', device = '-', how] = line.split(' ');
  return { who, device: device === '-' ? undefined : device, how };
}

/** Programs that configure whatever they find, where they name no device. */
const EVERYWHERE: ReadonlySet<string> = new Set(['client', 'NetworkManager', 'connman', 'dhcpcd']);

/** Those who configure a device that a text is about to configure, too: both would set addresses and routes. */
export const rivals = (others: readonly Other[], devices: ReadonlySet<string>): Other[] =>
  others.filter((o) => (o.device === undefined ? EVERYWHERE.has(o.who) : devices.has(o.device)));
