/** Capture files: written for other tools to read, and read into the flows that they hold. */
export { writePcapng } from './write';
export type { CapturedFrame } from './write';
export { readCapture } from './read';
export type { Capture, CapturedFlow } from './read';
