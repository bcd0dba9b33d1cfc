/** Which step decided the fate of a followed packet. */
import type { Bench, Step } from '#core/bench';

/** Steps that end a packet's way. */
const ENDS = [
  'host-no-gateway',
  'no-neighbour',
  'no-interface',
  'own-source',
  'malformed',
  'one-sided',
  'no-route-back',
  'guard',
  'box-silent',
  'no-route',
  'dropped',
  'dropped-default',
  'dropped-within',
  'rejected',
  'left-never',
  'send-never',
  'no-free-port',
  'ttl',
  'too-big',
  'provider-drops-private',
  'provider-dead',
  'provider-no-route',
  'cloud-no-route',
  'router-no-route',
] as const satisfies readonly Step['code'][];

/** Where a packet's way can end. */
export type EndCode = (typeof ENDS)[number];

const ENDING: ReadonlySet<Step['code']> = new Set<Step['code']>(ENDS);

/** Ends that are the rules' will, not a fault of the network. */
const FORBIDDEN: ReadonlySet<Step['code']> = new Set<Step['code']>([
  'dropped',
  'dropped-default',
  'dropped-within',
  'rejected',
  'left-never',
  'send-never',
]);

/** Whether a step ends a packet's way. */
export const isEnd = (step: Step): step is EndStep => ENDING.has(step.code);

export type EndStep = Step & { readonly code: EndCode };

/** The step at which a packet (or its answer) ended, or undefined where none did. */
export const endOf = (bench: Bench, mark: number): EndStep | undefined => bench.stepsOf(mark).find(isEnd);

/** Whether the rules forbade it: a passage, a zone's `within`, nothing that allowed it, or a `never`. */
export const isForbidden = (step: Step | undefined): boolean => !!step && FORBIDDEN.has(step.code);
