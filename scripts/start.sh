#!/usr/bin/env bash
# Sets up, starts PostgreSQL, the web server and one render worker on loopback; Ctrl-C ends all of it.
# PORT (4180), LANTERN_PG_PORT (5480) and LANTERN_DATA (.data) say where; LANTERN_THREADS how many threads render;
# LANTERN_DELIVERED says where runs put their files (.data/delivered);
# LANTERN_SAMPLES=off leaves the logbooks of a first start empty.
set -euo pipefail
. "$(dirname "${BASH_SOURCE[0]}")/lib.sh"
data="$(absolute "${LANTERN_DATA:-$root/.data}")"
port="${PORT:-4180}"
pg_port="${LANTERN_PG_PORT:-5480}"
cd "$root"
writable "$root" "the program's own folder"
writable "$data" "the data folder (LANTERN_DATA)"
exec 8>"$data/start.lock"; flock -n 8 || fail "another start is running on $data"
taken "$port" && fail "port $port is taken by another program: end it, or choose another with PORT"
bash scripts/setup.sh 8>&-
web=""; worker=""; ending=0
finish() {
  # Told to end again while it ends, it goes on ending what it started.
  trap '' INT TERM HUP
  [ "$ending" = 0 ] || return 0
  ending=1
  # A worker keeps what it is rendering before it ends, however long that takes.
  end_process "$worker" 300; end_process "$web"
  db_stop "$data"
}
trap 'finish; exit 0' INT TERM HUP
trap finish EXIT
db_start "$data" "$pg_port" 8>&-
node build/migrate.mjs 8>&- || fail "the database could not be brought up to date"
web_build 8>&-
LANTERN_DELIVERED="$(absolute "${LANTERN_DELIVERED:-$data/delivered}")"; export LANTERN_DELIVERED
start_web() { node node_modules/next/dist/bin/next start -H 127.0.0.1 -p "$port" >> "$data/web.log" 2>&1 8>&- & web=$!; }
export LANTERN_SAMPLES="${LANTERN_SAMPLES:-on}" LANTERN_DELIVERS=on
start_worker() { node build/worker.mjs worker >> "$data/worker.log" 2>&1 8>&- & worker=$!; }
start_web; start_worker
await_web "$web" "$port" "$data/web.log"
echo "Zealous Lantern is at http://127.0.0.1:$port   (Ctrl-C ends it)"
# What dies is started again; what it was doing is taken up from the database.
while true; do
  sleep 1 8>&- & wait $! || true
  [ "$ending" = 0 ] || exit 0
  db_alive "$data" || { echo "PostgreSQL ended; starting it again" >&2; (db_start "$data" "$pg_port") 8>&- || true; }
  kill -0 "$web" 2>/dev/null || { echo "the web server ended; starting it again" >&2; start_web; }
  kill -0 "$worker" 2>/dev/null || { echo "the worker ended; starting it again" >&2; start_worker; }
done
