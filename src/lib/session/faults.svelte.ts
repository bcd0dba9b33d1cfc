/** The what-if boards of the draft and of what runs: which texts they are of, and how far they are. */
import { sameFiles } from '#core/change';
import type { Files } from '#core/change';
import { newWeakPoints } from '#core/proof/drills';
import type { WeakPoint, WhatIf } from '#core/proof/drills';
import type { WorkerClient } from '../../worker/client';

interface Filled {
  readonly files: Files;
  readonly isPairs: boolean;
  readonly board: WhatIf;
}

type Side = 'draft' | 'running';

const NOTHING: Readonly<Record<Side, undefined>> = { draft: undefined, running: undefined };

export class Faults {
  private filled = $state.raw<Readonly<Record<Side, Filled | undefined>>>(NOTHING);
  /** How many faults were tried of how many, while a board is being filled. */
  progress = $state.raw<{ readonly done: number; readonly of: number } | undefined>();
  /** The board of the draft that was known last, of whichever text. */
  readonly board: WhatIf | undefined = $derived(this.filled.draft?.board);
  readonly running: WhatIf | undefined = $derived(this.filled.running?.board);
  /** What a fault kills with the draft and not with what runs. */
  readonly weaker: readonly WeakPoint[] = $derived(
    this.filled.draft && this.filled.running
      ? newWeakPoints(this.filled.draft.board, this.filled.running.board)
      : [],
  );
  private asked = 0;

  /** Whether the board is of just these files. */
  isOf(files: Files, isPairs: boolean): boolean {
    return holds(this.filled.draft, files, isPairs);
  }

  /** Fills what is not known of these texts; a newer call ends it. */
  async look(
    worker: Pick<WorkerClient, 'whatIf'>,
    texts: Readonly<Record<Side, Files>>,
    isPairs: boolean,
  ): Promise<void> {
    const mine = ++this.asked;
    const told = (done: number, of: number) => {
      if (this.asked === mine) this.progress = { done, of };
    };
    const isSame = sameFiles(texts.draft, texts.running);
    try {
      for (const side of ['draft', 'running'] as const) {
        const files = texts[side];
        if (holds(this.filled[side], files, isPairs)) continue;
        const twin = side === 'running' && isSame ? this.filled.draft?.board : undefined;
        const board = twin ?? (await worker.whatIf(side, copied(files), isPairs, told));
        if (this.asked !== mine || !board) return;
        this.filled = { ...this.filled, [side]: { files, isPairs, board } };
      }
    } finally {
      if (this.asked === mine) this.progress = undefined;
    }
  }

  /** Another site is open. */
  forget(): void {
    this.asked++;
    this.progress = undefined;
    this.filled = NOTHING;
  }
}

const copied = (files: Files): Files => files.map((f) => ({ name: f.name, text: f.text }));

const holds = (filled: Filled | undefined, files: Files, isPairs: boolean): boolean =>
  !!filled && (filled.isPairs || !isPairs) && sameFiles(filled.files, files);
