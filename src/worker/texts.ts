/**
 * How texts are sent to the worker: whole once, then by the edits that make them of what was sent last under their name.
 * Both ends count alike, so that an end that missed something says so instead of making another text of it.
 */
import { applyEdits, diffEdits } from '#core/notation';
import type { Edit } from '#core/notation';

/** One file of a site. */
export interface TextFile {
  readonly name: string;
  readonly text: string;
}

/** A text, or what makes it of the text that was sent as number `of`. */
export type SentText =
  | TextFile
  | { readonly name: string; readonly of: number; readonly edits: readonly Edit[] };

interface Kept {
  readonly text: string;
  readonly number: number;
}

/** The sending end of one life of a worker. */
export class TextSender {
  private readonly last = new Map<string, Kept>();
  private count = 0;

  send(files: readonly TextFile[]): SentText[] {
    return files.map(({ name, text }) => {
      const base = this.last.get(name);
      this.last.set(name, { text, number: ++this.count });
      return base ? { name, of: base.number, edits: diffEdits(base.text, text) } : { name, text };
    });
  }
}

/** The receiving end. Throws where a text is made of one that never came: nothing is guessed. */
export class TextReceiver {
  private readonly last = new Map<string, Kept>();
  private count = 0;

  receive(sent: readonly SentText[]): TextFile[] {
    return sent.map((file) => {
      const { name } = file;
      const base = this.last.get(name);
      if ('of' in file && base?.number !== file.of)
        throw new Error(`the text of ${name} cannot be made of what came before`);
      const text = 'of' in file ? applyEdits(base!.text, file.edits) : file.text;
      this.last.set(name, { text, number: ++this.count });
      return { name, text };
    });
  }
}

/**
 * The ends of one life, one for each row of texts: each is like the last of its own row, and mostly the very same, so
 * that nothing of it is compared.
 */
export const textSenders = () => rows(() => new TextSender());
export const textReceivers = () => rows(() => new TextReceiver());

/** `thought`: texts that are only being thought of. */
const rows = <T>(make: () => T) => ({ draft: make(), running: make(), thought: make() });
