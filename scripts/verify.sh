#!/usr/bin/env bash
# Everything that must hold: types, lint, unit tests, build, end to end. Installs what is missing first.
set -euo pipefail
cd "$(dirname "$0")/.."

need=()
# What is asked for, and the package of Debian that has it.
while read -r tool package; do
  PATH="$PATH:/usr/sbin" command -v "$tool" >/dev/null || [ -x "$tool" ] || need+=("$package")
done <<'LIST'
/usr/bin/chromium chromium
/usr/bin/chromedriver chromium-driver
ip iproute2
tshark tshark
nft nftables
yanglint libyang2-tools
python3 python3
sysctl procps
ssh openssh-client
sshd openssh-server
ping iputils-ping
arping iputils-arping
conntrack conntrack
curl curl
dig bind9-dnsutils
udhcpc udhcpc
dnsmasq dnsmasq-base
kea-dhcp4 kea-dhcp4-server
kea-dhcp6 kea-dhcp6-server
unbound unbound
chronyd chrony
radvd radvd
systemd-nspawn systemd-container
/lib/systemd/systemd systemd
dbus-daemon dbus
nsenter util-linux
LIST
if [ "${#need[@]}" -gt 0 ]; then
  if [ "$(id -u)" = 0 ] && command -v apt-get >/dev/null; then
    export DEBIAN_FRONTEND=noninteractive
    # Their servers are for boxes in a lab; on this machine none is started.
    if [ ! -e /usr/sbin/policy-rc.d ]; then
      printf '#!/bin/sh\nexit 101\n' >/usr/sbin/policy-rc.d
      chmod +x /usr/sbin/policy-rc.d
      trap 'rm -f /usr/sbin/policy-rc.d' EXIT
    fi
    apt-get update
    apt-get install -y --no-install-recommends "${need[@]}"
    rm -f /usr/sbin/policy-rc.d
  else
    echo "missing: ${need[*]}; install them, or run this as root on Debian" >&2
    exit 1
  fi
fi

bash scripts/set-up.sh
log=$(mktemp)
live=$(mktemp)
trap 'rm -f "$log" "$live"' EXIT
npm run check
npm run lint
npm run build
# A live box mostly waits for its timers: it is tried beside the unit tests.
npm run live >"$live" 2>&1 &
beside=$!
npm test 2>&1 | tee "$log"
wait "$beside" || { cat "$live"; exit 1; }
tee -a "$log" <"$live"
npm run e2e 2>&1 | tee -a "$log"

# The runners' own closing lines, added up.
awk '/^[0-9]+ passed, [0-9]+ failed, [0-9]+ skipped$/ { p += $1; f += $3; s += $5 }
     END { printf "%d passed, %d failed, %d skipped\n", p, f, s; exit (f > 0 || p == 0) }' "$log"
