/** Ladders, promises and traces in sentences: what was seen, and what to do. */
import { formatFlowService, formatIp, isIpv4 } from '#core/addr';
import type { Step } from '#core/bench';
import type { PromiseResult, StageResult, Trace, TraceFault } from '#core/proof';
import { fill, spanText } from './fill';
import { whyText } from './reach';

/** Stage codes in sentences. */
export const STAGE_TEXTS: Readonly<Record<string, string>> = {
  'carrier-port-off': '{port} is switched off; switch it on',
  'carrier-none': 'no light on {port}: plug the cable in, or look at the other end',
  'carrier-down': 'no light on {port}: circuit {circuit} is down; call the provider',
  'carrier-up': '{port} has light from {circuit}',
  'carrier-up-nothing': '{port} has light, but no circuit is known behind it',
  'address-no-lease':
    '{tries} DHCP questions on {port}, and nobody offered an address; is this really a DHCP line, and the right port and tag?',
  'address-none': '{interface} has no address; write the one on the provider’s sheet',
  'address-no-concentrator':
    '{tries} PPPoE questions on {port}, and nobody answered; is this really a PPPoE line, and the right port and tag?',
  'address-refused':
    'the provider refuses the login “{user}”: compare user and secret with the sheet, letter by letter',
  'address-no-session': 'somebody answers PPPoE on {port}, but no session comes up',
  'address-session': '{address} in a session, as user and secret ask for',
  'address-none6': '{interface} has no IPv6 address; write the one on the provider’s sheet',
  'address-no-router':
    '{tries} questions for a router on {port}, and none advertises a network that addresses are made in',
  'address-duplicate6': '{address} was made for {interface}, but another on the segment has it',
  'address-no-lease6':
    '{tries} DHCPv6 questions on {port}, and nobody offered an address or a prefix; ask the provider what the line has',
  'address-no-session6': 'the session on {port} carries no IPv6',
  'address-slaac': '{address} made in a network that the provider’s router advertises',
  'address-delegated': '{address} is delegated; the line itself needs no address',
  'address-lease': '{address} leased for {span}',
  'address-static': '{address} as written',
  'gateway-none': '{interface} has no gateway, so there is no way on from {address}',
  'gateway-none6':
    'no router on {port} offers itself, and {interface} has no IPv6 gateway written, so there is no way on',
  'neighbour-silent':
    '{gateway} does not answer {question} on {port}; compare gateway and mask with the sheet, and the port and tag with the plan',
  'gateway-no-route':
    '{gateway} is no neighbour of {interface} ({nets}), so it makes no route: compare gateway and mask with the sheet, or say `onlink`',
  'neighbour-nobody': '{gateway} does not answer {question} on {port}, and no circuit is plugged in there',
  'neighbour-answers': '{gateway} answers {question}',
  'gateway-answers': '{gateway} answers ping',
  'gateway-quiet': '{gateway} does not answer ping, but what is behind it does',
  'gateway-silent': '{gateway} answers {question} but no ping, and nothing behind it answers either',
  'gateway-no-ping': '{interface} does not answer ping, so its silence says nothing',
  'beyond-answers': '{target} answers ping',
  'beyond-silent':
    '{gateway} answers, nothing behind it does: 3 pings to {target} lost; the fault is the provider’s',
  'beyond-nobody': 'nobody beyond the gateway is known to ask',
  'resolver-none': 'no resolver is known: write names on the box or on {interface}',
  'resolver-silent': 'no answer from {servers}; compare them with the sheet',
  'resolver-answers': '{server} answers',
  'name-unknown': '{server} does not know {name}',
  'name-resolves': '{name} is {resolved}',
  'name-silent': '{name} ({resolved}) does not answer ping',
  'name-answers': '{name} ({resolved}) answers ping',
  'page-nobody': 'no far host serves pages',
  'page-silent': '{page} does not open: no answer to the connection',
  'page-stalls':
    '{page} opens, but a full segment of 1460 octets does not come back: the MTU on the way is smaller',
  'page-opens': '{page} opens and carries {octets} octets there and back',
  'egress-seen': 'seen outside as {seen}',
  'egress-unknown': 'nobody outside saw a packet',
  'after-failure': 'not tried, since {failed} failed',
  'no-resolver': 'not tried: no resolver may be asked',
  'not-permitted': 'not permitted: {reason}',
  'desk-no-carrier': '{station} has no light on its cable',
  'desk-no-address': '{station} has no address and asks for none',
  'desk-interface-off': '{station} asks for an address, but {interface} is off',
  'desk-nobody-lends': '{station} asks for an address ({tries} times), but {interface} lends none',
  'desk-pool-full': '{station} asks for an address, but the pool of {interface} has none left',
  'desk-no-lease': '{station} asks for an address ({tries} times) and gets none from {interface}',
  'desk-lease': '{station} has {address} by lease',
  'desk-static': '{station} has {address}',
  'desk-slaac': '{station} made itself {address} from what is advertised',
  'desk-no-gateway': '{station} has no gateway; its pool or its own settings must tell it one',
  'desk-no-names': '{station} is told no resolver, so no name will open',
  'desk-needs-no-names': '{station} has no resolver, and may not go out anyway',
  'desk-stopped': '{reason}',
};

/** Why a packet ended, as a phrase. `line` is the statement's, where one decided. */
export const END_TEXTS: Readonly<Record<string, string>> = {
  'host-no-gateway': '{node} has no gateway for {destination}',
  'no-neighbour': '{node} got no {question} answer from {hop}{through? on {through}}',
  'no-interface': '{zones} arrives, and no interface takes it',
  'own-source':
    'a packet from {source} arrived by {through}, but only the box itself has that address, or nobody',
  malformed: 'a packet that fits no flow and starts none',
  'no-route-back': 'no route leads back to {source}, so the box refuses it on {through}',
  guard: 'guard on {through} refuses the source {source}',
  'box-silent': '{through} does not answer that to {source}',
  'no-route': 'no route to {destination} in table {zones}',
  dropped: '{zones}: swallowed by {statement}, line {line}',
  'dropped-default': '{zones}: no passage lets it pass',
  'dropped-within': '{zones}: the zone lets nothing pass within, line {line}',
  rejected: '{zones}: turned away by {statement}, line {line}',
  'left-never': '{statement}, line {line}, says it never goes out that way',
  'send-never': 'its uplink is dead, and it is never sent by another',
  'no-free-port': 'no free port to show at {through}',
  ttl: 'its time to live ran out at {node}',
  'too-big':
    'a full packet is too big for {through} (MTU {zones}): offer smaller segments with mss, or raise the MTU',
  'provider-drops-private':
    '{node} drops it, since it shows the private source {source}: no leave statement gives it a public one',
  'provider-dead': 'nothing behind {node} answers',
  'provider-no-route': '{node} knows no way to {destination}',
  'cloud-no-route': 'nobody on the internet has {destination}',
};

const reasonOf = (values: Readonly<Record<string, string>>): string =>
  fill(END_TEXTS[values.why ?? ''] ?? 'no answer', values);

/** The sentence of a stage. */
export function stageText(stage: Pick<StageResult, 'code' | 'values' | 'supposed'>): string {
  const values = {
    ...stage.values,
    reason: stage.values.why ? reasonOf(stage.values) : '',
    failed: STAGE_NAMES[stage.values.failed ?? ''] ?? stage.values.failed ?? '',
    span: stage.values.seconds ? spanText(Number(stage.values.seconds)) : '',
  };
  const text = fill(STAGE_TEXTS[stage.code] ?? stage.code, values);
  return stage.supposed ? `${text} (supposed: no far host and no circuit is written with it)` : text;
}

/** Outcomes of promises. */
export const PROMISE_TEXTS: Readonly<Record<string, string>> = {
  'promise-unread': 'the promise could not be read',
  'promise-no-source': 'nobody stands for {from}',
  'promise-no-target': 'nobody stands for {to}',
  'promise-no-address': '{station} has no address',
  'promise-no-pair': 'there is no pair to ask',
  'promise-reckoned':
    'holds by the reach; the bench, which asks packet by packet, had no time left for it: `prove` on the command line asks',
  'promise-reached': 'asked of {count} pairs, all reached',
  'promise-not-reached': '{from} does not reach {to} ({address}) with {service}: {reason}',
  'promise-sealed': 'asked {count} times, nothing arrived',
  'promise-leak': '{from} reaches {to} ({address}) with {service}',
  'promise-leak-forged':
    'a packet from {from} put on the line of {line} reaches {to} ({address}) with {service}',
  'promise-leaves-as': 'seen as {wanted}',
  'promise-other-address': '{from} is seen as {seen}, not {wanted}',
  'promise-pings': 'asked from {count} places, all answered',
  'promise-no-ping': '{from} gets no echo from {address} of {to}: {reason}',
};

/** Said where the bench was stopped, since something on it went on for ever. */
export const SPENT_TEXT =
  'The bench was stopped: something that is plugged in goes on and on. What was asked after that got no answer; promises are judged by the reach.';

/** Why a promise holds or fails. */
export const promiseText = (result: Pick<PromiseResult, 'code' | 'values'>): string =>
  result.code === 'promise-reckoned-not'
    ? whyText(result.values)
    : fill(PROMISE_TEXTS[result.code] ?? result.code, {
        ...result.values,
        reason: result.values.why
          ? reasonOf(result.values)
          : result.values.result === 'refused'
            ? 'refused by the target'
            : 'no answer',
      });

const STEP_TEXTS: Readonly<Record<Step['code'], string>> = {
  ...(END_TEXTS as Record<Step['code'], string>),
  sent: '{source} → {destination}, {service}, TTL {ttl}',
  received: 'arrives as {source} → {destination}, TTL {ttl}',
  switched: 'in at {through}, out at {zones}{tag? with tag {tag}}',
  'port-off': 'the port is off',
  arrived: 'arrives by {through}',
  'known-forward': 'belongs to a flow that is known{through?; on by {through}}',
  'known-back': 'answers a flow that is known, so it is let through{through? to {through}}',
  'box-answers': '{through} answers {zones}',
  'door-opens': 'the door leads to {shown}',
  'door-closed':
    '{statement} is asked for, but not open to {zones?{zones}: no passage lets it reach {shown} with the service inside}{zones!{source}, whom its from does not name}',
  routed: 'goes by {through}, next hop {hop}',
  passed: '{zones}: lets it pass',
  'passed-within': '{zones}: within one zone',
  'left-as': 'leaves as {shown}',
  'left-unchanged': 'leaves unchanged',
  departed: 'departs by {through} to {hop}, TTL {ttl}',
  'provider-translates': 'translates to {shown}',
  'provider-forwards': 'carries it on',
};

/** One step of a trace in words. */
export function stepText(step: Step): string {
  return fill(STEP_TEXTS[step.code], {
    why: step.code,
    node: step.node,
    source: formatIp(step.packet.source),
    destination: formatIp(step.packet.destination),
    service: protocolText(step.packet.protocol),
    through: step.interface ?? '',
    hop: step.hop === undefined ? '' : formatIp(step.hop),
    question: step.hop === undefined || isIpv4(step.hop) ? 'ARP' : 'neighbour discovery',
    shown: step.shown === undefined ? '' : formatIp(step.shown),
    zones: step.detail ?? '',
    tag: step.tag === undefined ? '' : String(step.tag),
    ttl: String(step.packet.ttl),
    statement: step.statement?.subject ?? '',
    line: step.statement ? String(step.statement.line) : '',
  });
}

const protocolText = (protocol: number): string =>
  ({ 1: 'icmp', 6: 'tcp', 17: 'udp', 58: 'icmp' })[protocol] ?? `protocol ${protocol}`;

/** The outcome of a trace in one sentence. */
export function traceText(trace: Trace): string {
  const service = formatFlowService(trace.service);
  const seen = trace.seenAs === undefined ? '' : `, seen as ${formatIp(trace.seenAs)}`;
  // A door that is not open to whoever asks is the reason, whatever became of the packet without it.
  const end =
    trace.steps.find((s) => s.code === 'door-closed') ??
    [...trace.steps].reverse().find((s) => END_TEXTS[s.code]);
  const head = `${trace.from} to ${trace.to}, ${service}`;
  switch (trace.verdict) {
    case 'answered':
      return `${head}: answered${seen}`;
    case 'delivered':
      return `${head}: arrives${seen}, but no answer comes back`;
    case 'dropped':
    case 'rejected':
    case 'unroutable':
    case 'unresolved':
      return `${head}: ${end ? stepText(end) : 'no answer'}`;
  }
}

/** Why a trace cannot be made. */
export function traceFaultText(fault: TraceFault): string {
  switch (fault.what) {
    case 'unknown':
      return `“${fault.name}” is no name of this site and no address`;
    case 'no-address':
      return `${fault.name} has no address`;
    case 'no-place':
      return `there is no place on the bench to ask from for ${fault.name}`;
    case 'service':
      return `${fault.name} cannot be asked on the bench`;
    case 'wrong-drill':
      return `“${fault.name}” is no port and no circuit`;
  }
}

/** Stage names as people read them. */
export const STAGE_NAMES: Readonly<Record<string, string>> = {
  carrier: 'carrier',
  address: 'address',
  'gateway-neighbour': 'neighbour',
  'gateway-ping': 'gateway',
  'beyond-ping': 'beyond',
  resolver: 'resolver',
  name: 'name',
  'name-ping': 'name ping',
  page: 'page',
  egress: 'seen',
};

/** Stages at which nothing is decided. */
const CARRIED: ReadonlySet<Step['stage']> = new Set<Step['stage']>(['sent', 'switch', 'received']);

/** What is said of a frame of a followed flow: what the box last did with it, and in the end what became of all. */
export function frameComment(trace: Trace, time: number): string {
  const told = trace.steps.filter((s) => s.time <= time && !CARRIED.has(s.stage)).pop();
  const line = told?.statement ? ` [line ${told.statement.line}]` : '';
  return told ? `${told.node}: ${stepText(told)}${line}` : traceText(trace);
}

/** How a flow of the log ended, in a word or two. */
export const logEndText = (end: string): string =>
  end === 'passed'
    ? 'passed'
    : end === 'answered'
      ? 'answered by the box'
      : ({
          dropped: 'swallowed',
          'dropped-default': 'no passage',
          'dropped-within': 'not within the zone',
          rejected: 'turned away',
          'box-silent': 'not answered',
          guard: 'refused by guard',
          'no-route': 'no route',
          'no-route-back': 'no route back',
          'left-never': 'never goes out that way',
          'send-never': 'never sent that way',
          'no-neighbour': 'nobody there',
          malformed: 'fits no flow',
        }[end] ?? end);
