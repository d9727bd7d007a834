#!/bin/bash
# Runs a command beside a private MariaDB on loopback and stops the server when
# the command ends: with-mariadb.sh FOLDER PORT COMMAND [ARG ...]
# FOLDER keeps the data. PORT 0 takes a free one. The command sees its address in
# ITEMRACK_DB_HOST (127.0.0.1:PORT).
set -eu
folder=$1 port=$2
shift 2
mkdir -p "$folder/tmp"
folder=$(cd "$folder" && pwd)
if [ "$port" = 0 ]; then
  port=$((20000 + ($$ * 7 + $(date +%s)) % 20000))
  while (exec 3<>"/dev/tcp/127.0.0.1/$port") 2>/dev/null; do port=$((port + 1)); done
fi
root=
[ "$(id -u)" = 0 ] && root=--user=root
PATH=$PATH:/usr/sbin
if [ ! -d "$folder/data/mysql" ]; then
  rm -rf "$folder/data"
  mariadb-install-db --no-defaults --datadir="$folder/data" $root --auth-root-authentication-method=normal \
    --skip-test-db --skip-name-resolve >"$folder/install.log" 2>&1 || { cat "$folder/install.log" >&2; exit 1; }
fi
# unix sockets have short names only
socket=/tmp/itemrack-$port.sock
# in a session of its own, so that Ctrl-C reaches the command first
setsid mariadbd --no-defaults --datadir="$folder/data" $root --bind-address=127.0.0.1 --port="$port" --socket="$socket" \
  --pid-file="$folder/mariadb.pid" --tmpdir="$folder/tmp" --log-error="$folder/mariadb.log" --skip-name-resolve --skip-log-bin \
  --character-set-server=utf8mb4 --collation-server=utf8mb4_unicode_ci --innodb-buffer-pool-size=512M ${ITEMRACK_DB_FLAGS:-} 2>>"$folder/mariadb.log" &
server=$!
child=
# shellcheck disable=SC2317
finish() {
  status=$?
  trap - EXIT INT TERM
  if [ -n "$child" ]; then kill -TERM "$child" 2>/dev/null && wait "$child" 2>/dev/null || true; fi
  kill -TERM "$server" 2>/dev/null || true
  wait "$server" 2>/dev/null || true
  exit "$status"
}
trap finish EXIT
trap 'exit 130' INT
trap 'exit 143' TERM
tries=0
until mariadb-admin --no-defaults --socket="$socket" -uroot ping >/dev/null 2>&1; do
  tries=$((tries + 1))
  if [ "$tries" -gt 150 ] || ! kill -0 "$server" 2>/dev/null; then
    echo "MariaDB did not start; its log says:" >&2
    tail -n 20 "$folder/mariadb.log" >&2
    exit 1
  fi
  sleep 0.2
done
mariadb --no-defaults --socket="$socket" -uroot -e "CREATE USER IF NOT EXISTS itemrack@'127.0.0.1' IDENTIFIED BY 'itemrack'; GRANT ALL ON *.* TO itemrack@'127.0.0.1';"
export ITEMRACK_DB_HOST="127.0.0.1:$port"
"$@" &
child=$!
status=0
wait "$child" || status=$?
child=
exit "$status"
