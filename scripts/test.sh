#!/usr/bin/env bash
# Sets up and runs every check: types, lint, import arrows, unit and truth tests, the story in a browser.
set -euo pipefail
. "$(dirname "${BASH_SOURCE[0]}")/lib.sh"
cd "$root"
bash scripts/setup.sh --tests
echo "== set-up: $SECONDS s"
data="${LANTERN_TEST_DATA:-$root/.data/test}"
web=""; worker=""; running=""; beside=""
finish() {
  # Told to end again while it ends, it goes on ending what it started.
  trap '' INT TERM HUP
  # It ends all that the step started with it.
  for own in "$running" "$beside"; do [ -z "$own" ] || kill "$own" 2>/dev/null || true; done
  end_process "$worker"; end_process "$web"; db_stop "$data"
}
trap 'finish; exit 130' INT TERM
trap finish EXIT
# A step that hangs is ended after 30 minutes with all it started, so that nobody waits for ever to hear which it was.
step() {
  echo "== $1"
  local name="$1" code=0 from=$SECONDS
  shift
  timeout --kill-after=10 "${LANTERN_STEP_SECONDS:-1800}" "$@" & running=$!
  wait "$running" || code=$?
  running=""
  echo "== $name: $((SECONDS - from)) s"
  [ "$code" != 124 ] || echo "npm test: $name did not end within ${LANTERN_STEP_SECONDS:-1800} seconds" >&2
  return "$code"
}

mkdir -p "$data"
# Types take one processor for as long as all the other checks together.
timeout --kill-after=10 "${LANTERN_STEP_SECONDS:-1800}" npx --no-install tsc --noEmit > "$data/types.log" 2>&1 & beside=$!
step "lint and format" npx --no-install biome check --error-on-warnings .
step "import arrows" npx --no-install depcruise src bench e2e --config .dependency-cruiser.cjs --output-type err
step "generated references" node scripts/build-docs.mjs --check
step "unused code" npx --no-install knip
echo "== types"
wait "$beside" || { cat "$data/types.log"; exit 1; }
beside=""
db_start "$data" "${LANTERN_TEST_PG_PORT:-5481}"
# One more than there are processors: some tests wait for other processes most of the time.
step "unit and truth tests" npx --no-install jest --silent --maxWorkers="$(($(nproc) + 1))"

psql "$DATABASE_URL" -qtAc "select 'drop database ' || datname || ' with (force);' from pg_database where datname like 'lantern_test_%' or datname = 'lantern_story'" | psql "$DATABASE_URL" -q
psql "$DATABASE_URL" -qc "create database lantern_story"
export DATABASE_URL="${DATABASE_URL%/*}/lantern_story"
node build/migrate.mjs
echo "== pages"
from=$SECONDS
web_build
echo "== pages: $((SECONDS - from)) s"
port="${LANTERN_TEST_PORT:-4181}"
export LANTERN_DELIVERED="$data/delivered"
node node_modules/next/dist/bin/next start -H 127.0.0.1 -p "$port" > "$data/web.log" 2>&1 & web=$!
LANTERN_DELIVERS=on node build/worker.mjs worker > "$data/worker.log" 2>&1 & worker=$!
await_web "$web" "$port" "$data/web.log"
export LANTERN_URL="http://127.0.0.1:$port"
step "story in the browser" npx --no-install playwright test
echo "all checks passed in $SECONDS s"
