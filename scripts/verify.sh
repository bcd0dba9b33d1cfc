#!/usr/bin/env bash
# Everything that must hold: types, lint, unit tests, build, end to end. Installs what is missing first.
set -euo pipefail
cd "$(dirname "$0")/.."

cat scripts/field.txt - <<'LIST' | bash scripts/packages.sh
/usr/bin/chromium chromium
/usr/bin/chromedriver chromium-driver
tshark tshark
yanglint libyang2-tools
udhcpc udhcpc
kea-dhcp6 kea-dhcp6-server
radvd radvd
dhcrelay isc-dhcp-relay
keepalived keepalived
tcpdump tcpdump
systemd-nspawn systemd-container
/lib/systemd/systemd systemd
dbus-daemon dbus
LIST

bash scripts/set-up.sh
log=$(mktemp)
live=$(mktemp)
trap 'rm -f "$log" "$live"' EXIT
npm run build
# A live box waits for its timers half of the time: types and lint are asked beside it.
npm run live >"$live" 2>&1 &
beside=$!
{ npm run check && npm run lint; } || failed=1
# Whatever came of the others: nothing is left running.
wait "$beside" || { cat "$live"; exit 1; }
[ -z "${failed:-}" ] || exit 1
tee "$log" <"$live"
npm test 2>&1 | tee -a "$log"
npm run e2e 2>&1 | tee -a "$log"

# The runners' own closing lines, added up.
awk '/^[0-9]+ passed, [0-9]+ failed, [0-9]+ skipped$/ { p += $1; f += $3; s += $5 }
     END { printf "%d passed, %d failed, %d skipped\n", p, f, s; exit (f > 0 || p == 0) }' "$log"
