/** Several tabs on one site: the first one leads, the others say so and follow. */

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
export function linkTabs(site: string, led: (leading: boolean) => void, changed: () => void): TabLink {
  const channel = 'BroadcastChannel' in window ? new BroadcastChannel(`jolly-gate ${site}`) : undefined;
  channel?.addEventListener('message', () => changed());
  const { locks } = navigator;
  let release: (() => void) | undefined;
  const hold = () =>
    new Promise<void>((resolve) => {
      release = resolve;
      led(true);
    });
  const name = `jolly-gate ${site}`;
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
    takeOver: () => locks && ask({ steal: true }),
    close: () => {
      release?.();
      channel?.close();
    },
  };
}
