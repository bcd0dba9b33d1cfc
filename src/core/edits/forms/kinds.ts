/** Every kind of statement as a form, its fields in the order in which somebody fills them in. */
import type { Kind } from '#core/notation';
import { HEAD, LEAD } from './form';
import type { Field, Group, Option, Pattern, Slot, Takes } from './form';

const slot = (key: string, takes: Takes, more: Omit<Slot, 'key' | 'takes'> = {}): Slot => ({
  key,
  takes,
  ...more,
});
const way = (key: string, clause: string, ...pattern: Pattern): Option => ({ key, clause, pattern });
const one = (key: string, ...pattern: Pattern): Field => ({
  key,
  options: [way(key, key, key, ...pattern)],
});
const flag = one;
const of = (group: Group, field: Field): Field => ({ ...field, group });
const rare = (field: Field): Field => of('rare', field);
const rows = (field: Field, each?: string): Field => ({ ...field, repeats: true, each });
const choice = (key: string, ...options: Option[]): Field => ({ key, options });

const TAG = slot('tag', 'tag', { lead: 'tag', may: true });
const ADDRESSES = slot('addresses', 'address', { many: true });
const TIME = one('time', ADDRESSES);
const NAMES = rows(one('names', ADDRESSES), 'addresses');
const NOTE = one('note', slot('text', 'text'));
const MAC = one('mac', slot('mac', 'mac'));
const MTU = one('mtu', slot('bytes', 'number'));
const AT = one('at', slot('socket', 'socket'), TAG);
/** What is no line arrives without a tag. */
const AT_PLAIN = one('at', slot('socket', 'socket'), { ...TAG, rare: true });
const LISTENS = one('listens', slot('services', 'services', { many: true }));
const GATEWAY = one('gateway', slot('address', 'address'));
const FROM = rows(one('from', slot('who', 'who', { many: true })), 'who');
/** What a DHCP server tells beside. */
const OPTIONS = rows(
  choice(
    'option',
    way(
      'words',
      'option',
      'option',
      slot('what', 'word'),
      slot('value', 'word', { many: true }),
      slot('only', 'range', { lead: 'for', may: true }),
    ),
    way(
      'quoted',
      'option',
      'option',
      slot('what', 'word'),
      slot('text', 'text'),
      slot('only', 'range', { lead: 'for', may: true }),
    ),
  ),
);
/** Addresses that one client only gets. */
const KEEPS = rows(
  one(
    'keeps',
    slot('address', 'address'),
    slot('mac', 'mac', { lead: 'for' }),
    slot('label', 'text', { may: true }),
  ),
);
const LOG = flag('log');
/** Lines that have failed: `cut p1 dead northmoor`. */
const FAULT = slot('fault', 'line', { lead: 'while', may: true, many: true, rare: true });
const UNTIL = one('until', slot('day', 'day'));
const OFF = flag('off');
const SILENT = flag('silent');
const SERVICES = slot('services', 'services', { many: true, may: true });
const STATIC = way('static', 'address', 'address', slot('own', 'own'));
const DHCP = way('dhcp', 'address', 'address', 'by', 'dhcp');

const serves = (what: 'names' | 'time'): Field => ({
  key: `serves-${what}`,
  options: [way(what, 'serves', 'serves', what)],
});

const gatewayOf = (clause: 'gateway' | 'gateway6'): Field =>
  choice(
    clause,
    way(
      'address',
      clause,
      clause,
      slot('address', 'address'),
      slot('onlink', 'flag', { lead: 'onlink', may: true }),
    ),
    way('learned', clause, clause, 'learned'),
    way('none', clause, clause, 'none'),
  );

const verdict = (word: 'allow' | 'drop' | 'reject') => way(word, word, word, SERVICES);
const network = (key: string) => one(key, slot('prefix', 'prefix'));

export const FORMS: Readonly<Record<Kind, readonly Field[]>> = {
  box: [
    NAMES,
    one('domain', slot('domain', 'word')),
    of('inside', rows(one('forwards', slot('domain', 'word'), ADDRESSES))),
    rare(one('priority', slot('height', 'number'))),
    rare(one('twin', slot('twin', 'word'), slot('height', 'number', { lead: 'priority', may: true }))),
    rare(
      rows(
        one(
          'lowers',
          slot('height', 'number'),
          slot('without', 'interface', { lead: 'without', many: true }),
        ),
      ),
    ),
    serves('names'),
    serves('time'),
    TIME,
    one('admin', slot('users', 'word', { many: true })),
    NOTE,
  ],
  port: [
    one('label', slot('text', 'text')),
    one(
      'over',
      slot('ports', 'port', { many: true }),
      slot('mode', 'word', { lead: 'by', words: ['lacp', 'static'], may: true }),
      slot('fast', 'flag', { lead: 'fast', may: true, rare: true }),
    ),
    OFF,
    one('speed', slot('speed', 'word', { words: ['auto', '100', '1000', '2500', '10000'] })),
    rare(MTU),
    rare(MAC),
    NOTE,
  ],
  zone: [
    choice(
      'role',
      way('upstream', 'upstream', 'upstream'),
      way('dmz', 'dmz', 'dmz'),
      way('management', 'management', 'management'),
    ),
    one('within', slot('verdict', 'word', { words: ['allow', 'drop'] })),
    rare(one('tint', slot('tint', 'word', { words: ['1', '2', '3', '4', '5', '6'] }))),
    NOTE,
  ],
  table: [
    rows(
      choice(
        'route',
        way(
          'via',
          'route',
          'route',
          slot('prefix', 'prefix'),
          'via',
          slot('address', 'address'),
          slot('interface', 'interface', { lead: 'on', may: true }),
          slot('distance', 'number', { lead: 'distance', may: true, rare: true }),
        ),
        way(
          'by',
          'route',
          'route',
          slot('prefix', 'prefix'),
          'by',
          slot('interface', 'interface'),
          slot('distance', 'number', { lead: 'distance', may: true, rare: true }),
        ),
        way(
          'drop',
          'route',
          'route',
          slot('prefix', 'prefix'),
          'drop',
          slot('distance', 'number', { lead: 'distance', may: true, rare: true }),
        ),
      ),
    ),
    NOTE,
  ],
  interface: [
    choice(
      'carrier',
      way(
        'on',
        'on',
        'on',
        slot('port', 'port'),
        TAG,
        slot('pcp', 'number', { lead: 'pcp', may: true, rare: true }),
      ),
      way('bridge', 'bridge', 'bridge', slot('ports', 'port', { many: true }), TAG),
      way(
        'pppoe',
        'pppoe',
        'pppoe',
        'on',
        slot('port', 'port'),
        TAG,
        slot('user', 'text', { lead: 'user', may: true }),
        slot('secret', 'secret', { lead: 'secret', may: true }),
      ),
      way('loopback', 'loopback', 'loopback'),
    ),
    one('zone', slot('zone', 'zone')),
    choice('address', STATIC, DHCP, way('pppoe', 'address', 'address', 'by', 'pppoe')),
    rows(one('also', slot('own', 'own', { many: true })), 'own'),
    rare(
      one(
        'virtual',
        slot('addresses', 'address', { many: true }),
        slot('id', 'number', { lead: 'id' }),
        slot('with', 'address', { lead: 'with', may: true }),
      ),
    ),
    of('uplink', gatewayOf('gateway')),
    of(
      'uplink',
      rows(
        choice(
          'names',
          way('addresses', 'names', 'names', ADDRESSES),
          way('learned', 'names', 'names', 'learned'),
        ),
        'addresses',
      ),
    ),
    of(
      'ipv6',
      rows(
        choice(
          'address6',
          way('static', 'address6', 'address6', slot('own', 'own', { many: true })),
          way('slaac', 'address6', 'address6', 'by', 'slaac'),
          way('dhcpv6', 'address6', 'address6', 'by', 'dhcpv6'),
          way('both', 'address6', 'address6', 'by', 'slaac', 'and', 'dhcpv6'),
          way(
            'from',
            'address6',
            'address6',
            'from',
            slot('interface', 'interface'),
            slot('subnet', 'number', { lead: 'subnet', may: true }),
          ),
        ),
      ),
    ),
    of('ipv6', gatewayOf('gateway6')),
    of(
      'uplink',
      one('block', slot('prefix', 'prefix'), slot('routed', 'flag', { lead: 'routed', may: true })),
    ),
    of('uplink', one('priority', slot('order', 'number'))),
    of('uplink', one('share', slot('weight', 'number'))),
    of('uplink', flag('on-demand')),
    of(
      'uplink',
      rows(
        one(
          'watch',
          ADDRESSES,
          slot('every', 'duration', { lead: 'every', may: true }),
          slot('lost', 'number', { lead: 'lost', may: true }),
        ),
      ),
    ),
    rows(
      one(
        'answers',
        slot('service', 'answer', { many: true }),
        slot('from', 'who', { lead: 'from', may: true, many: true }),
      ),
      'service',
    ),
    of(
      'inside',
      rows(
        one(
          'lends',
          slot('ranges', 'range', { many: true }),
          slot('for', 'duration', { lead: 'for', may: true }),
          slot('gateway', 'address', { lead: 'gateway', may: true, rare: true }),
          slot('names', 'address', { lead: 'names', may: true, many: true, rare: true }),
        ),
      ),
    ),
    rare(rows(one('relays', slot('addresses', 'address', { many: true })))),
    of('inside', OPTIONS),
    of('inside', KEEPS),
    of('ipv6', flag('advertises')),
    flag('guard'),
    OFF,
    rare(one('table', slot('table', 'table'))),
    of('uplink', one('settle', slot('time', 'duration'))),
    rare(MTU),
    rare(
      choice(
        'mss',
        way('bytes', 'mss', 'mss', slot('bytes', 'number')),
        way('auto', 'mss', 'mss', 'auto'),
        way('off', 'mss', 'mss', 'off'),
      ),
    ),
    rare(MAC),
    NOTE,
  ],
  record: [{ key: LEAD, options: [way(LEAD, LEAD, slot('addresses', 'address', { many: true }))] }, NOTE],
  known: [
    {
      key: LEAD,
      options: [way('addresses', LEAD, slot('addresses', 'prefix', { many: true }))],
      each: 'addresses',
      repeats: true,
    },
    rows(one('name', slot('names', 'word', { many: true }))),
    one('behind', slot('interface', 'interface')),
    NOTE,
  ],
  passage: [
    choice(HEAD, way('pair', HEAD, slot('from', 'side'), '>', slot('to', 'side'))),
    choice('verdict', verdict('allow'), verdict('drop'), verdict('reject')),
    FROM,
    rows(one('to', slot('who', 'who', { many: true })), 'who'),
    LOG,
    UNTIL,
    NOTE,
  ],
  leave: [
    choice(HEAD, way('pair', HEAD, slot('who', 'who'), '>', slot('via', 'way'))),
    choice(
      'as',
      way('interface', 'as', 'as', 'interface'),
      way('address', 'as', 'as', slot('address', 'address')),
      way('unchanged', 'unchanged', 'unchanged'),
      way('never', 'never', 'never'),
    ),
    NOTE,
  ],
  send: [
    choice(
      HEAD,
      way(
        'sends',
        HEAD,
        slot('who', 'who'),
        SERVICES,
        'by',
        slot('interface', 'interface'),
        slot('otherwise', 'otherwise', { lead: 'else', may: true }),
      ),
    ),
    NOTE,
  ],
  door: [
    choice(
      LEAD,
      way(
        'door',
        LEAD,
        slot('outside', 'public'),
        SERVICES,
        '>',
        slot('inside', 'who'),
        slot('inside-services', 'services', { many: true, may: true }),
        slot('interface', 'interface', { lead: 'on', may: true }),
      ),
    ),
    FROM,
    LOG,
    UNTIL,
    NOTE,
  ],
  expect: [
    choice(
      HEAD,
      way('reaches', HEAD, slot('from', 'who'), 'reaches', slot('to', 'who'), SERVICES, FAULT),
      way('never', HEAD, slot('from', 'who'), 'never', 'reaches', slot('to', 'who'), SERVICES, FAULT),
      way('leaves', HEAD, slot('from', 'who'), 'leaves', 'as', slot('address', 'address'), FAULT),
      way(
        'answers',
        HEAD,
        slot('interface', 'interface'),
        'answers',
        'ping',
        'from',
        slot('from', 'who'),
        FAULT,
      ),
    ),
  ],
  circuit: [
    AT,
    choice(
      'gives',
      way('block', 'block', 'block', slot('prefix', 'prefix')),
      way('lends', 'lends', 'lends', slot('range', 'range'), 'in', slot('prefix', 'prefix')),
      way(
        'pppoe',
        'pppoe',
        'pppoe',
        slot('user', 'text'),
        slot('secret', 'secret'),
        slot('gives', 'address', { lead: 'gives' }),
        slot('peer', 'address', { lead: 'peer' }),
      ),
    ),
    GATEWAY,
    NAMES,
    rows(one('routes', slot('prefix', 'prefix'), 'via', slot('address', 'address'))),
    of('ipv6', network('block6')),
    of('ipv6', network('lends6')),
    of('ipv6', network('delegates6')),
    choice(
      'translating',
      way('translating', 'translating', 'translating', slot('address', 'address', { lead: 'as', may: true })),
    ),
    SILENT,
    { key: 'dead', options: [way('dead', 'dead', 'dead', 'beyond')] },
    flag('down'),
    rare(TIME),
    rare(one('delay', slot('time', 'number', { many: true }))),
    rare(one('loss', slot('share', 'number', { many: true }))),
    NOTE,
  ],
  switch: [
    AT_PLAIN,
    one('native', slot('tag', 'tag')),
    one('carries', slot('tags', 'tag', { many: true })),
    rare(one('links', slot('mode', 'word', { words: ['lacp', 'static', 'single'] }))),
    rows(
      one(
        'jack',
        slot('jack', 'number'),
        slot('tag', 'tag', { lead: 'tag', may: true }),
        slot('carries', 'tag', { lead: 'carries', may: true, many: true }),
      ),
    ),
    NOTE,
  ],
  router: [
    rows(
      one(
        'leg',
        slot('socket', 'socket'),
        TAG,
        slot('own', 'own'),
        slot('range', 'range', { lead: 'lends', may: true, many: true }),
        slot('time', 'word', { lead: 'for', may: true, rare: true }),
        slot('gateway', 'address', { lead: 'gateway', may: true, rare: true }),
        slot('names', 'address', { lead: 'names', may: true, many: true }),
        slot('relays', 'address', { lead: 'relays', may: true, many: true, rare: true }),
      ),
    ),
    GATEWAY,
    rows(one('route', slot('prefix', 'prefix'), 'via', slot('address', 'address'))),
    SILENT,
    NOTE,
  ],
  station: [
    AT_PLAIN,
    choice('address', STATIC, DHCP),
    GATEWAY,
    NAMES,
    of('ipv6', rows(one('address6', slot('own', 'own', { many: true })), 'own')),
    of('ipv6', one('gateway6', slot('address', 'address'))),
    of('ipv6', one('suffix', slot('address', 'address'))),
    rare(
      rows(
        one(
          'lends',
          slot('ranges', 'range', { many: true }),
          slot('network', 'prefix', { lead: 'in', may: true }),
          slot('for', 'duration', { lead: 'for', may: true }),
          slot('gateway', 'address', { lead: 'gateway', may: true }),
          slot('names', 'address', { lead: 'names', may: true, many: true }),
        ),
      ),
    ),
    rare(OPTIONS),
    rare(KEEPS),
    LISTENS,
    flag('seat'),
    SILENT,
    OFF,
    rare(MAC),
    NOTE,
  ],
  far: [
    one('address', slot('addresses', 'address', { many: true })),
    LISTENS,
    flag('resolves'),
    SILENT,
    NOTE,
  ],
};
