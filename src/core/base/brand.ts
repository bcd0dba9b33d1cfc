declare const brand: unique symbol;

/** A primitive with a name of its own, so that a port number cannot be passed for an address. */
export type Brand<T, Name extends string> = T & { readonly [brand]: Name };
