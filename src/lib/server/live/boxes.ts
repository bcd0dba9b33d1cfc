/** The server's own list of live boxes: the only place where a target is written. */
import { readFileSync } from 'node:fs';
import * as v from 'valibot';
import type { SshOptions } from '../ssh/ssh';
import { readTarget } from '../ssh/target';
import type { Target } from '../ssh/target';

/** A box that the server may call. */
export interface BoxEntry {
  readonly name: string;
  readonly target: Target;
  readonly ssh: SshOptions;
  readonly practice: boolean;
  /** What the provider of its first line sent; of a practice box only. */
  readonly sheet?: string;
}

const ListSchema = v.object({
  boxes: v.array(
    v.object({
      name: v.pipe(v.string(), v.regex(/^[A-Za-z0-9][A-Za-z0-9 ._-]{0,59}$/, 'letters, digits and -._ only')),
      /** As `ssh` is told it. */
      target: v.string(),
      /** A configuration of ssh instead of the user's own. */
      sshConfig: v.optional(v.string()),
    }),
  ),
});

export type ListRead =
  | { readonly ok: true; readonly boxes: readonly BoxEntry[] }
  | { readonly ok: false; readonly why: string };

/** Reads a list of boxes: `{"boxes":[{"name":"edge","target":"root@10.61.99.1"}]}`. */
export function readBoxes(file: string): ListRead {
  let json: unknown;
  try {
    json = JSON.parse(readFileSync(file, 'utf8'));
  } catch (error) {
    return { ok: false, why: `${file}: ${error instanceof Error ? error.message : 'it cannot be read'}` };
  }
  const read = v.safeParse(ListSchema, json);
  if (!read.success) {
    const [issue] = read.issues;
    return { ok: false, why: `${file}: ${v.getDotPath(issue) ?? 'the list'}: ${issue.message}` };
  }
  const boxes: BoxEntry[] = [];
  for (const { name, target: text, sshConfig } of read.output.boxes) {
    const target = readTarget(text);
    if (!target)
      return { ok: false, why: `${file}: ${name}: “${text}” is no target; write it as admin@10.61.99.1` };
    if (boxes.some((b) => b.name === name))
      return { ok: false, why: `${file}: two boxes are called ${name}` };
    boxes.push({ name, target, ssh: { config: sshConfig }, practice: false });
  }
  return { ok: true, boxes };
}
