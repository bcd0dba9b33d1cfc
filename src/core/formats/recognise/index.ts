/** What a dropped or pasted text is, so that the right reader is offered. */
import { parseDocument } from '#core/notation';
import { columnsByHead } from '../address-plan/columns';
import { readHandoff } from '../handoff';

export type Recognised =
  /** The notation. */
  | 'gate'
  /** JSON after YANG. */
  | 'yang'
  /** Reports of `ip -j`. */
  | 'ip-link'
  | 'ip-addr'
  | 'ip-route'
  /** Reports of `ip` without `-j`, which no reader takes. */
  | 'ip-plain'
  /** A table of networks. */
  | 'address-plan'
  /** A provider's sheet. */
  | 'sheet'
  | 'capture'
  | 'unknown';

/** Words that a statement may begin with and prose may not. */
const LEAST_STATEMENTS = 1;

/** Says what a text is, by what stands in it; a name that ends in `.gate` is believed. */
export function recogniseText(text: string, name = ''): Recognised {
  if (name.endsWith('.gate')) return 'gate';
  const trimmed = text.trim();
  if (/^[[{]/.test(trimmed)) return recogniseJson(trimmed);
  const document = parseDocument(text, '');
  const sound = document.statements.filter((s) => !s.broken).length;
  if (sound >= LEAST_STATEMENTS && document.problems.length <= sound) return 'gate';
  if (/^\d+: [\w@.-]+: <[A-Z,_-]+>/m.test(trimmed) || /^default via [\d.]+ dev /m.test(trimmed))
    return 'ip-plain';
  if (isPlan(trimmed)) return 'address-plan';
  const { found } = readHandoff(text);
  const said = [
    found.address,
    found.gateway,
    found.length,
    found.names,
    found.user,
    found.network,
    found.vlan,
  ];
  const isLine = found.kind !== 'static' && said.some((v) => v !== undefined);
  return isLine || said.filter((v) => v !== undefined).length >= 2 ? 'sheet' : 'unknown';
}

/** Whether one of the first lines is the heads of a table of networks, or of devices with their addresses. */
const isPlan = (text: string): boolean =>
  text
    .split('\n', 12)
    .map((line) => columnsByHead(line.split(/[,;\t|]/).map((c) => c.trim().replace(/^"|"$/g, ''))))
    .some(
      (c) =>
        (c.subnet !== undefined && (c.tag !== undefined || c.name !== undefined)) ||
        (c.mac !== undefined && c.address !== undefined),
    );

function recogniseJson(text: string): Recognised {
  let value: unknown;
  try {
    value = JSON.parse(text);
  } catch {
    return 'unknown';
  }
  if (!Array.isArray(value))
    return Object.keys(value as object).some((k) => /^(ietf-interfaces|ietf-ip|jolly-gate)\b/.test(k))
      ? 'yang'
      : 'unknown';
  const has = (key: string) => value.some((v: unknown) => typeof v === 'object' && v !== null && key in v);
  if (has('addr_info')) return 'ip-addr';
  if (has('dst')) return 'ip-route';
  return has('ifname') ? 'ip-link' : 'unknown';
}

/** Whether bytes are a capture: pcapng, or pcap of either byte order and resolution. */
export function isCapture(bytes: Uint8Array): boolean {
  const head = [...bytes.subarray(0, 4)].map((b) => b.toString(16).padStart(2, '0')).join('');
  return ['0a0d0d0a', 'd4c3b2a1', 'a1b2c3d4', '4d3cb2a1', 'a1b23c4d'].includes(head);
}
