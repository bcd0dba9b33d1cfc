/** What is wanted in one gesture, in the trade's words; what it asks; and why it cannot be written yet. */
import { KINDS } from '#core/notation';
import type { GestureId, MakingFault } from '#core/edits';
import { findingText } from './findings';
import { KIND_LABELS, fieldLabel, optionLabel, slotLabel } from './labels';
import { FORMS } from '#core/edits';

interface Said {
  readonly says: string;
  readonly about: string;
}

const plain = (what: string): Said => ({ says: `New ${what}`, about: '' });

export const GESTURE_LABELS: Readonly<Record<GestureId, Said>> = {
  network: {
    says: 'Add a network (VLAN)',
    about: 'Zone, address, DHCP pool, what it answers and what may pass, on a tag that the switch carries.',
  },
  'second-subnet': {
    says: 'Add a second subnet here',
    about: 'A secondary address on the same VLAN, with a pool of its own.',
  },
  reservation: {
    says: 'Reserve an address',
    about: 'One device always gets the same address (DHCP reservation).',
  },
  publish: {
    says: 'Publish a service',
    about: 'Port forwarding: a public address and port lead to one inside host.',
  },
  'leave-as': {
    says: 'Let a network leave as an address',
    about: 'Source NAT: the outside sees this network under an address of its own.',
  },
  uplink: {
    says: 'Add an uplink (WAN)',
    about: 'One more line to the internet, with its order and health check.',
  },
  management: {
    says: 'Add a management port',
    about: 'A port to manage the box by: who may log in, and on which ports.',
  },
  zone: { says: 'Add a zone', about: 'It stands where its role belongs: a DMZ between upstream and inside.' },
  passage: { says: 'Let something pass', about: 'A firewall rule: what may start from one zone to another.' },
  send: plain(KIND_LABELS.send),
  known: plain(KIND_LABELS.known),
  record: plain(KIND_LABELS.record),
  table: plain(`${KIND_LABELS.table} (VRF)`),
  expect: { says: 'Promise something', about: 'A check that runs with every keystroke.' },
  port: { says: 'Describe a port', about: 'Its label, speed, and whether it is on.' },
  box: { says: 'Name the box', about: 'Its name and name servers.' },
  circuit: plain(KIND_LABELS.circuit),
  switch: plain(KIND_LABELS.switch),
  router: plain(KIND_LABELS.router),
  station: plain(`${KIND_LABELS.station}: PC, printer, server`),
  far: plain(KIND_LABELS.far),
};

const ASKS: Readonly<Record<string, string>> = {
  name: 'name',
  port: 'port',
  tag: 'VLAN tag',
  zone: 'zone',
  role: 'role of the new zone',
  'zone/role': 'role',
  own: 'address of the box',
  pool: 'DHCP pool',
  answers: 'the box answers',
  out: 'to the internet',
  jack: 'switch jack for it',
  interface: 'interface',
  device: 'device seen there',
  mac: 'MAC address',
  address: 'address',
  label: 'description',
  outside: 'public address',
  services: 'service',
  host: 'inside host',
  'inside-services': 'its port, if another',
  from: 'only from',
  'passage/from': 'from zone',
  'passage/to': 'to zone',
  inside: 'reachable from zone, too',
  promise: 'check it from now on',
  who: 'who',
  'leave-as/address': 'public address',
  via: 'out by',
  mode: 'address by',
  gateway: 'gateway',
  user: 'login',
  secret: 'password',
  names: 'name servers',
  watch: 'health check pings',
  order: 'order among uplinks',
  https: 'https on port',
  ssh: 'ssh on port',
  'management/from': 'logins only from',
  'ssh-from': 'ssh only from',
  verdict: 'verdict',
  sources: 'only from hosts',
  destinations: 'only to hosts',
  log: 'log',
  until: 'ends after',
  after: 'stands behind',
};

const PICKS: Readonly<Record<string, string>> = {
  'role/inside': 'inside',
  'role/dmz': 'DMZ',
  'role/management': 'management',
  'role/upstream': 'upstream: faces the internet',
  'out/all': 'everything may go out',
  'out/web': 'web, names and time only',
  'out/nothing': 'nothing',
  'out/same': 'what its zone may already',
  'promise/yes': 'yes, as a promise',
  'promise/no': 'no',
  'mode/dhcp': 'DHCP',
  'mode/static': 'static, from the provider’s sheet',
  'mode/pppoe': 'PPPoE login',
  'verdict/allow': 'allow: lets pass',
  'verdict/drop': 'drop: swallows',
  'verdict/reject': 'reject: turns away',
};

/** The field that an ask of a plain kind is about: its key is `FIELD-SLOT` or `FIELD-way`. */
function askedField(gesture: GestureId, key: string) {
  const kind = KINDS.find((k) => k === gesture);
  const field = kind && FORMS[kind].find((f) => key.startsWith(`${f.key}-`));
  return kind && field && { kind, field, rest: key.slice(field.key.length + 1) };
}

export function askLabel(gesture: GestureId, key: string): string {
  const own = ASKS[`${gesture}/${key}`] ?? ASKS[key];
  if (own) return own;
  const asked = askedField(gesture, key);
  if (!asked) return key;
  const { kind, field, rest } = asked;
  return rest === 'way' ? fieldLabel(kind, field).says.toLowerCase() : slotLabel(kind, field, { key: rest });
}

export function pickLabel(gesture: GestureId, key: string, word: string): string {
  const own = PICKS[`${key}/${word}`];
  if (own) return own;
  const asked = askedField(gesture, key);
  return asked ? optionLabel(asked.field, { key: word }) : word;
}

export function makingFaultText(why: MakingFault): string {
  switch (why.what) {
    case 'needed':
      return 'this is needed';
    case 'sign':
      return `without ${why.sign === '\n' ? 'a line end' : why.sign}`;
    case 'name':
      return 'up to 15 lower-case letters, digits and hyphens, a letter first, and no word of the notation';
    case 'taken':
      return `there is a ${why.subject.replace('/', ' ')} already`;
    case 'no-address':
      return 'an address such as 10.61.20.1, with its length (10.61.20.1/24) where it is the box’s own';
    case 'not-host':
      return `no host of ${why.network}: its first and last address are the network and the broadcast`;
    case 'outside':
      return `not in ${why.network}`;
    case 'no-uplink':
      return 'there is no uplink yet: add one first';
    case 'no-such':
      return `there is no ${why.kind} ${why.name}`;
    case 'no-lease-yet':
      return `${why.station} has no address that is known: write the address itself`;
    case 'nothing':
      return 'this would write nothing';
    case 'reads':
      return findingText(why.fault);
  }
}
