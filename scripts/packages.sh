#!/usr/bin/env bash
# packages.sh: installs what of a list (standard input: what is asked for, and the package of Debian that has it) is
# missing. Ends with 1, and says what is missing, where it may not or cannot install.
set -euo pipefail
need=()
while read -r tool package; do
  PATH="$PATH:/usr/sbin" command -v "$tool" >/dev/null || [ -x "$tool" ] || need+=("$package")
done
[ "${#need[@]}" -gt 0 ] || exit 0
if [ "$(id -u)" != 0 ] || ! command -v apt-get >/dev/null; then
  echo "missing: ${need[*]}; install them, or run this as root on Debian" >&2
  exit 1
fi
export DEBIAN_FRONTEND=noninteractive
# Their servers are for boxes in a lab; on this machine none is started.
if [ ! -e /usr/sbin/policy-rc.d ]; then
  printf '#!/bin/sh\nexit 101\n' >/usr/sbin/policy-rc.d
  chmod +x /usr/sbin/policy-rc.d
  trap 'rm -f /usr/sbin/policy-rc.d' EXIT
fi
apt-get update
apt-get install -y --no-install-recommends "${need[@]}"
