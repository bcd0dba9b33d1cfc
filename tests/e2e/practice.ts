/** The site of the practice box: what it is told here, what is around it, and the way to it. */
import { WORKS } from '../live/field';
import type { Page } from './browser';

export const BOX = `${WORKS}expect studio reaches internet ping
`;
export const WIRING = `circuit northmoor: at p1, block 198.51.100.16/29, gateway .17
station wheel: at p3, address 10.61.20.50/24, gateway 10.61.20.1, names 192.0.2.53
station laptop: at p8, address 10.61.99.10/26, gateway 10.61.99.1, names 192.0.2.53, seat
far example.com: address 192.0.2.80, listens tcp 80
`;

/** The link that the server has printed for live boxes. */
export const linkOf = (page: Page): string => /open (http:\S+#live=\S+)/.exec(page.printed())![1]!;
