/** A live box: its hinge kept up to date, its orders carried over ssh, its answers read. */
import { createHash } from 'node:crypto';
import { readAnswer } from '#core/box';
import type { Heard, LiveHello } from '#core/box';
import { streamOf } from '#core/linux';
import type { Generation } from '#core/linux';
import { hingeText } from '../hinge';
import type { Reply, Ssh, Trouble } from '../ssh/ssh';

/** Where the hinge lies on a box. */
export const HINGE_PLACE = '/usr/local/sbin/jolly-gate-hinge';

/** What keeps an order from being carried out, besides a refusal by the box itself. */
export type Unreached =
  | Trouble
  /** It needs root, and neither is root nor gets it by sudo. */
  | 'no-rights'
  /** A key that may only call the hinge, and the hinge there is another one. */
  | 'old-hinge'
  /** A key that may only call the hinge, and there is none. */
  | 'no-hinge'
  | 'disk-full';

/** ssh did not get to the box; `why` is a key of UNREACHED. */
export class NotReached extends Error {
  constructor(
    readonly why: Unreached,
    readonly said: string,
  ) {
    super(said);
  }
}

/** The answer was not one of a hinge. */
export class Nonsense extends Error {
  constructor(
    readonly why: string,
    readonly start: string,
  ) {
    super(`${why}: ${start}`);
  }
}

type Kind = Parameters<typeof readAnswer>[0];
type Answer<K extends Kind> = ReturnType<typeof readAnswer<K>> extends Heard<infer T> ? T : never;
/** An answer or a refusal: what is nonsense is thrown. */
export type Outcome<K extends Kind> = Exclude<Heard<Answer<K>>, { readonly heard: 'nonsense' }>;

/** How an order is sent. */
interface Sent {
  readonly input?: string;
  /** Another address of the box. */
  readonly at?: string;
  readonly within?: number;
  readonly shared?: boolean;
}

/** Orders that only ask. */
const ASKING: ReadonlySet<string> = new Set(['state', 'ladder', 'log', 'flows', 'ask', 'adopt']);

/** How many times what the last call took an answer may take, and seconds that it may take on any link. */
const TIMES = 3;
const LEAST = 5;

const WORD = /^[A-Za-z0-9._:,@-]+$/;

/** A live box, called by ssh. */
export class LiveBox {
  private prefix = '';
  /** Where the box is found now, if not where the target says. */
  at?: string;
  /** The address that the box sees us come from. */
  client?: string;
  /** Its TCP port that we came to. */
  port?: number;
  /** How long the last call by a connection of its own took, seconds, handshake and all: limits of knocks follow it. */
  private handshake = 0;

  constructor(readonly ssh: Ssh) {}

  /**
   * Makes sure that the box has our hinge: puts it there where it is missing or another one, unless the key may only
   * call it. Throws NotReached.
   */
  async meet(): Promise<void> {
    const text = hingeText();
    const own = createHash('sha256').update(text).digest('hex');
    const look = `echo "uid=$(id -u)"; echo "from=\${SSH_CONNECTION%% *} \${SSH_CONNECTION##* }"; sha256sum ${HINGE_PLACE} 2>/dev/null; [ "$(id -u)" = 0 ] || { sudo -n true 2>/dev/null && echo sudo=yes; }`;
    const seen = await this.reach(look, { at: this.at, shared: true });
    if (seen.out.includes('"not-an-order"')) return this.meetRestricted(own);
    const uid = /^uid=(\d+)$/m.exec(seen.out)?.[1];
    if (uid === undefined) throw new Nonsense('it does not say who we are', seen.out.slice(0, 80));
    if (uid !== '0') {
      if (!/^sudo=yes$/m.test(seen.out)) throw new NotReached('no-rights', seen.err);
      this.prefix = 'sudo -n ';
    }
    const from = /^from=(\S+) (\d+)$/m.exec(seen.out);
    this.client = from?.[1];
    this.port = from ? Number(from[2]) : undefined;
    if (seen.out.includes(own)) return;
    const put = `${this.prefix}sh -c 'umask 077; mkdir -p ${HINGE_PLACE.replace(/\/[^/]*$/, '')} && cat >${HINGE_PLACE}.new && chmod 755 ${HINGE_PLACE}.new && mv ${HINGE_PLACE}.new ${HINGE_PLACE}'`;
    const done = await this.reach(put, { input: text, at: this.at });
    // An open connection keeps the rights that its key had; the key may have been restricted since.
    if (done.out.includes('"not-an-order"')) return this.meetRestricted(own);
    if (done.status !== 0)
      throw new NotReached(/space/i.test(done.err) ? 'disk-full' : 'no-rights', done.err);
  }

  private async meetRestricted(own: string): Promise<void> {
    const { out } = await this.reach('hello', { at: this.at });
    const said = readAnswer('order', out);
    if (said.heard !== 'answer') throw new NotReached('no-hinge', out);
    if (said.answer.box.hinge !== own.slice(0, 16)) throw new NotReached('old-hinge', said.answer.box.hinge);
  }

  /** Runs a command; throws NotReached where ssh does not get there. */
  private async reach(command: string, sent: Sent = {}): Promise<Reply> {
    const begun = performance.now();
    const reply = await this.ssh.run(command, sent);
    if (reply.trouble) throw new NotReached(reply.trouble, reply.err);
    // A call with a limit of its own may take long for other reasons than the link.
    if ((!sent.shared && sent.within === undefined) || this.handshake === 0)
      this.handshake = (performance.now() - begun) / 1000;
    return reply;
  }

  /** Gives an order. Throws NotReached and Nonsense; a refusal by the box is an outcome. */
  async order<K extends Kind>(kind: K, words: readonly string[], sent: Sent = {}): Promise<Outcome<K>> {
    const bad = words.find((w) => !WORD.test(w));
    if (bad !== undefined) throw new Error(`“${bad}” is no word of an order`);
    const reply = await this.reach(`${this.prefix}${HINGE_PLACE} ${words.join(' ')}`, {
      at: this.at,
      shared: ASKING.has(words[0] ?? ''),
      ...sent,
    });
    if (/sudo: /.test(reply.err) && reply.out === '') throw new NotReached('no-rights', reply.err);
    if (reply.status === 127) throw new NotReached('no-hinge', reply.err);
    const heard = readAnswer(kind, reply.out);
    if (heard.heard === 'nonsense') throw new Nonsense(heard.why, heard.start || reply.err.slice(0, 80));
    return heard;
  }

  /** Brings a generation to the box, where it is checked and kept; nothing is changed by it. */
  stage(generation: Generation): Promise<Outcome<'order'>> {
    return this.order('order', ['stage', generation.id], { input: streamOf(generation) });
  }

  /** Seconds until an answer to what only asks is given up: more where the link or the box is slow. */
  get patience(): number {
    return Math.max(LEAST, TIMES * this.handshake);
  }

  /** Whether it lets a new connection in, also where it was set up anew and has no hinge. */
  async letsIn(at?: string): Promise<boolean> {
    try {
      await this.order('order', ['hello'], { at, within: this.patience });
      return true;
    } catch (error) {
      return error instanceof NotReached && error.why === 'no-hinge';
    }
  }

  /** What the box says of itself by a connection of its own; undefined where it is not reached so in time. */
  async knock(at?: string): Promise<LiveHello | undefined> {
    try {
      const said = await this.order('order', ['hello'], { at, within: this.patience });
      return said.heard === 'answer' ? said.answer.box : undefined;
    } catch {
      return undefined;
    }
  }
}
