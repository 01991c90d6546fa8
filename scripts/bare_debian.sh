#!/usr/bin/env bash
# An installation from nothing, tried: a bare Debian in a directory of its own, this checkout as a package, the three commands of
# docs/operations.md, and then browser tests against what they left. Needs root and debootstrap; some five minutes.
# `make bare`, or scripts/bare_debian.sh TESTS...; the directory (ROOT) is removed where it was not given.
set -euo pipefail
cd "$(dirname "$0")/.."
[ "$(id -u)" = 0 ] || { echo "A Debian in a directory needs root." >&2; exit 1; }
command -v debootstrap >/dev/null || apt-get install -y --no-install-recommends debootstrap >/dev/null
kept=${ROOT:-}
root=${kept:-$(mktemp -d /tmp/bare-debian-XXXXXX)}
mkdir -p "$root" && chmod 755 "$root" # servers in it run as nobody in particular
free_port() { python3 -c 'import socket; s = socket.socket(); s.bind(("127.0.0.1", 0)); print(s.getsockname()[1])'; }
port=$(free_port) database_port=$(free_port)
path=/opt/dry-gauge/.venv/bin:/usr/lib/postgresql/15/bin:/usr/sbin:/usr/bin:/sbin:/bin
inside() { chroot "$root" /usr/bin/env -i PATH=$path LANG=C.UTF-8 "$@"; }

end() {
  [ -z "${served:-}" ] || { kill "$served" 2>/dev/null; wait "$served" 2>/dev/null; } || true
  inside runuser -u postgres -- pg_ctl -D /var/lib/postgresql/data -m fast stop >/dev/null 2>&1 || true
  umount "$root/proc" "$root/dev/shm" 2>/dev/null || true
  [ -n "$kept" ] || rm -rf --one-file-system "$root" "$root.log"
}
trap end EXIT

echo "A bare Debian in $root ..."
# What the container file installs, and PostgreSQL.
packages=python3,python3-venv,postgresql-15,libpango-1.0-0,libpangoft2-1.0-0,libharfbuzz-subset0,tesseract-ocr,tesseract-ocr-spa
[ -x "$root/usr/bin/python3" ] || debootstrap --variant=minbase --include="$packages" bookworm "$root" >"$root.log" 2>&1 ||
  { tail -5 "$root.log" >&2; exit 1; }
mount -t proc proc "$root/proc"
mount -t tmpfs -o mode=1777 tmpfs "$root/dev/shm"

echo "The package and what it needs ..."
mkdir -p "$root/opt/dry-gauge/wheels"
.venv/bin/pip wheel -q --disable-pip-version-check --require-hashes --no-deps -w "$root/opt/dry-gauge/wheels" -r requirements/run.txt \
  2> >(grep -v "^WARNING: Location" >&2)
git archive HEAD pyproject.toml README.md LICENSE requirements src | tar -x -C "$root/opt/dry-gauge"
inside python3 -m venv /opt/dry-gauge/.venv
inside sh -c 'pip install -q --disable-pip-version-check --no-index --no-deps /opt/dry-gauge/wheels/*.whl'
inside sh -c 'cd /opt/dry-gauge && pip install -q --disable-pip-version-check --no-index --no-build-isolation --no-deps .'

echo "An empty PostgreSQL ..."
inside install -d -o postgres -g postgres /var/lib/postgresql/data
inside runuser -u postgres -- initdb -D /var/lib/postgresql/data -A trust >/dev/null
inside runuser -u postgres -- pg_ctl -D /var/lib/postgresql/data -w -l /var/lib/postgresql/log \
  -o "-p $database_port -c listen_addresses=127.0.0.1 -c unix_socket_directories=/tmp" start >/dev/null
for statement in "CREATE ROLE dry_gauge_owner LOGIN" "CREATE ROLE dry_gauge LOGIN" "CREATE DATABASE dry_gauge OWNER dry_gauge_owner"; do
  inside runuser -u postgres -- psql -q -h 127.0.0.1 -p "$database_port" -c "$statement"
done

echo "The three commands ..."
at=127.0.0.1:$database_port/dry_gauge
settings=(DATABASE_OWNER_URL=postgresql://dry_gauge_owner@$at DATABASE_URL=postgresql://dry_gauge@$at
  SECRET_KEY="$(python3 -c 'import secrets; print(secrets.token_urlsafe(48))')" LOG_LEVEL=WARNING)
inside useradd --system --user-group --no-create-home dry-gauge 2>/dev/null || true
as_it=(chroot "$root" /usr/bin/env -i PATH=$path LANG=C.UTF-8 "${settings[@]}" setpriv --reuid=dry-gauge --regid=dry-gauge --clear-groups)
"${as_it[@]}" dry-gauge migrate
"${as_it[@]}" dry-gauge create-shop "Saltworks Cooling" --login ada --lead "Ada Lead" --time-zone America/Denver | sed "s/with '.*'/with a password that is shown once/"
"${as_it[@]}" dry-gauge check

echo "Served, and tried in a browser ..."
"${as_it[@]}" dry-gauge serve --port "$port" --grace 2 &
served=$!
for _ in $(seq 100); do python3 -c "import urllib.request; urllib.request.urlopen('http://127.0.0.1:$port/readyz')" 2>/dev/null && break; sleep 0.2; done
[ $# -gt 0 ] || set -- tests/browser/test_in_the_hand.py tests/browser/test_labels.py tests/browser/test_bad_signal.py
env "${settings[0]}" "${settings[1]}" INSTALLED="http://127.0.0.1:$port" .venv/bin/python -m pytest -p no:cacheprovider "$@"
