/** What a command answers: a document for machines, text for people, an exit status. */
export interface CommandResult {
  /** Printed with --json; where absent, the text is the answer either way. */
  readonly json?: unknown;
  readonly text: string;
  /** Told beside the answer, on standard error. */
  readonly note?: string;
  /** 0 good, 1 the answer is bad. 2 is thrown, as Unusable. */
  readonly status: 0 | 1;
}
