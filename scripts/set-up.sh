#!/usr/bin/env bash
# Installs the packages of the lock file, unless what is there already fits it.
set -euo pipefail
cd "$(dirname "$0")/.."
stamp=node_modules/.gate-lock
if [ ! -f "$stamp" ] || ! cmp -s package-lock.json "$stamp"; then
  npm ci --no-audit --no-fund --prefer-offline
  cp package-lock.json "$stamp"
fi
