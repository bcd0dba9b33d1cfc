#!/usr/bin/env bash
# Everything that must hold: types, lint, unit tests, build, end to end. Installs what is missing first.
set -euo pipefail
cd "$(dirname "$0")/.."

need=()
[ -x /usr/bin/chromium ] || need+=(chromium)
[ -x /usr/bin/chromedriver ] || need+=(chromium-driver)
command -v ip >/dev/null || need+=(iproute2)
command -v tshark >/dev/null || need+=(tshark)
command -v nft >/dev/null || need+=(nftables)
command -v yanglint >/dev/null || need+=(libyang2-tools)
command -v python3 >/dev/null || need+=(python3)
command -v sysctl >/dev/null || need+=(procps)
if [ "${#need[@]}" -gt 0 ]; then
  if [ "$(id -u)" = 0 ] && command -v apt-get >/dev/null; then
    export DEBIAN_FRONTEND=noninteractive
    apt-get update
    apt-get install -y --no-install-recommends "${need[@]}"
  else
    echo "missing: ${need[*]}; install them, or run this as root on Debian" >&2
    exit 1
  fi
fi

bash scripts/set-up.sh
log=$(mktemp)
trap 'rm -f "$log"' EXIT
npm run check
npm run lint
npm test 2>&1 | tee "$log"
npm run build
npm run e2e 2>&1 | tee -a "$log"

# The runners' own closing lines, added up.
awk '/^[0-9]+ passed, [0-9]+ failed, [0-9]+ skipped$/ { p += $1; f += $3; s += $5 }
     END { printf "%d passed, %d failed, %d skipped\n", p, f, s; exit (f > 0 || p == 0) }' "$log"
