/** A site told to a Linux box: what it wants of links, addresses, routes, rules and daemons, as one generation. */
export { interfaceOfDevice, readDrift } from './drift';
export type { Drift } from './drift';
export { devicesOf, generationOf, idOf, streamOf } from './generation';
export type { Generation, GenerationFile } from './generation';
export type { Lack } from './lacks';
export { scriptOf } from './script';
export { OURS, deviceOf, numbersOf } from './numbers';
export { LOG_PREFIX, subjectCounted } from './statements';
export { readTrace } from './tracing';
export type { RealTrace, TraceStep } from './tracing';
