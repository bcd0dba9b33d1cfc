/** Reading what a command is given, and failing in one way. */
import { readFileSync } from 'node:fs';
import { parseDay } from '#core/base';
import type { Day } from '#core/base';
import { parseDocument } from '#core/notation';
import type { Document } from '#core/notation';
import { modelOf } from '#core/model';
import type { Model } from '#core/model';
import { buildSite } from '#core/site';
import { findingText } from '#words';

/** The call or its input cannot be used: exit status 2. */
export class Unusable extends Error {
  constructor(
    message: string,
    readonly place: { readonly file?: string; readonly line?: number; readonly column?: number } = {},
  ) {
    super(message);
  }
}

/** The text of a file, or of standard input for `-`. A BOM stays. */
export function readText(file: string): string {
  let bytes: Buffer;
  try {
    bytes = readFileSync(file === '-' ? 0 : file);
  } catch (error) {
    const code = (error as NodeJS.ErrnoException).code;
    const why =
      code === 'ENOENT' ? 'there is no such file' : code === 'EISDIR' ? 'that is a folder' : String(code);
    throw new Unusable(`${file} cannot be read: ${why}`, { file });
  }
  try {
    return new TextDecoder('utf-8', { fatal: true, ignoreBOM: true }).decode(bytes);
  } catch {
    throw new Unusable(`${file} is not UTF-8 text`, { file });
  }
}

/** Reads notation files, in the order given. */
export function readDocuments(files: readonly string[]): Document[] {
  return files.map((file) => parseDocument(readText(file), file === '-' ? 'standard input' : file));
}

/** Reads notation files of which every statement must be readable. */
export function readSound(files: readonly string[]): Document[] {
  const documents = readDocuments(files);
  for (const document of documents) {
    const fault = document.problems.find((p) => p.fatal);
    if (fault)
      throw new Unusable(findingText({ code: fault.code, values: fault.values }), {
        file: fault.file,
        line: fault.at.line,
        column: fault.at.column,
      });
  }
  return documents;
}

/** The model of the site that files make, on a day. A statement that cannot be read makes them unusable. */
export const readModel = (files: readonly string[], at?: Day): Model =>
  modelOf(buildSite(readSound(files), at));

/** The day of `--at`. */
export function readDay(text: string): Day {
  const day = parseDay(text);
  if (day === undefined) throw new Unusable(`“${text}” is no day; write one such as 2026-12-31`);
  return day;
}
