#!/usr/bin/env bash
# with-tools.sh COMMAND…: runs a command for which the programs of build/tools lie in /usr as if they were installed, in a
# mount namespace that ends with it. The network namespaces that it makes have their names there, too, and nowhere else.
set -euo pipefail
if [ "$(id -u)" != 0 ] || ! unshare --mount true 2>/dev/null; then exec "$@"; fi
tools=$(cd "$(dirname "$0")/.." && pwd)/build/tools
[ ! -d "$tools/has" ] || export JG_TOOLS=$tools
inside='
set -e
mkdir -p /run/netns
mount -t tmpfs -o mode=755 netns /run/netns
[ -n "${JG_TOOLS-}" ] || exec "$@"
# An overlay shows nothing that is mounted below its layers: what this machine has in /usr/local is laid over it again.
mkdir -p "$JG_TOOLS/local"
mount --rbind /usr/local "$JG_TOOLS/local"
mount -t overlay -o "ro,lowerdir=$JG_TOOLS/usr:/usr" tools /usr
mount --rbind "$JG_TOOLS/local" /usr/local
# Servers that give up their rights look for the user that their package would have made (Debian Policy 9.2.2: 100 to 999).
cp /etc/passwd "$JG_TOOLS/passwd.$$"
cp /etc/group "$JG_TOOLS/group.$$"
number=800
for user in sshd unbound _kea _chrony tcpdump ulog radvd messagebus systemd-network systemd-resolve; do
  number=$((number + 1))
  ! grep -q "^$user:" /etc/passwd || continue
  echo "$user:x:$number:$number::/nonexistent:/usr/sbin/nologin" >>"$JG_TOOLS/passwd.$$"
  grep -q "^$user:" /etc/group || echo "$user:x:$number:" >>"$JG_TOOLS/group.$$"
done
for file in passwd group; do
  cmp -s "$JG_TOOLS/$file.$$" "/etc/$file" || mount --bind "$JG_TOOLS/$file.$$" "/etc/$file"
  rm "$JG_TOOLS/$file.$$"
done
exec "$@"'
exec unshare --mount --propagation slave sh -c "$inside" with-tools "$@"
