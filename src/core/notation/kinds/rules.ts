/** Who may start what, by which way and under which address it leaves, what is let in, and what is promised. */
import { isIpv4, isNptLength } from '#core/addr';
import type { Ip, Prefix, Range, Services } from '#core/addr';
import type { At, Ref, Who } from '../ast';
import { defineKind, flag, joined, listOf, once, repeated } from '../clause';
import { isFarName, nearest } from '../grammar';
import { placeOf } from '../lexer';
import type { Span } from '../lexer';
import { looksLikeAddress } from '../reader';
import type { Problems, Words } from '../reader';
import { NOTE, PLACES, SERVICE_OFFERS, UNTIL, whos } from './shared';

const ANY: Services = [{ kind: 'any' }];
/** A WHO whose addresses are written or named: what changes with a prefix is asked for in `from` and `to` only. */
function known(w: Words): Who | undefined {
  const who = w.who();
  return who?.type === 'suffix'
    ? w.problems.syntax(who.at, 'a suffix', 'a zone, interface, known, address or prefix')
    : who;
}

/** Who is meant where the header does not say it. */
const nobody = (head: Span): Who => ({ type: 'name', name: '', at: head });
const nothing = (head: Span): Ref => ({ name: '', at: head });

export const KNOWN = defineKind({
  kind: 'known',
  header: {},
  lead: (w) => {
    const items: At<{ readonly range: Range; readonly prefix?: Prefix }>[] = [];
    while (!w.done) {
      const start = w.peek!;
      const item = w.addresses();
      if (item) items.push({ value: item, at: placeOf(start) });
    }
    return items;
  },
  clauses: {
    name: repeated((w) => listOf(w, 'a DNS name', () => readDnsName(w))),
    behind: once((w) => w.ref('an interface'), { behind: { names: ['interface'] } }),
    ...NOTE,
  },
  make: ({ values: v, lead, clauses, head, problems }) => {
    if (
      !lead &&
      !v.name.length &&
      (!clauses[0] || clauses[0].name === 'behind' || clauses[0].name === 'note')
    )
      problems.syntax(head, 'no address', 'an address, a network, a range, or `name` with a DNS name');
    return {
      items: lead ?? [],
      /** Names whose addresses of the moment it stands for, beside those that are written. */
      dnsNames: joined(v.name),
      behind: v.behind,
    };
  },
});

function readDnsName(w: Words): At<string> | undefined {
  const token = w.next();
  return token?.kind === 'word' && isFarName(token.text)
    ? { value: token.text, at: placeOf(token) }
    : w.problems.syntax(token ?? w.span, token?.text ?? 'nothing', 'a DNS name such as update.example');
}

const VERDICTS = ['allow', 'drop', 'reject'] as const;
const verdict = once((w, at) => ({ services: w.done ? ANY : (w.services() ?? ANY), at }), SERVICE_OFFERS);

/** A name that the box itself answers for, with its addresses. */
export const RECORD = defineKind({
  kind: 'record',
  header: {},
  lead: (w) => w.addressList(),
  clauses: { ...NOTE },
  make: ({ lead, head, problems }) => {
    if (!lead?.length) problems.syntax(head, 'no address', 'one or more addresses');
    return { addresses: lead ?? [] };
  },
});

export const PASSAGE = defineKind({
  kind: 'passage',
  header: { names: ['zone'], words: ['any'] },
  clauses: {
    allow: verdict,
    drop: verdict,
    reject: verdict,
    from: whos(),
    to: whos({ names: ['zone', 'interface', 'known', 'station'] }),
    log: flag,
    ...UNTIL,
    ...NOTE,
  },
  make: ({ values: v, foreign, header, head, problems }) => {
    const [from, to] = readPair(header, head);
    const said = VERDICTS.filter((word) => v[word]);
    for (const [i, word] of said.entries())
      if (i > 0)
        problems.syntax(
          v[word]!.at,
          `\`${word}\` beside \`${said[i - 1]!}\``,
          'one of `allow`, `drop`, `reject`',
        );
    const last = said[said.length - 1];
    // A clause that cannot be read is told by itself; it may be the verdict.
    if (!last && !foreign)
      problems.syntax(head, 'no verdict', '`allow`, `drop` or `reject` behind the colon');
    return {
      from,
      to,
      /** Absent where the verdict could not be read. */
      verdict: last,
      services: last ? v[last]!.services : ANY,
      /** Empty: every source of the zone. */
      sources: joined(v.from),
      /** Empty: every destination of the zone. */
      destinations: joined(v.to),
      log: v.log,
      /** The last day on which it counts; for ever where absent. */
      until: v.until,
    };
  },
});

/** The `FROM > TO` of a passage's header. */
function readPair(w: Words, head: Span): readonly [Ref, Ref] {
  const side = (): Ref => {
    const token = w.peek;
    if (token?.text === 'any') {
      w.next();
      return { name: 'any', at: placeOf(token) };
    }
    return w.ref('a zone or `any`', ['zone']) ?? { name: '', at: token ? placeOf(token) : head };
  };
  const from = side();
  if (w.peek?.kind === 'arrow') w.next();
  else w.fault('`>` between the two zones');
  const to = side();
  w.end();
  return [from, to];
}

export const LEAVE = defineKind({
  kind: 'leave',
  header: { ...PLACES, words: ['any'] },
  clauses: {
    as: once(
      (w) => {
        if (w.eat('interface')) return { by: 'interface' as const };
        if (w.peek?.text.includes('/')) {
          const prefix = w.network();
          return prefix && { by: 'prefix' as const, prefix };
        }
        const address = w.address({}, '`interface` or an address');
        return address && { by: 'address' as const, address };
      },
      { as: { words: ['interface'] } },
    ),
    unchanged: flag,
    never: flag,
    ...NOTE,
  },
  make: ({ values: v, clauses, header: w, head, problems }) => {
    const who = known(w) ?? nobody(head);
    if (w.peek?.kind === 'arrow') w.next();
    else w.fault('`>` and the interface or upstream zone it goes out by');
    const via = w.ref('an interface or an upstream zone', ['interface', 'zone']) ?? nothing(head);
    w.end();
    const asked = clauses.filter((c) => ['as', 'unchanged', 'never'].includes(c.name)).length;
    if (asked !== 1)
      problems.syntax(
        head,
        asked ? 'several of them' : 'nothing',
        'one of `as interface`, `as ADDRESS`, `unchanged`, `never`',
      );
    const unchanged = v.unchanged && { by: 'unchanged' as const };
    if (v.as?.by === 'prefix') {
      const own = who.type === 'addresses' ? who.prefix : undefined;
      checkPair(own, v.as.prefix, problems, true);
    }
    return { who, via, as: v.as ?? unchanged ?? (v.never && { by: 'never' as const }) };
  },
});

export const SEND = defineKind({
  kind: 'send',
  header: PLACES,
  clauses: NOTE,
  make: ({ header: w, head }) => {
    const who = known(w) ?? nobody(head);
    const services = w.atService ? w.services() : undefined;
    w.want('by');
    const by = w.ref('an interface') ?? nothing(head);
    let otherwise: Ref | 'never' | undefined;
    if (w.eat('else')) otherwise = w.eat('never') ? 'never' : w.ref('an interface or `never`');
    w.end();
    return { who, services: services ?? ANY, by, otherwise };
  },
});

export const DOOR = defineKind({
  kind: 'door',
  header: {},
  lead: (w) => {
    const outside = readOutside(w);
    const services = w.atService ? w.services() : undefined;
    if (w.peek?.kind === 'arrow') w.next();
    else w.fault('`>` and the inside address');
    const inside = known(w);
    const insideServices = w.atService ? w.services() : undefined;
    const on = w.eat('on') ? w.ref('an interface') : undefined;
    return { outside, services, inside, insideServices, on };
  },
  clauses: { from: whos(), log: flag, ...UNTIL, ...NOTE },
  make: ({ values: v, lead, head, problems }) => {
    if (!lead) problems.syntax(head, 'nothing', 'PUBLIC-ADDRESS [SERVICE] > INSIDE-ADDRESS [SERVICE]');
    const many = lead?.outside && 'prefix' in lead.outside.value ? lead.outside : undefined;
    if (many && 'prefix' in many.value) {
      const inside = lead?.inside?.type === 'addresses' ? lead.inside.prefix : undefined;
      checkPair(inside, { value: many.value.prefix, at: many.at }, problems);
    }
    return {
      outside: lead?.outside,
      services: lead?.services ?? ANY,
      inside: lead?.inside,
      insideServices: lead?.insideServices,
      on: lead?.on,
      sources: joined(v.from),
      log: v.log,
      /** The last day on which it counts; for ever where absent. */
      until: v.until,
    };
  },
});

/** The public side of a door: an address, or the interface whose address it is. */
/** Addresses that one statement can map one to one: a network of 24 bits, no more. */
export const MOST_MAPPED = 256;

/**
 * Two networks that are mapped one to one have one length, and not too many addresses; `translates`: or are prefixes of
 * IPv6, of which one stands for the other (RFC 6296).
 */
function checkPair(
  inside: Prefix | undefined,
  outside: At<Prefix>,
  problems: Problems,
  translates = false,
): void {
  const { address, length } = outside.value;
  const bits = isIpv4(address) ? 32 : 128;
  if (!inside || inside.length !== length || isIpv4(inside.address) !== isIpv4(address))
    problems.syntax(
      outside.at,
      inside ? `/${length} for /${inside.length}` : 'a network for what is none',
      'two networks of one length: each address of one stands for one of the other',
    );
  else if (2 ** (bits - length) > MOST_MAPPED && !(translates && bits === 128 && isNptLength(length)))
    problems.syntax(
      outside.at,
      `/${length}`,
      translates && bits === 128
        ? `a prefix of 48 or of 56 to 64 bits, or a network of at most ${MOST_MAPPED} addresses`
        : `a network of at most ${MOST_MAPPED} addresses`,
    );
}

function readOutside(
  w: Words,
): At<{ readonly address: Ip } | { readonly prefix: Prefix } | { readonly interface: Ref }> | undefined {
  if (w.peek?.text.includes('/')) {
    const prefix = w.network();
    return prefix && { value: { prefix: prefix.value }, at: prefix.at };
  }
  if (w.peek && looksLikeAddress(w.peek.text)) {
    const address = w.address();
    return address && { value: { address: address.value }, at: address.at };
  }
  const ref = w.ref('a public address or an interface', ['interface']);
  return ref && { value: { interface: ref }, at: ref.at };
}

export const EXPECT = defineKind({
  kind: 'expect',
  header: {
    names: ['zone', 'interface', 'known', 'door', 'station', 'far'],
    words: [
      'reaches',
      'never reaches',
      'leaves as',
      'answers ping from',
      'internet',
      'while cut',
      'while dead',
    ],
  },
  clauses: {},
  make: ({ header, problems }) => {
    const promise = readPromise(header, problems);
    return { promise, fault: promise && readFault(header) };
  },
});

/** What has failed while a promise is to hold: lines that are cut, circuits that are dead behind their gateway. */
export interface SaidFault {
  readonly cut: readonly Ref[];
  readonly dead: readonly Ref[];
}

/** `while cut p1 dead northmoor`, up to the end of the promise. */
function readFault(w: Words): SaidFault | undefined {
  if (!w.eat('while')) {
    w.end();
    return undefined;
  }
  const fault = { cut: [] as Ref[], dead: [] as Ref[] };
  if (!w.is('cut') && !w.is('dead')) return w.fault('`cut` or `dead`, and the lines that have failed');
  while (!w.done) {
    const list = w.eat('cut') ? fault.cut : w.eat('dead') ? fault.dead : undefined;
    if (!list) return w.fault('`cut` or `dead`');
    do {
      const line = w.ref('a port or a circuit');
      if (!line) return undefined;
      list.push(line);
    } while (!w.done && !w.is('cut') && !w.is('dead'));
  }
  return fault;
}

/** What a promise says. */
type Promised =
  | {
      readonly says: 'reaches' | 'never-reaches';
      readonly from: Who;
      readonly to: Who;
      readonly services?: Services;
    }
  | { readonly says: 'leaves-as'; readonly from: Who; readonly address: Ip }
  | { readonly says: 'answers-ping'; readonly interface: Ref; readonly from: Who };

function readPromise(w: Words, problems: Problems): Promised | undefined {
  const comma = w.find('comma');
  if (comma) return problems.syntax(comma, 'a comma', 'no comma: `expect` has none');
  const before = problems.list.length;
  const from = w.who();
  const good = () => problems.list.length === before;
  if (!from || !good()) return undefined;
  if (w.is('reaches') || w.is('never')) {
    const never = !!w.eat('never');
    w.want('reaches');
    const to = w.who();
    const services = w.done || w.is('while') ? undefined : w.services();
    if (!to || !good()) return undefined;
    return { says: never ? 'never-reaches' : 'reaches', from, to, services };
  }
  if (w.eat('leaves')) {
    w.want('as');
    const address = w.address();
    return address && good() ? { says: 'leaves-as', from, address: address.value } : undefined;
  }
  if (w.eat('answers')) {
    w.want('ping');
    w.want('from');
    const asker = w.who();
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
