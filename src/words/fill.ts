/**
 * Fills a sentence: `{name}` with its value, `{name?text}` with the text where the value is there and not empty
 * (the text may hold further places). A place without a value stays readable as an empty text.
 */
export function fill(template: string, values: Readonly<Record<string, string>>): string {
  const optional = template.replace(/\{(\w+)\?((?:[^{}]|\{\w+\})*)\}/g, (_, name: string, text: string) =>
    values[name] ? text : '',
  );
  return optional.replace(/\{(\w+)\}/g, (_, name: string) => values[name] ?? '').trim();
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
