/** Ends a switch over a closed union: does not compile while a case is missing, throws if one gets by. */
export function never(value: never): never {
  throw new Error(`unhandled case: ${JSON.stringify(value)}`);
}
