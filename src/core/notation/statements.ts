/** From the words of one statement to its typed value: one function a kind, each clause read where it is named. */
import { formatIp, isIpv4, parseIpv4 } from '#core/addr';
import type { Ip, Prefix, Range, Services } from '#core/addr';
import { never } from '../base';
import { ANSWERABLE } from './ast';
import type {
  Address6Source,
  AddressSource,
  AlsoItem,
  AnswersClause,
  At,
  Clause,
  ExpectStatement,
  GatewayClause,
  KeepsClause,
  LendsClause,
  Plug,
  ReadProblem,
  RouteClause,
  Statement,
  StatementBase,
  Who,
} from './ast';
import { CLAUSES, KINDS, NAMED_KINDS, REPEATABLE, isName, nearest } from './grammar';
import type { Kind } from './grammar';
import type { LogicalLine, Span, Token } from './lexer';
import { Problems, Words, checkName, looksLikeAddress } from './reader';
import type { Base } from './reader';

/** A statement with what was wrong in it; no statement where not even its kind could be read. */
export interface StatementRead {
  readonly statement?: Statement;
  readonly problems: readonly ReadProblem[];
}

/** Reads the clauses of one statement by name; what nobody asked for is unknown. */
class Clauses {
  private readonly asked = new Set<string>();
  private readonly byName = new Map<string, Clause[]>();

  constructor(
    private readonly kind: Kind,
    readonly all: readonly Clause[],
    private readonly around: Span,
    private readonly base: Base | undefined,
    readonly problems: Problems,
  ) {
    for (const clause of all) {
      const same = this.byName.get(clause.name);
      if (same) same.push(clause);
      else this.byName.set(clause.name, [clause]);
    }
  }

  private wordsOf(clause: Clause, skip: number): Words {
    return new Words(clause.words, clause.words[0] ?? this.around, this.base, this.problems, skip);
  }

  /** Reads every clause of this name. The reader gets the words behind the name. */
  many<T>(name: string, read: (words: Words, at: Span) => T | undefined): T[] {
    const clauses = this.byName.get(name);
    const out: T[] = [];
    if (!clauses) return out;
    this.asked.add(name);
    for (const [i, clause] of clauses.entries()) {
      if (i > 0 && !REPEATABLE.has(name)) {
        this.problems.syntax(clause.words[0]!, `a second \`${name}\``, `\`${name}\` once`);
        continue;
      }
      const words = this.wordsOf(clause, 1);
      const value = read(words, spanOf(clause));
      words.end();
      if (value !== undefined) out.push(value);
    }
    return out;
  }

  one<T>(name: string, read: (words: Words, at: Span) => T | undefined): T | undefined {
    return this.many(name, read)[0];
  }

  flag(name: string): Span | undefined {
    return this.one(name, (_, at) => at);
  }

  /** Reads the first clause as a value list that has no name, as `known` and `door` have. */
  unnamed<T>(read: (words: Words, at: Span) => T | undefined): T | undefined {
    const clause = this.all[0];
    if (!clause || CLAUSES[this.kind].includes(clause.name)) return undefined;
    this.asked.add(clause.name);
    const words = this.wordsOf(clause, 0);
    const value = read(words, spanOf(clause));
    words.end();
    return value;
  }

  /** Faults the clauses that this kind does not have. */
  finish(): void {
    for (const clause of this.all) {
      if (this.asked.has(clause.name)) continue;
      const token = clause.words[0]!;
      const near = nearest(clause.name, CLAUSES[this.kind]);
      this.problems.syntax(
        token,
        token.text,
        near === undefined
          ? `a clause of ${this.kind}: ${CLAUSES[this.kind].join(', ')}`
          : `a clause of ${this.kind}, most likely \`${near}\``,
        near === undefined ? undefined : { text: near },
      );
    }
  }
}

const spanOf = (clause: Clause): Span => ({
  start: clause.start,
  end: clause.end,
  line: clause.words[0]!.line,
  column: clause.words[0]!.column,
});

/** Words that a statement holds at most; no office comes near it, and a paste of commas does. */
const MOST_WORDS = 20_000;

/**
 * Reads one logical line. `seen` counts the heads of unnamed statements met so far in the file, so that the second
 * `passage a > b` has a subject of its own.
 */
export function readStatement(
  line: LogicalLine,
  file: string,
  index: number,
  above: Kind | undefined,
  seen: Map<string, number>,
): StatementRead {
  const tokens = line.tokens.slice(0, MOST_WORDS);
  const beyond = line.tokens[MOST_WORDS];
  const first = tokens[0]!;
  const bare = first.text.endsWith(':') ? first.text.slice(0, -1) : first.text;
  const kind = KINDS.find((k) => k === bare);
  if (!kind) return unknownKind(first, file, above);
  const last = line.tokens[line.tokens.length - 1]!;
  const colonAt =
    first.text === bare
      ? tokens.findIndex(
          (t, i) => i > 0 && t.kind === 'word' && t.text.endsWith(':') && !t.text.endsWith('::') && t.spaced,
        )
      : 0;
  const headerRaw = tokens.slice(1, colonAt < 0 ? guessHeaderEnd(tokens, kind) : colonAt + 1);
  const header = headerRaw.map(withoutColon).filter((t) => t.text !== '');
  const name = NAMED_KINDS.has(kind) ? (header[0]?.text.split(':')[0] ?? '') : '';
  const subject = NAMED_KINDS.has(kind)
    ? `${kind}/${name}`
    : numbered(
        `${kind}/${header.map((t) => t.text).join(kind === 'passage' || kind === 'leave' ? '' : ' ')}`,
        seen,
      );
  const problems = new Problems(file, subject);
  if (beyond)
    problems.syntax(
      beyond,
      `a statement of ${line.tokens.length} words and commas`,
      `at most ${MOST_WORDS}; what is behind them is not read`,
    );
  const body = kind === 'expect' ? [] : tokens.slice(1 + headerRaw.length);
  if (kind === 'expect') {
    if (colonAt > 0)
      problems.syntax(tokens[colonAt]!, 'a colon', 'no colon: `expect` has none', {
        text: withoutColon(tokens[colonAt]!).text,
      });
  } else if (colonAt < 0) missingColon(tokens, headerRaw, kind, problems);
  const clauses = splitClauses(body, problems);
  const headerEnd = headerRaw[headerRaw.length - 1] ?? first;
  const base: StatementBase = {
    file,
    index,
    subject,
    start: first.start,
    end: last.end,
    line: first.line,
    head: { start: first.start, end: (header[0] ?? first).end, line: first.line, column: first.column },
    header: kind === 'expect' ? tokens.slice(1) : header,
    headEnd: headerEnd.end,
    clauses,
    commented: line.commented,
    broken: false,
  };
  const reader = new Clauses(kind, clauses, base.head, baseOf(kind, clauses, tokens), problems);
  const statement = build(kind, base, reader);
  if (kind !== 'expect') reader.finish();
  const list = [...problems.list].sort((a, b) => a.at.start - b.at.start);
  return { statement: { ...statement, broken: list.some((p) => p.fatal) }, problems: list };
}

/** The subject of the next unnamed statement with this head. */
export function numbered(head: string, seen: Map<string, number>): string {
  const nth = (seen.get(head) ?? 0) + 1;
  seen.set(head, nth);
  return `${head}#${nth}`;
}

function withoutColon(token: Token): Token {
  if (token.kind !== 'word' || !token.text.endsWith(':') || token.text.endsWith('::')) return token;
  const text = token.text.slice(0, -1);
  return { ...token, text, value: text, end: token.end - 1 };
}

function unknownKind(first: Token, file: string, above?: Kind): StatementRead {
  const isClause = above && CLAUSES[above].includes(first.text);
  const problems = new Problems(file, `line ${first.line}`);
  if (isClause)
    problems.syntax(first, first.text, `a statement; a clause of the ${above} above is indented`, {
      text: `  ${first.text}`,
    });
  else {
    const word = first.text.replace(/:$/, '');
    const near = nearest(word, KINDS);
    problems.syntax(first, word, `a statement: ${KINDS.join(', ')}`, near ? { text: near } : undefined);
  }
  return { problems: problems.list };
}

/** Where the header most likely ends when its colon is missing: behind the name, or before the first comma. */
function guessHeaderEnd(tokens: readonly Token[], kind: Kind): number {
  if (NAMED_KINDS.has(kind)) return Math.min(2, tokens.length);
  const clause = tokens.findIndex((t, i) => i > 0 && CLAUSES[kind].includes(t.text));
  const comma = tokens.findIndex((t) => t.kind === 'comma');
  const ends = [clause, comma, tokens.length].filter((n) => n > 0);
  return Math.min(...ends);
}

function missingColon(
  tokens: readonly Token[],
  header: readonly Token[],
  kind: Kind,
  problems: Problems,
): void {
  const glued = header.find((t) => t.kind === 'word' && /^[^:]+:[^:]/.test(t.text));
  if (glued)
    problems.syntax(glued, glued.text, 'a space behind the colon', { text: glued.text.replace(':', ': ') });
  else {
    const end = header[header.length - 1] ?? tokens[0]!;
    problems.syntax(end, end.text, `a colon behind the head of the ${kind}`, { text: `${end.text}:` });
  }
}

function splitClauses(tokens: readonly Token[], problems: Problems): Clause[] {
  const out: Clause[] = [];
  let words: Token[] = [];
  const finish = (comma?: Token) => {
    if (words.length) {
      const [first, last] = [words[0]!, words[words.length - 1]!];
      out.push({ name: first.text, words, start: first.start, end: last.end, comma: comma?.start });
    } else if (comma) problems.syntax(comma, 'a comma', 'a clause before the comma', { text: '' });
    words = [];
  };
  for (const token of tokens) {
    if (token.kind === 'comma') finish(token);
    else words.push(token);
  }
  finish();
  return out;
}

/** What the short addresses of a statement lean on (notation, "Short addresses"). */
function baseOf(kind: Kind, clauses: readonly Clause[], tokens: readonly Token[]): Base | undefined {
  const own = kind === 'circuit' ? 'block' : kind === 'interface' || kind === 'station' ? 'address' : '';
  const clause = clauses.find((c) => c.name === own);
  if (clause) {
    const found = fullAddress(clause.words, 1);
    if (found) return found;
  }
  for (let i = 1; i < tokens.length; i++) {
    const found = fullAddress(tokens, i);
    if (found) return found;
  }
  return undefined;
}

function fullAddress(tokens: readonly Token[], i: number): Base | undefined {
  const token = tokens[i];
  if (token?.kind !== 'word') return undefined;
  const match = /^([0-9.]+?)(?:-[0-9.]+)?(?:\/([0-9]{1,2}))?:?$/.exec(token.text);
  const address = match && parseIpv4(match[1]!);
  if (address === undefined || address === null) return undefined;
  const length = match![2] === undefined ? undefined : Number(match![2]);
  if (length === undefined && tokens[i + 1]?.text === 'mask') {
    const mask = parseIpv4(tokens[i + 2]?.text ?? '');
    if (mask !== undefined) return { address, length: 32 - Math.log2((~mask >>> 0) + 1) };
  }
  return length !== undefined && length > 32 ? { address } : { address, length };
}

const reads = <T>(words: Words, value: T | undefined): At<T> | undefined =>
  value === undefined ? undefined : { value, at: words.span };

function build(kind: Kind, base: StatementBase, c: Clauses): Statement {
  const problems = c.problems;
  const note = kind === 'expect' ? undefined : c.one('note', (w) => w.string());
  const common = { ...base, note };
  const name = NAMED_KINDS.has(kind) ? nameOf(kind, base, problems) : '';
  switch (kind) {
    case 'box':
      return {
        ...common,
        kind,
        name,
        domain: c.one('domain', (w) => {
          const token = w.next();
          return token ? { value: token.value, at: token } : w.fault('a domain name');
        }),
        names: c.many('names', (w) => w.addressList()).flat(),
        time: c.many('time', (w) => w.addressList()).flat(),
        ...servesOf(c),
        admin: c.one('admin', (w) => restOf(w, 'a user name').map((t) => t.value)) ?? [],
      };
    case 'port':
      return {
        ...common,
        kind,
        name,
        label: c.one('label', (w) => w.string()),
        off: c.flag('off'),
        mac: c.one('mac', (w) => w.mac()),
        mtu: c.one('mtu', (w) => w.number(68, 65535)),
        speed: c.one('speed', (w) => {
          const got = w.oneOf(['auto', '100', '1000', '2500', '10000']);
          return got && { at: got.at, value: got.value === 'auto' ? ('auto' as const) : Number(got.value) };
        }),
      };
    case 'zone':
      return {
        ...common,
        kind,
        name,
        upstream: c.flag('upstream'),
        dmz: c.flag('dmz'),
        management: c.flag('management'),
        within: c.one('within', (w) => w.oneOf(['allow', 'drop'])),
        tint: c.one('tint', (w) => w.number(1, 6)),
      };
    case 'table':
      return { ...common, kind, name, routes: c.many('route', readRoute) };
    case 'interface':
      return buildInterface(common, name, c);
    case 'known':
      return {
        ...common,
        kind,
        name,
        items:
          c.unnamed((w) => {
            const items: At<{ range: Range; prefix?: Prefix }>[] = [];
            while (!w.done) {
              const start = w.peek!;
              const item = w.addresses();
              if (item) items.push({ value: item, at: start });
            }
            return items;
          }) ??
          (c.all.length === 0 || c.all[0]!.name === 'behind' || c.all[0]!.name === 'note'
            ? (problems.syntax(base.head, 'no address', 'an address, a network or a range'), [])
            : []),
        behind: c.one('behind', (w) => w.ref('an interface')),
      };
    case 'passage': {
      const [from, to] = pairOf(base, 'zone', problems);
      let verdict: 'allow' | 'drop' | 'reject' | undefined;
      let services: Services = [{ kind: 'any' }];
      for (const word of ['allow', 'drop', 'reject'] as const)
        c.one(word, (w, at) => {
          if (verdict)
            problems.syntax(at, `\`${word}\` beside \`${verdict}\``, 'one of `allow`, `drop`, `reject`');
          verdict = word;
          if (!w.done) services = w.services() ?? services;
          return word;
        });
      // A clause that cannot be read is told by itself; it may be the verdict.
      if (!verdict && c.all.every((x) => CLAUSES.passage.includes(x.name)))
        problems.syntax(base.head, 'no verdict', '`allow`, `drop` or `reject` behind the colon');
      return {
        ...common,
        kind,
        from,
        to,
        verdict,
        services,
        sources: c.many('from', (w) => w.whos()).flat(),
        destinations: c.many('to', (w) => w.whos()).flat(),
        log: c.flag('log'),
      };
    }
    case 'leave':
      return buildLeave(common, c);
    case 'send':
      return buildSend(common, c);
    case 'door':
      return buildDoor(common, name, c);
    case 'expect':
      return { ...common, kind, promise: readPromise(base, problems) };
    case 'circuit':
      return {
        ...common,
        kind,
        name,
        plug: c.one('at', readPlug),
        block: c.one('block', (w) => w.network()),
        lends: c.one('lends', (w) => {
          const range = w.range();
          if (!w.want('in')) return undefined;
          const prefix = w.network();
          return range && prefix ? reads(w, { range: range.value, prefix: prefix.value }) : undefined;
        }),
        pppoe: c.one('pppoe', (w) => {
          const user = w.string();
          const secret = user && w.string();
          if (!secret || !w.want('gives')) return undefined;
          const gives = w.address();
          if (!gives || !w.want('peer')) return undefined;
          const peer = w.address();
          return (
            peer && reads(w, { user: user.value, secret: secret.value, gives: gives.value, peer: peer.value })
          );
        }),
        gateway: c.one('gateway', (w) => w.address({ outside: 'finding' })),
        names: c.many('names', (w) => w.addressList()).flat(),
        time: c.many('time', (w) => w.addressList()).flat(),
        routes: c.many('routes', (w) => {
          const prefix = w.network();
          if (!w.want('via')) return undefined;
          const via = w.address();
          return prefix && via ? reads(w, { prefix: prefix.value, via: via.value }) : undefined;
        }),
        block6: c.one('block6', (w) => w.network()),
        lends6: c.one('lends6', (w) => w.network()),
        delegates6: c.one('delegates6', (w) => w.network()),
        translating: c.one('translating', (w, at) =>
          w.eat('as') ? { value: { as: w.address()?.value }, at } : { value: {}, at },
        ),
        silent: !!c.flag('silent'),
        delay: c.one('delay', (w) => w.number(0, 60000, 'ms'))?.value ?? 0,
        loss: c.one('loss', (w) => w.number(0, 100, '%'))?.value ?? 0,
        deadBeyond: c.one('dead', (w, at) => (w.want('beyond') ? at : undefined)),
        down: c.flag('down'),
      };
    case 'switch':
      return {
        ...common,
        kind,
        name,
        plug: c.one('at', readPlug),
        native: c.one('native', (w) => w.tag())?.value ?? 1,
        carries: c
          .many('carries', (w) => {
            const tags: At<number>[] = [];
            if (w.done) w.fault('a tag from 1 to 4094');
            while (!w.done) {
              const tag = w.tag();
              if (tag) tags.push(tag);
            }
            return tags;
          })
          .flat(),
        jacks: c.many('jack', (w) => {
          const jack = w.number(1, 9999);
          if (!jack || !w.want('tag')) return undefined;
          const tag = w.tag();
          return tag && reads(w, { jack: jack.value, tag: tag.value });
        }),
      };
    case 'station':
      return {
        ...common,
        kind,
        name,
        plug: c.one('at', readPlug),
        address: c.one('address', readStationAddress),
        address6: oneAddress6(c),
        gateway: c.one('gateway', (w) => w.address({ outside: 'finding' })),
        gateway6: c.one('gateway6', readGateway6),
        names: c.many('names', (w) => w.addressList()).flat(),
        mac: c.one('mac', (w) => w.mac()),
        listens: c.one('listens', (w) => w.services()),
        silent: !!c.flag('silent'),
        seat: c.flag('seat'),
        off: c.flag('off'),
      };
    case 'far':
      return {
        ...common,
        kind,
        name,
        addresses: c.one('address', (w) => w.addressList()) ?? [],
        listens: c.one('listens', (w) => w.services()),
        resolves: !!c.flag('resolves'),
        silent: !!c.flag('silent'),
      };
    default:
      return never(kind);
  }
}

function nameOf(kind: Kind, base: StatementBase, problems: Problems): string {
  const token = base.header[0];
  if (!token) {
    problems.syntax(base.head, 'no name', `the name of the ${kind} behind \`${kind}\``);
    return '';
  }
  const glued = /^([^:]+):[^:]/.exec(token.text);
  // A glued colon is reported as such; what stands before it is the name.
  if (glued && kind !== 'far') return glued[1]!;
  if (kind === 'table' && token.text === 'main') return 'main';
  checkName(token, kind, problems);
  const extra = base.header[1];
  if (extra) problems.syntax(extra, extra.text, 'the colon behind the name');
  return token.text;
}

function servesOf(c: Clauses): { servesNames: boolean; servesTime: boolean } {
  const served = c.many('serves', (w) => w.oneOf(['names', 'time']));
  return {
    servesNames: served.some((s) => s.value === 'names'),
    servesTime: served.some((s) => s.value === 'time'),
  };
}

function restOf(w: Words, expected: string): Token[] {
  const out: Token[] = [];
  if (w.done) w.fault(expected);
  while (!w.done) out.push(w.next()!);
  return out;
}

function readPlug(w: Words): Plug | undefined {
  const token = w.peek;
  if (token?.kind !== 'word') return w.fault('a port such as p1, or a jack such as core/1');
  const slash = token.text.indexOf('/');
  if (slash > 0) {
    const jack = token.text.slice(slash + 1);
    if (!/^[1-9][0-9]{0,3}$/.test(jack) || !isName(token.text.slice(0, slash)))
      return w.fault('a jack such as core/1');
    w.next();
    return { to: 'jack', switch: token.text.slice(0, slash), jack: Number(jack), at: token };
  }
  if (!isName(token.text)) return w.fault('a port such as p1, or a jack such as core/1');
  w.next();
  const tag = w.eat('tag') ? w.tag() : undefined;
  return { to: 'port', port: token.text, tag: tag?.value, at: token };
}

function readAddress(w: Words): At<AddressSource> | undefined {
  if (w.eat('by')) {
    const by = w.oneOf(['dhcp', 'pppoe']);
    return by && { value: { by: by.value }, at: w.span };
  }
  const address = w.interfaceAddress();
  if (address && !isIpv4(address.value.address))
    return w.problems.syntax(
      address.at,
      formatIp(address.value.address),
      'an IPv4 address with its length; IPv6 addresses stand in `address6`',
    );
  return address && { value: { by: 'static', prefix: address.value }, at: address.at };
}

/** Secondary addresses that one interface may have; more is a slip of the keys. */
const MOST_ADDRESSES = 4096;

/** The secondary addresses, as far as they are not too many. */
function someAddresses(c: Clauses): At<AlsoItem>[] {
  const all = c.many('also', READ.also).flat();
  let count = 0;
  const kept = all.filter(({ value: { range } }) => {
    count += Number(range.last) - Number(range.first) + 1;
    return count <= MOST_ADDRESSES;
  });
  const [extra] = all.slice(kept.length);
  if (extra)
    c.problems.syntax(extra.at, `${count} secondary addresses`, `at most ${MOST_ADDRESSES} on one interface`);
  return kept;
}

/** As readAddress; a station may have an IPv6 address only, and then writes it here as well. */
function readStationAddress(w: Words): At<AddressSource> | undefined {
  if (w.is('by')) return readAddress(w);
  const address = w.interfaceAddress();
  return address && { value: { by: 'static', prefix: address.value }, at: address.at };
}

/** The IPv6 address of a station: one, though the clause may repeat where interfaces have it. */
function oneAddress6(c: Clauses): At<Prefix> | undefined {
  const [first, second] = c
    .many('address6', (w) =>
      listOf(w, () => {
        const got = w.interfaceAddress();
        return got && isIpv4(got.value.address) ? c6(w, got) : got;
      }),
    )
    .flat();
  if (second)
    c.problems.syntax(second.at, 'a second IPv6 address', 'one IPv6 address: a station has one written');
  return first;
}

function readGateway6(w: Words): At<Ip> | undefined {
  const address = w.address({ outside: 'finding' });
  if (address && isIpv4(address.value))
    return w.problems.syntax(address.at, formatIp(address.value), 'an IPv6 address');
  return address;
}

function readGateway(w: Words): At<GatewayClause> | undefined {
  for (const by of ['learned', 'none'] as const) {
    const token = w.eat(by);
    if (token) return { value: { by }, at: token };
  }
  const address = w.address({ outside: 'finding' }, 'an address, `learned` or `none`');
  const onlink = !!w.eat('onlink');
  return address && { value: { by: 'address', address: address.value, onlink }, at: address.at };
}

function readRoute(w: Words, at: Span): RouteClause | undefined {
  const prefix = w.network();
  let via: At<Ip> | undefined;
  let iface: RouteClause['interface'];
  let drop = false;
  if (w.eat('via')) {
    via = w.address();
    if (w.eat('on')) iface = w.ref('an interface');
  } else if (w.eat('by')) iface = w.ref('an interface');
  else if (w.eat('drop')) drop = true;
  else {
    w.fault('`via ADDRESS`, `by INTERFACE` or `drop`');
    return undefined;
  }
  const distance = w.eat('distance') ? w.number(1, 255) : undefined;
  if (!prefix || (!via && !iface && !drop)) return undefined;
  return { prefix: prefix.value, via, interface: iface, drop, distance: distance?.value ?? 1, at };
}

/** Readers of interface clauses that need nothing from their statement: made once, since files have many interfaces. */
const READ = {
  zone: (w: Words) => w.ref('a zone'),
  table: (w: Words) => w.ref('a table'),
  also: (w: Words) => listOf(w, () => w.also()),
  priority: (w: Words) => w.number(1, 9999),
  duration: (w: Words) => w.duration(),
  mtu: (w: Words) => w.number(68, 65535),
  mac: (w: Words) => w.mac(),
  block: (w: Words) => {
    const prefix = w.network();
    const routed = !!w.eat('routed');
    return prefix && { value: { prefix: prefix.value, routed }, at: prefix.at };
  },
  mss: (w: Words) => {
    if (w.is('auto') || w.is('off')) {
      const got = w.oneOf(['auto', 'off']);
      return got && { value: got.value as number | 'auto' | 'off', at: got.at };
    }
    const got = w.number(88, 65495);
    return got && { value: got.value as number | 'auto' | 'off', at: got.at };
  },
  keeps: (w: Words, at: Span): KeepsClause | undefined => {
    const address = w.address({ outside: 'finding' });
    if (!w.want('for')) return undefined;
    const mac = w.mac();
    const label = w.peek?.kind === 'string' ? w.string() : undefined;
    return address && mac ? { address, mac: mac.value, label: label?.value, at } : undefined;
  },
  names: (w: Words, at: Span) =>
    w.eat('learned')
      ? { value: { learned: true, addresses: [] as At<Ip>[] }, at }
      : { value: { learned: false, addresses: w.addressList() }, at },
};

function buildInterface(common: StatementBase, name: string, c: Clauses): Statement {
  type Carrier = NonNullable<Extract<Statement, { kind: 'interface' }>['carrier']>;
  const carriers: Carrier[] = [];
  const add = (carrier: Carrier | undefined) => carrier && carriers.push(carrier);
  add(
    c.one('on', (w, at) => {
      const port = w.ref('a port');
      const tag = w.eat('tag') ? w.tag() : undefined;
      const pcp = w.eat('pcp') ? w.number(0, 7) : undefined;
      return port && { by: 'on', ports: [port], tag, pcp, at };
    }),
  );
  add(
    c.one('bridge', (w, at) => {
      const ports = [];
      while (!w.done && !w.is('tag')) {
        const port = w.ref('a port');
        if (port) ports.push(port);
      }
      const tag = w.eat('tag') ? w.tag() : undefined;
      return { by: 'bridge', ports, tag, at };
    }),
  );
  add(
    c.one('pppoe', (w, at) => {
      if (!w.want('on')) return undefined;
      const port = w.ref('a port');
      const tag = w.eat('tag') ? w.tag() : undefined;
      const user = w.eat('user') ? w.string() : undefined;
      const secret = w.eat('secret') ? w.string() : undefined;
      return port && { by: 'pppoe', ports: [port], tag, user: user?.value, secret: secret?.value, at };
    }),
  );
  add(c.one('loopback', (_, at) => ({ by: 'loopback', ports: [], at })));
  for (const extra of carriers.slice(1))
    c.problems.syntax(
      extra.at,
      `\`${extra.by}\` beside \`${carriers[0]!.by}\``,
      'one of `on`, `bridge`, `pppoe`, `loopback`',
    );
  let every = 5;
  let lost = 3;
  return {
    ...common,
    kind: 'interface',
    name,
    carrier: carriers[0],
    zone: c.one('zone', READ.zone),
    table: c.one('table', READ.table),
    off: c.flag('off'),
    address: c.one('address', readAddress),
    also: someAddresses(c),
    address6: c.many('address6', readAddress6).flat(),
    gateway: c.one('gateway', readGateway),
    gateway6: c.one('gateway6', readGateway),
    block: c.one('block', READ.block),
    priority: c.one('priority', READ.priority),
    watch: c
      .many('watch', (w) => {
        const list = w.addressList(['every', 'lost']);
        if (w.eat('every')) every = w.duration()?.value ?? every;
        if (w.eat('lost')) lost = w.number(1, 100)?.value ?? lost;
        return list;
      })
      .flat(),
    watchEvery: every,
    watchLost: lost,
    settle: c.one('settle', READ.duration)?.value ?? 30,
    names: joinNames(c.many('names', READ.names)),
    lends: c.many('lends', readLends),
    keeps: c.many('keeps', READ.keeps),
    answers: c.many('answers', readAnswers),
    advertises: c.flag('advertises'),
    mtu: c.one('mtu', READ.mtu),
    mss: c.one('mss', READ.mss),
    mac: c.one('mac', READ.mac),
    guard: c.flag('guard'),
  };
}

function joinNames(
  clauses: At<{ learned: boolean; addresses: readonly At<Ip>[] }>[],
): At<{ learned: boolean; addresses: readonly At<Ip>[] }> | undefined {
  const first = clauses[0];
  if (!first) return undefined;
  return {
    at: first.at,
    value: {
      learned: clauses.some((n) => n.value.learned),
      addresses: clauses.flatMap((n) => n.value.addresses),
    },
  };
}

function listOf<T>(w: Words, read: () => T | undefined): T[] {
  const out: T[] = [];
  if (w.done) w.fault('an address');
  while (!w.done) {
    const value = read();
    if (value !== undefined) out.push(value);
  }
  return out;
}

function readAddress6(w: Words): At<Address6Source>[] | undefined {
  if (w.eat('by')) {
    const out: At<Address6Source>[] = [];
    do {
      const by = w.oneOf(['slaac', 'dhcpv6']);
      if (by) out.push({ value: { by: by.value }, at: by.at });
      else break;
    } while (w.eat('and'));
    return out;
  }
  if (w.eat('from')) {
    const iface = w.ref('an interface');
    const subnet = w.eat('subnet') ? w.number(0, 65535) : undefined;
    return iface && [{ value: { by: 'from', interface: iface, subnet: subnet?.value ?? 0 }, at: w.span }];
  }
  return listOf(w, () => {
    const got = w.interfaceAddress();
    if (!got) return undefined;
    if (isIpv4(got.value.address)) return c6(w, got);
    return { value: { by: 'static' as const, prefix: got.value }, at: got.at };
  });
}

function c6(w: Words, got: At<Prefix>): undefined {
  return w.problems.syntax(got.at, formatIp(got.value.address), 'an IPv6 address with its length');
}

function readLends(w: Words, at: Span): LendsClause {
  const ranges: At<Range>[] = [];
  let seconds = 12 * 3600;
  let gateway: At<Ip> | undefined;
  let names: At<Ip>[] = [];
  const stop = ['for', 'gateway', 'names'];
  if (w.done || stop.includes(w.peek!.text)) w.fault('a range such as .50-.199');
  while (!w.done && !stop.includes(w.peek!.text)) {
    const range = w.range({ outside: 'finding', code: 'lends-empty' });
    if (range) ranges.push(range);
  }
  while (!w.done) {
    if (w.eat('for')) seconds = w.duration()?.value ?? seconds;
    else if (w.eat('gateway')) gateway = w.address({ outside: 'finding' });
    else if (w.eat('names')) names = w.addressList(stop);
    else w.fault('`for`, `gateway` or `names`');
  }
  return { ranges, seconds, gateway, names, at };
}

function readAnswers(w: Words, at: Span): AnswersClause {
  const services: AnswersClause['services'][number][] = [];
  if (w.done || w.is('from')) w.fault(`what to answer: ${ANSWERABLE.join(', ')}`);
  while (!w.done && !w.is('from')) {
    const service = w.oneOf(ANSWERABLE);
    if (!service) continue;
    const port =
      w.peek && /^[0-9]+$/.test(w.peek.text) && service.value !== 'ping' ? w.number(1, 65535) : undefined;
    services.push({ name: service.value, port: port?.value, at: service.at });
  }
  let from: Who[] | undefined;
  // Several `from` in one clause are joined, as the clause itself may repeat.
  while (w.eat('from')) {
    from ??= [];
    if (w.done) w.fault('a zone, interface, known, address or prefix');
    while (!w.done && !w.is('from')) {
      const word = w.peek!.text;
      if ((ANSWERABLE as readonly string[]).includes(word)) {
        // Services stand before `from`: what is meant is a clause of its own, for everybody or for others.
        w.fault(
          'a zone, interface, known, address or prefix; a service is a clause of its own',
          `, answers ${word}`,
        );
        break;
      }
      const who = w.who();
      if (who) from.push(who);
    }
  }
  return { services, from, at };
}

/** The `FROM > TO` of a passage's header. */
function pairOf(base: StatementBase, what: string, problems: Problems) {
  const w = new Words(base.header, base.head, undefined, problems);
  const side = () => {
    const token = w.peek;
    if (token?.text === 'any') {
      w.next();
      return { name: 'any', at: token };
    }
    return w.ref(`a ${what} or \`any\``, ['zone']) ?? { name: '', at: token ?? base.head };
  };
  const from = side();
  if (w.peek?.kind === 'arrow') w.next();
  else w.fault('`>` between the two zones');
  const to = side();
  w.end();
  return [from, to] as const;
}

function buildLeave(common: StatementBase, c: Clauses): Statement {
  const w = new Words(common.header, common.head, baseOf('leave', [], common.header), c.problems);
  const who = w.who() ?? { type: 'name' as const, name: '', at: common.head };
  if (w.peek?.kind === 'arrow') w.next();
  else w.fault('`>` and the interface or upstream zone it goes out by');
  const via = w.ref('an interface or an upstream zone', ['interface', 'zone']) ?? {
    name: '',
    at: common.head,
  };
  w.end();
  const as = c.one('as', (v) => {
    if (v.eat('interface')) return { by: 'interface' as const };
    const address = v.address({}, '`interface` or an address');
    return address && { by: 'address' as const, address };
  });
  const unchanged = c.flag('unchanged') && { by: 'unchanged' as const };
  const not = c.flag('never') && { by: 'never' as const };
  const said = [as, unchanged, not].filter((x) => x !== undefined);
  const asked = c.all.filter((clause) => ['as', 'unchanged', 'never'].includes(clause.name)).length;
  if (asked !== 1)
    c.problems.syntax(
      common.head,
      asked ? 'several of them' : 'nothing',
      'one of `as interface`, `as ADDRESS`, `unchanged`, `never`',
    );
  return { ...common, kind: 'leave', who, via, as: said[0] };
}

function buildSend(common: StatementBase, c: Clauses): Statement {
  const w = new Words(common.header, common.head, baseOf('send', [], common.header), c.problems);
  const who = w.who() ?? { type: 'name' as const, name: '', at: common.head };
  const services = w.atService ? w.services() : undefined;
  w.want('by');
  const by = w.ref('an interface') ?? { name: '', at: common.head };
  let otherwise;
  if (w.eat('else')) otherwise = w.eat('never') ? ('never' as const) : w.ref('an interface or `never`');
  w.end();
  return { ...common, kind: 'send', who, services: services ?? [{ kind: 'any' }], by, otherwise };
}

function buildDoor(common: StatementBase, name: string, c: Clauses): Statement {
  const body = c.unnamed((w) => {
    const token = w.peek;
    const outside =
      token && looksLikeAddress(token.text)
        ? mapAt(w.address(), (address) => ({ address }))
        : mapAt(withAt(w.ref('a public address or an interface', ['interface'])), (ref) => ({
            interface: ref,
          }));
    const services = w.atService ? w.services() : undefined;
    if (w.peek?.kind === 'arrow') w.next();
    else w.fault('`>` and the inside address');
    const inside = w.who();
    const insideServices = w.atService ? w.services() : undefined;
    const on = w.eat('on') ? w.ref('an interface') : undefined;
    return { outside, services, inside, insideServices, on };
  });
  if (!body) c.problems.syntax(common.head, 'nothing', 'PUBLIC-ADDRESS [SERVICE] > INSIDE-ADDRESS [SERVICE]');
  return {
    ...common,
    kind: 'door',
    name,
    outside: body?.outside,
    services: body?.services ?? [{ kind: 'any' }],
    inside: body?.inside,
    insideServices: body?.insideServices,
    on: body?.on,
    sources: c.many('from', (w) => w.whos()).flat(),
    log: c.flag('log'),
  };
}

const mapAt = <T, U>(at: At<T> | undefined, to: (value: T) => U): At<U> | undefined =>
  at && { value: to(at.value), at: at.at };
const withAt = <T extends { at: Span }>(value: T | undefined): At<T> | undefined =>
  value && { value, at: value.at };

function readPromise(base: StatementBase, problems: Problems): ExpectStatement['promise'] {
  const comma = base.header.find((t) => t.kind === 'comma');
  if (comma) {
    problems.syntax(comma, 'a comma', 'no comma: `expect` has none');
    return undefined;
  }
  const w = new Words(base.header, base.head, baseOf('expect', [], base.header), problems);
  const before = problems.list.length;
  const from = w.who();
  const good = () => problems.list.length === before;
  if (!from || !good()) return undefined;
  if (w.is('reaches') || w.is('never')) {
    const never = !!w.eat('never');
    w.want('reaches');
    const to = w.who();
    const services = w.done ? undefined : w.services();
    w.end();
    if (!to || !good()) return undefined;
    return { says: never ? 'never-reaches' : 'reaches', from, to, services };
  }
  if (w.eat('leaves')) {
    w.want('as');
    const address = w.address();
    w.end();
    return address && good() ? { says: 'leaves-as', from, address: address.value } : undefined;
  }
  if (w.eat('answers')) {
    w.want('ping');
    w.want('from');
    const asker = w.who();
    w.end();
    if (!asker || !good()) return undefined;
    if (from.type !== 'name') return problems.syntax(from.at, 'no interface', 'the name of an interface');
    return {
      says: 'answers-ping',
      interface: { name: from.name, kind: from.kind, at: from.at },
      from: asker,
    };
  }
  return w.fault(
    '`reaches`, `never reaches`, `leaves as` or `answers ping from`',
    w.peek && nearest(w.peek.text, ['reaches', 'never', 'leaves', 'answers']),
  );
}
