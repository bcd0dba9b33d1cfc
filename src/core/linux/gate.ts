/**
 * The rules of a site as one table of nftables, `inet gate`, for both families. Chains stand in the order of a packet's
 * way (semantics/index.ts); each statement has a counter and a comment. It comes in as one transaction: all or nothing.
 */
import { IpSet, contains, familyOf, formatIp, formatPrefix, isIpv4, specialPrefixes } from '#core/addr';
import type { Family, Ip } from '#core/addr';
import { memo } from '#core/base';
import { isTranslation } from '#core/semantics';
import type { HostSuffix, LeaveRule, PassageRule, SendRule } from '#core/semantics';
import { interfaceNamed, linkMtu } from '#core/site';
import type { Interface, Zone } from '#core/site';
import { doorLines, momentSet } from './doors';
import {
  FAMILIES,
  WORD,
  both,
  devices,
  namedSet,
  quoted,
  serviceMatches,
  setOf,
  sideMatches,
  DATED,
  untilMatch,
} from './match';
import type { Match, SuffixOn } from './match';
import { NOWHERE, hex } from './numbers';
import { shareLines } from './shares';
import { advertisements } from './sharing';
import { Statements, logging } from './statements';
import type { Teller } from './statements';
import type { Told } from './told';
import { translating } from './translating';

/** The upper half of a flow's mark says which way it goes, the lower one where it came from. */
const chosen = (n: number): string => hex(n * 0x10000);
/** What the neighbours of a line say to each other (RFC 4861, RFC 2710, RFC 3810). */
const NEIGHBOURS =
  'icmpv6 type { nd-neighbor-solicit, nd-neighbor-advert, nd-router-solicit, nd-router-advert, mld-listener-query, mld-listener-report, mld-listener-done, mld2-listener-report } accept';

/** The sizes of segments that headers leave of a packet (RFC 879 §3, RFC 8200 §8.3). */
const HEADERS = { 4: 40, 6: 60 } as const;

/** The table, for `nft -f`. */
export function gateRules(told: Told): string {
  return new Gate(told).text();
}

class Gate {
  private readonly statements = new Statements();
  private readonly uplinks: readonly Interface[];
  private readonly zones: readonly Zone[];
  /** Where packets of others come in. */
  private readonly arrivals: readonly Interface[];

  constructor(private readonly told: Told) {
    this.uplinks = told.live.filter((i) => i.uplink);
    this.arrivals = told.live.filter((i) => i.carrier !== 'loopback');
    this.zones = told.site.zones.filter((z) => told.live.some((i) => i.zone === z));
  }

  private get live(): readonly Interface[] {
    return this.told.live;
  }
  private number = (i: Interface): number => this.told.numbers.ofInterface(i.name);
  private dev = (i: Interface): string => this.told.dev(i);
  private devs = (list: readonly Interface[]): string => devices(list.map(this.dev));

  text(): string {
    const { told } = this;
    const doors = doorLines(told, this.statements);
    const guards = this.guards();
    const answers = this.answers();
    const sends = told.rules.sends.flatMap((s) => this.send(s));
    const shares = shareLines(told, this.statements);
    const from = this.zones.map((z) => ({ name: `from/${z.name}`, lines: this.fromZone(z) }));
    const leaving = this.leaves((rule) => (rule.action.as === 'never' ? 'drop' : 'accept'), true);
    const showing = this.leaves((rule, out) => this.shown(rule, out), false);
    const hairpins = this.hairpins();
    const npt = translating(told, (rule) => this.arrival(rule.arrival));
    const chain = (name: string, hook: string, lines: readonly string[]): string =>
      `  chain ${name} {\n${hook ? `    ${hook}; policy ${hook.includes(' input ') || hook.includes(' forward ') ? 'drop' : 'accept'};\n` : ''}${lines.map((l) => `    ${l}\n`).join('')}  }\n`;
    const { arrivals } = this;
    const map = (list: readonly Interface[], to: (i: Interface) => string) =>
      `{ ${list.map((i) => `${quoted(this.dev(i))} : ${to(i)}`).join(', ')} }`;
    const apart = arrivals.filter((i) => i.table !== 'main');
    const moved = this.movedPorts();
    const chains = [
      ...(apart.length
        ? // Two tables may hold the same addresses: what arrives at each is remembered apart.
          [
            chain(
              'apart',
              'type filter hook prerouting priority -300',
              told.numbers.tables.flatMap((t) => {
                const here = apart.filter((i) => i.table === t);
                return here.length
                  ? [`iifname ${this.devs(here)} ct original zone set ${told.numbers.ofTable(t)}`]
                  : [];
              }),
            ),
          ]
        : []),
      ...guards.chains.map((c) => chain(c.name, '', c.lines)),
      // Most packets belong to a flow that was asked when it began: they take the fewest questions, and their flow's way.
      chain('known', '', [
        'ct direction original meta mark set ct mark >> 16 accept',
        'meta mark set ct mark and 0xffff accept',
      ]),
      chain('sources', 'type filter hook prerouting priority -150', [
        'iifname "lo" accept',
        'ct state established,related goto known',
        NEIGHBOURS,
        // Its own business, whatever the source: DHCP comes from nowhere.
        ...this.business(),
        ...this.ownSources(),
        'ct state invalid drop',
        'ct state != new accept',
        // What goes on with the box itself is left to it: whoever tells it this may be on such a connection.
        'fib daddr type != local meta l4proto 6 tcp flags & (fin | syn | rst | ack) != syn drop',
        'meta nfproto ipv4 meta l4proto 1 icmp type != echo-request drop',
        'meta l4proto 58 icmpv6 type != echo-request drop',
        ...(arrivals.length
          ? [
              // Some route of the table must lead back (RFC 3704 §2.4).
              this.byTable(map),
              'fib saddr . mark oif missing drop',
              ...(guards.jumps.length ? [`iifname vmap { ${guards.jumps.join(', ')} }`] : []),
              // Asked again before it was answered, it goes on as it began: a door has said in which table.
              `ct mark 0x0 ct mark set iifname map ${map(arrivals, (i) => hex(this.number(i)))}`,
            ]
          : []),
      ]),
      ...doors.chains.map((c) => chain(c.name, '', c.lines)),
      chain('doors', 'type nat hook prerouting priority -100', [...doors.lines, ...moved]),
      ...(sends.length ? [chain('sending', '', sends)] : []),
      ...shares.chains.map((c) => chain(c.name, '', c.lines)),
      chain('choosing', '', [
        // A door has said already.
        `ct mark and 0xffff0000 != 0 meta mark set ct mark >> 16 return`,
        ...(sends.length ? this.outward(map) : []),
        ...(shares.lines.length ? [this.byTable(map), ...shares.lines] : []),
        'meta mark set ct mark >> 16',
      ]),
      chain('ways', 'type filter hook prerouting priority -90', [
        'iifname "lo" meta mark set 0x0 accept',
        'ct state established,related accept',
        'meta mark set 0x0',
        'ct state new ct direction original goto choosing',
      ]),
      // The box's own answers go the way their flows came, too.
      chain('own', 'type route hook output priority -150', [
        'ct direction reply meta mark set ct mark and 0xffff',
      ]),
      ...answers.chains.map((c) => chain(c.name, '', c.lines)),
      chain('input', 'type filter hook input priority 0', [
        'iifname "lo" accept',
        'ct state established,related accept',
        NEIGHBOURS,
        ...this.business(),
        ...this.foreignHere(),
        ...(answers.jumps.length ? [`iifname vmap { ${answers.jumps.join(', ')} }`] : []),
        'counter name "here/nobody"',
      ]),
      ...from.map((c) => chain(c.name, '', c.lines)),
      chain('forward', 'type filter hook forward priority 0', [
        ...this.segments(),
        'ct state established,related accept',
        'ct status dnat accept',
        ...(this.zones.length
          ? [
              `iifname vmap ${map(
                arrivals.filter((i) => i.zone),
                (i) => `jump from/${i.zone!.name}`,
              )}`,
            ].filter((l) => !l.endsWith('{  }'))
          : []),
        'counter name "passing/nobody"',
      ]),
      chain('leaving', 'type filter hook postrouting priority 95', [
        // Asked once a flow, and not of what the box makes itself.
        'ct state != new accept',
        'ct mark and 0xffff == 0 accept',
        // A flow keeps the uplink that it began with.
        ...this.uplinks.map(
          (i) =>
            `oifname ${quoted(this.dev(i))} ct direction original ct mark and 0xffff0000 == 0 ct mark set ct mark or ${chosen(this.number(i))}`,
        ),
        ...(hairpins.length
          ? arrivals.map(
              (i) =>
                `ct status dnat ct mark and 0xffff == ${hex(this.number(i))} oifname ${quoted(this.dev(i))} accept`,
            )
          : []),
        ...leaving,
      ]),
      ...npt.chains.map((c) => chain(c.name, c.hook, c.lines)),
      chain('showing', 'type nat hook postrouting priority 100', [
        'fib saddr type local accept',
        ...hairpins,
        ...showing,
      ]),
    ];
    return [
      'table inet gate {\n}\ndelete table inet gate\ntable inet gate {\n',
      [
        ...this.statements.lines(),
        'counter here/nobody { comment "nothing answers this" ; }',
        'counter passing/nobody { comment "no statement lets it pass" ; }',
        // Uplinks that do not count as alive; whoever watches them keeps it.
        'set dead { type mark ; }',
        ...(this.isDated ? [`set ${DATED} { type nf_proto ; }`] : []),
        ...this.momentSets(),
        ...this.namedSets(),
        ...shares.sets,
        ...npt.maps,
        ...(this.outer.length
          ? [
              `set outer { type ifname ; elements = { ${this.outer.map((i) => quoted(this.dev(i))).join(', ')} } ; }`,
            ]
          : []),
        ...this.zones.map(
          (z) =>
            `set zone/${z.name} { type ifname ; elements = { ${this.inZone(z)
              .map((i) => quoted(this.dev(i)))
              .join(', ')} } ; }`,
        ),
      ]
        .map((l) => `  ${l}\n`)
        .join(''),
      ...chains,
      '}\n',
    ].join('');
  }

  /** Those that face the internet: a door without `from` is open to them. */
  private get outer(): readonly Interface[] {
    return this.live.filter((i) => i.zone?.upstream);
  }
  private inZone = (z: Zone): readonly Interface[] => this.live.filter((i) => i.zone === z);

  // ---- what arrives

  /** DHCP of its own pools and clients, whatever the source, and what a second box says of itself. */
  private business(): string[] {
    const served = this.live.filter((i) => i.pools.length > 0);
    const asking = this.live.filter((i) => i.dynamic === 'dhcp');
    const asking6 = this.live.filter((i) => i.auto6.slaac || i.auto6.dhcpv6);
    return [
      ...advertisements(this.told),
      ...(served.length ? [`iifname ${this.devs(served)} udp sport 68 udp dport 67 accept`] : []),
      ...(asking.length ? [`iifname ${this.devs(asking)} udp sport 67 udp dport 68 accept`] : []),
      ...(asking6.length
        ? [`iifname ${this.devs(asking6)} ip6 saddr fe80::/10 udp sport 547 udp dport 546 accept`]
        : []),
    ];
  }

  /** Sources that are the box's own are always refused. */
  private ownSources(): string[] {
    const { told } = this;
    return told.numbers.tables.flatMap((table) => {
      const here = this.arrivals.filter((i) => i.table === table);
      // What is learned, or shared, may be the box's at the moment: the kernel knows.
      const mayBe = (i: Interface) => told.learns4(i) || told.learns6(i) || i.shared;
      if (told.numbers.tables.length === 1 && here.some(mayBe)) return ['fib saddr type local drop'];
      return this.dropped(here, 'saddr', this.ownOf(table));
    });
  }

  /** The written addresses of a table's interfaces. */
  private ownOf(table: string): IpSet {
    return IpSet.ofAddresses(
      this.live.filter((i) => i.table === table).flatMap((i) => this.told.addresses(i).map((a) => a.address)),
    );
  }

  /** What comes in by some interfaces from or for a set of addresses is dropped, a line a family. */
  private dropped(here: readonly Interface[], word: 'saddr' | 'daddr', set: IpSet): string[] {
    return here.length ? sideMatches(word, set).map((m) => `iifname ${this.devs(here)} ${m.text}drop`) : [];
  }

  /** `guard`: neither special-purpose, nor of another network of the box, nor without a way by this interface. */
  private guards(): { jumps: string[]; chains: { name: string; lines: string[] }[] } {
    const jumps: string[] = [];
    const chains: { name: string; lines: string[] }[] = [];
    for (const i of this.live) {
      if (!i.guard || i.carrier === 'loopback') continue;
      const elsewhere = this.told.routes.filter(
        (r) => r.origin === 'connected' && r.table === i.table && r.interface !== i.name,
      );
      const bad = IpSet.ofPrefixes([
        ...specialPrefixes(4),
        ...specialPrefixes(6),
        ...elsewhere.map((r) => r.prefix),
      ]);
      const { hit, comment } = this.statements.tells(i.statement, 'guard');
      const name = `guard/${i.name}`;
      chains.push({
        name,
        lines: [
          ...FAMILIES.map((f) => `${WORD[f]} saddr ${setOf(bad, f)} ${hit}drop${comment}`),
          // Stand-by ways count: they are in the interface's own table (RFC 3704 §2.3).
          `meta mark set ${hex(this.number(i))}`,
          `fib saddr . mark oif missing ${hit}drop${comment}`,
        ],
      });
      jumps.push(`${quoted(this.dev(i))} : jump ${name}`);
    }
    return { jumps, chains };
  }

  // ---- for the box itself

  /** Local addresses that are not own where this table's packets arrive: held for others, or of another table. */
  private foreignIn(table: string): IpSet {
    const { told } = this;
    return told.numbers.tables
      .filter((t) => t !== table)
      .map((t) => this.ownOf(t))
      .reduce((a, b) => a.union(b), IpSet.ofAddresses(this.live.flatMap((i) => told.proxied(i))))
      .minus(this.ownOf(table));
  }

  /** What is local and not own is not answered. */
  private foreignHere(): string[] {
    return this.told.numbers.tables.flatMap((table) =>
      this.dropped(
        this.live.filter((i) => i.table === table),
        'daddr',
        this.foreignIn(table),
      ),
    );
  }

  /** What each interface answers, a chain each. */
  private answers(): { jumps: string[]; chains: { name: string; lines: string[] }[] } {
    const jumps: string[] = [];
    const chains: { name: string; lines: string[] }[] = [];
    for (const i of this.live) {
      const lines = (this.told.rules.answers.get(i.name) ?? []).flatMap((a) => {
        const { hit, comment } = this.statements.tells(i.statement, `answers/${a.name}`);
        const from = sideMatches('saddr', a.sources, this.suffixes(a.sourceSuffixes), a.sourceNames);
        return both(from, serviceMatches(a.services)).flatMap((m) => {
          const moved = this.usualPort(a.name, a.services);
          // A moved port was led to where the service listens, before this is asked.
          const text =
            moved === undefined
              ? m.text
              : m.text.replace(/dport (\d+) $/, `dport ${moved} ct original proto-dst $1 `);
          return [`${text}fib daddr type local ${hit}accept${comment}`];
        });
      });
      if (!lines.length) continue;
      chains.push({ name: `answers/${i.name}`, lines });
      jumps.push(`${quoted(this.dev(i))} : jump answers/${i.name}`);
    }
    return { jumps, chains };
  }

  /** Where a service listens by itself, when it is answered at another port. */
  private usualPort(name: string, services: PassageRule['services']): number | undefined {
    const usual = { ssh: 22, http: 80, https: 443, dns: 53, time: 123, snmp: 161 }[name];
    const [first] = services;
    return usual !== undefined && first?.kind === 'ports' && first.first !== usual ? usual : undefined;
  }

  /** Answers at moved ports, led to where the service listens. */
  private movedPorts(): string[] {
    return this.live.flatMap((i) =>
      (this.told.rules.answers.get(i.name) ?? []).flatMap((a) => {
        const usual = this.usualPort(a.name, a.services);
        if (usual === undefined) return [];
        const foreign = this.foreignIn(i.table);
        return FAMILIES.flatMap((f) => {
          const not = setOf(foreign, f);
          const own = `meta nfproto ipv${f} fib daddr type local ${not && `${WORD[f]} daddr != ${not} `}`;
          return serviceMatches(a.services).map(
            (m) => `iifname ${quoted(this.dev(i))} ${own}${m.text}redirect to :${usual}`,
          );
        });
      }),
    );
  }

  // ---- which way

  /** Statements of sending speak of what would leave by an uplink, or by nothing. */
  private outward(map: (list: readonly Interface[], to: (i: Interface) => string) => string): string[] {
    return [
      this.byTable(map),
      ...(this.uplinks.length ? [`fib daddr . mark oifname ${this.devs(this.uplinks)} jump sending`] : []),
      'ct mark and 0xffff0000 == 0 fib daddr type != local fib daddr . mark oif missing jump sending',
    ];
  }

  /** Has what follows ask the table that a packet arrived at. */
  private byTable = (map: (list: readonly Interface[], to: (i: Interface) => string) => string): string =>
    `meta mark set iifname map ${map(this.arrivals, (i) => hex(this.told.numbers.ofTable(i.table)))}`;

  private send(s: SendRule): string[] {
    const by = interfaceNamed(this.told.site, s.by);
    const { hit, comment } = this.statements.tells(s.statement);
    const who = this.arrival(s.arrival);
    if (!by || who === undefined) return [];
    const other =
      typeof s.otherwise === 'object' ? interfaceNamed(this.told.site, s.otherwise.interface) : undefined;
    return both(sideMatches('saddr', s.sources, [], s.sourceNames), serviceMatches(s.services)).flatMap(
      (m) => {
        const head = `${who}${m.text}`;
        /** By an uplink that lives and has a way there. */
        const take = (i: Interface) => [
          `${head}meta mark set ${hex(this.number(i))} meta mark != @dead fib daddr . mark oif exists ${hit}ct mark set ct mark or ${chosen(this.number(i))} accept${comment}`,
        ];
        return [
          ...take(by),
          ...(other ? take(other) : []),
          s.otherwise === undefined
            ? `${head}return`
            : `${head}${hit}meta mark set ${hex(NOWHERE)} ct mark set ct mark or ${chosen(NOWHERE)} accept${comment}`,
        ];
      },
    );
  }

  /** By where a flow arrived; undefined where nothing arrives so. */
  private arrival(who: LeaveRule['arrival']): string | undefined {
    if (!who) return '';
    const list = this.live.filter(
      (i) => (!who.zone || i.zone?.name === who.zone) && (!who.interface || i.name === who.interface),
    );
    return list.length
      ? `ct mark and 0xffff ${list.length > 1 ? `{ ${list.map((i) => hex(this.number(i))).join(', ')} }` : `== ${hex(this.number(list[0]!))}`} `
      : undefined;
  }

  // ---- passing

  /** What may pass from a zone: its statements and those of any zone in their order, then `within`. */
  private fromZone(zone: Zone): string[] {
    const { rules } = this.told;
    return [
      ...rules.passages
        .filter((p) => p.from === 'any' || p.from === zone.name)
        .flatMap((p) => this.passage(p)),
      ...this.verdict(
        `oifname @zone/${zone.name} `,
        zone.within,
        this.statements.tells(zone.statement, 'within'),
      ),
    ];
  }

  /** Hosts by their suffix on interfaces that learn their network; of written networks the addresses are known. */
  private suffixes(all: readonly HostSuffix[]): SuffixOn[] {
    return all.flatMap(({ suffix, interface: name }) => {
      const at = this.live.find((i) => i.name === name);
      const learns = at && (at.auto6.slaac || at.auto6.dhcpv6 || at.auto6.from.length > 0);
      return learns ? [{ suffix, device: this.dev(at) }] : [];
    });
  }

  /** Whether a statement that lets something in has an end. */
  private get isDated(): boolean {
    const { doors, passages } = this.told.rules;
    return [...doors, ...passages.filter((p) => p.verdict === 'allow')].some((r) => r.until !== undefined);
  }

  private passage(p: PassageRule): string[] {
    const to = p.to === 'any' ? undefined : this.zones.find((z) => z.name === p.to);
    if (p.to !== 'any' && !to) return [];
    // `any` is every zone: what is in none takes part in nothing.
    const out = to ? `oifname @zone/${to.name} ` : `oifname ${this.devs(this.live.filter((i) => i.zone))} `;
    const says = this.statements.tells(p.statement, '', p.log);
    return both(
      both(
        sideMatches('saddr', p.sources, this.suffixes(p.sourceSuffixes), p.sourceNames),
        sideMatches('daddr', p.destinations, this.suffixes(p.destinationSuffixes), p.destinationNames),
      ),
      serviceMatches(p.services),
    ).flatMap((m: Match) =>
      this.verdict(`${out}${m.text}${untilMatch(p.until, p.verdict === 'allow')}`, p.verdict, says),
    );
  }

  private verdict(head: string, verdict: PassageRule['verdict'], says: Teller): string[] {
    const { hit, comment } = says;
    const ends = {
      allow: [`${hit}accept`],
      drop: [`${hit}drop`],
      reject: [`meta l4proto 6 ${hit}reject with tcp reset`, `${hit}reject with icmpx admin-prohibited`],
    }[verdict];
    return [...logging(says, head), ...ends.map((end) => `${head}${end}${comment}`)];
  }

  /** The largest segment that a SYN may offer, on what goes out by an interface and on what came in by it. */
  private segments(): string[] {
    return this.live.flatMap((i) => {
      const said = i.mss ?? (i.carrier === 'pppoe' ? 'auto' : 'off');
      if (said === 'off') return [];
      const mtu = linkMtu(this.told.site, i);
      return FAMILIES.flatMap((f) => {
        const most = said === 'auto' ? mtu - HEADERS[f] : said;
        return (['iifname', 'oifname'] as const).map(
          (word) =>
            `${word} ${quoted(this.dev(i))} meta nfproto ipv${f} tcp flags & (syn | rst) == syn tcp option maxseg size set ${most}`,
        );
      });
    });
  }

  // ---- leaving

  private leaves(then: (rule: LeaveRule, out: Interface) => string | undefined, counted: boolean): string[] {
    const whole = this.told.rules.leaves.filter(
      (rule, n, all) => !mapOf(rule) || all[n - 1]?.statement !== rule.statement,
    );
    return whole.flatMap((rule): string[] => {
      const at = this.arrival(rule.arrival);
      const map = mapOf(rule);
      const who = map
        ? [{ text: `${WORD[rule.family]} saddr ${map.from} ` }]
        : rule.sources
          ? sideMatches('saddr', rule.sources, [], rule.sourceNames).filter((m) => m.family === rule.family)
          : [{ text: `meta nfproto ipv${rule.family} ` }];
      if (at === undefined) return [];
      const { hit, comment } = this.statements.tells(rule.statement);
      const out = this.live.filter((i) => rule.out.has(i.name));
      const by = new Map<string, Interface[]>();
      for (const i of out) {
        const verdict = then(rule, i);
        if (verdict !== undefined) memo(by, verdict, (): Interface[] => []).push(i);
      }
      return [...by].flatMap(([verdict, list]) =>
        who.map((m) => `oifname ${this.devs(list)} ${at}${m.text}${counted ? hit : ''}${verdict}${comment}`),
      );
    });
  }

  /** The source that a flow shows. */
  private shown(rule: LeaveRule, out: Interface): string {
    const { action, family } = rule;
    const map = mapOf(rule);
    if (map) return `snat ${WORD[family]} prefix to ${WORD[family]} saddr map { ${map.from} : ${map.to} }`;
    if (action.as === 'address')
      return familyOf(action.address) === family
        ? `snat ${WORD[family]} to ${formatIp(action.address)}`
        : 'accept';
    // A prefix is translated apart from flows.
    if (action.as !== 'interface') return 'accept';
    const primary = this.primary(out, family);
    return primary === undefined ? 'masquerade' : `snat ${WORD[family]} to ${formatIp(primary)}`;
  }

  /** The written primary address of a family, where the primary one is not learned. */
  private primary(i: Interface, family: Family): Ip | undefined {
    if (family === 4 && this.told.learns4(i)) return undefined;
    return this.told.addresses(i, family)[0]?.address;
  }

  /** A door's flow that goes out by the interface it came in on shows that interface's address in the target's subnet. */
  private hairpins(): string[] {
    const { doors } = this.told.rules;
    return doors.flatMap((d, n) => {
      const family = isIpv4(d.inside) ? 4 : 6;
      const { inside } = d.statement;
      // Of networks that are mapped one line is enough: all of it is behind one interface, or none.
      const whole =
        inside?.type === 'addresses' && inside.range.first !== inside.range.last ? inside.prefix : undefined;
      if (whole && doors[n - 1]?.statement === d.statement) return [];
      const to = whole ? formatPrefix(whole) : formatIp(d.inside);
      return this.live.flatMap((i) => {
        const own = this.told.addresses(i, family);
        const near = own.find((a) => contains(a, d.inside)) ?? own[0];
        const shows = near ? `snat ${WORD[family]} to ${formatIp(near.address)}` : 'masquerade';
        return near || this.told.learns4(i)
          ? [
              `ct status dnat ct mark and 0xffff == ${hex(this.number(i))} oifname ${quoted(this.dev(i))} ${WORD[family]} daddr ${to} ${shows}`,
            ]
          : [];
      });
    });
  }

  /** Sets that hold what names lead to, of each known host with names. */
  private namedSets(): string[] {
    return this.told.site.knowns
      .filter((k) => k.dnsNames.length)
      .flatMap((k) => FAMILIES.map((f) => `set ${namedSet(k.name, f)} { type ipv${f}_addr ; }`));
  }

  /** Sets that hold learned addresses, for doors at them. */
  private momentSets(): string[] {
    const at = new Set(this.told.rules.doors.flatMap((d) => (d.moment === undefined ? [] : [d.moment])));
    return [...at].map((name) => `set ${momentSet(name)} { type ipv4_addr ; }`);
  }
}

/** The two networks of a statement that maps one onto the other, address by address. */
function mapOf({ statement }: LeaveRule): { readonly from: string; readonly to: string } | undefined {
  const { as, who } = statement;
  return as?.by === 'prefix' && !isTranslation(as.prefix.value) && who.type === 'addresses' && who.prefix
    ? { from: formatPrefix(who.prefix), to: formatPrefix(as.prefix.value) }
    : undefined;
}
