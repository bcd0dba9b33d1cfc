/** Generated changes of a small box with a seat: what runs, what shall run, and the wiring of both. */
import fc from 'fast-check';

interface Iface {
  name: string;
  on: string;
  net: number;
  length: number;
  lends: boolean;
  zone: string;
  answers: string;
  off: boolean;
  table: string;
  /** IPv6: none, written, or advertised as well. */
  six: 'none' | 'written' | 'advertised';
  /** Further clauses. */
  more: string;
  /** Whether its zone lets nothing pass within. */
  within: boolean;
}

const ANSWERS = [
  '',
  'ping',
  'ping https',
  'ssh https',
  'ssh, answers https from 2001:db8:61::/48',
  'https 8443',
  'ping, answers ssh from 10.61.0.0/16',
  'https from 10.61.2.0/24',
];

const pick = <T>(...items: readonly T[]) => fc.constantFrom(...items);

/** Statements that come, or go, with a change: of every kind that can take the seat's way. */
const LATER = [
  'passage inner > world: allow ping',
  'passage desk > outer: drop',
  'passage any > any: allow',
  'passage inner > outer: allow tcp 443',
  ...['p2', 'p3', 'p4', 'p1'].map((port) => `port ${port}: off`),
  'port p2: mtu 1400',
  ...[1, 2, 3].flatMap((n) => [
    `door d${n}: 10.61.${n}.1 tcp 443 > 10.61.3.40`,
    `door e${n}: 10.61.${n}.1 > 10.61.2.40, from any`,
    `door f${n}: 10.61.${n}.1 tcp 22 443 > 10.61.1.40, from 10.61.${n}.0/24`,
  ]),
  'door w: fibre tcp 443 > 10.61.1.40',
  'send inner by fibre else never:',
  'send any tcp 443 by fibre:',
  'leave inner > world: never',
  'leave inner > fibre: as 198.51.100.19',
  'known aside: 10.61.1.0/24',
  'door six: 2001:db8:61:1::1 tcp 443 > 2001:db8:61:2::40',
  'table main: route 2001:db8:61:1::/64 drop',
  'table main: route 10.61.1.0/24 drop',
  'table main: route 10.61.0.0/16 via 198.51.100.20',
] as const;

/** One thing that somebody changes, on the interfaces as they are. */
const change = fc
  .tuple(
    pick(
      'net',
      'length',
      'answers',
      'swap',
      'off',
      'remove',
      'bridge',
      'tag',
      'zone',
      'lends',
      'rename',
      'rules',
      'guard',
      'within',
      'also',
      'mac',
      'six',
    ),
    fc.nat(2),
    fc.nat(2),
    pick(...ANSWERS),
    fc.integer({ min: 1, max: 6 }),
  )
  .map(([what, a, b, answers, n]) => (list: Iface[]): void => {
    const one = list[a % list.length];
    const two = list[b % list.length];
    if (!one || !two) return;
    switch (what) {
      case 'net':
        one.net = n;
        return;
      case 'length':
        one.length = n % 2 ? 25 : 23;
        return;
      case 'answers':
        one.answers = answers;
        return;
      case 'swap':
        [one.on, two.on] = [two.on, one.on];
        return;
      case 'off':
        one.off = !one.off;
        return;
      case 'remove':
        if (list.length > 1) list.splice(a % list.length, 1);
        return;
      case 'bridge':
        if (one !== two) {
          one.on =
            `bridge ${one.on.replace(/^(on|bridge) /, '')} ${two.on.replace(/^(on|bridge) /, '')}`.replace(
              / tag \d+/g,
              '',
            );
          list.splice(list.indexOf(two), 1);
        }
        return;
      case 'tag':
        one.on = one.on.includes('tag') ? one.on.replace(/ tag \d+/, '') : `${one.on} tag ${n}0`;
        return;
      case 'zone':
        one.zone = two.zone;
        return;
      case 'lends':
        one.lends = !one.lends;
        return;
      case 'rename':
        one.name = `${one.name}x`;
        return;
      case 'guard':
        one.more = one.more ? '' : ', guard';
        return;
      case 'also':
        one.more = one.more ? '' : `, also 10.61.${n + 20}.1/24`;
        return;
      case 'mac':
        one.more = one.more ? '' : ', mac 02:61:00:00:77:01, mtu 1400';
        return;
      case 'six':
        one.six = (['none', 'written', 'advertised'] as const)[n % 3]!;
        return;
      case 'within':
        one.within = !one.within;
        return;
      case 'rules':
        one.table = one.table ? '' : 'aside';
    }
  });

/** Of statements that name the same thing the first: two ports of one name are a fault of reading, not a change. */
const namedOnce = (statements: readonly string[]): string[] => {
  const seen = new Set<string>();
  return statements.filter((statement) => {
    const head = statement.slice(0, statement.indexOf(':'));
    if (!/^(port|door|known|table) /.test(head)) return true;
    return !seen.has(head) && !!seen.add(head);
  });
};

const sixOf = ({ six, net }: Iface): string =>
  six === 'none' ? '' : `, address6 2001:db8:61:${net}::1/64${six === 'advertised' ? ', advertises' : ''}`;

const textOf = (list: readonly Iface[], passages: readonly string[]): string =>
  [
    'box tide: names 192.0.2.53',
    'zone world: upstream',
    ...['inner', 'outer', 'desk'].map(
      (z) => `zone ${z}:${list.some((i) => i.zone === z && i.within) ? ' within drop' : ''}`,
    ),
    'table aside:',
    'interface fibre: on p1, zone world, address 198.51.100.18/29, gateway .17',
    ...list.map(
      (i) =>
        `interface ${i.name}: ${i.on}, zone ${i.zone}, address 10.61.${i.length === 23 ? i.net * 2 : i.net}.1/${i.length}${i.lends ? ', lends .20-.60' : ''}${sixOf(i)}${i.answers ? `, answers ${i.answers}` : ''}${i.table ? `, table ${i.table}` : ''}${i.more}${i.off ? ', off' : ''}`,
    ),
    'leave any > world: as interface',
    ...namedOnce(passages),
    '',
  ].join('\n');

export interface GeneratedCrossing {
  readonly running: string;
  readonly draft: string;
  readonly wiring: string;
}

export const anyCrossing: fc.Arbitrary<GeneratedCrossing> = fc
  .record({
    answers: fc.array(pick(...ANSWERS), { minLength: 3, maxLength: 3 }),
    lends: fc.array(fc.boolean(), { minLength: 3, maxLength: 3 }),
    count: fc.integer({ min: 1, max: 3 }),
    seat: fc.nat(2),
    leased: fc.boolean(),
    six: fc.array(pick<Iface['six']>('none', 'none', 'written', 'advertised'), {
      minLength: 3,
      maxLength: 3,
    }),
    /** Which addresses the seat's PC has written. */
    speaks: pick('4', '4', '6', 'both'),
    other: fc.boolean(),
    changes: fc.array(change, { minLength: 1, maxLength: 4 }),
    passages: fc.array(pick('passage inner > world: allow', 'passage outer > inner: allow ssh'), {
      maxLength: 2,
    }),
    later: fc.array(pick(...LATER), { maxLength: 3 }),
    earlier: fc.array(pick(...LATER), { maxLength: 1 }),
  })
  .map(({ answers, lends, count, seat, leased, six, speaks, other, changes, passages, later, earlier }) => {
    const list = ['aa', 'bb', 'cc'].slice(0, count).map((name, i): Iface => ({
      name,
      on: `on p${i + 2}`,
      net: i + 1,
      length: 24,
      lends: lends[i]!,
      zone: ['inner', 'outer', 'desk'][i]!,
      answers: i === seat % count && !answers[i] ? 'https' : answers[i]!,
      off: false,
      table: '',
      six: six[i]!,
      more: '',
      within: false,
    }));
    const running = textOf(list, [...passages, ...earlier]);
    const at = seat % count;
    const net = list[at]!.net;
    const dhcp = leased && list[at]!.lends;
    const next = list.map((i) => ({ ...i }));
    for (const apply of changes) apply(next);
    const wiring = [
      'circuit northmoor: at p1, block 198.51.100.16/29, gateway .17',
      `station laptop: at p${at + 2}, ${[
        ...(speaks === '6'
          ? []
          : [dhcp ? 'address by dhcp' : `address 10.61.${net}.9/24, gateway 10.61.${net}.1`]),
        ...(speaks === '4' ? [] : [`address6 2001:db8:61:${net}::9/64, gateway6 2001:db8:61:${net}::1`]),
      ].join(', ')}, seat`,
      ...(other && count > 1
        ? [`station other: at p${((at + 1) % count) + 2}, address 10.61.${list[(at + 1) % count]!.net}.8/24`]
        : []),
      '',
    ].join('\n');
    return { running, draft: textOf(next, [...new Set(later)]), wiring };
  });
