#!/usr/bin/env bash
# apart.sh FOLDER COMMAND…: runs a command that leaves nothing behind and sees nothing of others: in a process namespace that
# ends with it, with an empty /run (so namespaces of networks are its own), and with temporary files in FOLDER. What the
# command and its orphans used of the processor stands in FOLDER/times afterwards. Where namespaces may not be made, the
# command runs as it is.
set -euo pipefail
folder=$1
shift
mkdir -p "$folder/tmp" "$folder/../cache/tsx"
ulimit -c 0
if [ "$(id -u)" != 0 ] || ! unshare --mount --pid --fork --mount-proc true 2>/dev/null; then exec "$@"; fi
export APART=$folder
# Sockets have short names (108 bytes, unix(7)), so the folder is called /run/tmp inside. Process 1 waits for orphans.
inside='
mount -t tmpfs -o mode=755 tmpfs /run
mkdir -p /run/tmp /run/lock
mount --bind "$APART/tmp" /run/tmp
mkdir -p "/run/tmp/tsx-$(id -u)"
mount --bind "$APART/../cache/tsx" "/run/tmp/tsx-$(id -u)"
export TMPDIR=/run/tmp XDG_CONFIG_HOME=/run/tmp/config
"$@" & child=$!
trap "kill -TERM $child" TERM INT HUP
while kill -0 $child 2>/dev/null; do wait $child; ended=$?; done
times >"$APART/times"
exit $ended'
exec unshare --mount --propagation private --pid --fork --kill-child=KILL --mount-proc bash -c "$inside" apart "$@"
