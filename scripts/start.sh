#!/usr/bin/env bash
# Sets up, starts PostgreSQL, the web server and one render worker on loopback; Ctrl-C ends all of it.
set -euo pipefail
. "$(dirname "${BASH_SOURCE[0]}")/lib.sh"
cd "$root"
data="${LANTERN_DATA:-$root/.data}"
port="${PORT:-4180}"
bash scripts/setup.sh
web=""; worker=""; ending=0
finish() {
  [ "$ending" = 0 ] || return 0
  ending=1
  end_process "$worker"; end_process "$web"
  db_stop "$data"
}
trap 'finish; exit 0' INT TERM
trap finish EXIT
db_start "$data" "${LANTERN_PG_PORT:-5480}"
node build/migrate.mjs || fail "the database could not be brought up to date"
web_build
start_web() { node node_modules/next/dist/bin/next start -H 127.0.0.1 -p "$port" > "$data/web.log" 2>&1 & web=$!; }
start_worker() { node build/worker.mjs worker > "$data/worker.log" 2>&1 & worker=$!; }
start_web; start_worker
for _ in $(seq 150); do
  kill -0 "$web" 2>/dev/null || { tail -n 5 "$data/web.log" >&2; fail "the web server did not start on port $port"; }
  curl -fs -o /dev/null "http://127.0.0.1:$port/" && break
  sleep 0.2
done
echo "Zealous Lantern is at http://127.0.0.1:$port   (Ctrl-C ends it)"
# A server or worker that dies is started again; what it was doing is taken up from the database.
while true; do
  wait -n "$web" "$worker" || true
  [ "$ending" = 0 ] || exit 0
  sleep 1
  kill -0 "$web" 2>/dev/null || { echo "the web server ended; starting it again" >&2; start_web; }
  kill -0 "$worker" 2>/dev/null || { echo "the worker ended; starting it again" >&2; start_worker; }
done
