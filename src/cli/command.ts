/** What all commands have in common: `--json`, and failing by an error instead of by ending the process. */
import type { Command } from 'commander';

/** Gathers an option that may be given several times. */
export const collect = (value: string, before: string[]): string[] => [...before, value];

/** Leaves it to us to say what is wrong with a call. */
export const quiet = (command: Command): Command =>
  command.exitOverride().configureOutput({ writeErr: () => undefined });

/** Adds a command that can answer with one JSON document. */
export const answering = (parent: Command, spec: string, description: string): Command =>
  quiet(
    parent.command(spec).description(description).option('--json', 'one JSON document on standard output'),
  );
