/**
 * The base: results, days, exhaustiveness, brands, bytes, what is kept, what changed, text in Markdown, and chance that
 * can be replayed.
 */
export { err, ok } from './result';
export type { Result } from './result';
export { never } from './never';
export type { Brand } from './brand';
export { ByteReader, ByteWriter, joined, onesComplementSum } from './bytes';
export { dayAt, formatDay, parseDay } from './day';
export type { Day } from './day';
export { extend } from './extend';
export { markdownCode, markdownRow, markdownRule, markdownText } from './markdown';
export { Pairs, Recent, memo } from './memo';
export { patchOf, patched } from './patch';
export type { Patch } from './patch';
export { Seeded } from './seeded';
