#!/usr/bin/env bash
# lint-components.sh: asks the components, as svelte-check has written them down for the compiler, what needs types to know:
# promises that nobody waits for, and the like. `npm run check` writes them first.
set -euo pipefail
cd "$(dirname "$0")/.."

written=.svelte-kit/.svelte-check
mapfile -t files < <(find $written/svelte/src -name '++*.svelte.ts')
count=$(find src -name '*.svelte' | wc -l)
if [ "${#files[@]}" != "$count" ]; then
  echo "svelte-check has written ${#files[@]} of $count components into $written: is its layout another one now?" >&2
  exit 1
fi
exec node_modules/.bin/oxlint --config .oxlintrc.components.json --no-ignore --deny-warnings \
  --tsconfig $written/tsconfig.json "${files[@]}"
