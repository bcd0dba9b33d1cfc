#!/usr/bin/env bash
# The application with its demo data, and a box to practise with where this machine can have one.
set -euo pipefail
cd "$(dirname "$0")/.."
bash scripts/set-up.sh
npm run build
# Without them there is no practice box, and the page says why.
[ "$(uname)" != Linux ] || bash scripts/tools.sh <scripts/field.txt || echo "the demo goes on without a practice box" >&2
exec bash scripts/with-tools.sh node bin/jolly-gate.js serve --practice
