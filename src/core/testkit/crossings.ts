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
}

const ANSWERS = [
  '',
  'ping',
  'ping https',
  'ssh https',
  'https 8443',
  'ping, answers ssh from 10.61.0.0/16',
  'https from 10.61.2.0/24',
];

const pick = <T>(...items: readonly T[]) => fc.constantFrom(...items);

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
      case 'rules':
        one.table = one.table ? '' : 'aside';
    }
  });

const textOf = (list: readonly Iface[], passages: readonly string[]): string =>
  [
    'box tide: names 192.0.2.53',
    'zone world: upstream',
    ...['inner', 'outer', 'desk'].map((z) => `zone ${z}:`),
    'table aside:',
    'interface fibre: on p1, zone world, address 198.51.100.18/29, gateway .17',
    ...list.map(
      (i) =>
        `interface ${i.name}: ${i.on}, zone ${i.zone}, address 10.61.${i.length === 23 ? i.net * 2 : i.net}.1/${i.length}${i.lends ? ', lends .20-.60' : ''}${i.answers ? `, answers ${i.answers}` : ''}${i.table ? `, table ${i.table}` : ''}${i.off ? ', off' : ''}`,
    ),
    'leave any > world: as interface',
    ...passages,
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
    other: fc.boolean(),
    changes: fc.array(change, { minLength: 1, maxLength: 4 }),
    passages: fc.array(pick('passage inner > world: allow', 'passage outer > inner: allow ssh'), {
      maxLength: 2,
    }),
    later: fc.array(pick('passage inner > world: allow ping', 'passage desk > outer: drop'), {
      maxLength: 2,
    }),
  })
  .map(({ answers, lends, count, seat, leased, other, changes, passages, later }) => {
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
    }));
    const running = textOf(list, passages);
    const at = seat % count;
    const net = list[at]!.net;
    const dhcp = leased && list[at]!.lends;
    const next = list.map((i) => ({ ...i }));
    for (const apply of changes) apply(next);
    const wiring = [
      'circuit northmoor: at p1, block 198.51.100.16/29, gateway .17',
      `station laptop: at p${at + 2}, ${dhcp ? 'address by dhcp' : `address 10.61.${net}.9/24, gateway 10.61.${net}.1`}, seat`,
      ...(other && count > 1
        ? [`station other: at p${((at + 1) % count) + 2}, address 10.61.${list[(at + 1) % count]!.net}.8/24`]
        : []),
      '',
    ].join('\n');
    return { running, draft: textOf(next, later), wiring };
  });
