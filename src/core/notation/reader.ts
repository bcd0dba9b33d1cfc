/** Reads the words of one clause or header into values, noting what it could not read and where. */
import { extend, parseDay } from '#core/base';
import type { Day } from '#core/base';
import {
  NAMED_SERVICES,
  compareIp,
  contains,
  familyOf,
  formatIp,
  formatPrefix,
  hostBitsSet,
  isIpv4,
  lengthOfMask,
  networkOf,
  parseIpv4,
  parseMac,
} from '#core/addr';
import type { Ip, Mac, Prefix, Range, ServiceItem, Services } from '#core/addr';
import type { At, ReadCode, ReadFaults, ReadProblem, Ref, Who } from './ast';
import { resolveShort } from './base';
import type { Base } from './base';
import { QUALIFYING_KINDS, isFarName, isName, isReserved, nearest, nameLike } from './grammar';
import type { Kind } from './grammar';
import { placeOf } from './lexer';
import type { Span, Token } from './lexer';

/** Collects what is wrong with one statement. */
export class Problems {
  readonly list: ReadProblem[] = [];
  constructor(
    private readonly file: string,
    private readonly subject: string,
  ) {}

  add<C extends ReadCode>(
    code: C,
    at: Span,
    values: ReadFaults[C],
    proposal?: { text: string; at?: Span },
  ): undefined {
    const problem = {
      code,
      file: this.file,
      subject: this.subject,
      at: { start: at.start, end: at.end, line: at.line, column: at.column },
      values,
      proposal: proposal && { text: proposal.text, at: proposal.at ?? at },
      fatal: code === 'syntax' || code === 'name-reserved',
    };
    this.list.push(problem as ReadProblem);
    return undefined;
  }

  /** A fault of form: `got` was met where `expected` should stand. */
  syntax(at: Span, got: string, expected: string, proposal?: { text: string; at?: Span }): undefined {
    return this.add('syntax', at, { got, expected }, proposal);
  }
}

const through = (from: Span, to: Span): Span => ({
  start: from.start,
  end: to.end,
  line: from.line,
  column: from.column,
});

/** What one address word says: one address or a range, with a length where one was written. */
interface AddressWord {
  readonly range: Range;
  readonly isRange: boolean;
  readonly short: boolean;
  readonly length?: number;
  readonly badLength?: string;
}

/** How an address word is treated. */
interface AddressOptions {
  /** Short addresses outside the base's subnet: a fault here, or left to a finding of the clause's own. */
  readonly outside?: 'fault' | 'finding';
}

/** A cursor over words. Every method that fails notes why and returns undefined. */
export class Words {
  constructor(
    private readonly words: readonly Token[],
    /** Where to point when the words have run out. */
    private readonly around: Span,
    /** What short addresses lean on, asked for by the first that is met. */
    private readonly baseOf: () => Base | undefined,
    readonly problems: Problems,
    /** The first word to read. */
    private i = 0,
  ) {
    this.from = i;
  }

  private readonly from: number;

  get peek(): Token | undefined {
    return this.words[this.i];
  }

  next(): Token | undefined {
    return this.words[this.i++];
  }

  get done(): boolean {
    return this.i >= this.words.length;
  }

  /** All words from the first to the one just read. */
  get span(): Span {
    const first = this.words[this.from] ?? this.around;
    return through(first, this.words[Math.max(this.from, this.i - 1)] ?? first);
  }

  /** The first token of a kind that is still to be read. */
  find(kind: Token['kind']): Token | undefined {
    return this.words.find((t, i) => i >= this.i && t.kind === kind);
  }

  is(word: string): boolean {
    return this.peek?.kind === 'word' && this.peek.text === word;
  }

  eat(word: string): Token | undefined {
    return this.is(word) ? this.next() : undefined;
  }

  fault(expected: string, proposal?: string): undefined {
    const token = this.peek;
    if (token) {
      this.i++;
      return this.problems.syntax(
        token,
        token.text,
        expected,
        proposal === undefined ? undefined : { text: proposal },
      );
    }
    const end = this.words[this.words.length - 1] ?? this.around;
    return this.problems.syntax(end, 'nothing more', expected);
  }

  /** The given word, or a fault. */
  want(word: string): Token | undefined {
    const token = this.eat(word);
    if (token) return token;
    const near = this.peek && nearest(this.peek.text, [word]);
    this.fault(`\`${word}\``, near);
    return undefined;
  }

  /** Faults whatever is left over. */
  end(): void {
    if (!this.done) this.fault('the end of the clause or a comma');
    this.i = this.words.length;
  }

  oneOf<T extends string>(options: readonly T[]): At<T> | undefined {
    const token = this.peek;
    if (token?.kind === 'word' && (options as readonly string[]).includes(token.text)) {
      this.i++;
      return { value: token.text as T, at: placeOf(token) };
    }
    this.fault(options.map((o) => `\`${o}\``).join(' or '), token && nearest(token.text, options));
    return undefined;
  }

  string(): At<string> | undefined {
    const token = this.peek;
    if (token?.kind === 'string') {
      this.i++;
      return { value: token.value, at: placeOf(token) };
    }
    this.fault('a text in double quotes', token?.kind === 'word' ? `"${token.text}"` : undefined);
    return undefined;
  }

  /** A whole number from `least` to `most`; `unit` may follow it, spaced or not. */
  number(least: number, most: number, unit?: string): At<number> | undefined {
    const token = this.peek;
    const digits = token && /^(0|[1-9][0-9]{0,9})(.*)$/.exec(token.text);
    const suffix = digits?.[2] ?? '';
    if (!token || token.kind !== 'word' || !digits || (suffix !== '' && suffix !== unit)) {
      this.fault(`a number from ${least} to ${most}${unit ? ` ${unit}` : ''}`);
      return undefined;
    }
    this.i++;
    if (unit && suffix === '') this.eat(unit);
    const value = Number(digits[1]);
    if (value < least || value > most)
      return this.problems.syntax(token, token.text, `a number from ${least} to ${most}`);
    return { value, at: placeOf(token) };
  }

  /** An 802.1Q tag. Out of 1–4094 (IEEE 802.1Q §9.6: 0 and 4095 are reserved) it reads, but counts as absent. */
  tag(): At<number> | undefined {
    const token = this.peek;
    if (!token || !/^[0-9]{1,9}$/.test(token.text)) {
      this.fault('a tag from 1 to 4094');
      return undefined;
    }
    this.i++;
    const value = Number(token.text);
    if (value < 1 || value > 4094) return this.problems.add('tag-range', token, { tag: token.text });
    return { value, at: placeOf(token) };
  }

  /** A day of the calendar: `2026-12-31`. */
  day(): At<Day> | undefined {
    const token = this.peek;
    const value = token && parseDay(token.text);
    if (value === undefined) return this.fault('a day such as 2026-12-31');
    this.i++;
    return { value, at: placeOf(token!) };
  }

  /** A duration in seconds: `90s 15m 12h 7d`. */
  duration(): At<number> | undefined {
    const token = this.peek;
    const match = token && /^([1-9][0-9]{0,6})([smhd])$/.exec(token.text);
    if (!match) {
      this.fault('a duration such as 90s, 15m, 12h or 7d');
      return undefined;
    }
    this.i++;
    return { value: Number(match[1]) * { s: 1, m: 60, h: 3600, d: 86400 }[match[2]!]!, at: placeOf(token) };
  }

  mac(): At<Mac> | undefined {
    const token = this.peek;
    const mac = token && parseMac(token.text);
    if (mac === undefined) {
      this.fault('a MAC address such as 02:61:00:00:20:20');
      return undefined;
    }
    this.i++;
    return { value: mac, at: placeOf(token!) };
  }

  /** A name of something, as the reader meets it; `kinds` lets `KIND NAME` stand. */
  ref(what: string, kinds: readonly Kind[] = []): Ref | undefined {
    const token = this.peek;
    if (token?.kind !== 'word') {
      this.fault(what);
      return undefined;
    }
    const kind = kinds.find((k) => k === token.text);
    const named = kind && this.words[this.i + 1];
    if (kind && named?.kind === 'word' && isFarName(named.text)) {
      this.i += 2;
      return { name: named.text, kind, at: through(token, named) };
    }
    if (isName(token.text) || isFarName(token.text)) {
      this.i++;
      return { name: token.text, at: placeOf(token) };
    }
    this.fault(what, isName(token.text.toLowerCase()) ? token.text.toLowerCase() : undefined);
    return undefined;
  }

  /** `any`, `internet`, a name, an address, a prefix or a range. */
  who(): Who | undefined {
    const token = this.peek;
    if (token?.kind !== 'word') {
      this.fault('a zone, interface, known, address, prefix or `any`');
      return undefined;
    }
    if (token.text === 'any' || token.text === 'internet') {
      this.i++;
      return { type: token.text, at: placeOf(token) };
    }
    if (looksLikeAddress(token.text)) {
      const item = this.addresses();
      if (item && this.is('of')) return this.suffix(token, item.range);
      return item && { type: 'addresses', ...item, at: through(token, this.words[this.i - 1] ?? token) };
    }
    const ref = this.ref('a zone, interface, known, address, prefix or `any`', QUALIFYING_KINDS);
    return ref && { type: 'name', ...ref };
  }

  /** `::53 of studio`: the last 64 bits of an address, in the network of an interface. */
  private suffix(token: Token, { first, last }: Range): Who | undefined {
    if (isIpv4(first) || first !== last || first >> 64n !== 0n || first === 0n)
      return this.problems.syntax(token, token.text, 'the last 64 bits of an IPv6 address, such as ::53');
    this.eat('of');
    const ref = this.ref('an interface');
    const at = through(token, this.words[this.i - 1] ?? token);
    return ref && { type: 'suffix', suffix: first, interface: ref, at };
  }

  /** One or more `who`s up to the end of the clause. */
  whos(): Who[] {
    const out: Who[] = [];
    if (this.done) this.fault('a zone, interface, known, address, prefix or `any`');
    while (!this.done) {
      const who = this.who();
      if (who) out.push(who);
    }
    return out;
  }

  /** Splits an address word into its parts, resolving short forms. Consumes the word; notes nothing. */
  private addressWord(text: string): AddressWord | undefined {
    const slash = text.indexOf('/');
    const body = slash < 0 ? text : text.slice(0, slash);
    let length: number | undefined;
    let badLength: string | undefined;
    const dash = body.indexOf('-');
    const firstText = dash < 0 ? body : body.slice(0, dash);
    const short = firstText.startsWith('.');
    const first = resolveShort(firstText, short ? this.baseOf()?.address : undefined);
    if (first === undefined) return undefined;
    if (slash >= 0) {
      const digits = text.slice(slash + 1);
      if (!/^[0-9]{1,3}$/.test(digits)) return undefined;
      length = Number(digits);
      if (length > (isIpv4(first) ? 32 : 128)) [badLength, length] = [`/${digits}`, undefined];
    }
    if (dash < 0) return { range: { first, last: first }, isRange: false, short, length, badLength };
    const last = resolveShort(body.slice(dash + 1), isIpv4(first) ? first : undefined);
    if (last === undefined || familyOf(first) !== familyOf(last)) return undefined;
    return { range: { first, last }, isRange: true, short, length, badLength };
  }

  /** Reads an address word with the mask that may follow it. A bad length or mask is noted; the rest stays. */
  private addressToken(
    expected: string,
    options: AddressOptions = {},
  ): { word: AddressWord; at: Span } | undefined {
    const token = this.peek;
    if (token?.kind !== 'word') {
      this.fault(expected);
      return undefined;
    }
    let word = this.addressWord(token.text);
    if (!word) {
      const noBase = /^\.[0-9]/.test(token.text) && !this.baseOf();
      this.fault(
        noBase ? 'a full address, since nothing in this statement says what it is short for' : expected,
      );
      return undefined;
    }
    this.i++;
    let at = placeOf(token);
    if (word.badLength) {
      this.problems.add('mask-invalid', token, { mask: word.badLength, address: formatIp(word.range.first) });
      return { word, at };
    }
    if (this.is('mask') && word.length === undefined) {
      this.i++;
      const maskToken = this.peek;
      const mask = maskToken && parseIpv4(maskToken.text);
      if (!maskToken) {
        this.fault('a mask such as 255.255.255.0');
        return undefined;
      }
      this.i++;
      at = through(token, maskToken);
      const length = mask === undefined ? undefined : lengthOfMask(mask);
      if (length === undefined || !isIpv4(word.range.first)) {
        this.problems.add('mask-invalid', maskToken, {
          mask: maskToken.text,
          address: formatIp(word.range.first),
        });
        return { word: { ...word, badLength: maskToken.text }, at };
      }
      word = { ...word, length };
    }
    const base =
      word.short && word.length === undefined && options.outside !== 'finding' ? this.baseOf() : undefined;
    if (base?.length !== undefined) {
      const net: Prefix = { address: base.address, length: base.length };
      if (!contains(net, word.range.first) || !contains(net, word.range.last)) {
        this.problems.syntax(
          token,
          token.text,
          `an address inside ${formatPrefix(networkOf(net))}, which ${token.text} is short for a part of, or the whole address`,
          {
            text: word.isRange
              ? `${formatIp(word.range.first)}-${formatIp(word.range.last)}`
              : formatIp(word.range.first),
          },
        );
        return undefined;
      }
    }
    return { word, at };
  }

  /** One address without a length. */
  address(options: AddressOptions = {}, expected = 'an address'): At<Ip> | undefined {
    const got = this.addressToken(expected, options);
    if (!got || got.word.badLength) return undefined;
    const text = formatIp(got.word.range.first);
    if (got.word.isRange) return this.problems.syntax(got.at, 'a range', `${expected}, one`, { text });
    if (got.word.length !== undefined)
      return this.problems.syntax(got.at, `a length, /${got.word.length}`, `${expected} without a length`, {
        text,
      });
    return { value: got.word.range.first, at: got.at };
  }

  /** One or more addresses up to the end of the clause or a word of `stop`. */
  addressList(stop: readonly string[] = [], options: AddressOptions = {}): At<Ip>[] {
    const out: At<Ip>[] = [];
    if (this.done || stop.includes(this.peek!.text)) this.fault('an address');
    while (!this.done && !stop.includes(this.peek!.text)) {
      const address = this.address(options);
      if (address) out.push(address);
    }
    return out;
  }

  /** An interface's or station's address: a length is needed (`mask-missing` where there is none). */
  interfaceAddress(): At<Prefix> | undefined {
    const got = this.addressToken('an address with its length, such as 10.61.20.1/24');
    if (!got || got.word.badLength) return undefined;
    const { range, length, isRange } = got.word;
    if (isRange) return this.problems.syntax(got.at, 'a range', 'one address with its length');
    if (length === undefined)
      return this.problems.add('mask-missing', got.at, { address: formatIp(range.first) });
    if (length === 0)
      return this.problems.add('mask-invalid', got.at, { mask: '/0', address: formatIp(range.first) });
    return { value: { address: range.first, length }, at: got.at };
  }

  /** A network: a length is needed and host bits are a fault that proposes the network. */
  network(): At<Prefix> | undefined {
    const got = this.addressToken('a network such as 10.61.20.0/24');
    if (!got || got.word.badLength) return undefined;
    const { range, length, isRange } = got.word;
    if (isRange) return this.problems.syntax(got.at, 'a range', 'a network with its length');
    if (length === undefined)
      return this.problems.add('mask-missing', got.at, { address: formatIp(range.first) });
    return this.withoutHostBits({ address: range.first, length }, got.at);
  }

  private withoutHostBits(prefix: Prefix, at: Span): At<Prefix> | undefined {
    if (!hostBitsSet(prefix)) return { value: prefix, at };
    const text = formatPrefix(networkOf(prefix));
    return this.problems.syntax(at, formatPrefix(prefix), `a network, whose host bits are zero: ${text}`, {
      text,
    });
  }

  /** A range or a single address, as a pool has. A reversed range is `code`, and absent. */
  range(
    options: AddressOptions & { readonly code?: 'lends-empty' | 'range-reversed' } = {},
  ): At<Range> | undefined {
    const got = this.addressToken('a range such as .50-.199', options);
    if (!got || got.word.badLength) return undefined;
    if (got.word.length !== undefined)
      return this.problems.syntax(got.at, `a length, /${got.word.length}`, 'a range such as .50-.199');
    return this.ordered(got.word.range, got.at, options.code ?? 'range-reversed');
  }

  private ordered(
    range: Range,
    at: Span,
    code: 'lends-empty' | 'range-reversed' = 'range-reversed',
  ): At<Range> | undefined {
    if (compareIp(range.first, range.last) <= 0) return { value: range, at };
    const [first, last] = [formatIp(range.first), formatIp(range.last)];
    return this.problems.add(
      code,
      at,
      { first, last, range: `${first}-${last}` },
      { text: `${last}-${first}` },
    );
  }

  /** An address, a prefix or a range, as known hosts and `from` have. */
  addresses(): { range: Range; prefix?: Prefix } | undefined {
    const got = this.addressToken('an address, a network or a range');
    if (!got || got.word.badLength) return undefined;
    const { range, length, isRange } = got.word;
    if (isRange && length !== undefined)
      return this.problems.syntax(got.at, `a length, /${length}`, 'a range without a length');
    if (length === undefined) {
      const ordered = this.ordered(range, got.at);
      return ordered && { range: ordered.value };
    }
    const network = this.withoutHostBits({ address: range.first, length }, got.at);
    if (!network) return undefined;
    const top = isIpv4(range.first)
      ? ((range.first + 2 ** (32 - length) - 1) as Ip)
      : (((range.first as bigint) + (1n << BigInt(128 - length)) - 1n) as Ip);
    return { range: { first: range.first, last: top }, prefix: network.value };
  }

  /** An entry of `also`: its own length, or for short forms and ranges that of the primary address. */
  also(): At<{ range: Range; length: number }> | undefined {
    const got = this.addressToken('an address with its length, a short address or a range');
    if (!got || got.word.badLength) return undefined;
    const { range, length, short, isRange } = got.word;
    const base = length === undefined && (short || isRange) ? this.baseOf() : undefined;
    const own = length ?? base?.length;
    // Where the primary address lacks its length, that is the one fault to tell.
    if (own === undefined && base) return undefined;
    if (own === undefined)
      return this.problems.add('mask-missing', got.at, { address: formatIp(range.first) });
    const ordered = this.ordered(range, got.at);
    if (!ordered) return undefined;
    const count = isIpv4(range.first)
      ? (range.last as number) - range.first + 1
      : Number((range.last as bigint) - (range.first as bigint)) + 1;
    if (count > 1024)
      return this.problems.syntax(
        got.at,
        `a range of ${count} addresses`,
        'at most 1024 addresses in one range',
      );
    return { value: { range, length: own }, at: got.at };
  }

  /** Whether a service specification could begin here. */
  get atService(): boolean {
    const text = this.peek?.kind === 'word' ? this.peek.text : '';
    return text === 'tcp' || text === 'udp' || text === 'proto' || Object.hasOwn(NAMED_SERVICES, text);
  }

  /** A service specification: at least one item. Stops at the first word that is none. */
  services(): Services | undefined {
    const out: ServiceItem[] = [];
    if (!this.atService) {
      const near =
        this.peek && nearest(this.peek.text, [...Object.keys(NAMED_SERVICES), 'tcp', 'udp', 'proto']);
      this.fault('a service such as `tcp 443`, `dns` or `ping`', near);
      return undefined;
    }
    while (this.atService) {
      const word = this.next()!.text;
      const named = Object.hasOwn(NAMED_SERVICES, word) ? NAMED_SERVICES[word] : undefined;
      if (named) extend(out, named);
      else if (word === 'proto') {
        const proto = this.number(0, 255);
        if (proto) out.push({ kind: 'proto', proto: proto.value });
      } else {
        const protos: (6 | 17)[] = [word === 'tcp' ? 6 : 17];
        while (this.is('tcp') || this.is('udp')) {
          // `tcp udp 53` is both; `tcp udp` followed by no port is both with all ports.
          protos.push(this.next()!.text === 'tcp' ? 6 : 17);
        }
        const ranges: [number, number][] = [];
        while (this.peek?.kind === 'word' && /^[0-9]+(-[0-9]+)?$/.test(this.peek.text)) {
          const token = this.next()!;
          const [first, last = first] = token.text.split('-').map(Number) as [number, number?];
          if (first > 65535 || last > 65535) this.problems.syntax(token, token.text, 'ports from 0 to 65535');
          else if (first > last)
            this.problems.add(
              'range-reversed',
              token,
              { first: String(first), last: String(last), range: token.text },
              { text: `${last}-${first}` },
            );
          else ranges.push([first, last]);
        }
        if (!ranges.length) ranges.push([0, 65535]);
        for (const [first, last] of ranges)
          for (const proto of protos) out.push({ kind: 'ports', proto, first, last });
      }
    }
    return out.length ? out : undefined;
  }
}

/** Whether a word is meant as an address rather than a name. */
export const looksLikeAddress = (text: string): boolean =>
  /^\.?[0-9]+(\.[0-9]+)+([/-].*)?$/.test(text) ||
  /^\.[0-9]+([/-].*)?$/.test(text) ||
  /^[0-9a-fA-F]*:[0-9a-fA-F:.]*([/-].*)?$/.test(text);

/** Checks a name in a header: its form, and that it is not reserved. */
export function checkName(token: Token, kind: Kind, problems: Problems): void {
  const good = kind === 'far' || kind === 'record' ? isFarName : isName;
  if (token.kind === 'word' && isReserved(token.text)) {
    problems.add('name-reserved', token, { name: token.text, kind });
    return;
  }
  if (token.kind === 'word' && good(token.text)) return;
  const fixed = nameLike(token.value);
  problems.syntax(
    token,
    token.text,
    'a name of up to 15 lower-case letters, digits and hyphens, a letter first',
    isName(fixed) && !isReserved(fixed) ? { text: fixed } : undefined,
  );
}
