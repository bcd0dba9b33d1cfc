interface Kept<K, T> {
  get(key: K): T | undefined;
  set(key: K, value: T): unknown;
}

/** What a map has under a key, made and kept at the first question. Values may be anything but `undefined`. */
export function memo<K, T>(map: Kept<K, T>, key: K, make: () => T): T {
  const known = map.get(key);
  if (known !== undefined) return known;
  const made = make();
  map.set(key, made);
  return made;
}

/** Values by two keys, each made and kept at the first question. */
export class Pairs<A, B, T> {
  private readonly rows = new Map<A, Map<B, T>>();

  of(a: A, b: B, make: () => T): T {
    let row = this.rows.get(a);
    if (!row) this.rows.set(a, (row = new Map<B, T>()));
    return memo(row, b, make);
  }
}

/** A map that forgets what was not asked for during its last `size` to twice `size` new entries. */
export class Recent<T, K = string> {
  private young = new Map<K, T>();
  private old = new Map<K, T>();

  constructor(private readonly size: number) {}

  of(key: K, make: () => T): T {
    const known = this.young.get(key);
    if (known !== undefined) return known;
    const value = this.old.get(key) ?? make();
    if (this.young.size >= this.size) {
      this.old = this.young;
      this.young = new Map();
    }
    this.young.set(key, value);
    return value;
  }
}
