/**
 * All that one text renders to on a Linux box: files in a folder that is called by the hash of what is in them. Pure: the
 * same text makes the same folder, byte for byte.
 */
import { sha256 } from '@noble/hashes/sha2.js';
import { bytesToHex, utf8ToBytes } from '@noble/hashes/utils.js';
import type { Model } from '#core/model';
import { maskSecrets } from '#core/notation';
import { gateRules } from './gate';
import { lacksOf } from './lacks';
import type { Lack } from './lacks';
import { networkFiles } from './learning';
import { wantedLinks } from './links';
import { clockFile, leaseFiles, logFile, ownResolvers, resolverFile, sessionFiles } from './serving';
import { forwardingSettings, wantedSettings } from './sysctls';
import { toldBy } from './told';
import { nameLines } from './naming';
import { relayFile } from './relaying';
import { lowersLines, sharedLines, sharingFile } from './sharing';
import { watchLines } from './watching';
import { learnedWays, wantedAddresses, wantedRoutes, wantedRules } from './ways';

export interface GenerationFile {
  /** A path in the generation's folder. */
  readonly name: string;
  readonly text: string;
}

export interface Generation {
  /** Sixteen hexadecimal digits of the SHA-256 of its files. */
  readonly id: string;
  readonly files: readonly GenerationFile[];
  /** Why it must not be applied; empty where all that the text says is in it. */
  readonly lacks: readonly Lack[];
}

const lines = (name: string, list: readonly string[]): GenerationFile => ({
  name,
  text: list.map((l) => `${l}\n`).join(''),
});

/**
 * Renders a model. `texts` are the files of the box that it was made from; they lie beside, so that a box tells what it
 * was told.
 */
export function generationOf(
  model: Model,
  texts: readonly { readonly name: string; readonly text: string }[],
): Generation {
  const told = toldBy(model);
  const text = texts.map((t) => ended(t.text)).join('');
  const shown = maskSecrets(text);
  const files: GenerationFile[] = [
    { name: 'box.gate', text },
    // For whoever may watch the box and no more.
    ...(shown === text ? [] : [{ name: 'box.shown', text: shown }]),
    lines('links', wantedLinks(told)),
    lines('addresses', wantedAddresses(told)),
    lines('routes', wantedRoutes(told)),
    lines('rules', wantedRules(told)),
    lines('learned', learnedWays(told)),
    lines('watches', watchLines(told)),
    lines('names', nameLines(told)),
    lines('shared', sharedLines(told)),
    lines('lowers', lowersLines(told)),
    lines('resolv', ownResolvers(told)),
    lines('sysctl', wantedSettings(told)),
    lines('forwarding', forwardingSettings(told)),
    { name: 'gate.nft', text: gateRules(told) },
    ...networkFiles(told),
    ...leaseFiles(told),
    ...relayFile(told),
    ...sharingFile(told),
    ...resolverFile(told),
    ...clockFile(told),
    ...sessionFiles(told),
    ...logFile(told),
  ];
  return { id: idOf(files), files, lacks: lacksOf(told) };
}

/** The devices that a generation configures. */
export const devicesOf = ({ files }: Generation): ReadonlySet<string> =>
  new Set(
    (files.find((f) => f.name === 'links')?.text ?? '')
      .split('\n')
      .map((l) => l.split(' ')[0]!)
      .filter(Boolean),
  );

/** A text that ends its last line. */
const ended = (text: string): string => (text === '' || text.endsWith('\n') ? text : `${text}\n`);

/** The name that the content of a generation gives it. */
export const idOf = (files: readonly GenerationFile[]): string =>
  bytesToHex(
    sha256(utf8ToBytes(files.map((f) => `${f.name}\n${f.text.length}\n${f.text}`).join('\n'))),
  ).slice(0, 16);

/** How a generation travels to a box: each file with the count of its lines, and at last how many there were. */
export const streamOf = ({ files }: Pick<Generation, 'files'>): string =>
  [
    ...files.map((f) => `file ${f.name} ${f.text.split('\n').length - 1}\n${f.text}`),
    `end ${files.length}\n`,
  ].join('');
