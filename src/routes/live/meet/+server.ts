import { MeetSchema } from '#core/box';
import { endpoint } from '$lib/server/live/endpoint';

/** Meets a box, or shows the keys that a person has to compare first. */
export const POST = endpoint(MeetSchema, (relay, { box, accept }) => relay.meet(box, accept));
