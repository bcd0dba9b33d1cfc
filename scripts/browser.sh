#!/usr/bin/env bash
# browser.sh: installs Debian's Chromium and its driver where they are missing, after it has said so. A browser needs what
# packages set up on a whole machine (fonts, caches), so it is the one thing that is not merely unpacked.
set -euo pipefail
# One that was killed while it installed has left this; nobody else's is touched.
policy=/usr/sbin/policy-rc.d
mark='# Of Jolly Gate, while it installs a browser: nothing is started.'
! grep -qsxF "$mark" $policy || rm -f $policy
need=()
for program in chromium:chromium chromedriver:chromium-driver; do
  command -v "${program%:*}" >/dev/null || need+=("${program#*:}")
done
[ "${#need[@]}" -gt 0 ] || exit 0
if [ "$(id -u)" != 0 ] || ! command -v apt-get >/dev/null; then
  echo "missing: ${need[*]}; install them, or run this as root on Debian" >&2
  exit 1
fi
echo "to be installed on this machine, with what they need: ${need[*]}" >&2
export DEBIAN_FRONTEND=noninteractive
if [ ! -e $policy ]; then
  trap 'rm -f $policy' EXIT
  printf '#!/bin/sh\n%s\nexit 101\n' "$mark" >$policy
  chmod +x $policy
fi
apt-get update
apt-get install -y --no-install-recommends "${need[@]}"
