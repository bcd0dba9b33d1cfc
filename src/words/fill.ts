/**
 * Fills a sentence: `{name}` with its value, `{name?text}` with the text where the value is there and not empty,
 * `{name!text}` where it is not (the text may hold further places). A place without a value stays readable as an empty text.
 */
export function fill(template: string, values: Readonly<Record<string, string>>): string {
  const put = (text: string): string =>
    text.replace(
      /\{(\w+)([?!])((?:[^{}]|\{\w+\})*)\}|\{(\w+)\}/g,
      (_, asked: string | undefined, how: string, inner: string, name: string) =>
        asked === undefined ? (values[name] ?? '') : !!values[asked] === (how === '?') ? put(inner) : '',
    );
  return put(template).trim();
}

/** A span of seconds in the largest units that say it: `12 h`, `90 s`. */
export function spanText(seconds: number): string {
  for (const [unit, size] of [
    ['d', 86400],
    ['h', 3600],
    ['min', 60],
  ] as const)
    if (seconds >= size && seconds % size === 0) return `${seconds / size} ${unit}`;
  return `${seconds} s`;
}
