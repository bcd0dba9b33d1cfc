/**
 * The contract with a live box: what its hinge answers, checked before anything of it is believed. The orders are those
 * of the bench box; what runs is called by the generation's name.
 */
import * as v from 'valibot';

/** A generation's name, or `none` where nothing of ours runs. */
const Name = v.pipe(v.string(), v.regex(/^(none|[0-9a-f]{1,64})$/, 'no generation'));
const Count = v.pipe(v.number(), v.finite());

/** What a box says of itself with every answer. */
const HelloSchema = v.object({
  /** The first digits of the hinge's own SHA-256. */
  hinge: v.string(),
  /** Another one after each start of the kernel. */
  boot: v.string(),
  /** Seconds since then; the only clock that is trusted. */
  uptime: Count,
  kernel: v.string(),
  systemd: v.boolean(),
  running: Name,
  startup: Name,
  /** The address that this very call came from, where the box sees it. */
  client: v.optional(v.string()),
  /** The TCP port of the box that it came to. */
  port: v.optional(Count),
  trial: v.optional(
    v.object({
      order: v.string(),
      generation: Name,
      before: Name,
      /** Seconds; below zero where going back is under way. */
      left: Count,
      /** Seconds until the box starts anew, should it not have gone back by then; absent where nothing would start it. */
      resort: v.optional(Count),
    }),
  ),
  /** What it did last by itself. */
  last: v.optional(v.object({ what: v.literal('went-back'), why: v.string(), generation: Name, at: Count })),
  tools: v.array(v.string()),
  /** Who else configures it, a line each (`readOther`); told where somebody asks what the box is. */
  others: v.optional(v.array(v.string()), []),
});
/** What a box says of itself. */
export type LiveHello = v.InferOutput<typeof HelloSchema>;

/** Why a box refuses an order. */
export const LIVE_REFUSALS = [
  'not-an-order',
  'busy',
  'disk-full',
  'read-only',
  'no-nft',
  'not-staged',
  'not-whole',
  'refused-line',
  'watch-only',
  'trial-running',
  'bad-time',
  'changed-meanwhile',
  'rehearsal',
  'timer',
  'apply',
  'no-trial',
  'other-trial',
  'not-applied',
  'nothing-runs',
  'trace',
] as const;
/** A reason for which a box refuses. */
export type LiveRefusal = (typeof LIVE_REFUSALS)[number];

const RefusedSchema = v.object({
  ok: v.literal(false),
  error: v.picklist(LIVE_REFUSALS),
  detail: v.string(),
  box: v.optional(HelloSchema),
});

const rows = v.array(v.looseObject({}));
/** What a box knows, as its own tools report it. */
const StateSchema = v.object({
  ok: v.literal(true),
  box: HelloSchema,
  /** An order is being carried out: what is told is neither as before nor as after, and no drift is looked for. */
  busy: v.boolean(),
  /** The text that the running generation was made from. */
  text: v.nullable(v.string()),
  link: rows,
  addr: rows,
  route4: rows,
  route6: rows,
  rule4: rows,
  rule6: rows,
  neigh: rows,
  counters: v.union([v.object({ nftables: rows }), rows]),
  tables: v.union([v.object({ nftables: rows }), rows]),
  leases: v.string(),
  /** A line for each name that rules speak of: `KNOWN NAME BY AT ADDRESSES`, AT by the box's uptime. */
  named: v.string(),
  dead: v.string(),
  /** Of two boxes; empty where the text shares nothing. */
  part: v.picklist(['', 'active', 'stands-by']),
  settings: v.string(),
  /** A line for each time that the box put back what was gone: `UPTIME WHAT…`; of the last few. An older hinge says nothing. */
  restored: v.optional(v.string(), ''),
  drifted: v.string(),
});
/** What a box knows, checked. */
export type LiveState = v.InferOutput<typeof StateSchema>;

const SCHEMAS = {
  order: v.object({ ok: v.literal(true), box: HelloSchema, again: v.optional(v.boolean()) }),
  state: StateSchema,
  ladder: v.object({ ok: v.literal(true), stages: v.string() }),
  trace: v.object({ ok: v.literal(true), trace: v.string() }),
  flows: v.object({ ok: v.literal(true), flows: v.string() }),
  ask: v.object({ ok: v.literal(true), said: v.string() }),
  log: v.object({
    ok: v.literal(true),
    /** Seconds since the start, as the lines have them; an older hinge does not say. */
    uptime: v.optional(Count),
    log: v.string(),
    passed: v.string(),
  }),
  adopt: v.object({
    ok: v.literal(true),
    box: HelloSchema,
    text: v.nullable(v.string()),
    /** Devices that are not ours, up and with an address, a line each. An older hinge says nothing. */
    strangers: v.pipe(
      v.optional(v.string(), ''),
      v.transform((text) => text.split('\n').filter(Boolean)),
    ),
  }),
} as const;
/** What a box did, and what its statements logged, checked. */
export type LiveLog = v.InferOutput<typeof SCHEMAS.log>;
type Answers = { readonly [K in keyof typeof SCHEMAS]: v.InferOutput<(typeof SCHEMAS)[K]> };

/** What was heard of a box: its answer, why it refuses, or what is neither. */
export type Heard<T> =
  | { readonly heard: 'answer'; readonly answer: T }
  | {
      readonly heard: 'refusal';
      readonly refusal: LiveRefusal;
      readonly detail: string;
      readonly box?: LiveHello;
    }
  /** It is not what a hinge says: `start` is how it begins, made printable. */
  | { readonly heard: 'nonsense'; readonly why: string; readonly start: string };

/** The longest answer that is read, characters: a box of 400 networks says a tenth of it. */
const LONGEST = 64 * 1024 * 1024;
const SHOWN = 80;

/** What is printable of a text that somebody else made. */
export const printable = (text: string): string => text.replace(/[^\x20-\x7e]+/g, ' ').trim();

/** Reads an answer. Nothing in it is trusted beyond its shape. */
export function readAnswer<K extends keyof Answers>(kind: K, text: string): Heard<Answers[K]> {
  const nonsense = (why: string): Heard<Answers[K]> => ({
    heard: 'nonsense',
    why,
    start: printable(text.slice(0, SHOWN)),
  });
  if (text.length > LONGEST) return nonsense('it is too long');
  // What a login prints stands before; the answer is the last line that begins one.
  const line = text
    .split('\n')
    .filter((l) => l.startsWith('{'))
    .at(-1);
  if (line === undefined) return nonsense('there is no answer in it');
  let json: unknown;
  try {
    json = JSON.parse(line);
  } catch {
    return nonsense('it is cut off, or no JSON');
  }
  const refused = v.safeParse(RefusedSchema, json);
  if (refused.success)
    return {
      heard: 'refusal',
      refusal: refused.output.error,
      detail: printable(refused.output.detail),
      box: refused.output.box,
    };
  const read = v.safeParse(SCHEMAS[kind], json);
  if (read.success) return { heard: 'answer', answer: read.output as Answers[K] };
  const issue = read.issues[0];
  return nonsense(`${v.getDotPath(issue) ?? 'it'}: ${issue.message}`);
}
