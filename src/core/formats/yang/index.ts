/** JSON after YANG: the open form of a site. */
export { readYang } from './read';
export type { YangRead } from './read';
export { writeYang } from './write';
export type { YangAddress, YangInterface, YangSite, YangStatement } from './write';
