/**
 * Sentences as templates: `{name}` stands for a value, `{name?text}` for the text where the value is there and not
 * empty, `{name!text}` for it where it is not (the text may hold further places). What a template needs is known to the
 * compiler, so that a sentence without one of its values does not compile.
 */

/** Everything behind an opening brace, piece by piece. */
type Pieces<T extends string> = T extends `${string}{${infer Piece}`
  ? FirstPiece<Piece> | Pieces<Piece>
  : never;
type FirstPiece<P extends string> = P extends `${infer Head}{${string}` ? Head : P;
/** A condition is a name before its sign; a place is a name before the closing brace. */
type Conditions<P extends string> = P extends `${infer Before}}${string}`
  ? ConditionIn<Before>
  : ConditionIn<P>;
type ConditionIn<P extends string> = P extends `${infer Name}?${string}`
  ? FirstOf<Name>
  : P extends `${infer Name}!${string}`
    ? Name
    : never;
type FirstOf<N extends string> = N extends `${infer Name}!${string}` ? Name : N;
type Places<P extends string> = P extends `${infer Before}}${string}`
  ? Before extends `${string}?${string}` | `${string}!${string}`
    ? never
    : Before
  : never;

type Asked<T extends string> = Conditions<Pieces<T>>;

/** The values that a template needs: those it shows, and, where they are there, those it asks for. */
export type Needs<T extends string> = { readonly [N in Exclude<Places<Pieces<T>>, Asked<T>>]: string } & {
  readonly [N in Asked<T>]?: string | undefined;
};

/** Values by their names, for a template that is chosen while the program runs. */
export type AnyValues = Readonly<Record<string, string | undefined>>;

/** A sentence: its values in, words out. */
export const say =
  <const T extends string>(template: T) =>
  (values: Needs<T>): string =>
    fill(template, values);

/** Fills a template. A place without a value is left empty. */
export function fill(template: string, values: AnyValues): string {
  const put = (text: string): string =>
    text.replace(
      /\{(\w+)([?!])((?:[^{}]|\{\w+\})*)\}|\{(\w+)\}/g,
      (_, asked: string | undefined, how: string, inner: string, name: string) =>
        asked === undefined ? (values[name] ?? '') : !!values[asked] === (how === '?') ? put(inner) : '',
    );
  return put(template).trim();
}

/** How long something still lasts: `5 h 59 min`, `40 s`. */
export function leftText(seconds: number): string {
  const [h, min] = [Math.floor(seconds / 3600), Math.floor((seconds % 3600) / 60)];
  if (h) return min ? `${h} h ${min} min` : `${h} h`;
  return min ? `${min} min` : `${seconds} s`;
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
