/** Documents that were read lately: most texts to be read differ in a few characters from one of them. */
import { parseDocument } from './document';
import type { Document } from './document';

/** Documents that are kept. */
const KEPT = 8;

/** Reads texts, and remembers some of them. Documents are values, so that sharing them is safe. */
export class Readings {
  /** Newest first. */
  private recent: readonly Document[] = [];

  read(text: string, file: string): Document {
    const known = this.recent.find((d) => d.text === text && d.file === file);
    const document =
      known ??
      parseDocument(
        text,
        file,
        this.recent.find((d) => d.file === file),
      );
    if (this.recent[0] !== document)
      this.recent = [document, ...this.recent.filter((d) => d !== document)].slice(0, KEPT);
    return document;
  }
}
