/**
 * Reads captures of other tools into the flows that they hold. Formats: pcapng (draft-ietf-opsawg-pcapng §4.1–4.4) and
 * pcap (draft-ietf-opsawg-pcap §4–5), either byte order; links of Ethernet and of bare IP.
 *
 * Headers are read leniently and not by `wire`: captures are cut short, and frames that a host sends have checksums
 * that its hardware fills in later.
 */
import { formatIp, ipv4, ipv6, isIpv4, isLinkLocal } from '#core/addr';
import type { Ip } from '#core/addr';

/** Who began something with whom, as far as the capture shows it. */
export interface CapturedFlow {
  readonly source: Ip;
  readonly destination: Ip;
  /** As it is asked for: `tcp 443`, `udp 53`, `ping`, `proto 50`. */
  readonly service: string;
  /** Frames of both directions. */
  readonly frames: number;
}

export interface Capture {
  readonly frames: number;
  /** Frames that are no IP, too short to tell, or for their own segment only (broadcast, multicast, link-local). */
  readonly left: number;
  /** In the order of their first frame; at most {@link MOST_FLOWS}. */
  readonly flows: readonly CapturedFlow[];
}

export const MOST_FLOWS = 500;

const [ETHERNET, RAW_IP] = [1, 101];
const SECTION = 0x0a0d0d0a;
const BYTE_ORDER = 0x1a2b3c4d;

/** Reads a capture; undefined where it is none. A file that is cut off gives what is whole. */
export function readCapture(bytes: Uint8Array): Capture | undefined {
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  if (bytes.length < 24) return undefined;
  const magic = view.getUint32(0, false);
  if (magic === SECTION) return gather(pcapngFrames(view));
  for (const little of [true, false]) {
    const read = view.getUint32(0, little);
    if (read === 0xa1b2c3d4 || read === 0xa1b23c4d) return gather(pcapFrames(view, little));
  }
  return undefined;
}

interface Frame {
  readonly link: number;
  readonly at: number;
  readonly end: number;
  readonly view: DataView;
}

function* pcapFrames(view: DataView, little: boolean): Iterable<Frame> {
  const link = view.getUint32(20, little) & 0xffff;
  for (let at = 24; at + 16 <= view.byteLength;) {
    const size = view.getUint32(at + 8, little);
    const end = at + 16 + size;
    if (end > view.byteLength) return;
    yield { link, at: at + 16, end, view };
    at = end;
  }
}

function* pcapngFrames(view: DataView): Iterable<Frame> {
  let little = true;
  let links: number[] = [];
  for (let at = 0; at + 12 <= view.byteLength;) {
    const isSection = view.getUint32(at, false) === SECTION;
    if (isSection) {
      little = view.getUint32(at + 8, true) === BYTE_ORDER;
      links = [];
    }
    const type = view.getUint32(at, little);
    const size = view.getUint32(at + 4, little);
    const end = at + size;
    // A length that leads nowhere ends the reading.
    if (size < 12 || size % 4 !== 0 || end > view.byteLength) return;
    if (type === 1 && size >= 20) links.push(view.getUint16(at + 8, little));
    else if (type === 6 && size >= 32) {
      const from = at + 28;
      const length = view.getUint32(at + 20, little);
      const link = links[view.getUint32(at + 8, little)];
      if (link !== undefined && from + length <= end - 4) yield { link, at: from, end: from + length, view };
    } else if (type === 3 && size >= 16 && links[0] !== undefined) {
      const length = Math.min(view.getUint32(at + 8, little), size - 16);
      yield { link: links[0], at: at + 12, end: at + 12 + length, view };
    }
    at = end;
  }
}

interface Seen {
  readonly source: Ip;
  readonly destination: Ip;
  readonly protocol: number;
  readonly ports?: readonly [source: number, destination: number];
  /** A TCP segment that begins a connection, or answers one that does. */
  readonly begins?: boolean;
  readonly answers?: boolean;
}

function gather(all: Iterable<Frame>): Capture {
  const flows = new Map<string, { source: Ip; destination: Ip; service: string; frames: number }>();
  let [frames, left] = [0, 0];
  for (const frame of all) {
    frames++;
    const seen = packetIn(frame);
    if (!seen || staysHere(seen.source) || staysHere(seen.destination)) {
      left++;
      continue;
    }
    const there = `${formatIp(seen.source)} ${formatIp(seen.destination)} ${seen.protocol} ${seen.ports?.join(' ') ?? ''}`;
    const back = `${formatIp(seen.destination)} ${formatIp(seen.source)} ${seen.protocol} ${seen.ports ? [...seen.ports].reverse().join(' ') : ''}`;
    const known = flows.get(there) ?? flows.get(back);
    if (known) known.frames++;
    else if (flows.size < MOST_FLOWS) {
      const flow = isReply(seen) ? turned(seen) : seen;
      flows.set(there, {
        source: flow.source,
        destination: flow.destination,
        service: serviceOf(flow),
        frames: 1,
      });
    }
  }
  return { frames, left, flows: [...flows.values()] };
}

/** Whether an address means nothing beyond its segment, so that nothing could be followed. */
const staysHere = (ip: Ip): boolean =>
  isIpv4(ip) ? ip === 0 || ip >= 0xe0000000 : ip >> 120n === 0xffn || isLinkLocal(ip);

/** Whether the first frame that is seen of a flow is an answer: by its flags, else the lower port is who is asked. */
const isReply = ({ begins, answers, ports }: Seen): boolean =>
  answers === true || (begins !== true && !!ports && ports[0] < 1024 && ports[0] < ports[1]);

const turned = (seen: Seen): Seen => ({
  ...seen,
  source: seen.destination,
  destination: seen.source,
  ports: seen.ports && [seen.ports[1], seen.ports[0]],
});

function serviceOf({ protocol, ports }: Seen): string {
  if (protocol === 1 || protocol === 58) return 'ping';
  if (ports) return `${protocol === 6 ? 'tcp' : 'udp'} ${ports[1]}`;
  return `proto ${protocol}`;
}

function packetIn({ link, at, end, view }: Frame): Seen | undefined {
  if (link === RAW_IP) return ipAt(view, at, end);
  if (link !== ETHERNET || at + 14 > end) return undefined;
  let offset = at + 12;
  let type = view.getUint16(offset);
  // 802.1Q and 802.1ad tags.
  while ((type === 0x8100 || type === 0x88a8) && offset + 6 <= end) type = view.getUint16((offset += 4));
  return type === 0x0800 || type === 0x86dd ? ipAt(view, offset + 2, end) : undefined;
}

function ipAt(view: DataView, at: number, end: number): Seen | undefined {
  if (at + 20 > end) return undefined;
  const version = view.getUint8(at) >> 4;
  if (version === 4) {
    const header = (view.getUint8(at) & 15) * 4;
    const isFirst = (view.getUint16(at + 6) & 0x1fff) === 0;
    const base = {
      source: ipv4(view.getUint32(at + 12)),
      destination: ipv4(view.getUint32(at + 16)),
      protocol: view.getUint8(at + 9),
    };
    return isFirst ? { ...base, ...transportAt(view, at + header, end, base.protocol) } : undefined;
  }
  if (version !== 6 || at + 40 > end) return undefined;
  const address = (from: number) => ipv6((view.getBigUint64(from) << 64n) | view.getBigUint64(from + 8));
  const protocol = view.getUint8(at + 6);
  return {
    source: address(at + 8),
    destination: address(at + 24),
    protocol,
    ...transportAt(view, at + 40, end, protocol),
  };
}

function transportAt(view: DataView, at: number, end: number, protocol: number): Partial<Seen> {
  if ((protocol !== 6 && protocol !== 17) || at + 4 > end) return {};
  const ports = [view.getUint16(at), view.getUint16(at + 2)] as const;
  if (protocol === 17 || at + 14 > end) return { ports };
  const flags = view.getUint8(at + 13);
  const syn = (flags & 2) !== 0;
  const ack = (flags & 16) !== 0;
  return { ports, begins: syn && !ack, answers: syn && ack };
}
