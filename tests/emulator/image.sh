#!/usr/bin/env bash
# image.sh FOLDER: a Debian with its own kernel as a disk for the emulator, from Debian's packages only; takes a few
# minutes, once for each form of this file. It holds nothing of ours but a key, and the provider of the garden line in a
# namespace of its own.
set -euo pipefail
here=$1
form=$(sha256sum <"$0")
mkdir -p "$here"
cd "$here"
[ -e disk.img ] && [ "$(cat form 2>/dev/null)" = "$form" ] && exit 0
root=$here/disk
include=systemd,systemd-sysv,udev,dbus,kmod,iproute2,nftables,openssh-server,iputils-ping,iputils-arping,ppp,pppoe,conntrack,bind9-dnsutils,curl,procps,apparmor,kea-dhcp4-server,unbound,chrony,ifupdown,isc-dhcp-client,wireguard-tools,linux-image-amd64
# What an interrupted run left may have mounts of this very machine in it: nothing is deleted through them.
delete_root() {
  if grep -q " $(readlink -f "$root")/" /proc/mounts; then
    echo "$root has mounts in it, left by a run that was interrupted: unmount them first" >&2
    exit 1
  fi
  rm -rf --one-file-system "$root"
}
delete_root
mmdebstrap --variant=minbase --mode=root --quiet --aptopt='APT::Install-Recommends "false"' \
  --dpkgopt='path-exclude=/usr/share/man/*' --dpkgopt='path-exclude=/usr/share/locale/*' --dpkgopt='path-exclude=/usr/share/doc/*' \
  --include="$include" bookworm "$root"
[ -e admin ] || ssh-keygen -q -t ed25519 -N '' -f admin
keys=$(chroot "$root" sh -c 'echo ~root')/.ssh
mkdir -p "$root$keys"
cp admin.pub "$root$keys/authorized_keys"
chmod 700 "$root$keys"
chroot "$root" passwd -d root >/dev/null
# Ports are called as the demo calls them, whatever slot they are in.
for n in 1 2 3 5 6 7 8; do
  printf '[Match]\nMACAddress=02:61:00:00:00:0%s\n[Link]\nName=p%s\nMACAddressPolicy=none\n' $n $n >"$root/etc/systemd/network/10-p$n.link"
done
for u in kea-dhcp4-server unbound chrony systemd-timesyncd e2scrub_reap; do ln -sf /dev/null "$root/etc/systemd/system/$u.service"; done
cat >"$root/etc/systemd/system/lab.service" <<'U'
[Unit]
DefaultDependencies=no
Before=network-pre.target
After=systemd-udevd.service
[Service]
Type=oneshot
ExecStart=/usr/local/sbin/lab
[Install]
WantedBy=sysinit.target
U
cat >"$root/usr/local/sbin/lab-web" <<'U'
#!/usr/bin/perl
use IO::Socket::INET;
my $s = IO::Socket::INET->new(LocalAddr => "192.0.2.80", LocalPort => 80, Listen => 5, ReuseAddr => 1) or die;
while (my $c = $s->accept) {
  my $asked = <$c> // "";
  while (my $line = <$c>) { last if $line =~ /^\r?$/ }
  my $said = $asked =~ m{^GET /large } ? "x" x 20_000_000 : "hello";
  print $c "HTTP/1.0 200 OK\r\nContent-Length: " . length($said) . "\r\n\r\n$said";
  close $c;
}
U
cat >"$root/usr/local/sbin/lab" <<'U'
#!/bin/sh
# The garden line's provider, in a namespace of this machine, and the console's first address.
ip netns add isp
ip link add p4 type veth peer name pe netns isp
ip -n isp link set lo up
ip -n isp link set pe up
ip -n isp link add link pe name pe.7 type vlan id 7
ip -n isp link set pe.7 up
for a in 192.0.2.1 192.0.2.53 192.0.2.54; do ip -n isp addr add $a/32 dev lo; done
# Its web server is beyond a cable that takes 1500 bytes, and is never told that the session takes less.
ip netns add web
ip -n isp link add to-web type veth peer name up netns web
ip -n isp addr add 192.0.2.78/32 dev to-web
ip -n web addr add 192.0.2.80/32 dev up
for n in isp:to-web web:up web:lo; do ip -n ${n%:*} link set ${n#*:} up; done
ip -n web route add 192.0.2.78 dev up
ip -n web route add default via 192.0.2.78
ip -n isp route add 192.0.2.80 dev to-web
ip netns exec isp sysctl -qw net.ipv4.ip_forward=1
ip netns exec isp nft 'add table ip silent; add chain ip silent out { type filter hook output priority 0; }; add rule ip silent out icmp type destination-unreachable drop'
printf 'kiln@garden.example * "slip and glaze" *\n' >/etc/ppp/chap-secrets
chmod 600 /etc/ppp/chap-secrets
printf 'require-chap\nlcp-echo-interval 5\nlcp-echo-failure 3\nms-dns 192.0.2.53\nnoipdefault\nmtu 1492\nmru 1492\n' >/etc/ppp/pppoe-server-options
printf 'server:\n interface: 192.0.2.53\n access-control: 0.0.0.0/0 allow\n do-daemonize: no\n use-syslog: no\n chroot: ""\n username: ""\n pidfile: ""\n local-data: "example.com. A 192.0.2.80"\nremote-control:\n control-enable: no\n' >/etc/unbound/lab-dns.conf
serve() { at=$1 n=$2; shift 2; systemd-run --quiet --unit="lab-$n" -p DefaultDependencies=no -p Restart=always ip netns exec "$at" "$@"; }
serve isp pppoe pppoe-server -I pe.7 -L 203.0.113.1 -R 203.0.113.7 -N 4 -F -O /etc/ppp/pppoe-server-options
serve isp dns unbound -d -c /etc/unbound/lab-dns.conf
serve web web /usr/local/sbin/lab-web
n=0
while [ $n -lt 100 ] && [ ! -e /sys/class/net/p8 ]; do sleep 0.1; n=$((n + 1)); done
[ -L /etc/jolly-gate/startup ] || { ip addr add 10.61.99.1/26 dev p8; ip link set p8 up; }
U
chmod 755 "$root/usr/local/sbin/lab" "$root/usr/local/sbin/lab-web"
chroot "$root" systemctl -q enable lab.service ssh.service
echo tidewater >"$root/etc/hostname"
cp "$root"/boot/vmlinuz-* vmlinuz
cp "$root"/boot/initrd.img-* initrd.img
truncate -s 2000M disk.new
mke2fs -q -t ext4 -d "$root" -E lazy_itable_init=1 disk.new
mv disk.new disk.img
echo "$form" >form
delete_root
