/** The site of the practice box: what it is told here, what is around it, and the way to it. */
import type { Page } from './browser';

export const BOX = `box edge: names 192.0.2.53
zone world: upstream
zone studio:
zone stewards: management
interface fibre: on p1, zone world, address 198.51.100.18/29, gateway .17, watch 192.0.2.1 every 1s lost 2, settle 2s, answers ping, guard
interface studio: on p3, zone studio, address 10.61.20.1/24, answers ping
interface console: on p8, zone stewards, address 10.61.99.1/26, answers ping ssh
passage studio > world: allow
passage stewards > any: allow
leave any > world: as interface
expect studio reaches internet ping
`;
export const WIRING = `circuit northmoor: at p1, block 198.51.100.16/29, gateway .17
station wheel: at p3, address 10.61.20.50/24, gateway 10.61.20.1, names 192.0.2.53
station laptop: at p8, address 10.61.99.10/26, gateway 10.61.99.1, names 192.0.2.53, seat
far example.com: address 192.0.2.80, listens tcp 80
`;

/** The link that the server has printed for live boxes. */
export const linkOf = (page: Page): string => /open (http:\S+#live=\S+)/.exec(page.printed())![1]!;
