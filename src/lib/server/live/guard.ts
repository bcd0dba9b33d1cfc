/**
 * Who may speak to live boxes: a page that this very server gave out, opened by whoever read the server's own output.
 * The link works once and gives the page a token, which every request carries; what comes from another origin, under
 * another name of this host (DNS rebinding) or as a form is refused before anything is looked at.
 */
import { createHash, randomBytes, timingSafeEqual } from 'node:crypto';

/** What of a request is looked at. */
export interface Caller {
  readonly host: string | null;
  readonly origin: string | null;
  /** What the browser says of where it comes from (Fetch Metadata, `Sec-Fetch-Site`). */
  readonly site: string | null;
  readonly type: string | null;
  readonly authorization: string | null;
}

export interface Refused {
  readonly status: 401 | 403 | 415;
  readonly why: string;
}

const same = (a: string, b: string): boolean => {
  const digest = (x: string) => createHash('sha256').update(x).digest();
  return timingSafeEqual(digest(a), digest(b));
};

export class Guard {
  private ticket: string | undefined = randomBytes(24).toString('base64url');
  private readonly token = randomBytes(32).toString('base64url');
  private readonly origins: ReadonlySet<string>;

  /** `origins`: where this server is opened, as a browser writes it. */
  constructor(origins: readonly string[]) {
    this.origins = new Set(origins);
  }

  /** What the one-time link carries, for as long as nobody has used it. */
  get link(): string | undefined {
    return this.ticket;
  }

  /** Whether a request may be looked at, its token left aside. */
  refuses({ host, origin, site, type }: Caller): Refused | undefined {
    const known = [...this.origins].map((o) => new URL(o).host);
    if (host === null || !known.includes(host))
      return { status: 403, why: 'this server is not called by that name' };
    // A browser names the origin of every POST (Fetch, section 3.2).
    if (origin === null || !this.origins.has(origin) || new URL(origin).host !== host)
      return { status: 403, why: 'that page is not of this server' };
    if (site !== null && site !== 'same-origin')
      return { status: 403, why: 'that page is not of this server' };
    // A form cannot send it without being asked whether it may (CORS).
    if (type?.split(';')[0]?.trim().toLowerCase() !== 'application/json')
      return { status: 415, why: 'only JSON is taken' };
    return undefined;
  }

  /** The token for whoever has the link; the link is used up by it. */
  enter(ticket: string): string | undefined {
    if (this.ticket === undefined || !same(ticket, this.ticket)) return undefined;
    this.ticket = undefined;
    return this.token;
  }

  /** Whether a request carries the token of this start of the server. */
  knows({ authorization }: Caller): boolean {
    const given = /^Bearer (\S+)$/.exec(authorization ?? '')?.[1];
    return given !== undefined && same(given, this.token);
  }
}
