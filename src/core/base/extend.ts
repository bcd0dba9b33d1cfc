/** Puts many values behind those of a list. A call with as many arguments fails where they are a hundred thousand. */
export function extend<T>(list: T[], more: Iterable<T>): void {
  for (const value of more) list.push(value);
}
