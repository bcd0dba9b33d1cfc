/** The names that rules speak of, asked for again and again: what they lead to is kept until somebody says otherwise. */
import { isIpv4 } from '#core/addr';
import type { Ip } from '#core/addr';
import { forwardedTo, namesAsked, recordOf } from '#core/site';
import type { Site } from '#core/site';
import { RCODE } from '#core/wire';
import type { Asked } from './box-services';
import { answerOf } from './endpoints';
import type { Endpoints } from './endpoints';
import type { Milliseconds, Scheduler } from './scheduler';

/** Between two askings of a name that is answered, and of one that never was. */
const AGAIN: Milliseconds = 60_000;
const SOON: Milliseconds = 5000;

export class NamesAsked {
  /** What each name led to when it was last answered; absent where it never was. */
  readonly found = new Map<string, readonly Ip[]>();
  /** Who said so: a resolver, or a record of the box. */
  readonly saidBy = new Map<string, Ip | 'record'>();

  constructor(
    private readonly site: Site,
    private readonly scheduler: Scheduler,
    private readonly endpoints: Endpoints,
    private readonly resolvers: () => readonly Asked[],
    private readonly changed: () => void,
  ) {}

  start(): void {
    for (const name of namesAsked(this.site)) {
      const record = recordOf(this.site, name);
      if (record)
        this.tell(
          name,
          record.addresses.map((a) => a.value),
          'record',
        );
      else this.ask(name);
    }
  }

  private ask(name: string): void {
    const servers = forwardedTo(this.site, name)?.map((address): Asked => ({ address })) ?? this.resolvers();
    const next = (i: number): void => {
      const server = servers[i];
      if (!server) {
        // Nobody answers: what was known stands.
        this.scheduler.after(this.found.has(name) ? AGAIN : SOON, () => this.ask(name));
        return;
      }
      this.askOne(server, name, (addresses) => {
        if (!addresses) return next(i + 1);
        this.tell(name, addresses, server.address);
        this.scheduler.after(AGAIN, () => this.ask(name));
      });
    };
    next(0);
  }

  /** Asks one resolver for both families; undefined where it answers for neither. */
  private askOne(
    { address, bind }: Asked,
    name: string,
    then: (addresses: readonly Ip[] | undefined) => void,
  ): void {
    const got: (readonly Ip[] | undefined)[] = [];
    for (const family of [4, 6] as const) {
      const attempt = this.endpoints.resolve(address, name, { bind }, undefined, family);
      const done = () => {
        const answer = answerOf(attempt);
        // Who refuses, or fails to find out, says nothing of the name.
        const says = answer?.rcode === RCODE.none || answer?.rcode === RCODE.nameError;
        got.push(says ? answer.addresses.filter((a) => isIpv4(a) === (family === 4)) : undefined);
        if (got.length === 2) then(got.some((a) => a) ? got.flatMap((a) => a ?? []) : undefined);
      };
      if (attempt.done) done();
      else attempt.then = done;
    }
  }

  private tell(name: string, addresses: readonly Ip[], by: Ip | 'record'): void {
    this.saidBy.set(name, by);
    const sorted = [...addresses].sort((a, b) => (a < b ? -1 : a > b ? 1 : 0));
    if (this.found.get(name)?.join() === sorted.join()) return;
    this.found.set(name, sorted);
    this.changed();
  }
}
