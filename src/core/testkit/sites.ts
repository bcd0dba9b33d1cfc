/** Generated sites: small offices with every kind of rule, that mostly work and sometimes do odd things. */
import fc from 'fast-check';

/** What a generated site may hold, for oracles that know less than the bench does. */
export interface SiteShape {
  /** IPv6 beside IPv4. */
  readonly six: boolean;
  /** A second routing table. */
  readonly tables: boolean;
  /** The same addresses in both tables. */
  readonly twins: boolean;
  /** Statements of sending, and uplinks that share. */
  readonly sends: boolean;
  /** How many uplinks at most. */
  readonly uplinks: number;
  /** What people get wrong or do oddly: unlike masks, no gateways, routers inside, ports that are off, unequal doors. */
  readonly odd: boolean;
  /** Routers inside, with stations behind them. */
  readonly routers: boolean;
  /** A second box, and addresses that both share. */
  readonly two: boolean;
  /** How many promises at most. */
  readonly promises: number;
}

export const EVERYTHING: SiteShape = {
  six: true,
  tables: true,
  twins: true,
  sends: true,
  uplinks: 2,
  odd: true,
  routers: true,
  two: true,
  promises: 0,
};

const SERVICES = [
  'any',
  'ping',
  'tcp 80 443',
  'ssh',
  'dns',
  'tcp 8000-8010',
  'udp 53 ping',
  'tcp',
  'udp 1000-2000',
  'icmp',
  'proto 50',
  'udp',
  'tcp udp',
  'proto 50 ping',
  'tcp 1-65535',
] as const;

/** Beside the first line's own subnet; its provider may route it, or nobody. */
const BLOCK = ', block 198.51.100.32/29';

const INSIDE = ['office', 'shop', 'lab', 'guests'] as const;

const pick = <T>(...items: readonly T[]) => fc.constantFrom(...items);
const maybe = (text: string, weight = 1) =>
  fc.oneof({ weight: 3, arbitrary: fc.constant('') }, { weight, arbitrary: fc.constant(text) });
const lines = (arb: fc.Arbitrary<string>, most: number, least = 0) =>
  fc.array(arb, { minLength: least, maxLength: most }).map((all) => all.join(''));

/** The text of a site of a shape. Addresses are from the documentation blocks and 10.61.0.0/16. */
export const anySite = (shape: SiteShape = EVERYTHING): fc.Arbitrary<string> =>
  fc
    .record({
      inside: fc.shuffledSubarray([...INSIDE], { minLength: 2 }),
      uplinks: fc.integer({ min: 1, max: shape.uplinks }),
      /** What the uplinks say of one another: that they share, or that the second stands by. */
      shares: shape.sends
        ? fc.constantFrom(
            ...[undefined, undefined, undefined, undefined],
            ...[
              [', share 1', ', share 1'],
              [', share 3', ', share 1'],
              [', share 1', ', share 16'],
              ['', ', on-demand'],
            ],
          )
        : fc.constant(undefined),
      six: shape.six ? fc.boolean() : fc.constant(false),
      tables: shape.tables ? fc.integer({ min: 0, max: 3 }).map((n) => n === 0) : fc.constant(false),
    })
    .chain(({ inside, uplinks, shares, six, tables }) => {
      const ups = ['fibre', 'radio'].slice(0, uplinks);
      const zones = ['world', ...inside];
      const names = [...ups, ...inside.map((z) => `${z}-net`)];
      const anyZone = pick('any', ...zones);
      const service = pick(...SERVICES);
      const ends = pick(
        'printer',
        'servers',
        'vendor',
        '10.61.1.0/25',
        '10.61.2.10',
        '192.0.2.80',
        '192.0.2.0/24',
        ...zones,
        ...names,
        ...(six ? ['2001:db8:61:1::/64', '2001:db8:ffff::80', `::10 of ${inside[0]!}-net`] : []),
      );
      const from = fc.oneof(
        { weight: 3, arbitrary: fc.constant('') },
        {
          weight: 1,
          arbitrary: fc.array(ends, { minLength: 1, maxLength: 2 }).map((w) => `, from ${w.join(' ')}`),
        },
      );
      const to = fc.oneof(
        { weight: 3, arbitrary: fc.constant('') },
        {
          weight: 1,
          arbitrary: fc.array(ends, { minLength: 1, maxLength: 2 }).map((w) => `, to ${w.join(' ')}`),
        },
      );
      /** Over by any clock, or by none. */
      const end = pick('', '', '', '', '', '', ', until 2020-01-01', ', until 2099-12-31');
      const passage = fc
        .tuple(anyZone, anyZone, pick('allow', 'allow', 'allow', 'drop', 'reject'), service, from, to, end)
        .map(
          ([a, b, verdict, s, f, t, e]) =>
            `passage ${a} > ${b}: ${verdict}${s === 'any' ? '' : ` ${s}`}${f}${t}${e}\n`,
        );
      // Prefixes that are shown as others.
      const prefixes = six
        ? [
            'leave 2001:db8:61::/48 > world: as 2001:db8:161::/48\n',
            'leave 2001:db8:61:1::/64 > fibre: as 2001:db8:161:7::/64\n',
          ]
        : [];
      const via = pick('world', ...ups);
      const leave = fc
        .tuple(
          pick('any', 'printer', 'vendor', '10.61.1.0/24', '10.61.2.0/26', ...inside, ...names),
          via,
          pick(
            ...['as interface', 'as interface', 'as 198.51.100.20', 'as 203.0.113.20', 'unchanged', 'never'],
            ...(shape.odd ? ['as 198.51.100.33'] : []),
          ),
        )
        .map(([who, out, how]) => `leave ${who} > ${out}: ${how}\n`);
      const send = fc
        .tuple(
          pick('any', 'printer', 'vendor', ...inside),
          service,
          pick(...ups),
          pick('', ...ups.map((u) => ` else ${u}`), ' else never'),
        )
        .map(([who, s, by, otherwise]) => `send ${who}${s === 'any' ? '' : ` ${s}`} by ${by}${otherwise}:\n`);
      const doorAt = pick(
        '198.51.100.19',
        '198.51.100.20',
        '198.51.100.18',
        // Amid a network of the box, where nobody expects one.
        '10.61.2.50',
        'fibre',
        ...(uplinks > 1 ? ['203.0.113.19'] : []),
        ...(shape.odd ? ['198.51.100.34'] : []),
      );
      const door = fc
        .tuple(
          doorAt,
          pick('', ' tcp 443', ' tcp 8001-8004', ' udp 53', ' tcp 80 443', ' ping'),
          pick('10.61.1.10', '10.61.2.10', '10.61.3.10', 'printer'),
          fc.boolean(),
          pick('', '', '', ', from 192.0.2.0/24', ', from office-net 192.0.2.80', ', from any'),
          pick('', '', ` on ${inside[0]!}-net`),
          end,
        )
        .map(([at, s, target, moved, who, on, e]) => {
          const inner =
            shape.odd && moved && s === ' tcp 80 443'
              ? ' tcp 8080-8082'
              : moved && s === ' tcp 443'
                ? ' tcp 8443'
                : moved && s === ' tcp 8001-8004'
                  ? ' tcp 9001-9004'
                  : '';
          return `${at}${s} > ${target}${inner}${on}${who}${e}`;
        });
      const answers = pick(
        '',
        ', answers ping',
        ', answers ping ssh from office-net 192.0.2.80',
        ', answers https 8443 dns, answers ping from printer',
      );
      const asks = pick(
        'internet',
        'internet',
        'printer',
        'servers',
        ...zones,
        ...inside.map((z) => `${z}-net`),
        ...inside.map((z) => `station ${z}-pc`),
        ...(shape.routers ? inside.map((z) => `station ${z}-in`) : []),
        'www.example',
        '10.61.2.50',
        ...(six && shape.odd ? [`::10 of ${inside[0]!}-net`, `::10 of ${inside[1]!}-net`] : []),
        ...(shape.odd ? ['10.70.5.9', '10.70.0.0/16', ...inside.map((z) => `${z}-net`)] : []),
      );
      const goals = fc.oneof(
        { weight: 4, arbitrary: asks },
        // One address, which may be the box's own or that of a door.
        {
          weight: 1,
          arbitrary: pick(
            ...['198.51.100.18', '198.51.100.19', '10.61.1.1', '10.61.2.50'],
            ...(shape.odd ? ['10.66.0.10', '198.51.100.42'] : []),
          ),
        },
      );
      const promise = fc
        .tuple(
          // Somebody on a provider's line now and then.
          fc.oneof({ weight: 20, arbitrary: asks }, { weight: 1, arbitrary: pick('198.51.100.20') }),
          goals,
          pick(
            ...['', '', ' ping', ' tcp 443', ' ssh', ' dns', ' tcp 8443'],
            ...(shape.odd
              ? [' any', ' tcp', ' udp', ' proto 50', ' tcp udp', ' tcp 443 proto 50', ' icmp']
              : []),
          ),
          pick('reaches', 'reaches', 'never reaches', 'leaves as', 'pings'),
          pick(...names),
          pick('198.51.100.18', '198.51.100.20', '203.0.113.18'),
          fc.integer({ min: 0, max: 5 }),
        )
        .map(([a, b, s, says, iface, address, d]) =>
          says === 'leaves as'
            ? `expect ${a} leaves as ${address}\n`
            : says === 'pings'
              ? `expect ${iface} answers ping from ${a}\n`
              : `expect ${a} ${says} ${d < 2 ? `door d${d}` : b}${s}\n`,
        );
      const net = (name: string, i: number) =>
        fc
          .record({
            answers,
            also: fc.oneof(
              { weight: 3, arbitrary: fc.constant(false) },
              { weight: 1, arbitrary: fc.constant(true) },
            ),
            guard: maybe(', guard'),
            // Shared with a second box, which there may be.
            shared: shape.two ? pick('', '', '', ' ', ' with .253') : fc.constant(''),
            trunk: fc.boolean(),
            other: tables ? maybe(', table blue', 2) : fc.constant(''),
            station: pick(
              ...['address .10', 'address .10', 'address .10', 'dhcp', 'none', 'strange'],
              ...(shape.odd
                ? ['narrow', 'alone', 'other gateway', 'six', 'dark', 'relayed', 'served', 'split']
                : []),
            ),
            beside: shape.odd ? maybe('yes') : fc.constant(''),
            behind: shape.routers
              ? pick(
                  ...['', '', '', '', 'static', 'lent'],
                  ...(shape.odd ? ['lost', 'stranded', 'unrouted', 'deep', 'neighbour', 'foreign'] : []),
                )
              : fc.constant(''),
            off: shape.odd ? pick('', '', '', '', '', '', '', '', '', ', off') : fc.constant(''),
            listens: pick(
              '',
              ', listens tcp 443 8443',
              ', listens tcp 22 udp 53',
              ', silent',
              ', listens any',
              ...(shape.odd ? [', listens tcp 1-65535', ', listens proto 50 udp 53'] : []),
            ),
          })
          .map((r) => ({ ...r, name, place: i + 1 }));
      /** A router on a network, a network of its own behind it, and somebody there. */
      const behindText = (
        name: string,
        place: number,
        n: number,
        r: {
          readonly behind: string;
          readonly trunk: boolean;
          readonly other: string;
          readonly listens: string;
        },
      ): string => {
        if (!r.behind || !r.trunk) return '';
        const [own, net] = [`10.61.${n}.2`, `10.61.${n + 100}`];
        const gateway =
          { lost: `, gateway 10.61.${n}.9`, stranded: '' }[r.behind] ?? `, gateway 10.61.${n}.1`;
        const lends = r.behind === 'lent' ? ' lends .50-.60' : '';
        const address =
          r.behind === 'lent'
            ? 'address by dhcp'
            : `address ${net}.10/24, gateway ${net}.${r.behind === 'foreign' ? 7 : 1}`;
        const route =
          r.behind === 'unrouted'
            ? ''
            : `table ${r.other ? 'blue' : 'main'}: route ${net}.0/24 via ${own}${r.behind === 'deep' ? `, route 10.61.${n + 150}.0/24 via ${own}` : ''}\n`;
        const deep =
          r.behind === 'deep'
            ? `router ${name}-s: leg core tag ${place + 100} ${net}.2/24, leg core tag ${place + 150} 10.61.${n + 150}.1/24, gateway ${net}.1\n` +
              `station ${name}-low: at core/${place + 50}, address 10.61.${n + 150}.10/24, gateway .1${r.listens}\n`
            : '';
        // One that knows of both networks, and asks the router first.
        const beside =
          r.behind === 'neighbour'
            ? `station ${name}-nb: at core/${place + 20}, address 10.61.${n}.77/24, gateway ${own}${r.listens}\n`
            : '';
        return (
          `router ${name}-r: leg core/${place + 20} ${own}/24, leg core tag ${place + 100} ${net}.1/24${lends}${gateway}${r.behind === 'deep' ? `, route 10.61.${n + 150}.0/24 via ${net}.2` : ''}\n`.replace(
            `core/${place + 20} `,
            r.behind === 'neighbour' ? `core tag ${place * 10} ` : `core/${place + 20} `,
          ) +
          `station ${name}-in: at core/${place + 40}, ${address}${r.listens}\n` +
          deep +
          beside +
          route
        );
      };
      type Net = typeof net extends (...args: never[]) => fc.Arbitrary<infer T> ? T : never;
      /** `n` numbers its addresses: mostly its place, or that of another network in another table. */
      const netText = ({ name, place, ...r }: Net, n: number) => {
        const carrier = r.trunk ? `on p3 tag ${place * 10}` : `on p${place + 4}`;
        const plug = r.trunk ? `core/${place}` : `p${place + 4}`;
        const ip6 = six ? `, address6 2001:db8:61:${n}::1/64, advertises` : '';
        const lends =
          { dhcp: ', lends .50-.60', relayed: `, relays 10.99.${n}.5`, split: ', lends .50' }[r.station] ??
          '';
        const iface = `interface ${name}-net: ${carrier}, zone ${name}${r.other}, address 10.61.${n}.1/24${r.also ? `, also 10.61.${n + 10}.1/24` : ''}${r.shared && `, virtual .254 id ${n}${r.shared.trimEnd()}`}${ip6}${lends}${r.answers}${r.guard}${r.off}\n`;
        const at = (clauses: string) => `station ${name}-pc: at ${plug}, ${clauses}${r.listens}\n`;
        const own = `10.61.${n}.10`;
        const gw = `, gateway 10.61.${n}.1`;
        const sits: Record<string, string> = {
          none: '',
          dhcp: at('address by dhcp'),
          // Lent by a server on a network of its own, and by one on the same.
          relayed:
            at('address by dhcp') +
            `interface ${name}-rack: on p${place + 40}, zone ${name}${r.other}, address 10.99.${n}.1/24\n` +
            `station ${name}-lender: at p${place + 40}, address 10.99.${n}.5/24, gateway .1, lends 10.61.${n}.50-.60 in 10.61.${n}.0/24\n`,
          // Two servers, of which the box has one address to give.
          split: r.trunk
            ? at('address by dhcp') +
              `station ${name}-lender: at core/${place + 30}, address 10.61.${n}.5/24${gw}, lends .60-.61\n` +
              `station ${name}-late: at core/${place + 10}, address by dhcp\n`
            : at('address by dhcp'),
          served: r.trunk
            ? at('address by dhcp') +
              `station ${name}-lender: at core/${place + 30}, address 10.61.${n}.5/24${gw}, lends .50-.60\n`
            : at(`address ${own}/24${gw}`),
          strange: at(`address ${own}/16${gw}`),
          narrow: at(`address ${own}/28${gw}`),
          alone: at(`address ${own}/24`),
          'other gateway': at(`address ${own}/24, gateway 10.61.${n}.9`),
          six: at(
            six
              ? `address ${own}/24${gw}, address6 2001:db8:61:${n}::10/64, gateway6 2001:db8:61:${n}::1`
              : `address ${own}/24${gw}`,
          ),
          // A port that is off has nobody behind it.
          dark: at(`address ${own}/24${gw}`) + (r.trunk ? '' : `port p${place + 4}: off\n`),
        };
        const second =
          r.beside && r.trunk
            ? `station ${name}-two: at core/${place + 10}, address 10.61.${n}.200/25${gw}${r.listens}\n`
            : '';
        return (
          iface + behindText(name, place, n, r) + (sits[r.station] ?? at(`address ${own}/24${gw}`)) + second
        );
      };
      /** The networks as text; of two in different tables one may be a twin of the other, addresses and all. */
      const netsText = (nets: readonly Net[], twin: boolean): string[] => {
        const model = nets.find((m) => !m.other);
        const second = twin && model ? nets.find((m) => m.other && m.place > model.place) : undefined;
        return nets.map((m) => netText(m, m === second ? model!.place : m.place));
      };
      const uplink = (name: string) => {
        const first = name === 'fibre';
        const usual = first ? '198.51.100.18/29, gateway .17' : '203.0.113.18/29, gateway .17';
        const ip6 = six && first ? ', address6 2001:db8:1::2/64, gateway6 2001:db8:1::1' : '';
        const circuit = first ? '198.51.100.16/29' : '203.0.113.16/29';
        return fc
          .record({
            answers,
            guard: maybe(', guard'),
            also: first ? maybe(', also .19') : fc.constant(''),
            shared: shape.two ? maybe(', virtual .22 id 1 with .21') : fc.constant(''),
            translating: maybe(', translating'),
            table: tables && !first ? maybe(', table blue') : fc.constant(''),
            priority: shares
              ? fc.constant(shares[first ? 0 : 1]!)
              : first
                ? maybe(', priority 3')
                : fc.constant(', priority 2'),
            line: shape.odd ? pick('said', 'said', 'said', 'routing', 'supposed') : fc.constant('said'),
            block: shape.odd && first ? pick('', '', BLOCK, `${BLOCK} routed`) : fc.constant(''),
            way: pick('', '', '', '', '', '', ...(shape.odd ? ['off', 'off link', 'on link', 'six'] : [])),
          })
          .map((r) => {
            // A gateway outside the subnet makes a way out only where it is said to be on the link.
            const alone = usual
              .replace('.18/29', '.18/32')
              .replace('gateway .17', `gateway ${circuit.replace(/16.29$/, '17')}`);
            const own =
              r.way === 'off link'
                ? alone
                : r.way === 'on link'
                  ? `${alone} onlink`
                  : r.way === 'six' && ip6
                    ? ''
                    : usual;
            const routes =
              (ip6
                ? ', routes 2001:db8:61::/48 via 2001:db8:1::2, routes 2001:db8:161::/48 via 2001:db8:1::2'
                : '') + (r.line === 'routing' && first ? ', routes 198.51.100.32/29 via .18' : '');
            const circuitText =
              r.line === 'supposed'
                ? ''
                : `circuit ${name}-line: at ${first ? 'p1' : 'p2'}, block ${circuit}, gateway .17${r.translating}${ip6 ? ', block6 2001:db8:1::/64' : ''}${routes}\n`;
            const said = own ? `, address ${own}${own === usual ? `${r.also}${r.shared}` : ''}` : '';
            const line = `interface ${name}: on ${first ? 'p1' : 'p2'}, zone world${r.table}${said}${ip6}${r.priority}${r.answers}${r.guard}${r.block}${r.way === 'off' && !first ? ', off' : ''}`;
            // An uplink that rests shares nothing.
            const text = line.includes('on-demand') ? line.replace(/, virtual [^,]+/, '') : line;
            return `${text}\n${circuitText}`;
          });
      };
      return fc
        .record({
          ups: fc.tuple(...ups.map(uplink)),
          nets: fc.tuple(...inside.map(net)),
          twin: shape.twins && tables ? fc.boolean() : fc.constant(false),
          within: fc.tuple(...zones.map((z) => maybe(z === 'world' ? ' within allow' : ' within drop'))),
          passages: lines(passage, 7, 1),
          leaves: lines(leave, 3),
          tail: pick('leave any > world: as interface\n', 'leave any > world: as interface\n', ''),
          // Networks that are shown as others, address by address.
          maps: shape.odd
            ? pick(
                ...['', '', '', '', ''],
                'leave 10.61.1.0/28 > world: as 198.51.100.32/28\n',
                ...prefixes,
                'leave 10.61.2.0/28 > fibre: as 198.51.100.32/28\ndoor many: 198.51.100.32/28 > 10.61.2.0/28, from any\n',
                `door many: 10.66.0.0/28 > 10.61.1.0/28${tables ? ` on ${inside[0]!}-net` : ''}\n`,
                'door many: 10.66.0.0/28 tcp 443 > 10.61.2.0/28 tcp 8443, from any\n',
              )
            : pick('', '', ...prefixes),
          promises: lines(promise, shape.promises),
          sends: shape.sends ? lines(send, 2) : fc.constant(''),
          doors: fc.array(door, { maxLength: 3 }),
          routes: tables
            ? pick('', `table blue: route 0.0.0.0/0 via 198.51.100.17 on fibre\n`)
            : pick(
                '',
                '',
                'table main: route 10.70.0.0/16 via 10.61.1.10\n',
                'table main: route 10.70.0.0/16 drop\n',
                ...(shape.odd
                  ? [
                      'table main: route 10.70.0.0/16 via 10.61.1.5\nknown branch: 10.70.5.0/24\n',
                      'table main: route 192.0.2.0/24 by fibre\n',
                      'table main: route 192.0.2.0/24 via 198.51.100.17, route 10.70.0.0/16 via 10.61.9.9\n',
                      `known afar: 10.71.0.7, behind ${inside[0]!}-net\n`,
                      `table main: route 10.70.0.0/16 via 10.61.2.5, route 10.70.0.0/16 via 10.61.1.5 distance 7\n`,
                    ]
                  : []),
              ),
        })
        .map(
          ({
            ups: u,
            nets: made,
            twin,
            within,
            passages,
            leaves,
            tail,
            sends,
            doors,
            maps,
            routes,
            promises,
          }) => {
            const nets = netsText(made, twin);
            const trunk = nets.join('').includes('on p3');
            const two = /virtual .* with/.test(u.join('') + nets.join(''));
            return oneTable(
              (two ? 'box tide: priority 150, twin other\n' : '') +
                zones
                  .map(
                    (z, i) =>
                      `zone ${z}:${z === 'world' ? ' upstream' : ''}${within[i] && z === 'world' ? ',' : ''}${within[i]}\n`,
                  )
                  .join('') +
                (tables && !routes ? 'table blue:\n' : '') +
                u.join('') +
                (trunk
                  ? 'switch core: at p3, carries 10 20 30 40, jack 1 tag 10, jack 2 tag 20, jack 3 tag 30, jack 4 tag 40, jack 11 tag 10, jack 12 tag 20, jack 13 tag 30, jack 14 tag 40, jack 21 tag 10, jack 22 tag 20, jack 23 tag 30, jack 24 tag 40, jack 31 tag 10, jack 32 tag 20, jack 33 tag 30, jack 34 tag 40, jack 41 tag 101, jack 42 tag 102, jack 43 tag 103, jack 44 tag 104, jack 51 tag 151, jack 52 tag 152, jack 53 tag 153, jack 54 tag 154\n'
                  : '') +
                nets.join('') +
                'known printer: 10.61.1.10\nknown servers: 10.61.2.10-10.61.2.20\nrecord web: 192.0.2.80 10.61.2.10\nknown vendor: 192.0.2.90, name web\n' +
                passages +
                maps.replace(/^door.*\n/m, '') +
                leaves +
                tail +
                sends +
                doors.map((d, i) => `door d${i}: ${d}\n`).join('') +
                (/^door.*\n/m.exec(maps)?.[0] ?? '') +
                routes +
                promises +
                'far www.example: address 192.0.2.80' +
                (six ? ' 2001:db8:ffff::80' : '') +
                ', listens tcp 80 443\nfar quiet.example: address 192.0.2.90, silent\n',
            );
          },
        );
    });

/** The routes of several statements of one table in one, as a table is said once. */
function oneTable(text: string): string {
  const routes = new Map<string, string[]>();
  const rest = text.replace(/^table (\w+):(.*)\n/gm, (_, name: string, said: string) => {
    routes.set(name, [...(routes.get(name) ?? []), ...(said.trim() ? [said.trim()] : [])]);
    return '';
  });
  return rest + [...routes].map(([name, all]) => `table ${name}: ${all.join(', ')}`.trim() + '\n').join('');
}

/** Sites in which two tables hold the same addresses. */
export const anyTwins = (shape: SiteShape = EVERYTHING): fc.Arbitrary<string> =>
  anySite(shape).filter((text) => {
    const nets = [...text.matchAll(/^interface \S+-net: .*? address ([0-9./]+)/gm)].map((m) => m[1]);
    return new Set(nets).size < nets.length;
  });
