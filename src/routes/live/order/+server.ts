import { OrderSchema } from '#core/box';
import { endpoint } from '$lib/server/live/endpoint';

/** Tries, keeps, takes back and saves. */
export const POST = endpoint(OrderSchema, (relay, { box, order }) => relay.order(box, order));
