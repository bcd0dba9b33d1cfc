/** What every route under `/live` does before anything else: who asks, with what token, and whether it can be read. */
import * as v from 'valibot';
import { handedOver } from './handoff';
import { Relay } from './relay';
import type { Caller } from './guard';

let relay: Relay | undefined;
/** The one relay of this server; undefined where it has no live boxes. */
export const theRelay = (): Relay | undefined => {
  const handoff = handedOver();
  return handoff && (relay ??= new Relay(handoff));
};

const callerOf = ({ headers }: Request): Caller => ({
  host: headers.get('host'),
  origin: headers.get('origin'),
  site: headers.get('sec-fetch-site'),
  type: headers.get('content-type'),
  authorization: headers.get('authorization'),
});

const json = (body: unknown, status = 200): Response =>
  new Response(JSON.stringify(body), {
    status,
    headers: { 'content-type': 'application/json', 'cache-control': 'no-store' },
  });
const told = (why: string, status: number): Response => json({ why }, status);

/** What a route does with a message that was checked: something to answer, a stream, or undefined for an unknown box. */
type Handle<T> = (relay: Relay, message: T) => unknown;

/** A route for pages that carry the token, or, with `open`, for who has none yet. */
export const endpoint =
  <T>(schema: v.GenericSchema<unknown, T>, handle: Handle<T>, open = false) =>
  async ({ request }: { readonly request: Request }): Promise<Response> => {
    const here = theRelay();
    if (!here)
      return told(
        'this server was started without live boxes: give it a list with --boxes, or run the demo',
        404,
      );
    const caller = callerOf(request);
    const no = here.guard.refuses(caller);
    if (no) return told(no.why, no.status);
    if (!open && !here.guard.knows(caller))
      return told('this page has no token of this start of the server: open the link that it printed', 401);
    let body: unknown;
    try {
      body = await request.json();
    } catch {
      return told('that is no JSON', 400);
    }
    const read = v.safeParse(schema, body);
    if (!read.success) {
      const [issue] = read.issues;
      return told(`${v.getDotPath(issue) ?? 'the message'}: ${issue.message}`, 400);
    }
    const answer = await handle(here, read.output);
    if (answer === undefined) return told('no box of the server’s list is called so', 404);
    return answer instanceof Response ? answer : json(answer);
  };

/** Between two signs of life of a stream, milliseconds. */
const BEAT = 10_000;
/** Events that wait for a page at most. */
const MOST = 64;

/** Server-sent events (HTML standard, section 9.2), for as long as the page listens. */
export function stream<E>(
  begin: (send: (event: E) => void) => (() => void) | undefined,
): Response | undefined {
  const text = new TextEncoder();
  const { readable, writable } = new TransformStream<Uint8Array, Uint8Array>(
    undefined,
    // A page that reads slowly is not waited for: what it misses is told anew with the next look.
    { highWaterMark: MOST },
    { highWaterMark: MOST },
  );
  const writer = writable.getWriter();
  const put = (line: string) => {
    if ((writer.desiredSize ?? 0) > 0) writer.write(text.encode(line)).catch(stop);
  };
  const beat = setInterval(() => put(': still here\n\n'), BEAT);
  const end = begin((event) => put(`data: ${JSON.stringify(event)}\n\n`));
  function stop(): void {
    clearInterval(beat);
    end?.();
  }
  if (!end) {
    stop();
    return undefined;
  }
  writer.closed.catch(stop);
  return new Response(readable, {
    headers: { 'content-type': 'text/event-stream', 'cache-control': 'no-store', 'x-accel-buffering': 'no' },
  });
}
