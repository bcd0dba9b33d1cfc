/** Our words and the trade's, found by either. */
import type { GestureId } from '#core/edits';
import { GESTURE_LABELS } from './making';

export interface Entry {
  /** The word as it stands on screen or in the notation. */
  readonly word: string;
  /** What the trade says. */
  readonly trade: readonly string[];
  readonly means: string;
  /** How to make one. */
  readonly want?: GestureId;
}

const entry = (word: string, trade: string, means: string, want?: GestureId): Entry => ({
  word,
  trade: trade.split(', '),
  means,
  want,
});

export const GLOSSARY: readonly Entry[] = [
  entry(
    'also',
    'secondary address, alias address, additional IP',
    'A further address of the same interface; it may lie in another subnet.',
    'second-subnet',
  ),
  entry(
    'address',
    'IP address, static IP, DHCP client',
    'The primary address of an interface, static, by DHCP or by PPPoE.',
  ),
  entry('advertises', 'router advertisements, RA, SLAAC', 'IPv6 stations learn their network from the box.'),
  entry(
    'answers',
    'management access, services on the interface, ping, admin access, remote login',
    'What the box itself answers to packets that arrive on an interface; nothing unless said.',
    'management',
  ),
  entry(
    'bench',
    'simulation, lab, digital twin',
    'A packet-level model of box, lines, switches and devices on which the draft is tried while you type.',
  ),
  entry(
    'block',
    'public subnet, routed subnet, IP block',
    'Public addresses that the provider gives to an uplink beside its own subnet.',
  ),
  entry('board', 'interfaces, overview', 'Ports across, zones down, an interface where they meet.'),
  entry('bridge', 'bridge, switch ports together, LAN ports', 'One interface over several ports.'),
  entry('carries', 'trunk, allowed VLANs, tagged VLANs', 'The tags that a switch lets through to the box.'),
  entry(
    'circuit',
    'provider’s line, WAN line, internet access',
    'What a provider plugs in; on the bench it behaves as its sheet says.',
    'circuit',
  ),
  entry(
    'crossing plan',
    'order of changes, cutover, change plan, migration',
    'The order of steps that keeps the administrator connected, or where it breaks.',
  ),
  entry('dead beyond', 'provider outage', 'A line whose gateway answers and behind which nothing does.'),
  entry(
    'desk',
    'client, PC, user',
    'Somebody behind the box; an uplink that works while desks do not is no internet.',
  ),
  entry(
    'dmz',
    'DMZ, perimeter, server zone',
    'A zone that others reach and that begins little itself.',
    'network',
  ),
  entry(
    'door',
    'port forwarding, destination NAT, DNAT, virtual server, inbound NAT, publish',
    'A public address and service that lead to one inside host.',
    'publish',
  ),
  entry('draft', 'candidate configuration', 'What you edit; what the box runs is told apart from it.'),
  entry(
    'address plan',
    'IPAM, IP plan, spreadsheet, CSV import, VLAN list',
    'A table of networks or reservations, compared with the draft row by row and taken over.',
  ),
  entry(
    'what if',
    'failover test, single point of failure, redundancy',
    'What each line that is cut, or provider that is dead, does to every desk and door.',
  ),
  entry(
    'until',
    'schedule, expiry, time-limited rule, temporary rule',
    'The last day on which a passage or door counts.',
  ),
  entry(
    'site book',
    'documentation, runbook, handover',
    'One page of all that is known of a site, to print.',
  ),
  entry(
    'drill',
    'failover test, pull the cable',
    'A cable cut or a provider dead on the bench; the site’s text stays as it is.',
  ),
  entry(
    'expect',
    'assertion, check, test, monitor',
    'A promise about the result, checked with every keystroke.',
    'expect',
  ),
  entry('far', 'internet host, public server', 'A host out in the internet, for the bench.', 'far'),
  entry(
    'first light',
    'setup, wizard, initial configuration, first boot',
    'From the carton to the internet, step by step; in the menu of the site’s name.',
  ),
  entry(
    'gateway',
    'default gateway, default route, next hop, upstream route',
    'Where everything goes that no other route takes.',
    'uplink',
  ),
  entry(
    'guard',
    'anti-spoofing, uRPF, bogon filter, reverse path filter',
    'New flows from sources that have no business on an interface are refused.',
  ),
  entry(
    'jack',
    'switch port, access port, trunk port, hybrid port, tagged port, wall socket',
    'A socket of a switch: the VLAN of its untagged frames, and those that it carries tagged.',
  ),
  entry(
    'leg',
    'layer-3 switch, SVI, routed interface, inside router, core router, router on a stick',
    'One network of a router inside: where it is plugged in, and its address there.',
  ),
  entry(
    'keeps',
    'reservation, static lease, fixed address, MAC binding, DHCP reservation',
    'An address that only one device gets.',
    'reservation',
  ),
  entry(
    'known',
    'address object, host group, alias, named address, FQDN object',
    'A name for hosts, networks or ranges, and for what DNS names lead to.',
    'known',
  ),
  entry(
    'ladder',
    'connectivity test, diagnosis',
    'What must work for the internet, rung by rung, from the cable to a page.',
  ),
  entry(
    'leave',
    'source NAT, SNAT, masquerading, outbound NAT, PAT, NAT overload',
    'The address that somebody shows outside.',
    'leave-as',
  ),
  entry(
    'lends',
    'DHCP pool, DHCP server, DHCP scope, address range',
    'Addresses that the box gives to devices that ask.',
    'network',
  ),
  entry('names', 'name servers, DNS servers, resolvers', 'Who is asked for names.'),
  entry(
    'on-demand',
    'cold standby, dial on demand, metered backup, cellular backup',
    'An uplink that rests, undialled and unasked, until no other of its table lives.',
  ),
  entry(
    'passage',
    'firewall rule, policy, ACL, access rule, allow, permit, deny, block traffic',
    'What may start from one zone to another; the first that fits decides.',
    'passage',
  ),
  entry(
    'virtual',
    'VRRP, virtual IP, VIP, failover address, cluster address',
    'Addresses that two boxes share: whichever is active has them.',
  ),
  entry(
    'twin',
    'high availability, HA, failover pair, cluster, standby box, second firewall',
    'A second box with the same text, which takes over when this one fails.',
  ),
  entry(
    'priority',
    'metric, WAN failover order, backup line',
    'The order among uplinks: the lowest live one carries the default route.',
    'uplink',
  ),
  entry(
    'promise',
    'assertion, policy test',
    'Said with expect; one that is not kept is told in the strip.',
    'expect',
  ),
  entry(
    'proof',
    'verification, connectivity check',
    'Who reaches what, and why; the strip at the foot is always there.',
  ),
  entry(
    'rung',
    'step, stage',
    'One stage of a ladder: a box is passed, ✕ failed, a hairline skipped. Filled: the running box was asked; outlined: the bench; dashed: it rests on a supposition.',
  ),
  entry(
    'seat',
    'management station, admin PC',
    'Where the administrator sits; the crossing plan keeps it connected.',
  ),
  entry(
    'say line',
    'command line, search, command palette',
    'One line for statements, changes, questions and wishes.',
  ),
  entry(
    'send',
    'policy route, PBR, policy-based routing, source routing',
    'Whose new flows take which uplink.',
    'send',
  ),
  entry(
    'share',
    'load balancing, load sharing, WAN balancing, weights',
    'The part of new sources that an uplink takes beside others of its order; which one a source takes follows from its address.',
  ),
  entry(
    'settle',
    'hold-down, failback delay',
    'How long good answers must come before an uplink is used again.',
  ),
  entry(
    'slab',
    'interface, VLAN interface, subinterface',
    'An interface as it stands on the board.',
    'network',
  ),
  entry('slip', 'inspector, properties, edit form', 'The fields of whatever is selected.'),
  entry('start-up', 'saved configuration, boot configuration', 'What the box runs after a reboot.'),
  entry('station', 'device, PC, printer, server, client', 'Something plugged in behind the box.', 'station'),
  entry('stay', 'confirm the change, keep it', 'Ends the trial and keeps what is tried.'),
  entry(
    'supposed',
    'assumed',
    'Nobody said it; the bench takes the plainest case, and marks what rests on it.',
  ),
  entry(
    'table',
    'VRF, routing table, routing instance',
    'Addresses and routes apart from those of other tables.',
    'table',
  ),
  entry('tag', 'VLAN, VLAN ID, 802.1Q', 'The number that a frame carries on a trunk.', 'network'),
  entry(
    'trial',
    'confirmed commit, safe apply, rollback timer',
    'The box takes the draft and goes back by itself unless you stay.',
  ),
  entry('upstream', 'WAN, untrusted, outside, external', 'Facing the internet.', 'uplink'),
  entry(
    'watch',
    'health check, gateway monitor, ping probe, SLA, dead gateway detection',
    'Far addresses pinged through an uplink; when all fail, it counts as dead.',
    'uplink',
  ),
  entry(
    'within',
    'intra-zone traffic, client isolation',
    'Whether two interfaces of one zone may talk where no passage says so.',
  ),
  entry('zone', 'security zone, segment, LAN, trust level', 'Interfaces that are trusted alike.', 'zone'),
];

/** Further words by which a gesture is found. */
const ALSO: Readonly<Partial<Record<GestureId, string>>> = {
  network:
    'vlan lan dmz subnet network guest wifi wlan dhcp scope pool trunk tagged add new interface internal',
  publish: 'port forward forwarding nat dnat destination publish expose server web mail inbound virtual',
  'leave-as': 'snat source nat masquerade outbound public ip address leave egress',
  reservation: 'reserve reservation static lease fixed dhcp mac binding printer keep',
  uplink:
    'wan internet line provider isp failover backup second dual pppoe dsl fibre default route gateway uplink',
  management: 'management admin access login ssh https console remote gui',
  'second-subnet': 'second secondary subnet pool full more addresses extend alias additional',
  passage: 'rule firewall allow permit deny block policy acl open traffic pass',
  zone: 'zone segment trust',
  send: 'policy routing pbr route source based',
  table: 'vrf routing table',
  known: 'object group alias host named address',
  expect: 'check test assert monitor promise expect',
  station: 'pc printer server device client host',
};

const words = (text: string): string[] =>
  text
    .toLowerCase()
    .split(/[^\p{L}\p{N}.]+/u)
    .filter((w) => w.length > 1);

/** Words that say nothing of what is wanted. */
const EMPTY = new Set([
  'a',
  'an',
  'the',
  'to',
  'for',
  'of',
  'on',
  'in',
  'add',
  'new',
  'make',
  'create',
  'set',
  'up',
  'how',
  'do',
  'want',
  'my',
]);

/** How well a text has the words that are looked for: each must begin a word of it. */
function hits(text: string, wanted: readonly string[]): number {
  const own = words(text);
  return wanted.filter((w) => own.some((o) => o.startsWith(w))).length;
}

/** Gestures that words in either language ask for, the best first; at most a few. */
export function wantsFor(line: string, most = 4): GestureId[] {
  const wanted = words(line).filter((w) => !EMPTY.has(w));
  if (!wanted.length) return [];
  const ids = Object.keys(GESTURE_LABELS) as GestureId[];
  const scored = ids.map((id) => {
    const { says, about } = GESTURE_LABELS[id];
    const own = hits(`${says} ${ALSO[id] ?? ''} ${id}`, wanted);
    return { id, score: own * 2 + hits(about, wanted) };
  });
  const best = Math.max(...scored.map((s) => s.score));
  return scored
    .filter((s) => s.score > 0 && s.score * 2 >= best)
    .sort((a, b) => b.score - a.score)
    .slice(0, most)
    .map((s) => s.id);
}

/** Entries that a word in either language finds, all of them where nothing is looked for. */
export function glossaryFor(line: string): readonly Entry[] {
  const wanted = words(line);
  if (!wanted.length) return GLOSSARY;
  const found = GLOSSARY.map((e) => ({
    e,
    score: hits(`${e.word} ${e.trade.join(' ')}`, wanted) * 2 + hits(e.means, wanted),
  }));
  return found
    .filter((f) => f.score > 0)
    .sort((a, b) => b.score - a.score)
    .map((f) => f.e);
}

/** What a word of ours means. */
export const meaningOf = (word: string): Entry | undefined => GLOSSARY.find((e) => e.word === word);
