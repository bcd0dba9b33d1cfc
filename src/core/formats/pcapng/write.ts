/**
 * Capture files in pcapng: one interface block for each port, packets with their moment, direction and a comment.
 * Format: "PCAP Next Generation (pcapng) Capture File Format" (IETF draft-ietf-opsawg-pcapng), §4.1–4.3, little-endian.
 */

/** One frame as it was on a cable. */
export interface CapturedFrame {
  /** Virtual time, milliseconds. */
  readonly time: number;
  /** The port of the box. */
  readonly port: string;
  readonly inbound: boolean;
  readonly bytes: Uint8Array;
  /** Whether it belongs to the flow that is told of. */
  readonly followed?: boolean;
}

const ETHERNET = 1;
const encoder = (text: string): number[] => {
  // UTF-8 by hand: the core knows no TextEncoder.
  const out: number[] = [];
  for (const char of text) {
    const c = char.codePointAt(0)!;
    if (c < 0x80) out.push(c);
    else if (c < 0x800) out.push(0xc0 | (c >> 6), 0x80 | (c & 63));
    else if (c < 0x10000) out.push(0xe0 | (c >> 12), 0x80 | ((c >> 6) & 63), 0x80 | (c & 63));
    else out.push(0xf0 | (c >> 18), 0x80 | ((c >> 12) & 63), 0x80 | ((c >> 6) & 63), 0x80 | (c & 63));
  }
  return out;
};

const u16 = (v: number): number[] => [v & 255, (v >>> 8) & 255];
const u32 = (v: number): number[] => [v & 255, (v >>> 8) & 255, (v >>> 16) & 255, (v >>> 24) & 255];
const padded = (bytes: readonly number[]): number[] => [
  ...bytes,
  ...Array<number>((4 - (bytes.length % 4)) % 4).fill(0),
];
const option = (code: number, value: readonly number[]): number[] => [
  ...u16(code),
  ...u16(value.length),
  ...padded(value),
];

function block(type: number, body: readonly number[]): number[] {
  const length = 12 + body.length;
  return [...u32(type), ...u32(length), ...body, ...u32(length)];
}

/**
 * The whole file. Frames keep their order; ports are numbered in the order of their first frame. `say` makes the
 * comment of a frame of the followed flow from its moment.
 */
export function writePcapng(frames: readonly CapturedFrame[], say?: (time: number) => string): Uint8Array {
  const ports = [...new Set(frames.map((f) => f.port))];
  const out: number[][] = [
    block(0x0a0d0d0a, [...u32(0x1a2b3c4d), ...u16(1), ...u16(0), ...u32(0xffffffff), ...u32(0xffffffff)]),
    ...ports.map((port) =>
      // if_name (2), if_tsresol (9) 10^-6, end of options.
      block(1, [
        ...u16(ETHERNET),
        ...u16(0),
        ...u32(0),
        ...option(2, encoder(port)),
        ...option(9, [6]),
        ...u32(0),
      ]),
    ),
    ...frames.map((frame) => {
      const micros = Math.round(frame.time * 1000);
      return block(6, [
        ...u32(ports.indexOf(frame.port)),
        ...u32(Math.floor(micros / 2 ** 32)),
        ...u32(micros % 2 ** 32),
        ...u32(frame.bytes.length),
        ...u32(frame.bytes.length),
        ...padded([...frame.bytes]),
        ...(frame.followed && say ? option(1, encoder(say(frame.time))) : []),
        // epb_flags (2): the two low bits are the direction, 1 inbound, 2 outbound.
        ...option(2, u32(frame.inbound ? 1 : 2)),
        ...u32(0),
      ]);
    }),
  ];
  return Uint8Array.from(out.flat());
}
