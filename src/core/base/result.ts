/** A value or a typed failure. Bad input comes back as a failure; misuse of a function throws. */
export type Result<T, E> =
  | { readonly ok: true; readonly value: T }
  | { readonly ok: false; readonly error: E };

/** The good outcome. */
export const ok = <T>(value: T): { readonly ok: true; readonly value: T } => ({ ok: true, value });

/** The failed outcome; `error` carries what the caller acts on. */
export const err = <E>(error: E): { readonly ok: false; readonly error: E } => ({ ok: false, error });
