import { HandSchema } from '#core/box';
import { endpoint } from '$lib/server/live/endpoint';

/** Does something by hand in the practice field. */
export const POST = endpoint(HandSchema, (relay, { hand }) => ({ why: relay.hand(hand) }));
