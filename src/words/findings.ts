/** Findings in sentences: what is wrong with the values in it, and why it matters. */
import type { Code, Finding, FindingValues, Mend, MendCode, MendValues } from '#core/findings';
import { say } from './fill';
import type { AnyValues } from './fill';
import { whyText } from './reach';

const promiseFails = say('“{text}” does not hold: {reason}');

const daysText = (days: string): string => (days === '1' ? '1 day' : `${days} days`);

/** What a passage of this verdict does once it has ended; a door has none. */
const endedEffect = (verdict: string): string =>
  verdict === '' ? 'lets nobody in' : verdict === 'allow' ? 'lets nothing pass' : 'stops nothing';

/** What is wrong, by code. */
export const FINDING_TEXTS: { readonly [C in Code]: (values: FindingValues[C]) => string } = {
  syntax: say('expected {expected}, found {got}'),
  'name-unknown': say('“{name}” is no {kinds} of this site{likely?: did you mean {likely}}'),
  'name-twice': say('{kind} {name} is already declared in line {line} of {file}; only the first counts'),
  'name-reserved': say('“{name}” is a word of the notation and cannot name a {kind}'),
  'range-reversed': say(
    'the range {range} runs backwards, from {first} down to {last}, so it counts as absent',
  ),
  'not-worked-yet': say('“{what}” is run on the bench, but no finding looks at it yet'),
  'mask-missing': say(
    '{address} has no length: without /24 or a mask nobody knows which addresses are its neighbours',
  ),
  'mask-invalid': say('{mask} behind {address} is no mask: its ones must stand in one row, /1 to /32'),
  'address-special': say('{address} on {name} lies in {block} ({what}, {source}): no host can have it'),
  'subnet-overlap': say(
    '{address} on {name} overlaps {otherAddress} on {other}: {shared} would be on both, so replies go astray{learned? (that address is learned, not written)}',
  ),
  'subnet-duplicate-in-other-table': say(
    '{net} is used by {name} in table {table} and by {other} in table {otherTable}; that works, as long as you know',
  ),
  'address-not-host': say(
    '{address} on {name} is the {which} address of its subnet; hosts have {first} to {last}',
  ),
  'address-duplicate': say(
    '{address} of {name} is also the address of {other}: only one of them will be heard',
  ),
  'mac-duplicate': say(
    '{name} has the MAC address {mac}, as {other} does: a switch will send to one of them only',
  ),
  'mask-differs': say(
    '{name} has {address}, but {other} on the same segment has {otherAddress}: they disagree about who is a neighbour',
  ),
  'station-gateway-foreign': say('{name} sends everything to {gateway}, but {interface} there has {own}'),
  'address-private-upstream': say(
    '{address} on {name} is private: a router in front translates once more, and nobody outside reaches this box directly',
  ),
  'guard-blocks-upstream': say(
    '{name} has guard, but its own upstream network {net} is private: nothing from there can start a flow to a door or to the box',
  ),
  'also-other-subnet': say('{address} on {name} opens a second subnet beside {primary} on the same segment'),
  'also-not-covered': say(
    'this names {old} but not {added}, the second subnet of {name}: hosts there are left out',
  ),
  'subnet-nearly-full': say('{net} of {name} is nearly used up: {used} of {size} addresses are spoken for'),
  'subnet-full': say('{net} of {name} is used up: {used} addresses are spoken for, and there are {size}'),
  'port-unknown': say('{name} uses {port}, a port that the box did not report ({ports})'),
  'port-off': say('{name} is on {port}, which is off: nothing passes'),
  'interface-off': say('{name} ({address}) is off: it has its address, but nothing passes'),
  'no-carrier': say('{port} of {name} has no carrier: circuit {circuit} is down'),
  'tag-range': say('tag {tag} is outside 1 to 4094, so it counts as absent'),
  'tag-duplicate': say(
    '{name} and {other} both take {tag} on {port}: one port and one tag is one interface, and {name} never gets a frame',
  ),
  'name-tag-mismatch': say('{name} says tag {said}, but its tag is {tag}'),
  'tag-not-carried': say('{name} uses tag {tag}, but switch {switch} carries {carries}: no frame arrives'),
  'tag-unclaimed': say('{tag} of {who} arrives on {port}, and no interface takes it'),
  'native-tag-clash': say(
    '{name} waits for tag {tag} on {port}, but {tag} is the native VLAN of switch {switch} and travels untagged',
  ),
  'cable-twice': say('{name} is plugged into {socket}, where {other} already is'),
  'jack-unknown': say('{name} is plugged into jack {jack} of switch {switch}, which has {jacks}'),
  'switch-loop': say(
    '{name} hangs on {jack}{own?, a jack of its own}{own!, and that leads back to {name}}: a frame would go round for ever, so nothing goes over this cable',
  ),
  'no-zone': say('{name} is in no zone: nothing may pass through it'),
  'no-address': say(
    '{by?{name} asks for its address by {by}, which is not to be had that way}{by!{name} has no address and asks for none}',
  ),
  'mtu-too-big': say(
    '{name} sends packets of up to {mtu} octets, but {port} carries {most}: longer ones are lost',
  ),
  'mss-too-big': say(
    '{name} offers segments of {mss} octets, but carries {most} at most in packets of {mtu}: pages open and then stand still',
  ),
  'mss-off': say(
    '{name} carries {mtu} octets and does not make segments fit: where “too big” is lost on the way, pages open and then stand still',
  ),
  'secret-missing': say('{name} logs in as “{user}” without a secret: the provider will refuse it'),
  'bridge-member-busy': say(
    '{port} is a member of bridge {name}, but {other} {has} on it: its frames go to one of the two, and the other is cut off',
  ),
  'bridge-member-twice': say(
    '{port} is {other?in bridge {other} already, so {name} never gets its frames}{other!twice in bridge {name}}',
  ),
  'bridge-one-member': say('{name} bridges {port} alone, which is no more than {port} itself'),
  'zone-unused': say('zone {name} has no interface'),
  'table-unused': say('table {name} has no interface'),
  'known-unused': say('nothing speaks of {name}'),
  'zone-without-upstream': say('no zone is marked upstream, so nothing here faces the internet'),
  'zone-contradiction': say(
    'zone {name} is both upstream and dmz; a dmz is behind the box, upstream in front of it',
  ),
  'gateway-off-subnet': say(
    'gateway {gateway} of {name} is not in {nets}: the box cannot ask for it on that segment',
  ),
  'gateway-is-self': say('gateway {gateway} is the address of {name} itself: packets would go nowhere'),
  'gateway-not-host': say(
    'gateway {gateway} of {name} is a {which} address{net? of {net}}: no router can have it',
  ),
  'aggregate-member-busy': say(
    '{port} is part of the aggregation {name}, but is used by {by}: what arrives there is the aggregation’s',
  ),
  'aggregate-one-sided': say(
    '{name} is aggregated by {here}, but switch {switch} {single?takes its cables for ports of their own}{single!by {there}}: {single?one cable carries all, or its table of addresses flaps}{single!part of the frames goes where nobody listens}',
  ),
  'aggregate-unlike': say(
    '{name} aggregates {a} ({speedA}) and {b} ({speedB}): links of one aggregation are of one speed, or one stays out',
  ),
  'aggregate-one-member': say('{name} aggregates {port} alone: nothing goes on when that fails'),
  'option-owned': say('{name} tells DHCP option {code} itself, which is said by {instead}'),
  'option-unused': say(
    '{range?nobody of {range} is lent an address or has one kept on {name}}{range!{name} lends nothing}: its option {option} is told to nobody',
  ),
  'suffix-nowhere': say('{suffix} of {name} stands for nobody: {name} has no IPv6 network of 64 bits'),
  'relay-unanswered': say(
    '{name} asks {server}{station? ({station})} for its clients{lost?, which has no gateway to answer by}{nobody?, and as far as is known nobody there lends in {nobody}}{unable?, but has no address to ask from}',
  ),
  'record-unserved': say('{what} is told to nobody: the box serves no names'),
  'record-to-lent': say('{name} stands for {address}, which the pool of {pool} lends to whoever asks'),
  'behind-unrouted': say(
    '{net} is behind router {router} ({via} on {name}), and table {table} has no route to it: answers to it go out by the default route',
  ),
  'router-gateway-foreign': say(
    'router {name} {gateway?sends everything to {gateway}}{gateway!has no gateway}, but {interface} there has {own}: what is behind it gets nowhere',
  ),
  'answers-around': say(
    '{who} asks {net} by the box, and router {router} on {name} answers straight: pings pass and connections hang; give the router a network of its own',
  ),
  'block-unrouted': say(
    'circuit {circuit} does not bring {block} to {name}: it is neither on its line nor routed to the box, so nobody reaches an address of it',
  ),
  'gateway-inside': say(
    '{name} in zone {zone} has the gateway {gateway}, which makes it a way out to the internet{pool?; a gateway for the stations belongs to the pool}',
  ),
  'no-default-route': say(
    'table {table} has no default route{name?: {name} has no gateway}, so nothing reaches the internet',
  ),
  'uplink-tie': say(
    '{name} and {other} both have priority {priority}: which one is used is left to the order of the file',
  ),
  'delegated-written': say(
    '{address} is of a prefix that the provider of {uplink} delegates to {name}, and may be another tomorrow',
  ),
  'name-unresolved': say('{name} stands for {names}, and nobody that is known has that name'),
  'share-alone': say(
    '{name} shares, but no other uplink of table {table} with priority {priority} does: all that it might take it takes anyway',
  ),
  'on-demand-alone': say(
    '{name} is for use on demand, but no other uplink of table {table} is on duty: it never rests',
  ),
  'virtual-off-subnet': say(
    '{address} is to be shared on {name}{own?, which is in {own}: nobody there would ask for it: , which has no address of its own that is written}',
  ),
  'twin-half': say('{twin} has {side} if it takes over{names?: {names} has no `virtual … with` for it}'),
  'gateway-not-shared': say(
    '{name} sends to {own}, which this box has alone: when the other takes over, only {shared} goes on',
  ),
  'public-not-shared': say(
    'who leaves by {name} shows {own}, which this box has alone: when the other takes over, the world sees another address than before; {shared} is shared',
  ),
  'uplink-unwatched': say(
    '{name} is not watched: when its provider is dead behind its own gateway, {other} does not take over',
  ),
  'watch-single': say(
    '{name} watches {address} alone: when that host is down, a working line counts as dead',
  ),
  'route-unreachable': say(
    'the route to {prefix} goes via {via}, which is not in {where}: it can never be used',
  ),
  'route-shadowed': say('the route to {prefix} is never used: {by} takes all of it'),
  'guard-missing': say('{name} has no guard: forged sources from the internet are taken at their word'),
  'no-names': say('{name} knows no resolver: addresses will answer, names will not'),
  'names-unreachable': say(
    'resolver {address} of {name} cannot be reached: no network here has it and it never crosses the internet',
  ),
  'names-unlisted': say(
    'resolver {address} is nobody that is known: circuit {circuit} names {names}, so that it answers is only supposed',
  ),
  'time-missing': say('{name} has no time server: its log and its certificates go by a clock that drifts'),
  'slaac-not-64': say(
    '{who} has {net}, but addresses are made in networks of length 64 only: nobody on {name} gets one',
  ),
  'no-default-route6': say(
    'table {table} has no IPv6 default route: {name} has IPv6 addresses, and what is sent from them goes nowhere',
  ),
  'v6-open': say(
    '{zones}: {services?{services} }passes over IPv6{never? and never over IPv4, as line {never} says}{closed? and not over IPv4, where line {closed} stops it}{alone? and not over IPv4}',
  ),
  'advertises-without-address': say(
    '{name} advertises itself as IPv6 router, but has no network to advertise{delegated?: subnet {subnet} is more than {delegated} has}{from?, and takes it from {from}}',
  ),
  'answers-open-upstream': say(
    '{name} answers {services} to the whole internet: anybody may try its passwords',
  ),
  'answers-on-dmz': say(
    '{name} answers {services} in dmz {zone}: a server taken over there could try the box',
  ),
  'ping-silent': say('{names} {verb} no ping: whoever looks for a fault there finds silence'),
  'no-way-in': say('no interface answers ssh or https: only the console port would let you in'),
  'first-password': say('{name} still has the password it came with'),
  'plain-http': say('{name} answers http: passwords cross the wire for all to read'),
  'seat-cut': say(
    '{name}, where you sit{address? ({address})}, has no way into the box{interface?: {interface} answers it no login}',
  ),
  'lends-too-small': say(
    'the pool of {name} has {size} addresses to give, and {asking} stations ask for one',
  ),
  'lends-outside-subnet': say(
    '{range} of {name} is not inside {nets}: clients there would not reach the box',
  ),
  'lends-covers-box': say(
    '{range} of {name} holds {address}, the address of {owner}: it would be given away',
  ),
  'lends-covers-fixed': say('{range} of {name} holds {hits}: it would be given to somebody else'),
  'lends-empty': say('the range {range} runs backwards, so the pool is empty'),
  'lends-overlap': say('{range} of {name} overlaps {otherRange} of {other}: an address could be given twice'),
  'lends-on-client': say('{name} gets its own address by {by} and cannot lend any'),
  'lends-upstream': say(
    '{name} lends addresses towards {zone}: the provider’s other customers would be given them',
  ),
  'lends-on-dmz': say(
    '{name} lends addresses in dmz {zone}: servers whose addresses move are hard to point a door at',
  ),
  'lends-two-servers': say(
    '{name} lends on {port}, where {other} lends too: stations take whichever answers first',
  ),
  'lends-gateway-foreign': say(
    'the pool of {name} tells its clients the gateway {gateway}, not the box{own? ({own})}',
  ),
  'lends-no-names': say('the pool of {name} tells its clients no resolver: names will not resolve there'),
  'names-unanswered': say('the pool of {name} hands out the box as resolver, but {lacks}'),
  'keep-outside-subnet': say('{address}, kept for {who}, is not inside {nets} of {name}'),
  'keep-duplicate': say('{what} is kept twice on {name}: for {first} and for {second}'),
  'passage-shadowed': say(
    'passage {zones} takes nothing: {several!line {line}, {by}, takes}{several?lines {line} together take} all of it first',
  ),
  'passage-empty': say('passage {zones} can take nothing: {why}'),
  'passage-open': say('everything may pass from everywhere to everywhere: the zones mean nothing any more'),
  'passage-inward': say('{from} may start {services} into {to}, which is trusted more'),
  'dmz-inward': say(
    'dmz {from} may start {services} into {to}: {lacks}, so a server taken over there walks in',
  ),
  'upstream-inward': say('the internet ({from}) may start {services} into {to}'),
  'leave-missing': say(
    '{sources} of {name} may go out by {out} but keeps its private address there: the provider drops it',
  ),
  'leave-foreign': say('{address} is not an address that {out} has ({nets}): answers to it never come back'),
  'leave-lost-on-failover': say(
    '{who} leaves as {address} by {uplink}, but by {other} only {line?the general statement in line {line} takes it}{line!its own address is shown}: after a failover the world sees another address',
  ),
  'door-foreign': say('{address} is in no network of an uplink ({nets}): nobody outside is led to this door'),
  'door-ports-unequal': say(
    'door {name} leads {outside} to {inside}: the ports must be as many on both sides, of the same protocols, so nothing is let in',
  ),
  'door-clash': say(
    'door {name} and {other} (line {line}) both take {services} at {address}: only one of them is heard',
  ),
  'door-to-nowhere': say(
    'door {name} leads to {inside}{own?, which is an address of the box on {own}}{many?, which is not one address}{lost?, but no network inside has it}',
  ),
  'door-ambiguous': say('door {name} leads to {inside}, which exists on {homes}: say on which'),
  'door-to-lent': say(
    'door {name} leads to {inside}, which the pool of {pool} lends to whoever asks: one day somebody else stands behind the door',
  ),
  'door-not-listening': say(
    'door {name} leads to {station} ({inside}), which {services?does not listen to {services}}{services!listens to nothing}: it has {listens}',
  ),
  'door-lost-on-failover': say(
    'door {name} is at {address} of {uplink}; when {uplink} is dead, nobody gets in by {others}',
  ),
  'door-leaves-elsewhere': say(
    '{inside} is reached at {address}, but shows {shown} in what it begins itself',
  ),
  'expectation-failed': (values) => promiseFails({ text: values.text, reason: whyText(values) }),
  'until-past': ({ what, day, days, verdict }) =>
    `${what} ended with ${day}, ${daysText(days)} ago: it ${endedEffect(verdict)}; take it out, or write a later day where it is still wanted`,
  'until-soon': ({ what, day, days, verdict }) =>
    `${what} ends with ${day}, ${days === '0' ? 'today' : `in ${daysText(days)}`}: from the day behind it ${endedEffect(verdict)}`,
  'leave-shadowed': say('this takes nothing: line {line} ({by}) takes all of it first'),
};

/** Labels of mends, as what will be done. */
export const MEND_TEXTS: { readonly [W in MendCode]: (values: MendValues[W]) => string } = {
  replace: say('write {text}'),
  rename: say('call it {text}'),
  'make-zone': say('make a zone {name}'),
  'move-subnet': say('move {name} to {to}, with its pools, keeps and what names it'),
  'use-address': say('use {address}'),
  'set-length': say('use {length}'),
  'set-station-length': say('give {station} {length}'),
  'set-station-gateway': say('give {station} the gateway {address}'),
  'remove-guard': say('take guard off {name}'),
  'name-too': say('name {added} too'),
  'second-subnet': say('add {net} beside it, lending {range}'),
  widen: say('widen to {length} (with a fixed address and in need of the new length: {fixed})'),
  'port-on': say('switch {port} on'),
  'interface-on': say('switch {name} on'),
  merge: say('make {name} a second subnet of {into}'),
  'use-tag': say('use tag {tag}'),
  'carry-tag': say('let switch {switch} carry tag {tag}'),
  'set-zone': say('put it in {zone}'),
  'by-pppoe': say('take the address that the session gives'),
  'by-dhcp': say('ask for an address by DHCP'),
  'set-mtu': say('use mtu {mtu}'),
  'set-mss': say('use mss {mss}'),
  'drop-interface': say('take {name} away, so that the port is free'),
  'leave-bridge': say('take {port} out of bridge {name}'),
  'leave-aggregate': say('take {port} out of {name}'),
  'plug-aggregate': say('plug {switch} into {name}, with all its cables'),
  'aggregate-by': say('aggregate by {mode}'),
  'switch-links': say('set switch {switch} to {mode}'),
  'relay-to': say('ask {address}, {station}, which lends there'),
  'option-not': say('leave option {code} out'),
  'box-serves-names': say('let the box serve names{names?, and answer dns on {names}}'),
  once: say('name {port} once'),
  'plain-port': say('use {port} alone'),
  'use-secret': say('use the secret that the circuit has for {user}'),
  'by-dhcpv6': say('ask for an address by DHCPv6 instead'),
  'learn-gateway6': say('take the gateway from router advertisements'),
  'number-from': say('add “{text}”'),
  'make-upstream': say('mark {zone} upstream'),
  'remove-word': say('take {word} away'),
  'use-gateway': say('use gateway {address}{circuit?, as {circuit} says}'),
  onlink: say('keep {address}, outside the subnet (onlink)'),
  'route-block': say('let {circuit} route {block} to {address}'),
  'gateway-to-pool': say('give {address} to the clients of the pool instead'),
  'remove-gateway': say('take the gateway off {name}'),
  'set-priority': say('give {name} priority {priority}'),
  'write-instead': say('write {text} instead'),
  'share-both': say('let {other} and {name} share new flows'),
  'share-beside': say('let {other} share beside {name}'),
  'add-watch': say('watch {address}'),
  'add-guard': say('put guard on {name}'),
  'use-names': say('use {addresses}'),
  'use-time': say('use {addresses}'),
  'answer-not': say('stop answering {services} on {name}'),
  'answer-ping': say('answer ping on {names}'),
  'answer-login': say('answer ssh and https on {name}'),
  'https-instead': say('answer https instead on {name}'),
  'use-range': say('lend {range}'),
  'lend-not': say('lend nothing on {name}'),
  'serve-names': say('let the box resolve names for {name}'),
  'answer-dns': say('let the box answer names on {name}'),
  'remove-keep': say('drop the keep for {who}'),
  'move-before': say('move it before line {line}'),
  'remove-statement': say('take line {line} out'),
  'add-leave': say('add “{text}”'),
  'leave-instead': say('write “{text}” instead'),
  'inside-services': say('lead to {services} inside'),
  'public-resolver': say('it is a public one: add “{text}”'),
  'answer-elsewhere': say('stop answering {services} on {name}, and answer ssh and https on {other}'),
  'door-at': say('use {address}, which is free'),
  'door-at-interface': say('use the address of {name}'),
  'door-on': say('say that it is on {name}'),
  'keep-for': say('keep {address} for {who}'),
  'add-statement': say('add “{text}”'),
  'leave-as-interface': say('leave as the address of {name}'),
};

/** The sentence of a finding. Code and values belong together since the finding was made. */
export const findingText = ({ code, values }: Pick<Finding, 'code' | 'values'>): string =>
  (FINDING_TEXTS[code] as (values: AnyValues) => string)(values);

/** The label of a mend. */
export const mendText = ({ what, values }: Pick<Mend, 'what' | 'values'>): string =>
  (MEND_TEXTS[what] as (values: AnyValues) => string)(values);
