/** From the lines of a sheet to the values that stand on it, each with the label that announces it. Nothing is made up. */
import { formatIp, lengthOfMask, parseIp, parseIpv4 } from '#core/addr';
import type { Ip, Ipv4 } from '#core/addr';
import { labelsIn, plain } from './labels';
import type { Field, Label } from './labels';

/** An address as it stands on the sheet. */
export interface Value {
  readonly field?: Field;
  /** Which writing of the label: values behind the same one belong together. */
  readonly label?: string;
  readonly address: Ip;
  /** As written behind a slash; 0–32, for IPv6 0–128. */
  readonly length?: number;
  /** The end of a range, of the same family. */
  readonly last?: Ipv4;
  /** Whether the line says that the address is reached on the link itself. */
  readonly onlink: boolean;
  /** For a block that is routed: to whom, where the line says so. */
  readonly routedTo?: Ipv4;
}

/** Fields whose values are no addresses. */
type WordField = 'vlan' | 'mtu' | 'user' | 'secret';

/** What looks like a value and is none. */
export interface Odd {
  readonly code: 'octet-invalid' | 'length-invalid' | 'mask-invalid' | 'vlan-invalid' | 'mtu-invalid';
  readonly written: string;
}

export interface Scanned {
  readonly values: readonly Value[];
  /** Lengths and masks that stand by themselves, in order. */
  readonly lengths: readonly number[];
  readonly lengths6: readonly number[];
  /** Values of fields that are no addresses: all that are given, in order, each once. */
  readonly words: ReadonlyMap<WordField, readonly string[]>;
  readonly odd: readonly Odd[];
}

const DASH = '(?:-|–|—|\\.\\.\\.?|(?<![a-z])(?:to|bis|a|à|hasta|tot|t/m|do|al|ate|até|till|az|až)(?![a-z]))';
const QUAD = '(?<![\\d.])\\d{1,4}(?:\\.\\d{1,4}){3}(?![\\d]|\\.\\d)';
const SHORT = '(?<![\\w.])\\.\\d{1,3}(?![\\w.]*\\d)';
const IPV6 = '(?<![\\w:.])(?:[0-9a-fA-F]{0,4}:){2,7}[0-9a-fA-F]{0,4}(?![\\w:])';
const VALUE = new RegExp(
  `(${QUAD})(?: ?/ ?(\\d{1,3})(?!\\d|\\.\\d))?(?: {0,3}${DASH} {0,3}(${QUAD}|\\.?\\d{1,3}(?![\\d.])))?|(${SHORT})(?: {0,3}${DASH} {0,3}(\\.?\\d{1,3})(?![\\d.]))?|(${IPV6})(?: ?/ ?(\\d{1,3})(?!\\d|\\.\\d))?|(?<![\\w/.])/(\\d{1,3})(?!\\d|/)`,
  'g',
);
const ONLINK =
  /on-?link|directly (?:reachable|connected)|direkt erreichbar|directement (?:joignable|connecte)|directamente conectad|rechtstreeks bereikbaar|bezposrednio osiagaln|direttamente raggiungibil|diretamente ligad|primo dostupn|direkt ansluten/;
const ROUTED_TO =
  /(?:is |are |will be |wird |werden |est |sont |es |son |wordt |worden |jest |sa |e |viene |sao |je |jsou |ar )?(?:routed|geroutet|route[es]?|enrutad[oa]s?|gerouteerd|routowan[aey]|trasowan[aey]|instradat[oaie]|encaminhad[oa]s?|smerovan[aoy]?|routas?|routat|dirigerad)(?: statically| statisch)? (?:to|via|towards|through|auf|uber|nach|an|vers|a traves de|por|hacia|a|naar|na|do|przez|verso|tramite|para|pres|till|mot)(?![a-z])/;
/** Between a value and the label behind it: `198.51.100.17 (gateway)`, `198.51.100.17 is your gateway`. */
const NAMES_WHAT_WAS =
  /^\s*[(=]\s*$|^\s*,?\s*(?:is|as|ist|als|est|es|comme|como|jest|je|ar|som|e|come|jako)\s+(?:your|the|our|ihr|votre|su|el|la|le|der|das|de|het|il|lo|o|a|uw|er)?\s*$/;

/** Reads the lines of one circuit. Costs what the text is long. */
export function scan(text: string): Scanned {
  const values: Value[] = [];
  const lengths: number[] = [];
  const lengths6: number[] = [];
  const odd: Odd[] = [];
  const words = new Map<WordField, string[]>();
  let base: Ipv4 | undefined;
  let carried: Label | undefined;
  let carriedAt = '';
  let header: { field: Field; cell: number }[] = [];
  for (const [row, raw] of text.replace(/\r/g, '').split('\n').entries()) {
    if (raw.trim() === '') {
      carried = undefined;
      continue;
    }
    const line = plain(raw);
    const labels = labelsIn(line);
    const cells = cellsOf(raw);
    const hasValue = /\d{1,3}\.\d{1,3}\.\d{1,3}|(?<![\w.])\.\d|[0-9a-f]:[0-9a-f]{0,4}:/i.test(raw);
    // A row of labels without values heads the columns below it.
    if (!hasValue && cells.length > 1) {
      const heads = cells.map(
        (cell) => labels.find((l) => l.start >= cell.start && l.end <= cell.end)?.field,
      );
      if (heads.filter((f) => f && f !== 'ignore').length > 1) {
        header = heads.flatMap((field, cell) => (field ? [{ field, cell }] : []));
        continue;
      }
    }
    readWords(raw, labels, words, odd);
    const routed = ROUTED_TO.exec(line);
    const onlink = ONLINK.test(line);
    const inColumns = header.length > 1 && cells.length >= header.length && labels.length === 0;
    let [l, c] = [0, 0];
    for (const match of raw.matchAll(VALUE)) {
      const at = match.index;
      const end = at + match[0].length;
      while (l < labels.length && labels[l]!.end <= at) l++;
      while (c + 1 < cells.length && cells[c]!.end <= at) c++;
      const before = labels[l - 1];
      const label = before ?? labelBehind(line, labels, l, end);
      let field = label?.field;
      let key = label && `${row} ${label.start}`;
      if (!field && inColumns) field = header.find((h) => h.cell === c)?.field;
      if (!field && labels.length === 0 && carried) [field, key] = [carried.field, carriedAt];
      if (routed && at < routed.index && match[2] !== undefined && (!field || field === 'network'))
        field = 'routed';
      if (field && NO_ADDRESS.has(field)) field = undefined;
      const [, quad, quadLength, to, short, shortTo, six, sixLength, bareLength] = match;
      if (bareLength !== undefined) {
        addLength(Number(bareLength), `/${bareLength}`);
        continue;
      }
      if (six !== undefined) {
        const address = parseIp(six);
        if (address === undefined) continue;
        const length = sixLength === undefined ? undefined : Number(sixLength);
        if (length !== undefined && length > 128)
          odd.push({ code: 'length-invalid', written: match[0].trim() });
        else values.push({ field, label: key, address, length, onlink });
        continue;
      }
      const first = quad === undefined ? shortOf(short!, base) : parseIpv4(quad);
      if (first === undefined) {
        if (quad !== undefined) odd.push({ code: 'octet-invalid', written: quad });
        continue;
      }
      if (field === 'mask' || (looksLikeMask(first) && field !== 'gateway')) {
        const maskLength = lengthOfMask(first);
        if (maskLength === undefined) odd.push({ code: 'mask-invalid', written: formatIp(first) });
        else lengths.push(maskLength);
        continue;
      }
      const length = quadLength === undefined ? undefined : Number(quadLength);
      if (length !== undefined && length > 32)
        odd.push({ code: 'length-invalid', written: `${quad}/${quadLength}` });
      if (routed && at >= routed.index) {
        // Whom a block is routed to, where the line's block stands before.
        const block = values.at(-1);
        if (block?.field === 'routed' && block.routedTo === undefined)
          values[values.length - 1] = { ...block, routedTo: first };
        if (!before || before.end <= routed.index + routed[0].length) continue;
      }
      base ??= first;
      const [last, bad] = endOf(to ?? shortTo, first);
      if (bad !== undefined) odd.push({ code: 'octet-invalid', written: bad });
      values.push({
        field,
        label: key,
        address: first,
        length: length !== undefined && length > 32 ? undefined : length,
        last,
        onlink,
      });
    }
    const open = labels[labels.length - 1];
    const goesOn = open && (!hasValue || open.field === 'names' || open.field === 'further');
    if (goesOn) [carried, carriedAt] = [open, `${row} ${open.start}`];
    else if (labels.length) carried = undefined;
  }
  return { values, lengths, lengths6, words, odd };

  function addLength(number: number, written: string): void {
    if (number >= 1 && number <= 32) lengths.push(number);
    else if (number > 32 && number <= 128 && /[0-9a-f]:[0-9a-f]{0,4}:/i.test(text)) lengths6.push(number);
    else odd.push({ code: 'length-invalid', written });
  }

  /** Reads values that are no addresses: a user, a password, a VLAN, an MTU, a length in figures. */
  function readWords(
    raw: string,
    labels: readonly Label[],
    out: Map<WordField, string[]>,
    strange: Odd[],
  ): void {
    const add = (field: WordField, word: string) => {
      const known = out.get(field) ?? [];
      if (!known.includes(word)) out.set(field, [...known, word]);
    };
    const starts = new Set(labels.map((l) => l.start));
    for (const [i, label] of labels.entries()) {
      const rest = raw.slice(label.end, Math.min(labels[i + 1]?.start ?? raw.length, label.end + 200));
      switch (label.field) {
        case 'vlan':
        case 'mtu': {
          const number = /^\W{0,6}(?:id|tag|nr|no|is|ist|=|:)?\W{0,4}(\d{1,6})\b(?!\.?\d)/i.exec(rest)?.[1];
          if (number === undefined) break;
          const [least, most] = label.field === 'vlan' ? [1, 4094] : [68, 65535];
          if (Number(number) >= least && Number(number) <= most) add(label.field, String(Number(number)));
          else
            strange.push({ code: label.field === 'vlan' ? 'vlan-invalid' : 'mtu-invalid', written: number });
          break;
        }
        case 'mask': {
          const number = /^\s*(?:[:=|]|\bis\b|\bist\b|\best\b|\bes\b)?\s*(\d{1,3})(?![\d.]|\w)/.exec(
            rest,
          )?.[1];
          if (number !== undefined) addLength(Number(number), number);
          break;
        }
        case 'user':
        case 'secret': {
          const word = wordOf(raw, label, starts);
          if (word !== undefined) add(label.field, word);
          break;
        }
        default:
          break;
      }
    }
  }
}

/** Labels that announce no address. */
const NO_ADDRESS: ReadonlySet<Field> = new Set<Field>([
  'vlan',
  'mtu',
  'ignore',
  'user',
  'secret',
  'broadcast',
]);

/** What stands in place of a value that comes by another way. */
const NOT_HERE =
  /^(?:[-–—*•.x?_/]+|n\/?a|tba|tbd|tbc|none|nil|see|sent|separate(?:ly)?|unchanged|letter|mail|post|sms|secret|brief|siehe|separat|voir|courrier|ver|carta|zie|apart|osobno|listownie|lettera|posta|correio|dopisem|zvlast|separat)$/;

const IS = '(?:is|ist|est|es|e|jest|je|ar|lautet)';
const QUOTED = new RegExp(`^[^"\\w]{0,4}(?:\\b${IS}\\b)?[\\s:=]{0,4}"([^"]+)"`);
const TOLD = new RegExp(`^\\s${IS}\\s(\\S.*)$`, 'i');

/**
 * The one word behind a label, in quotes or between a sign (or a gap) and the end. Several words are prose, which says
 * that the value comes by another way: "Password: will be sent by letter".
 */
function wordOf(raw: string, label: Label, starts: ReadonlySet<number>): string | undefined {
  const rest = raw.slice(label.end, label.end + 200).replace(/^ ?\([^)]{0,40}\)/, '');
  const quoted = QUOTED.exec(rest)?.[1];
  if (quoted !== undefined) return quoted;
  const signed = /^(?:\s{0,20}[:=|]\s{0,20}|\t+|\s{2,20})(\S.*)$/.exec(rest)?.[1];
  const told = signed ?? TOLD.exec(rest)?.[1];
  const match = told === undefined ? null : /^(\S+?)([,;]?)(?=\s|$)/.exec(told);
  if (told === undefined || !match) return undefined;
  const said = match[1]!;
  if (NOT_HERE.test(plain(said))) return undefined;
  // Behind it comes the end, another cell, a remark or another label; else it is the first word of a sentence.
  const after = told.slice(match[0].length);
  const joined = /^\s*(?:(?:and|und|et|y|en|i|oraz|e|a|och)\s+)?/.exec(after)![0].length;
  const next = raw.indexOf(match[0], label.end) + match[0].length + joined;
  const ends = match[2] !== '' || /^(?:\s*$|\t|\s{2,}|\s*\||\s\()/.test(after);
  if (!ends && !starts.has(next)) return undefined;
  // In running text only what cannot be a common word is a value.
  if (signed !== undefined) return said;
  const bare = said.replace(/[.!]$/, '');
  return /[^\p{L}-]/u.test(bare) ? bare : undefined;
}

/** A label behind a value that has none before it. */
function labelBehind(line: string, labels: readonly Label[], from: number, end: number): Label | undefined {
  const next = labels[from];
  if (!next || next.start - end > 40) return undefined;
  const between = line.slice(end, next.start);
  if (NAMES_WHAT_WAS.test(between)) return next;
  // Or the label ends the line, with nothing behind it that it could announce.
  return /^\s*$/.test(between) && from === labels.length - 1 && !/\d/.test(line.slice(next.end))
    ? next
    : undefined;
}

export interface Cell {
  readonly text: string;
  readonly start: number;
  readonly end: number;
}

/** The cells of a table row: divided by tabs, bars, semicolons, or runs of spaces. */
export function cellsOf(raw: string): Cell[] {
  const out: Cell[] = [];
  let at = 0;
  const add = (end: number) => {
    const text = raw.slice(at, end);
    if (text.trim() !== '') out.push({ text, start: at, end });
  };
  for (const gap of raw.matchAll(/[\t|;]| {2,}/g)) {
    add(gap.index);
    at = gap.index + gap[0].length;
  }
  add(raw.length);
  return out;
}

/** A short address with the base's leading octets. */
function shortOf(text: string, base: Ipv4 | undefined): Ipv4 | undefined {
  if (base === undefined) return undefined;
  const octet = Number(text.slice(1));
  return octet <= 255 ? ((base - (base & 255) + octet) as Ipv4) : undefined;
}

/** The end of a range that starts at an address; or what is written where it cannot be one. */
function endOf(end: string | undefined, first: Ipv4): readonly [Ipv4 | undefined, string | undefined] {
  if (end === undefined) return [undefined, undefined];
  const whole = end.includes('.') && !end.startsWith('.');
  const last = whole ? parseIpv4(end) : shortOf(end.startsWith('.') ? end : `.${end}`, first);
  return last === undefined ? [undefined, end] : [last, undefined];
}

const looksLikeMask = (address: Ipv4): boolean => address >>> 24 === 255;
