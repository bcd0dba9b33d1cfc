/** A long list that is drawn in steps, a frame each, so that no frame takes long. */
export function gradually<T>(list: () => readonly T[], step: number): { readonly shown: readonly T[] } {
  let count = $state(step);
  $effect(() => {
    if (count >= list().length) return;
    const frame = requestAnimationFrame(() => (count += step));
    return () => cancelAnimationFrame(frame);
  });
  return {
    get shown() {
      const all = list();
      return count >= all.length ? all : all.slice(0, count);
    },
  };
}
