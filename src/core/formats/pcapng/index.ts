/** Capture files for other tools to read. */
export { writePcapng } from './write';
export type { CapturedFrame } from './write';
