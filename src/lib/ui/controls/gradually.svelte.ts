/** How long drawing the next few may keep the page, in ms, with laying out and painting: a frame. */
const MOST = 16;

/**
 * A long list that is drawn in steps, one a frame, so that no task of the page takes long. How many a step draws
 * follows from how long the last one took. What is left of a list that became shorter stays drawn; what comes back is
 * drawn in steps again.
 */
export function gradually<T>(list: () => readonly T[], first = 1): { readonly shown: readonly T[] } {
  let count = $state(first);
  const more = Math.max(1, first);
  let step = more;
  $effect(() => {
    const { length } = list();
    if (count > length) count = Math.max(first, length);
    if (count >= length) return;
    const frame = requestAnimationFrame(() => {
      const from = performance.now();
      // Behind the painting of this frame.
      setTimeout(() => {
        const took = performance.now() - from;
        step = took > MOST ? Math.max(1, step >> 1) : took < MOST / 2 ? step + more : step;
      });
      count = Math.min(count + step, length);
    });
    return () => cancelAnimationFrame(frame);
  });
  return {
    get shown() {
      const all = list();
      return count >= all.length ? all : all.slice(0, count);
    },
  };
}
