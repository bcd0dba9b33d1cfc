import { EnterSchema } from '#core/box';
import { endpoint } from '$lib/server/live/endpoint';

/** A one-time link for the token of this start of the server. */
export const POST = endpoint(
  EnterSchema,
  (relay, { ticket }) => {
    const token = relay.guard.enter(ticket);
    return token === undefined
      ? { why: 'this link was used already: start the server again for a new one' }
      : { token };
  },
  true,
);
