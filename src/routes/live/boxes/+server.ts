import { BoxesSchema } from '#core/box';
import { endpoint } from '$lib/server/live/endpoint';

/** The boxes of the server’s list. */
export const POST = endpoint(BoxesSchema, (relay) => relay.boxes());
