import { WatchSchema } from '#core/box';
import type { RelayEvent } from '#core/box';
import { endpoint, stream } from '$lib/server/live/endpoint';

/** All that comes of a box, as it comes. */
export const POST = endpoint(WatchSchema, (relay, { box }) =>
  stream<RelayEvent>((send) => relay.watch(box, send)),
);
