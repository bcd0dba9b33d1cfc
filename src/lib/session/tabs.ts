/** Several tabs on one site: the first one leads, the others say so and follow. */

/** What tabs of one browser speak over. */
export interface TabWorld {
  /** Absent where the browser has none: then every tab leads. */
  readonly locks?: Pick<LockManager, 'request' | 'query'>;
  readonly channel: (name: string) => BroadcastChannel | undefined;
  /** How long a tab that leads may take to give over, milliseconds. */
  readonly patience: number;
}

const inBrowser = (): TabWorld => ({
  locks: navigator.locks,
  channel: (name) => ('BroadcastChannel' in globalThis ? new BroadcastChannel(name) : undefined),
  patience: 1500,
});

const lockOf = (site: string): string => `jolly-gate ${site}`;

/** The sites that some tab of this browser leads at the moment, this one's too. */
export async function ledSites({ locks } = inBrowser()): Promise<ReadonlySet<string>> {
  const { held = [] } = (await locks?.query()) ?? {};
  const prefix = lockOf('');
  return new Set(held.flatMap((l) => (l.name?.startsWith(prefix) ? [l.name.slice(prefix.length)] : [])));
}

export interface TabLink {
  /** Tells the other tabs that the stored site changed. */
  announce(): void;
  /** Takes the lead from whichever tab has it. */
  takeOver(): void;
  close(): void;
}

/**
 * Asks for the lead over a site. `led` is told whether this tab has it; `changed` when another tab stored something.
 * Without the needed browser functions every tab leads, and is told so.
 */
export function linkTabs(
  site: string,
  led: (leading: boolean) => void,
  changed: () => void,
  written: () => Promise<unknown>,
  { locks, channel: open, patience } = inBrowser(),
): TabLink {
  const channel = open(`jolly-gate ${site}`);
  channel?.addEventListener('message', (event: MessageEvent<unknown>) => {
    if (event.data !== 'give over') changed();
    // Asked to give over: what is on its way is kept first, and said to be.
    else if (release)
      void written().then(() => {
        const give = release;
        release = undefined;
        led(false);
        channel.postMessage('changed');
        give?.();
        waitForTurn();
      });
  });
  let release: (() => void) | undefined;
  const hold = () =>
    new Promise<void>((resolve) => {
      release = resolve;
      led(true);
    });
  const name = lockOf(site);
  const ask = (options: LockOptions) =>
    // A stolen lock rejects in the tab that lost it: from then on it follows.
    void locks?.request(name, options, hold).catch(() => {
      led(false);
      waitForTurn();
    });
  const waitForTurn = () => void locks?.request(name, hold).catch(() => led(false));
  if (!locks) led(true);
  else
    void locks
      .request(name, { ifAvailable: true }, (lock) => {
        if (lock) return hold();
        led(false);
        waitForTurn();
        return undefined;
      })
      .catch(() => {
        led(false);
        waitForTurn();
      });
  return {
    announce: () => channel?.postMessage('changed'),
    takeOver: () => {
      if (!locks) return;
      // The tab that leads keeps what it has and gives over; one that hangs is taken from.
      channel?.postMessage('give over');
      setTimeout(() => {
        if (!release) ask({ steal: true });
      }, patience);
    },
    close: () => {
      release?.();
      channel?.close();
    },
  };
}
