/** The base: results, exhaustiveness, brands, bytes, and chance that can be replayed. */
export { err, ok } from './result';
export type { Result } from './result';
export { never } from './never';
export type { Brand } from './brand';
export { ByteReader, ByteWriter, joined, onesComplementSum } from './bytes';
export { Pairs, Recent, memo } from './memo';
export { Seeded } from './seeded';
