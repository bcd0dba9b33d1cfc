/**
 * What the worker was asked and what it told, as a value: which text the findings are of, whether a newer proof is on
 * its way, and which findings are held back while somebody types. Every step gives a new one.
 */
import type { Files } from '#core/change';
import type { Derived, FindingView } from '../../worker/protocol';

export interface Jobs {
  /** Counts the requests; an answer to an older one is stale. */
  readonly generation: number;
  /** The files that the newest request was about. */
  readonly asked: Files;
  /** The files that the findings are of. */
  readonly lookedAt: Files;
  readonly derived?: Derived;
  readonly isProving: boolean;
  /** Why there is no answer; empty where there is. */
  readonly trouble: string;
  /** The statement that somebody types in, with its findings as they were before. */
  readonly typing?: { readonly subject: string; readonly before: readonly FindingView[] };
}

export const NO_JOBS: Jobs = { generation: 0, asked: [], lookedAt: [], isProving: false, trouble: '' };

/** A proof of these files is asked for. */
export const proofAsked = (jobs: Jobs, files: Files): Jobs => ({
  ...jobs,
  generation: jobs.generation + 1,
  asked: files,
  isProving: true,
});

/** The findings are there; the proof is still on its way, and what it said last stays until then. */
export const findingsTold = (jobs: Jobs, findings: readonly FindingView[]): Jobs => ({
  ...jobs,
  lookedAt: jobs.asked,
  derived: jobs.derived && { ...jobs.derived, findings },
});

export const proofTold = (jobs: Jobs, derived: Derived): Jobs => ({
  ...jobs,
  lookedAt: jobs.asked,
  derived,
  isProving: false,
  trouble: '',
});

export const proofFailed = (jobs: Jobs, why: string): Jobs => ({ ...jobs, isProving: false, trouble: why });

/** Another site is open: nothing is known of it yet. */
export const forgotten = (jobs: Jobs): Jobs => ({ ...jobs, derived: undefined, lookedAt: [] });

/** Somebody types in a statement: its findings stay as they were until it has rested or is left. */
export function typingBegun(jobs: Jobs, subject: string): Jobs {
  if (jobs.typing?.subject === subject) return jobs;
  const before = (jobs.derived?.findings ?? []).filter((f) => f.subject === subject);
  return { ...jobs, typing: { subject, before } };
}

export const typingRested = (jobs: Jobs): Jobs => ({ ...jobs, typing: undefined });

const NO_FINDINGS: readonly FindingView[] = [];

/** The findings to show: those of the statement being typed are held back. `held` are faults that only the page knows. */
export function findingsOf({ derived, typing }: Jobs, held: readonly FindingView[]): readonly FindingView[] {
  const told = derived?.findings ?? NO_FINDINGS;
  const all = held.length ? [...held, ...told] : told;
  return typing ? [...all.filter((f) => f.subject !== typing.subject), ...typing.before] : all;
}

/** Whether what is found wrong is of just this text, and of no earlier one. */
export const isOf = (jobs: Jobs, files: Files): boolean =>
  jobs.derived !== undefined && jobs.lookedAt === files;

/** Whether the places that the findings speak of are places of this text. */
export const isFresh = (jobs: Jobs, files: Files): boolean =>
  jobs.derived?.generation === jobs.generation && jobs.asked === files;
