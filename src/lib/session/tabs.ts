/** Several tabs on one site: the first one leads, the others say so and follow. */

/** How long a tab that leads may take to give over, milliseconds. */
const PATIENCE = 1500;

const lockOf = (site: string): string => `jolly-gate ${site}`;

/** The sites that some tab of this browser leads at the moment, this one's too. */
export async function ledSites(): Promise<ReadonlySet<string>> {
  const { held = [] } = (await navigator.locks?.query()) ?? {};
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
): TabLink {
  const channel = 'BroadcastChannel' in window ? new BroadcastChannel(`jolly-gate ${site}`) : undefined;
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
  const { locks } = navigator;
  let release: (() => void) | undefined;
  const hold = () =>
    new Promise<void>((resolve) => {
      release = resolve;
      led(true);
    });
  const name = lockOf(site);
  const ask = (options: LockOptions) =>
    // A stolen lock rejects in the tab that lost it: from then on it follows.
    void locks.request(name, options, hold).catch(() => {
      led(false);
      waitForTurn();
    });
  const waitForTurn = () => void locks.request(name, hold).catch(() => led(false));
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
      }, PATIENCE);
    },
    close: () => {
      release?.();
      channel?.close();
    },
  };
}
