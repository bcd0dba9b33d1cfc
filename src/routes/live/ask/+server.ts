import { AskSchema } from '#core/box';
import { endpoint } from '$lib/server/live/endpoint';

/** Asks the running box itself. */
export const POST = endpoint(AskSchema, (relay, { box, ask }) => relay.ask(box, ask));
