#!/usr/bin/env bash
# apart.sh FOLDER COMMAND…: runs a command that leaves nothing behind and sees nothing of others: in a process namespace that
# ends with it, with an empty /run (so namespaces of networks are its own), and with temporary files and a home in FOLDER.
# What the command and its orphans used of the processor stands in FOLDER/times afterwards. Where namespaces may not be
# made, the command runs as it is.
set -euo pipefail
folder=$1
shift
mkdir -p "$folder/tmp" "$folder/../cache/tsx"
ulimit -c 0
if [ "$(id -u)" != 0 ] || ! unshare --mount --pid --fork --mount-proc true 2>/dev/null; then exec "$@"; fi
export APART=$folder
# Sockets have short names (108 bytes, unix(7)), so the folder is called /run/tmp inside. Process 1 waits for orphans.
inside='
exec 3>"$APART/times"
mkdir -p "$APART/run"
mount -t tmpfs -o mode=755 tmpfs "$APART/run"
tsx=tmp/tsx-$(id -u)
mkdir -p "$APART/run/tmp" "$APART/run/lock" "$APART/$tsx"
mount --bind "$APART/tmp" "$APART/run/tmp"
mount --bind "$APART/../cache/tsx" "$APART/run/$tsx"
# Whatever of its folder lies below /run is hidden from now on.
# Not noted in a table of mounts (-n), which would be in /run, too.
mount -n --move "$APART/run" /run
mkdir -p /run/tmp/home
export TMPDIR=/run/tmp HOME=/run/tmp/home XDG_CONFIG_HOME=/run/tmp/config
unset XDG_CACHE_HOME XDG_DATA_HOME
"$@" 3>&- & child=$!
trap "kill -TERM $child" TERM INT HUP
while kill -0 $child 2>/dev/null; do wait $child; ended=$?; done
times >&3
exit $ended'
# It ends with whoever started it, however that ends.
exec setpriv --pdeathsig KILL unshare --mount --propagation private --pid --fork --kill-child=KILL --mount-proc bash -c "$inside" apart "$@"
