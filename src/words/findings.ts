/** Findings in sentences: what is wrong with the values in it, and why it matters. */
import type { Code, Finding, Mend } from '#core/findings';
import { fill } from './fill';
import { whyText } from './reach';

/** `{name}` stands for a value; `{name?text}` for the text only where the value is not empty. */
export const FINDING_TEXTS: Readonly<Record<Code, string>> = {
  syntax: 'expected {expected}, found {got}',
  'name-unknown': '“{name}” is no {kinds} of this site{likely?: did you mean {likely}}',
  'name-twice': '{kind} {name} is already declared in line {line} of {file}; only the first counts',
  'name-reserved': '“{name}” is a word of the notation and cannot name a {kind}',
  'range-reversed': 'the range {range} runs backwards, from {first} down to {last}, so it counts as absent',
  'not-worked-yet': '“{what}” is run on the bench, but no finding looks at it yet',
  'mask-missing':
    '{address} has no length: without /24 or a mask nobody knows which addresses are its neighbours',
  'mask-invalid': '{mask} behind {address} is no mask: its ones must stand in one row, /1 to /32',
  'address-special': '{address} on {name} lies in {block} ({what}, {source}): no host can have it',
  'subnet-overlap':
    '{address} on {name} overlaps {otherAddress} on {other}: {shared} would be on both, so replies go astray{learned? (that address is learned, not written)}',
  'subnet-duplicate-in-other-table':
    '{net} is used by {name} in table {table} and by {other} in table {otherTable}; that works, as long as you know',
  'address-not-host':
    '{address} on {name} is the {which} address of its subnet; hosts have {first} to {last}',
  'address-duplicate': '{address} of {name} is also the address of {other}: only one of them will be heard',
  'mac-duplicate':
    '{name} has the MAC address {mac}, as {other} does: a switch will send to one of them only',
  'mask-differs':
    '{name} has {address}, but {other} on the same segment has {otherAddress}: they disagree about who is a neighbour',
  'station-gateway-foreign': '{name} sends everything to {gateway}, but {interface} there has {own}',
  'address-private-upstream':
    '{address} on {name} is private: a router in front translates once more, and nobody outside reaches this box directly',
  'guard-blocks-upstream':
    '{name} has guard, but its own upstream network {net} is private: nothing from there can start a flow to a door or to the box',
  'also-other-subnet': '{address} on {name} opens a second subnet beside {primary} on the same segment',
  'also-not-covered':
    'this names {old} but not {added}, the second subnet of {name}: hosts there are left out',
  'subnet-nearly-full': '{net} of {name} is nearly used up: {used} of {size} addresses are spoken for',
  'subnet-full': '{net} of {name} is used up: {used} addresses are spoken for, and there are {size}',
  'port-unknown': '{name} uses {port}, a port that the box did not report ({ports})',
  'port-off': '{name} is on {port}, which is off: nothing passes',
  'interface-off': '{name} ({address}) is off: it has its address, but nothing passes',
  'no-carrier': '{port} of {name} has no carrier: circuit {circuit} is down',
  'tag-range': 'tag {tag} is outside 1 to 4094, so it counts as absent',
  'tag-duplicate':
    '{name} and {other} both take {tag} on {port}: one port and one tag is one interface, and {name} never gets a frame',
  'name-tag-mismatch': '{name} says tag {said}, but its tag is {tag}',
  'tag-not-carried': '{name} uses tag {tag}, but switch {switch} carries {carries}: no frame arrives',
  'tag-unclaimed': '{tag} of {who} arrives on {port}, and no interface takes it',
  'native-tag-clash':
    '{name} waits for tag {tag} on {port}, but {tag} is the native VLAN of switch {switch} and travels untagged',
  'cable-twice': '{name} is plugged into {socket}, where {other} already is',
  'jack-unknown': '{name} is plugged into jack {jack} of switch {switch}, which has {jacks}',
  'switch-loop':
    '{name} hangs on {jack}{own?, a jack of its own}{own!, and that leads back to {name}}: a frame would go round for ever, so nothing goes over this cable',
  'no-zone': '{name} is in no zone: nothing may pass through it',
  'no-address':
    '{by?{name} asks for its address by {by}, which is not to be had that way}{by!{name} has no address and asks for none}',
  'mtu-too-big':
    '{name} sends packets of up to {mtu} octets, but {port} carries {most}: longer ones are lost',
  'mss-too-big':
    '{name} offers segments of {mss} octets, but carries {most} at most in packets of {mtu}: pages open and then stand still',
  'mss-off':
    '{name} carries {mtu} octets and does not make segments fit: where “too big” is lost on the way, pages open and then stand still',
  'secret-missing': '{name} logs in as “{user}” without a secret: the provider will refuse it',
  'bridge-member-busy':
    '{port} is a member of bridge {name}, but {other} {has} on it: its frames go to one of the two, and the other is cut off',
  'bridge-member-twice':
    '{port} is {other?in bridge {other} already, so {name} never gets its frames}{other!twice in bridge {name}}',
  'bridge-one-member': '{name} bridges {port} alone, which is no more than {port} itself',
  'zone-unused': 'zone {name} has no interface',
  'table-unused': 'table {name} has no interface',
  'known-unused': 'nothing speaks of {name}',
  'zone-without-upstream': 'no zone is marked upstream, so nothing here faces the internet',
  'zone-contradiction':
    'zone {name} is both upstream and dmz; a dmz is behind the box, upstream in front of it',
  'gateway-off-subnet':
    'gateway {gateway} of {name} is not in {nets}: the box cannot ask for it on that segment',
  'gateway-is-self': 'gateway {gateway} is the address of {name} itself: packets would go nowhere',
  'gateway-not-host':
    'gateway {gateway} of {name} is a {which} address{net? of {net}}: no router can have it',
  'gateway-inside':
    '{name} in zone {zone} has the gateway {gateway}, which makes it a way out to the internet{pool?; a gateway for the stations belongs to the pool}',
  'no-default-route':
    'table {table} has no default route{name?: {name} has no gateway}, so nothing reaches the internet',
  'uplink-tie':
    '{name} and {other} both have priority {priority}: which one is used is left to the order of the file',
  'uplink-unwatched':
    '{name} is not watched: when its provider is dead behind its own gateway, {other} does not take over',
  'watch-single': '{name} watches {address} alone: when that host is down, a working line counts as dead',
  'route-unreachable': 'the route to {prefix} goes via {via}, which is not in {where}: it can never be used',
  'route-shadowed': 'the route to {prefix} is never used: {by} takes all of it',
  'guard-missing': '{name} has no guard: forged sources from the internet are taken at their word',
  'no-names': '{name} knows no resolver: addresses will answer, names will not',
  'names-unreachable':
    'resolver {address} of {name} cannot be reached: no network here has it and it never crosses the internet',
  'names-unlisted':
    'resolver {address} is nobody that is known: circuit {circuit} names {names}, so that it answers is only supposed',
  'time-missing': '{name} has no time server: its log and its certificates go by a clock that drifts',
  'slaac-not-64':
    '{who} has {net}, but addresses are made in networks of length 64 only: nobody on {name} gets one',
  'no-default-route6':
    'table {table} has no IPv6 default route: {name} has IPv6 addresses, and what is sent from them goes nowhere',
  'v6-open':
    '{zones}: {services?{services} }passes over IPv6{never? and never over IPv4, as line {never} says}{closed? and not over IPv4, where line {closed} stops it}{alone? and not over IPv4}',
  'advertises-without-address':
    '{name} advertises itself as IPv6 router, but has no network to advertise{delegated?: subnet {subnet} is more than {delegated} has}{from?, and takes it from {from}}',
  'answers-open-upstream': '{name} answers {services} to the whole internet: anybody may try its passwords',
  'answers-on-dmz': '{name} answers {services} in dmz {zone}: a server taken over there could try the box',
  'ping-silent': '{names} {verb} no ping: whoever looks for a fault there finds silence',
  'no-way-in': 'no interface answers ssh or https: only the console port would let you in',
  'first-password': '{name} still has the password it came with',
  'plain-http': '{name} answers http: passwords cross the wire for all to read',
  'seat-cut':
    '{name}, where you sit{address? ({address})}, has no way into the box{interface?: {interface} answers it no login}',
  'lends-too-small': 'the pool of {name} has {size} addresses to give, and {asking} stations ask for one',
  'lends-outside-subnet': '{range} of {name} is not inside {nets}: clients there would not reach the box',
  'lends-covers-box': '{range} of {name} holds {address}, the address of {owner}: it would be given away',
  'lends-covers-fixed': '{range} of {name} holds {hits}: it would be given to somebody else',
  'lends-empty': 'the range {range} runs backwards, so the pool is empty',
  'lends-overlap': '{range} of {name} overlaps {otherRange} of {other}: an address could be given twice',
  'lends-on-client': '{name} gets its own address by {by} and cannot lend any',
  'lends-upstream':
    '{name} lends addresses towards {zone}: the provider’s other customers would be given them',
  'lends-on-dmz':
    '{name} lends addresses in dmz {zone}: servers whose addresses move are hard to point a door at',
  'lends-two-servers':
    '{name} lends on {port}, where {other} lends too: stations take whichever answers first',
  'lends-gateway-foreign':
    'the pool of {name} tells its clients the gateway {gateway}, not the box{own? ({own})}',
  'lends-no-names': 'the pool of {name} tells its clients no resolver: names will not resolve there',
  'names-unanswered': 'the pool of {name} hands out the box as resolver, but {lacks}',
  'keep-outside-subnet': '{address}, kept for {who}, is not inside {nets} of {name}',
  'keep-duplicate': '{what} is kept twice on {name}: for {first} and for {second}',
  'passage-shadowed':
    'passage {zones} takes nothing: {several!line {line}, {by}, takes}{several?lines {line} together take} all of it first',
  'passage-empty': 'passage {zones} can take nothing: {why}',
  'passage-open': 'everything may pass from everywhere to everywhere: the zones mean nothing any more',
  'passage-inward': '{from} may start {services} into {to}, which is trusted more',
  'dmz-inward': 'dmz {from} may start {services} into {to}: {lacks}, so a server taken over there walks in',
  'upstream-inward': 'the internet ({from}) may start {services} into {to}',
  'leave-missing':
    '{sources} of {name} may go out by {out} but keeps its private address there: the provider drops it',
  'leave-foreign': '{address} is not an address that {out} has ({nets}): answers to it never come back',
  'leave-lost-on-failover':
    '{who} leaves as {address} by {uplink}, but by {other} only {line?the general statement in line {line} takes it}{line!its own address is shown}: after a failover the world sees another address',
  'door-foreign': '{address} is in no network of an uplink ({nets}): nobody outside is led to this door',
  'door-ports-unequal':
    'door {name} leads {outside} to {inside}: the ports must be as many on both sides, of the same protocols, so nothing is let in',
  'door-clash':
    'door {name} and {other} (line {line}) both take {services} at {address}: only one of them is heard',
  'door-to-nowhere':
    'door {name} leads to {inside}{own?, which is an address of the box on {own}}{many?, which is not one address}{lost?, but no network inside has it}',
  'door-ambiguous': 'door {name} leads to {inside}, which exists on {homes}: say on which',
  'door-to-lent':
    'door {name} leads to {inside}, which the pool of {pool} lends to whoever asks: one day somebody else stands behind the door',
  'door-not-listening':
    'door {name} leads to {station} ({inside}), which {services?does not listen to {services}}{services!listens to nothing}: it has {listens}',
  'door-lost-on-failover':
    'door {name} is at {address} of {uplink}; when {uplink} is dead, nobody gets in by {others}',
  'door-leaves-elsewhere': '{inside} is reached at {address}, but shows {shown} in what it begins itself',
  'expectation-failed': '“{text}” does not hold: {reason}',
  'leave-shadowed': 'this takes nothing: line {line} ({by}) takes all of it first',
};

/** Labels of mends, as what will be done. */
export const MEND_TEXTS: Readonly<Record<string, string>> = {
  replace: 'write {text}',
  rename: 'call it {text}',
  'make-zone': 'make a zone {name}',
  'move-subnet': 'move {name} to {to}, with its pools, keeps and what names it',
  'use-address': 'use {address}',
  'set-length': 'use {length}',
  'set-station-length': 'give {station} {length}',
  'set-station-gateway': 'give {station} the gateway {address}',
  'remove-guard': 'take guard off {name}',
  'name-too': 'name {added} too',
  'second-subnet': 'add {net} beside it, lending {range}',
  widen: 'widen to {length} (with a fixed address and in need of the new length: {fixed})',
  'port-on': 'switch {port} on',
  'interface-on': 'switch {name} on',
  merge: 'make {name} a second subnet of {into}',
  'use-tag': 'use tag {tag}',
  'carry-tag': 'let switch {switch} carry tag {tag}',
  'set-zone': 'put it in {zone}',
  'by-pppoe': 'take the address that the session gives',
  'by-dhcp': 'ask for an address by DHCP',
  'set-mtu': 'use mtu {mtu}',
  'set-mss': 'use mss {mss}',
  'drop-interface': 'take {name} away, so that the port is free',
  'leave-bridge': 'take {port} out of bridge {name}',
  once: 'name {port} once',
  'plain-port': 'use {port} alone',
  'use-secret': 'use the secret that the circuit has for {user}',
  'by-dhcpv6': 'ask for an address by DHCPv6 instead',
  'learn-gateway6': 'take the gateway from router advertisements',
  'number-from': 'add “{text}”',
  'make-upstream': 'mark {zone} upstream',
  'remove-word': 'take {word} away',
  'use-gateway': 'use gateway {address}{circuit?, as {circuit} says}',
  onlink: 'keep {address}, outside the subnet (onlink)',
  'gateway-to-pool': 'give {address} to the clients of the pool instead',
  'remove-gateway': 'take the gateway off {name}',
  'set-priority': 'give {name} priority {priority}',
  'add-watch': 'watch {address}',
  'add-guard': 'put guard on {name}',
  'use-names': 'use {addresses}',
  'use-time': 'use {addresses}',
  'answer-not': 'stop answering {services} on {name}',
  'answer-ping': 'answer ping on {names}',
  'answer-login': 'answer ssh and https on {name}',
  'https-instead': 'answer https instead on {name}',
  'use-range': 'lend {range}',
  'lend-not': 'lend nothing on {name}',
  'serve-names': 'let the box resolve names for {name}',
  'answer-dns': 'let the box answer names on {name}',
  'remove-keep': 'drop the keep for {who}',
  'move-before': 'move it before line {line}',
  'remove-statement': 'take line {line} out',
  'add-leave': 'add “{text}”',
  'leave-instead': 'write “{text}” instead',
  'inside-services': 'lead to {services} inside',
  'public-resolver': 'it is a public one: add “{text}”',
  'answer-elsewhere': 'stop answering {services} on {name}, and answer ssh and https on {other}',
  'door-at': 'use {address}, which is free',
  'door-at-interface': 'use the address of {name}',
  'door-on': 'say that it is on {name}',
  'keep-for': 'keep {address} for {who}',
  'add-statement': 'add “{text}”',
  'leave-as-interface': 'leave as the address of {name}',
};

/** The sentence of a finding. */
export const findingText = ({ code, values }: Pick<Finding, 'code' | 'values'>): string =>
  fill(FINDING_TEXTS[code], code === 'expectation-failed' ? { ...values, reason: whyText(values) } : values);

/** The label of a mend. */
export const mendText = (mend: Pick<Mend, 'what' | 'values'>): string =>
  fill(MEND_TEXTS[mend.what] ?? mend.what, mend.values);
