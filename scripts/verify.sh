#!/usr/bin/env bash
# verify.sh [core|page|live | deep [SEED]]: everything that must hold, or a part of it. Installs what is missing first.
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
ulogd ulogd2
tcpdump tcpdump
systemd-nspawn systemd-container
/lib/systemd/systemd systemd
dbus-daemon dbus
LIST

bash scripts/set-up.sh
exec node_modules/.bin/tsx tests/run/verify.ts "$@"
