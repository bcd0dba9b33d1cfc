/** What changed between two values of plain data, so that only that need go from one thread to another. */

/** Absent where both are alike; the new value; or what changed under which keys of it, and how long a list is now. */
export type Patch =
  | undefined
  | { readonly value: unknown }
  | { readonly under: readonly (readonly [key: string | number, patch: Patch])[]; readonly length?: number };

type Plain = Readonly<Record<string, unknown>>;
const isPlain = (x: unknown): x is Plain =>
  typeof x === 'object' && x !== null && Object.getPrototypeOf(x) === Object.prototype;

/** What makes one value of another: plain objects, lists, and what is compared as it is. */
export function patchOf(before: unknown, after: unknown): Patch {
  if (Object.is(before, after)) return undefined;
  if (Array.isArray(before) && Array.isArray(after)) {
    const under = after.flatMap((item: unknown, i): [number, Patch][] => {
      const patch = i < before.length ? patchOf(before[i], item) : { value: item };
      return patch ? [[i, patch]] : [];
    });
    if (under.length || before.length !== after.length) return { under, length: after.length };
    return undefined;
  }
  if (!isPlain(before) || !isPlain(after)) return { value: after };
  const keys = Object.keys(after);
  if (keys.length !== Object.keys(before).length || !keys.every((k) => Object.hasOwn(before, k)))
    return { value: after };
  const under = keys.flatMap((key): [string, Patch][] => {
    const patch = patchOf(before[key], after[key]);
    return patch ? [[key, patch]] : [];
  });
  return under.length ? { under } : undefined;
}

/** The value that a patch makes. Whatever did not change is the very same as before, so that it can be told by that. */
export function patched(before: unknown, patch: Patch): unknown {
  if (!patch) return before;
  if ('value' in patch) return patch.value;
  if (patch.length === undefined) {
    const changed = patch.under.map(([key, p]) => [key, patched((before as Plain)[key], p)]);
    return { ...(before as Plain), ...Object.fromEntries(changed) };
  }
  const list = (before as readonly unknown[]).slice(0, patch.length);
  for (const [i, p] of patch.under) list[i as number] = patched(list[i as number], p);
  return list;
}
