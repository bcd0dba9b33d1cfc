#!/usr/bin/env bash
# tools.sh: has the programs of a list at hand without installing any (standard input: a program, and the package of Debian
# that has it). What this machine lacks is fetched from its archive with all that it needs and unpacked into build/tools,
# where `with-tools.sh` finds it: no server of theirs is enabled or started, no user made, nothing removed. Ends with 1, and
# says what is missing, where that cannot be.
set -euo pipefail
cd "$(dirname "$0")/.."
tools=$PWD/build/tools
. /etc/os-release 2>/dev/null || true
# Of another Debian than now they would not fit its libraries.
[ "$(cat "$tools/debian" 2>/dev/null)" = "${VERSION_ID-}" ] || rm -rf "$tools"
need=()
while read -r tool package; do
  PATH="$PATH:/usr/sbin" command -v "$tool" >/dev/null || [ -e "$tools/has/$package" ] || need+=("$package")
done
[ "${#need[@]}" -gt 0 ] || exit 0
if [ "$(id -u)" != 0 ] || ! command -v apt-get dpkg-deb >/dev/null || [ ! -L /lib ]; then
  echo "missing: ${need[*]}; install them, or run this as root on Debian 12 or later" >&2
  exit 1
fi
mkdir -p "$tools"/{has,etc,usr/{bin,sbin,lib}} "$tools"/apt/{lists,archives}/partial
exec 9>"$tools/lock"
flock 9
printf %s "${VERSION_ID-}" >"$tools/debian"
echo "fetched into build/tools, not installed: ${need[*]}" >&2
# Lists and packages are its own, too, so that it waits for no other; the sandbox's user may not write here.
apt() {
  apt-get -qq -o Debug::NoLocking=1 -o Dir::State::lists="$tools/apt/lists" -o Dir::Cache="$tools/apt" -o APT::Sandbox::User=root "$@"
}
apt update
# What else they need follows from what is installed here.
apt install --download-only -y --no-install-recommends "${need[@]}"
# Where packages still have folders that are links on every machine now, what is in them goes where these lead.
for d in bin sbin lib lib64; do [ ! -L "/$d" ] || ln -sfn "$(readlink "/$d")" "$tools/$d"; done
mkdir -p "$tools/usr/lib64"
for deb in "$tools"/apt/archives/*.deb; do
  dpkg-deb --fsys-tarfile "$deb" | tar -x --keep-directory-symlink -C "$tools"
  rm "$deb"
done
for package in "${need[@]}"; do : >"$tools/has/$package"; done
