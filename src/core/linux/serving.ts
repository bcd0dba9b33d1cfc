/** What the box does for others in its own name, as its daemons are told: Kea, unbound, chrony, pppd, ulogd. */
import {
  OPTION_NAMES,
  contains,
  formatIp,
  formatMac,
  formatPrefix,
  isIpv4,
  networkOf,
  rangeContains,
} from '#core/addr';
import type { Ip, Ipv4, Prefix, Range } from '#core/addr';
import { gatewayAddress, linkMtu, optionsFor } from '#core/site';
import type { Interface, Pool } from '#core/site';
import { encodeOption } from '#core/wire';
import { deviceOf, taggedDevice } from './numbers';
import { ACTIVE } from './sharing';
import { LOG_GROUP } from './statements';
import type { Told } from './told';

interface File {
  readonly name: string;
  readonly text: string;
}

/** Networks of one interface have numbers of their own, this many at most (Kea asks for a number each). */
const NETWORKS = 64;

/**
 * Kea's configuration, one process a table: two tables may lend the same addresses. Where two boxes share an interface
 * only the active one lends, so that this is a process of its own.
 */
export function leaseFiles(told: Told): File[] {
  const lending = told.live.filter((i) => i.pools.length > 0);
  return told.numbers.tables.flatMap((table) =>
    [false, true].flatMap((shared) => {
      const here = lending.filter((i) => i.table === table && !!i.shared === shared);
      return here.length ? [leaseFile(told, shared, table, here)] : [];
    }),
  );
}

function leaseFile(told: Told, shared: boolean, table: string, here: readonly Interface[]): File {
  // Kea calls what it writes of itself by the file's name: no two are alike, and no table has a dot in its name.
  const name = shared ? `active.${table}` : table;
  const config = {
    Dhcp4: {
      'interfaces-config': {
        interfaces: here.map(told.dev),
        're-detect': true,
        // A port may get its cable, and a VLAN its port, long after the server has started.
        'service-sockets-max-retries': 1_000_000,
        'service-sockets-retry-wait-time': 2000,
      },
      // Who renews all the time grows this file: it is made short again every five minutes.
      'lease-database': {
        type: 'memfile',
        persist: true,
        name: `/var/lib/jolly-gate/gate-${name}.csv`,
        'lfc-interval': 300,
      },
      authoritative: true,
      'valid-lifetime': 43_200,
      'shared-networks': here.map((i) => ({
        name: i.name,
        interface: told.dev(i),
        subnet4: subnetsOf(told, i),
      })),
      loggers: [{ name: 'kea-dhcp4', severity: 'WARN', output_options: [{ output: 'stderr' }] }],
    },
  };
  return { name: `${shared ? ACTIVE : ''}kea4-${name}.json`, text: `${JSON.stringify(config, null, 1)}\n` };
}

function subnetsOf(told: Told, i: Interface): object[] {
  const own = told.addresses(i, 4);
  const nets = own
    .map(networkOf)
    .filter((n, k, all) => all.findIndex((o) => o.address === n.address && o.length === n.length) === k);
  return nets.slice(0, NETWORKS).map((net, k) => {
    const home = own.find((a) => contains(net, a.address)) as Prefix<Ipv4>;
    const pools = i.pools.flatMap((pool) =>
      pool.ranges
        .filter((r) => contains(net, r.first) && contains(net, r.last))
        .flatMap((r) => alike(i, r))
        .map((r) => ({
          // Kea wants both ends, also of one address.
          pool: `${formatIp(r.first)} - ${formatIp(r.last)}`,
          'option-data': [
            ...optionsOf(told, i, pool, home, saysDomain(i, r.first)),
            ...otherOptions(i, r.first),
          ],
        })),
    );
    const seconds = i.pools.find((p) => p.ranges.some((r) => contains(net, r.first)))?.seconds;
    const keeps = i.reserved.filter((r) => contains(net, r.address));
    return {
      id: told.numbers.ofInterface(i.name) * NETWORKS + k + 1,
      subnet: formatPrefix(net),
      ...(seconds === undefined ? {} : { 'valid-lifetime': seconds }),
      pools,
      // What no pool says of itself: for reservations outside of all pools.
      'option-data': optionsOf(told, i, i.pools[0]!, home),
      reservations: keeps.map((r) => {
        const others = otherOptions(i, r.address);
        return {
          'hw-address': formatMac(r.mac),
          'ip-address': formatIp(r.address),
          ...(others.length ? { 'option-data': others } : {}),
        };
      }),
    };
  });
}

/** Whether an address is told a domain of its own, and not that of the box. */
const saysDomain = (i: Interface, address: Ip): boolean =>
  optionsFor(i, address).some((o) => o.code === OPTION_NAMES.domain.code);

/** A range cut where options begin or end, so that each part is told one thing. */
function alike({ options }: Interface, range: Range): Range[] {
  const { first, last } = range;
  if (!isIpv4(first) || !isIpv4(last)) return [range];
  const starts = options
    .flatMap(({ only }) =>
      only && isIpv4(only.first) && isIpv4(only.last) ? [only.first, only.last + 1] : [],
    )
    .filter((a) => a > first && a <= last);
  const all = [...new Set<number>([first, ...starts])].sort((a, b) => a - b);
  return all.map((a, k) => ({ first: a as Ipv4, last: ((all[k + 1] ?? last + 1) - 1) as Ipv4 }));
}

/** The options that go with an address, by number and octets: sent whether a client asks for them or not. */
const otherOptions = (i: Interface, address: Ip): object[] =>
  optionsFor(i, address).map(({ code, value }) => ({
    code,
    'csv-format': false,
    'always-send': true,
    data: [...encodeOption(value)].map((b) => b.toString(16).padStart(2, '0')).join(''),
  }));

/** Gateway, resolvers and domain that a pool tells (RFC 2132 §3.5, §3.8, §3.17). */
function optionsOf({ site }: Told, i: Interface, pool: Pool, home: Prefix<Ipv4>, saysOwn = false): object[] {
  const box = gatewayAddress(i, home);
  const said = pool.names.filter(isIpv4);
  const boxNames = (site.box?.names ?? []).map((n) => n.value).filter(isIpv4);
  const names = said.length ? said : site.box?.servesNames ? [box] : boxNames;
  const gateway: Ip = pool.gateway ?? box;
  const domain = site.box?.domain?.value;
  return [
    { name: 'routers', data: formatIp(gateway) },
    ...(names.length ? [{ name: 'domain-name-servers', data: names.map(formatIp).join(', ') }] : []),
    ...(domain === undefined || saysOwn ? [] : [{ name: 'domain-name', data: domain }]),
  ];
}

/** Whether two pools of one network last unlike: Kea has one time for a network. */
export const unlikeTimes = (told: Told, i: Interface): boolean =>
  told.addresses(i, 4).some((a) => {
    const times = i.pools
      .filter((p) => p.ranges.some((r) => contains(networkOf(a), r.first)))
      .map((p) => p.seconds);
    return new Set(times).size > 1;
  });

/** Whether a range lies in no network of its interface. */
export const isHomeless = (told: Told, i: Interface, pool: Pool): boolean =>
  pool.ranges.some(
    (r) =>
      !told
        .addresses(i, 4)
        .some((a) => contains(a, r.first) && rangeContains(r, r.first) && contains(a, r.last)),
  );

/** Interfaces on which the box answers a service. */
const answering = (told: Told, name: 'dns' | 'time'): readonly Interface[] =>
  told.live.filter((i) => told.rules.answers.get(i.name)?.some((a) => a.name === name));

/** Whom the box asks for names: those that the text names, and whether those that its uplinks learn, too. */
function askedFor(told: Told): { readonly forward: readonly string[]; readonly learns: boolean } {
  const uplinks = told.live.filter((i) => i.uplink);
  const named = (told.site.box?.names ?? []).map((n) => formatIp(n.value));
  return {
    forward: [...new Set([...uplinks.flatMap((i) => i.names.addresses.map(formatIp)), ...named])],
    learns: uplinks.some((i) => i.names.learned),
  };
}

/**
 * The lines of resolv.conf(5) by which the box itself asks, `learned` standing for what its uplinks learned; none where
 * nobody is known to ask, so that the box keeps what it has. Who serves names asks itself.
 */
export function ownResolvers(told: Told): string[] {
  const { box } = told.site;
  const { forward, learns } = askedFor(told);
  const servers = box?.servesNames ? ['127.0.0.1'] : forward;
  if (!servers.length && !learns) return [];
  return [
    ...(box?.domain ? [`search ${box.domain.value}`] : []),
    ...servers.map((s) => `nameserver ${s}`),
    ...(learns && !box?.servesNames ? ['learned'] : []),
  ];
}

/** unbound.conf(5): it asks the resolvers of the box, and those that uplinks learn. */
export function resolverFile(told: Told): File[] {
  const { box } = told.site;
  if (!box?.servesNames) return [];
  const own = answering(told, 'dns').flatMap((i) => told.addresses(i).map((a) => formatIp(a.address)));
  const { forward, learns } = askedFor(told);
  const lines = [
    'server:',
    ...['127.0.0.1', ...new Set(own)].map((a) => `  interface: ${a}`),
    // An address may come later than the daemon.
    '  ip-freebind: yes',
    // Who may ask is said by the rules.
    '  access-control: 0.0.0.0/0 allow',
    '  access-control: ::/0 allow',
    '  do-daemonize: no',
    '  use-syslog: no',
    '  logfile: ""',
    '  pidfile: ""',
    '  chroot: ""',
    '  directory: "/run/jolly-gate"',
    '  username: "unbound"',
    // What it asks is somebody's resolver, and checks for itself.
    '  module-config: "iterator"',
    ...(box.domain ? [`  local-zone: "${box.domain.value}." transparent`] : []),
    ...told.site.records.flatMap((r) => {
      const domain = box.domain?.value;
      const whole = r.name.includes('.') || domain === undefined ? r.name : `${r.name}.${domain}`;
      return [
        // Who asks for the bare name means the same.
        ...new Set([whole, r.name]),
      ].flatMap((name, k) =>
        r.addresses.flatMap(({ value }) => [
          `  local-data: "${name}. ${isIpv4(value) ? 'A' : 'AAAA'} ${formatIp(value)}"`,
          ...(k === 0 ? [`  local-data-ptr: "${formatIp(value)} ${name}."`] : []),
        ]),
      );
    }),
    // Names and addresses of an office are nobody's secret here: what is forwarded may say private addresses.
    ...box.forwards.flatMap((f) => [
      `  private-domain: "${f.domain}."`,
      ...(f.domain === box.domain?.value ? [] : [`  local-zone: "${f.domain}." transparent`]),
    ]),
    ...box.forwards.flatMap((f) => [
      'forward-zone:',
      `  name: "${f.domain}."`,
      ...f.addresses.map((a) => `  forward-addr: ${formatIp(a)}`),
    ]),
    ...(forward.length || learns
      ? ['forward-zone:', '  name: "."', ...forward.map((a) => `  forward-addr: ${a}`)]
      : []),
    // The resolvers of the moment, as lines of the zone above; the keeper of the box writes them.
    ...(learns ? ['  include: "/run/jolly-gate/forwarders"'] : []),
    'remote-control:',
    '  control-enable: yes',
    '  control-interface: /run/jolly-gate/unbound.sock',
  ];
  return [{ name: 'unbound.conf', text: `${lines.join('\n')}\n` }];
}

/** chrony.conf(5). */
export function clockFile(told: Told): File[] {
  const { box } = told.site;
  if (!box || (!box.time.length && !box.servesTime)) return [];
  const lines = [
    ...box.time.map((t) => `server ${formatIp(t.value)} iburst`),
    ...(box.servesTime ? ['allow all', 'local stratum 10'] : ['port 0']),
    'cmdport 0',
    'bindcmdaddress /',
    'makestep 1 3',
    'driftfile /var/lib/chrony/gate.drift',
    'pidfile /run/jolly-gate/chrony.pid',
  ];
  return [{ name: 'chrony.conf', text: `${lines.join('\n')}\n` }];
}

/** Options of pppd(8) for each session, with the login in it: only root reads them. */
export const sessionFiles = (told: Told): File[] =>
  told.live
    .filter((i) => i.carrier === 'pppoe' && i.login && i.ports[0] !== undefined)
    .map((i) => {
      const mtu = linkMtu(told.site, i);
      const word = (text: string) => `"${text.replace(/[\\"]/g, '\\$&')}"`;
      return {
        name: `ppp/${i.name}`,
        text: [
          'plugin pppoe.so',
          taggedDevice(told.site, i.ports[0]!, i.tag),
          `user ${word(i.login!.user)}`,
          `password ${word(i.login!.secret ?? '')}`,
          `ifname ${deviceOf(told.site, i)}`,
          'noipdefault',
          'nodefaultroute',
          'usepeerdns',
          'persist',
          'maxfail 0',
          'holdoff 3',
          'lcp-echo-interval 5',
          'lcp-echo-failure 3',
          `mtu ${mtu}`,
          `mru ${mtu}`,
          'noauth',
          'hide-password',
          ...(i.speaks6 ? ['+ipv6'] : ['noipv6']),
          `ipparam ${i.name}`,
          '',
        ].join('\n'),
      };
    });

/** ulogd.conf(5): what statements log, a line each with the statement's name. */
export function logFile(told: Told): File[] {
  const logs = told.rules.passages.some((p) => p.log) || told.rules.doors.some((d) => d.log);
  if (!logs) return [];
  const plugins = [
    'inppkt_NFLOG',
    'raw2packet_BASE',
    'filter_IFINDEX',
    'filter_IP2STR',
    'filter_PRINTPKT',
    'output_LOGEMU',
  ];
  return [
    {
      name: 'ulogd.conf',
      text: [
        '[global]',
        'logfile="stdout"',
        'loglevel=7',
        ...plugins.map((p) => `plugin="ulogd_${p}.so"`),
        'stack=log1:NFLOG,base1:BASE,ifi1:IFINDEX,ip2str1:IP2STR,print1:PRINTPKT,emu1:LOGEMU',
        '[log1]',
        `group=${LOG_GROUP}`,
        '[emu1]',
        'file="/run/jolly-gate/logs/passed.log"',
        'sync=1',
        '',
      ].join('\n'),
    },
  ];
}
