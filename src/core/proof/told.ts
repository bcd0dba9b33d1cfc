/** What the proof tells: closed codes with the values that a sentence of each is made of. */
import { formatIp, isIpv4 } from '#core/addr';
import type { Because } from '#core/reach';
import type { EndCode, EndStep } from './explain';

type Nothing = Readonly<Record<never, never>>;

/** The step at which a packet ended, as values; what a step does not say is empty. */
export interface Ending {
  readonly why: EndCode;
  readonly node: string;
  readonly source: string;
  readonly destination: string;
  /** The interface that it is about. */
  readonly through: string;
  readonly hop: string;
  /** How the next hop was asked for. */
  readonly question: string;
  readonly zones: string;
  readonly table: string;
  /** Octets. */
  readonly mtu: string;
  /** Port and tag. */
  readonly where: string;
  readonly line: string;
  readonly statement: string;
}

/** What is told where something failed: the end of its packet, where one is known. */
export type Ended = Ending | { readonly [K in keyof Ending]?: undefined };

export function endValues(step: EndStep): Ending {
  const at = step.statement;
  return {
    why: step.code,
    node: step.node,
    source: formatIp(step.packet.source),
    destination: formatIp(step.packet.destination),
    through: step.interface ?? '',
    hop: step.hop === undefined ? '' : formatIp(step.hop),
    question: step.hop === undefined || isIpv4(step.hop) ? 'ARP' : 'neighbour discovery',
    zones: step.zones ?? '',
    table: step.table ?? '',
    mtu: step.mtu === undefined ? '' : String(step.mtu),
    where: step.where ?? '',
    line: at ? String(at.line) : '',
    statement: at ? at.subject : '',
  };
}

/** What can be seen at a stage, with the values that say it. */
export interface StageValues {
  resting: { readonly interface: string };
  'carrier-port-off': { readonly port: string };
  'carrier-none': { readonly port: string };
  'carrier-down': { readonly port: string; readonly circuit: string };
  'carrier-up': { readonly port: string; readonly circuit: string };
  'carrier-up-nothing': { readonly port: string };
  'address-no-lease': { readonly tries: string; readonly port: string };
  'address-none': { readonly interface: string };
  'address-no-concentrator': { readonly tries: string; readonly port: string };
  'address-refused': { readonly user: string };
  'address-no-session': { readonly port: string };
  'address-session': { readonly address: string };
  'address-none6': { readonly interface: string };
  'address-no-router': { readonly tries: string; readonly port: string };
  'address-duplicate6': { readonly address: string; readonly interface: string };
  'address-no-lease6': { readonly tries: string; readonly port: string };
  'address-no-session6': { readonly port: string };
  'address-slaac': { readonly address: string };
  'address-delegated': { readonly address: string };
  'address-lease': { readonly address: string; readonly seconds: string };
  'address-static': { readonly address: string };
  'gateway-none': { readonly interface: string; readonly address: string };
  'gateway-none6': { readonly port: string; readonly interface: string };
  'neighbour-silent': { readonly gateway: string; readonly question: string; readonly port: string };
  'gateway-no-route': { readonly gateway: string; readonly interface: string; readonly nets: string };
  'neighbour-nobody': { readonly gateway: string; readonly question: string; readonly port: string };
  'neighbour-answers': { readonly gateway: string; readonly question: string };
  'gateway-answers': { readonly gateway: string };
  'gateway-quiet': { readonly gateway: string };
  'gateway-silent': { readonly gateway: string; readonly question: string };
  'gateway-no-ping': { readonly interface: string };
  'beyond-answers': { readonly target: string };
  'beyond-silent': { readonly gateway: string; readonly target: string };
  'beyond-nobody': Nothing;
  'resolver-none': { readonly interface: string };
  'resolver-silent': { readonly servers: string };
  'resolver-answers': { readonly server: string };
  'name-unknown': { readonly server: string; readonly name: string };
  'name-resolves': { readonly name: string; readonly resolved: string };
  'name-silent': { readonly name: string; readonly resolved: string };
  'name-answers': { readonly name: string; readonly resolved: string };
  'page-nobody': Nothing;
  'page-silent': { readonly page: string };
  'page-stalls': { readonly page: string };
  'page-opens': { readonly page: string; readonly octets: string };
  'egress-seen': { readonly seen: string };
  'egress-unknown': Nothing;
  'after-failure': { readonly failed: string };
  'no-resolver': Nothing;
  'not-permitted': Ended;
  'desk-no-carrier': { readonly station: string };
  'desk-no-address': { readonly station: string };
  'desk-interface-off': { readonly station: string; readonly interface: string };
  'desk-nobody-lends': { readonly station: string; readonly tries: string; readonly interface: string };
  'desk-pool-full': { readonly station: string; readonly interface: string };
  'desk-no-lease': { readonly station: string; readonly tries: string; readonly interface: string };
  'desk-lease': { readonly station: string; readonly address: string };
  'desk-static': { readonly station: string; readonly address: string };
  'desk-slaac': { readonly station: string; readonly address: string };
  'desk-no-gateway': { readonly station: string };
  'desk-no-names': { readonly station: string };
  'desk-needs-no-names': { readonly station: string };
  'desk-stopped': Ended;
}

export type StageCode = keyof StageValues;

/** What was seen at a stage: a code with its values. */
export type StageSeen = {
  [C in StageCode]: { readonly code: C; readonly values: StageValues[C] };
}[StageCode];

/** What can become of a promise, with the values that say it. */
export interface PromiseValues {
  'promise-unread': Nothing;
  'promise-no-line': { readonly line: string };
  'promise-untried': Nothing;
  'promise-no-source': { readonly from: string };
  'promise-no-target': { readonly to: string };
  'promise-no-address': { readonly station: string };
  'promise-no-pair': Nothing;
  'promise-reckoned': Nothing;
  'promise-reckoned-not': Because;
  'promise-reached': { readonly count: string };
  'promise-not-reached': {
    readonly result?: string;
    readonly from: string;
    readonly to: string;
    readonly address: string;
    readonly service: string;
  } & Ended;
  'promise-sealed': { readonly count: string };
  'promise-leak': {
    readonly from: string;
    readonly to: string;
    readonly address: string;
    readonly service: string;
  };
  'promise-leak-forged': {
    readonly from: string;
    readonly line: string;
    readonly to: string;
    readonly address: string;
    readonly service: string;
  };
  'promise-leaves-as': { readonly wanted: string };
  'promise-other-address': { readonly from: string; readonly seen: string; readonly wanted: string };
  'promise-pings': { readonly count: string };
  'promise-no-ping': {
    readonly result?: string;
    readonly from: string;
    readonly address: string;
    readonly to: string;
  } & Ended;
}

export type PromiseCode = keyof PromiseValues;
