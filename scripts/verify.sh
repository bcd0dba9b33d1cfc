#!/usr/bin/env bash
# verify.sh [core|page|live | deep [SEED]]: everything that must hold, or a part of it. Fetches what is missing first.
set -euo pipefail
cd "$(dirname "$0")/.."

npm run --silent tools
bash scripts/browser.sh
bash scripts/set-up.sh
# What it writes beside the checkout would stay on this machine.
mkdir -p .verify/cache/tmp
TMPDIR=$PWD/.verify/cache/tmp exec bash scripts/with-tools.sh node_modules/.bin/tsx tests/run/verify.ts "$@"
