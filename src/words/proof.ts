/** Ladders, promises and traces in sentences: what was seen, and what to do. */
import { formatFlowService, formatIp, isIpv4 } from '#core/addr';
import type { Step } from '#core/bench';
import type {
  EndCode,
  Ended,
  Ending,
  PromiseResult,
  PromiseValues,
  StageCode,
  StageResult,
  StageValues,
  Trace,
  TraceFault,
} from '#core/proof';
import { say, spanText } from './fill';
import type { AnyValues } from './fill';
import { whyText } from './reach';

/** Stage codes in sentences. */
export const STAGE_TEXTS: { readonly [C in StageCode]: (values: StageValues[C]) => string } = {
  resting: say('{interface} is used on demand only, and rests while another uplink lives'),
  'carrier-port-off': say('{port} is switched off; switch it on'),
  'carrier-none': say('no light on {port}: plug the cable in, or look at the other end'),
  'carrier-down': say('no light on {port}: circuit {circuit} is down; call the provider'),
  'carrier-up': say('{port} has light from {circuit}'),
  'carrier-up-nothing': say('{port} has light, but no circuit is known behind it'),
  'address-no-lease': say(
    '{tries} DHCP questions on {port}, and nobody offered an address; is this really a DHCP line, and the right port and tag?',
  ),
  'address-none': say('{interface} has no address; write the one on the provider’s sheet'),
  'address-no-concentrator': say(
    '{tries} PPPoE questions on {port}, and nobody answered; is this really a PPPoE line, and the right port and tag?',
  ),
  'address-refused': say(
    'the provider refuses the login “{user}”: compare user and secret with the sheet, letter by letter',
  ),
  'address-no-session': say('somebody answers PPPoE on {port}, but no session comes up'),
  'address-session': say('{address} in a session, as user and secret ask for'),
  'address-none6': say('{interface} has no IPv6 address; write the one on the provider’s sheet'),
  'address-no-router': say(
    '{tries} questions for a router on {port}, and none advertises a network that addresses are made in',
  ),
  'address-duplicate6': say('{address} was made for {interface}, but another on the segment has it'),
  'address-no-lease6': say(
    '{tries} DHCPv6 questions on {port}, and nobody offered an address or a prefix; ask the provider what the line has',
  ),
  'address-no-session6': say('the session on {port} carries no IPv6'),
  'address-slaac': say('{address} made in a network that the provider’s router advertises'),
  'address-delegated': say('{address} is delegated; the line itself needs no address'),
  'address-lease': ({ address, seconds }) => `${address} leased for ${spanText(Number(seconds))}`,
  'address-static': say('{address} as written'),
  'gateway-none': say('{interface} has no gateway, so there is no way on from {address}'),
  'gateway-none6': say(
    'no router on {port} offers itself, and {interface} has no IPv6 gateway written, so there is no way on',
  ),
  'neighbour-silent': say(
    '{gateway} does not answer {question} on {port}; compare gateway and mask with the sheet, and the port and tag with the plan',
  ),
  'gateway-no-route': say(
    '{gateway} is no neighbour of {interface} ({nets}), so it makes no route: compare gateway and mask with the sheet, or say `onlink`',
  ),
  'neighbour-nobody': say(
    '{gateway} does not answer {question} on {port}, and no circuit is plugged in there',
  ),
  'neighbour-answers': say('{gateway} answers {question}'),
  'gateway-answers': say('{gateway} answers ping'),
  'gateway-quiet': say('{gateway} does not answer ping, but what is behind it does'),
  'gateway-silent': say('{gateway} answers {question} but no ping, and nothing behind it answers either'),
  'gateway-no-ping': say('{interface} does not answer ping, so its silence says nothing'),
  'beyond-answers': say('{target} answers ping'),
  'beyond-silent': say(
    '{gateway} answers, nothing behind it does: 3 pings to {target} lost; the fault is the provider’s',
  ),
  'beyond-nobody': say('nobody beyond the gateway is known to ask'),
  'resolver-none': say('no resolver is known: write names on the box or on {interface}'),
  'resolver-silent': say('no answer from {servers}; compare them with the sheet'),
  'resolver-answers': say('{server} answers'),
  'name-unknown': say('{server} does not know {name}'),
  'name-resolves': say('{name} is {resolved}'),
  'name-silent': say('{name} ({resolved}) does not answer ping'),
  'name-answers': say('{name} ({resolved}) answers ping'),
  'page-nobody': say('no far host serves pages'),
  'page-silent': say('{page} does not open: no answer to the connection'),
  'page-stalls': say(
    '{page} opens, but a full segment of 1460 octets does not come back: the MTU on the way is smaller',
  ),
  'page-opens': say('{page} opens and carries {octets} octets there and back'),
  'egress-seen': say('seen outside as {seen}'),
  'egress-unknown': say('nobody outside saw a packet'),
  'after-failure': ({ failed }) => `not tried, since ${STAGE_NAMES[failed] ?? failed} failed`,
  'no-resolver': say('not tried: no resolver may be asked'),
  'not-permitted': (values) => `not permitted: ${reasonOf(values)}`,
  'desk-no-carrier': say('{station} has no light on its cable'),
  'desk-no-address': say('{station} has no address and asks for none'),
  'desk-interface-off': say('{station} asks for an address, but {interface} is off'),
  'desk-nobody-lends': say('{station} asks for an address ({tries} times), but {interface} lends none'),
  'desk-pool-full': say('{station} asks for an address, but the pool of {interface} has none left'),
  'desk-no-lease': say('{station} asks for an address ({tries} times) and gets none from {interface}'),
  'desk-lease': say('{station} has {address} by lease'),
  'desk-static': say('{station} has {address}'),
  'desk-slaac': say('{station} made itself {address} from what is advertised'),
  'desk-no-gateway': say('{station} has no gateway; its pool or its own settings must tell it one'),
  'desk-no-names': say('{station} is told no resolver, so no name will open'),
  'desk-needs-no-names': say('{station} has no resolver, and may not go out anyway'),
  'desk-stopped': (values) => reasonOf(values),
};

/** Why a packet ended, as a phrase. `line` is the statement's, where one decided. */
export const END_TEXTS: { readonly [C in EndCode]: (values: Ending) => string } = {
  'host-no-gateway': say('{node} has no gateway for {destination}'),
  'no-neighbour': say('{node} got no {question} answer from {hop}{through? on {through}}'),
  'no-interface': say('{where} arrives, and no interface takes it'),
  'own-source': say(
    'a packet from {source} arrived by {through}, but only the box itself has that address, or nobody',
  ),
  malformed: say('a packet that fits no flow and starts none'),
  'one-sided': say(
    'goes on with a connection of which the box has heard no answer: {destination} answers {source} by another way',
  ),
  'no-route-back': say('no route leads back to {source}, so the box refuses it on {through}'),
  guard: say('guard on {through} refuses the source {source}'),
  'box-silent': say('{through} does not answer that to {source}'),
  'no-route': say('no route to {destination} in table {table}'),
  dropped: say('{zones}: swallowed by {statement}, line {line}'),
  'dropped-default': say('{zones}: no passage lets it pass'),
  'dropped-within': say('{zones}: the zone lets nothing pass within, line {line}'),
  rejected: say('{zones}: turned away by {statement}, line {line}'),
  'left-never': say('{statement}, line {line}, says it never goes out that way'),
  'send-never': say('its uplink is dead, and it is never sent by another'),
  'no-free-port': say('no free port to show at {through}'),
  ttl: say('its time to live ran out at {node}'),
  'too-big': say(
    'a full packet is too big for {through} (MTU {mtu}): offer smaller segments with mss, or raise the MTU',
  ),
  'provider-drops-private': say(
    '{node} drops it, since it shows the private source {source}: no leave statement gives it a public one',
  ),
  'provider-dead': say('nothing behind {node} answers'),
  'provider-no-route': say('{node} knows no way to {destination}'),
  'cloud-no-route': say('nobody on the internet has {destination}'),
  'router-no-route': say('{node} knows no way to {destination}'),
};

const reasonOf = (values: Ended): string =>
  values.why === undefined ? 'no answer' : END_TEXTS[values.why](values);

/** The sentence of a stage. Code and values belong together since the stage was climbed. */
export function stageText({
  code,
  values,
  supposed,
}: Pick<StageResult, 'code' | 'values' | 'supposed'>): string {
  const text = (STAGE_TEXTS[code] as (values: AnyValues) => string)(values);
  return supposed ? `${text} (supposed: no far host and no circuit is written with it)` : text;
}

/** Why a packet got no answer. */
const noAnswer = (values: Ended & { readonly result?: string | undefined }): string =>
  values.why === undefined && values.result === 'refused' ? 'refused by the target' : reasonOf(values);

const notReached = say('{from} does not reach {to} ({address}) with {service}: {reason}');
const noEcho = say('{from} gets no echo from {address} of {to}: {reason}');

/** Outcomes of promises. */
export const PROMISE_TEXTS: {
  readonly [C in keyof PromiseValues]: (values: PromiseValues[C]) => string;
} = {
  'promise-unread': say('the promise could not be read'),
  'promise-no-line': say('there is no line {line} that could fail'),
  'promise-untried': say('not tried, since the time for promises was over'),
  'promise-no-source': say('nobody stands for {from}'),
  'promise-no-target': say('nobody stands for {to}'),
  'promise-no-address': say('{station} has no address'),
  'promise-no-pair': say('there is no pair to ask'),
  'promise-reckoned': say(
    'holds by the reach; the bench, which asks packet by packet, had no time left for it: `prove` on the command line asks',
  ),
  'promise-reckoned-not': whyText,
  'promise-reached': say('asked of {count} pairs, all reached'),
  'promise-not-reached': (values) => notReached({ ...values, reason: noAnswer(values) }),
  'promise-sealed': say('asked {count} times, nothing arrived'),
  'promise-leak': say('{from} reaches {to} ({address}) with {service}'),
  'promise-leak-forged': say(
    'a packet from {from} put on the line of {line} reaches {to} ({address}) with {service}',
  ),
  'promise-leaves-as': say('seen as {wanted}'),
  'promise-other-address': say('{from} is seen as {seen}, not {wanted}'),
  'promise-pings': say('asked from {count} places, all answered'),
  'promise-no-ping': (values) => noEcho({ ...values, reason: noAnswer(values) }),
};

/** Said where the bench was stopped, since something on it went on for ever. */
export const SPENT_TEXT =
  'The bench was stopped: something that is plugged in goes on and on. What was asked after that got no answer; promises are judged by the reach.';

/** Why a promise holds or fails. Code and values belong together since the promise was judged. */
export const promiseText = ({ code, values }: Pick<PromiseResult, 'code' | 'values'>): string =>
  (PROMISE_TEXTS[code] as (values: AnyValues) => string)(values);

/** A step as values; what it does not say is empty. */
const stepValues = (step: Step) => ({
  node: step.node,
  source: formatIp(step.packet.source),
  destination: formatIp(step.packet.destination),
  service: protocolText(step.packet.protocol),
  through: step.interface ?? '',
  hop: step.hop === undefined ? '' : formatIp(step.hop),
  question: step.hop === undefined || isIpv4(step.hop) ? 'ARP' : 'neighbour discovery',
  shown: step.shown === undefined ? '' : formatIp(step.shown),
  zones: step.zones ?? '',
  table: step.table ?? '',
  mtu: step.mtu === undefined ? '' : String(step.mtu),
  answer: step.answer ?? '',
  where: step.where ?? '',
  jack: step.jack ?? '',
  tag: step.tag === undefined ? '' : String(step.tag),
  ttl: String(step.packet.ttl),
  statement: step.statement?.subject ?? '',
  line: step.statement ? String(step.statement.line) : '',
});
type StepValues = ReturnType<typeof stepValues>;

const STEP_TEXTS: { readonly [C in Exclude<Step['code'], EndCode>]: (values: StepValues) => string } = {
  sent: say('{source} → {destination}, {service}, TTL {ttl}'),
  received: say('arrives as {source} → {destination}, TTL {ttl}'),
  switched: say('in at {through}, out at {jack}{tag? with tag {tag}}'),
  'port-off': say('the port is off'),
  arrived: say('arrives by {through}'),
  'known-forward': say('belongs to a flow that is known{through?; on by {through}}'),
  'known-back': say('answers a flow that is known, so it is let through{through? to {through}}'),
  'box-answers': say('{through} answers {answer}'),
  'door-opens': say('the door leads to {shown}'),
  'door-closed': say(
    '{statement} is asked for, but not open to {zones?{zones}: no passage lets it reach {shown} with the service inside}{zones!{source}, whom its from does not name}',
  ),
  routed: say('goes by {through}, next hop {hop}'),
  passed: say('{zones}: lets it pass'),
  'passed-within': say('{zones}: within one zone'),
  'left-as': say('leaves as {shown}'),
  'left-unchanged': say('leaves unchanged'),
  departed: say('departs by {through} to {hop}, TTL {ttl}'),
  'provider-translates': say('translates to {shown}'),
  'provider-forwards': say('carries it on'),
  'router-forwards': say('goes by {through}, next hop {hop}'),
};

const isEndCode = (code: Step['code']): code is EndCode => code in END_TEXTS;

/** One step of a trace in words. */
export function stepText(step: Step): string {
  const { code } = step;
  const values = stepValues(step);
  return isEndCode(code) ? END_TEXTS[code]({ why: code, ...values }) : STEP_TEXTS[code](values);
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
    [...trace.steps].reverse().find((s) => isEndCode(s.code));
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
