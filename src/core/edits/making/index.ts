/** What people want in one gesture: each asks little, suggests the rest, and writes statements that belong together. */
import type { Model } from '#core/model';
import type { Values } from '../forms';
import { valuesOf, wrongValue } from './gesture';
import type { Ask, Gesture, Made, Place } from './gesture';
import { MANAGEMENT, PASSAGE, RESERVATION, ZONE } from './inside';
import { NETWORK, SECOND_SUBNET } from './network';
import { LEAVE_AS, PUBLISH, UPLINK } from './outside';
import { plain } from './plain';

const GESTURES = {
  network: NETWORK,
  'second-subnet': SECOND_SUBNET,
  reservation: RESERVATION,
  publish: PUBLISH,
  'leave-as': LEAVE_AS,
  uplink: UPLINK,
  management: MANAGEMENT,
  zone: ZONE,
  passage: PASSAGE,
  send: plain('send'),
  known: plain('known'),
  record: plain('record'),
  table: plain('table'),
  expect: plain('expect'),
  port: plain('port'),
  box: plain('box'),
  circuit: plain('circuit'),
  switch: plain('switch'),
  router: plain('router'),
  station: plain('station'),
  far: plain('far'),
} satisfies Readonly<Record<string, Gesture>>;

export type GestureId = keyof typeof GESTURES;

/** What a gesture asks at a place, given what is put in, and what it would write. */
export function gestureAt(
  id: GestureId,
  model: Model,
  place: Place,
  put: Values,
): { readonly asks: readonly Ask[]; readonly values: Values; readonly made: Made } {
  const gesture: Gesture = GESTURES[id];
  const asks = gesture.asks(model, place, put);
  const values = valuesOf(asks, put);
  return { asks, values, made: wrongValue(asks, values) ?? gesture.write(model, values, place) };
}

export type { Ask, Gesture, Made, MakingFault, Place, Role } from './gesture';
export { nameFault } from './names';
export { zonePlace } from './places';
