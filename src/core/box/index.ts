/** The contract with a box, and the bench box behind it. */
export { ATTEMPTS, deviceOf, receive, send } from './device';
export type { Device, Order, OrderAnswer, Line } from './device';
