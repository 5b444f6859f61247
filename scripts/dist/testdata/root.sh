#!/bin/bash
# Installs Ivelt in a root of its own, an overlay over this system that is gone afterwards: the
# version before, which is used; then this one over it; then it is removed. Says what it sees, line
# by line. Run it as: unshare -m -C root.sh FOLDER, with before.deb, after.deb, after.rpm,
# archive.tar.gz, look.toml and earlier/*.db in the folder.
set -euo pipefail
from=$1
mount --make-rprivate /
mount -t tmpfs none /mnt
mkdir /mnt/upper /mnt/work /mnt/root
mount -t overlay overlay -o lowerdir=/,upperdir=/mnt/upper,workdir=/mnt/work /mnt/root
root=/mnt/root
mkdir -p "$root/given"
mount --bind "$from" "$root/given"
mount --rbind /proc "$root/proc"
mount --rbind /dev "$root/dev"
for at in run tmp root home; do mount -t tmpfs none "$root/$at"; done
mount -t tmpfs none "$root/sys"
mkdir -p "$root/sys/fs/cgroup"
mount -t cgroup2 none "$root/sys/fs/cgroup"
cat > "$root/tmp/in.sh" <<'IN'
set -euo pipefail
export PATH=/usr/local/sbin:/usr/local/bin:/usr/sbin:/usr/bin:/sbin:/bin LANG=C.UTF-8
unset TMPDIR XDG_DATA_HOME XDG_CONFIG_HOME XDG_CACHE_HOME XDG_RUNTIME_DIR DBUS_SESSION_BUS_ADDRESS DISPLAY WAYLAND_DISPLAY
mkdir -p /home/mara
chown 1000:1000 /home/mara
cd /home/mara
mara() { setpriv --reuid 1000 --regid 1000 --clear-groups env HOME=/home/mara "$@"; }
quietly() { "$@" >/tmp/said 2>&1 || { cat /tmp/said; exit 1; }; }

quietly dpkg -i /given/before.deb
echo "before: $(ivelt --version)"
mara ivelt apply --desk avocet --outfit /given/look.toml >/dev/null
mara ivelt checkpoint --desk avocet "of the version before" >/dev/null
mara ivelt history --desk avocet > /tmp/history
mara ivelt config set log-level info
mara sh -c 'sha256sum ~/.local/share/ivelt/demo/data/blobs/*/*' > /tmp/kept

quietly dpkg -i /given/after.deb
echo "after: $(ivelt --version)"
mara ivelt history --desk avocet | cmp - /tmp/history && echo "the history is the same"
mara sha256sum --quiet -c /tmp/kept && echo "what was kept is whole"
echo "log-level: $(mara ivelt config log-level)"
mara ivelt back --desk avocet >/dev/null && echo "went back"
dpkg --verify ivelt && echo "verified"

for db in /given/earlier/*.db; do
	own=/home/mara/.local/share/ivelt/own
	rm -rf "$own"
	mara mkdir -p "$own"
	mara cp "$db" "$own/ivelt.db"
	mara ivelt history --own > /dev/null
	mara ivelt store check > /tmp/check || { cat /tmp/check; exit 1; }
	echo "data of version $(basename "$db" .db): $(grep -o 'the database is whole, version [0-9]*' /tmp/check)"
done
rm -rf /home/mara/.local/share/ivelt/own

man -w ivelt-apply
bash -c 'source /usr/share/bash-completion/bash_completion; source /usr/share/bash-completion/completions/ivelt; COMP_WORDS=(ivelt apply --outf); COMP_CWORD=2; COMP_LINE="ivelt apply --outf"; COMP_POINT=18; __start_ivelt 2>/dev/null; echo "completed: ${COMPREPLY[*]}"'
ls /usr/share/icons/hicolor/scalable/apps/org.ivelt.ivelt.svg

# The person's own manager of services.
mkdir -p /run/systemd/system /run/user/0
chmod 700 /run/user/0
export XDG_RUNTIME_DIR=/run/user/0 HOME=/root
/lib/systemd/systemd --user --log-target=null &
manager=$!
for _ in $(seq 100); do [ -S /run/user/0/systemd/private ] && break; sleep 0.1; done
systemctl --user --quiet enable ivelt ivelt-session
echo "enabled: $(systemctl --user is-enabled ivelt) $(systemctl --user is-enabled ivelt-session)"
systemctl --user start ivelt ivelt-session
for _ in $(seq 100); do ivelt open >/tmp/address 2>/dev/null && break; sleep 0.1; done
echo "the page: $(curl -s -L -c /tmp/jar -o /dev/null -w '%{http_code}' "$(cat /tmp/address)")"
systemctl --user stop ivelt
echo "stopped: $(systemctl --user show -p Result --value ivelt), the session: $(systemctl --user show -p Result --value ivelt-session)"
kill "$manager"
wait "$manager" 2>/dev/null || true

find /home/mara -type f -print0 | sort -z | xargs -0 sha256sum > /tmp/home
quietly dpkg -r ivelt
[ ! -e /usr/bin/ivelt ] && [ ! -e /usr/share/doc/ivelt ] && echo "removed"
find /home/mara -type f -print0 | sort -z | xargs -0 sha256sum | cmp - /tmp/home && echo "the person's data stays"

mkdir /tmp/rpmdb
quietly rpm --dbpath /tmp/rpmdb --nodeps -i /given/after.rpm
rpm --dbpath /tmp/rpmdb -V ivelt 2>/dev/null && echo "rpm: $(ivelt --version)"
quietly rpm --dbpath /tmp/rpmdb -e ivelt
[ ! -e /usr/bin/ivelt ] && [ ! -e /usr/share/doc/ivelt ] && echo "rpm: removed"
mara mkdir -p /home/mara/.local
mara tar xf /given/archive.tar.gz -C /home/mara/.local --strip-components 1
echo "archive: $(mara /home/mara/.local/bin/ivelt --version), $(mara /home/mara/.local/bin/ivelt history --desk avocet | grep -c 'of the version before')"
IN
exec chroot "$root" bash /tmp/in.sh
