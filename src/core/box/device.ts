/**
 * The bench box as a device of its own: its stores live behind orders and answers, and either may be lost on the way.
 * An order is carried out once, however often it arrives. Time is an argument, in milliseconds.
 */
import { stepBox } from '#core/change';
import type { BoxEvent, BoxState, Refusal } from '#core/change';

/** What somebody asks of the box. */
export interface Order {
  /** Names the order, so that one that is sent again is known. */
  readonly id: string;
  readonly event: BoxEvent;
}

export interface OrderAnswer {
  readonly id: string;
  readonly state: BoxState;
  readonly refused?: Refusal;
}

export interface Device {
  readonly state: BoxState;
  /** The orders that were carried out last, with what was refused of them; newest first. */
  readonly done: readonly { readonly id: string; readonly refused?: Refusal }[];
}

/** Orders that the box remembers. */
const REMEMBERED = 16;

export const deviceOf = (state: BoxState): Device => ({ state, done: [] });

/** The box after an order has arrived, and its answer. */
export function receive(
  device: Device,
  order: Order,
  now: number,
): { readonly device: Device; readonly answer: OrderAnswer } {
  const { id } = order;
  const known = device.done.find((d) => d.id === id);
  if (known) {
    const { state } = stepBox(device.state, { do: 'tick' }, now);
    return { device: { ...device, state }, answer: { id, state, refused: known.refused } };
  }
  const { state, refused } = stepBox(device.state, order.event, now);
  const done = [{ id, refused }, ...device.done].slice(0, REMEMBERED);
  return { device: { state, done }, answer: { id, state, refused } };
}

/** Whether a message gets through; `state` is that of the box as it is sent. */
export type Line = (direction: 'there' | 'back', state: BoxState, attempt: number) => boolean;

/** How often an order is sent before its sender gives up. */
export const ATTEMPTS = 3;

/**
 * Sends an order until it is answered. Without an answer the sender does not know whether it was carried out: it may
 * have been, with only the answer lost.
 */
export function send(
  device: Device,
  order: Order,
  now: number,
  way: Line,
): { readonly device: Device; readonly answer?: OrderAnswer } {
  let box = device;
  for (let attempt = 0; attempt < ATTEMPTS; attempt++) {
    if (!way('there', box.state, attempt)) continue;
    const got = receive(box, order, now);
    box = got.device;
    if (way('back', box.state, attempt)) return { device: box, answer: got.answer };
  }
  return { device: box };
}
