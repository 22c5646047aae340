#!/usr/bin/env bash
# Measures speed side by side in one run, all of it or the sections that are named; prints ratios and writes build/bench.json. Never a gate.
set -euo pipefail
. "$(dirname "${BASH_SOURCE[0]}")/lib.sh"
cd "$root"
bash scripts/setup.sh --tests
data="$root/.data/bench"; mkdir -p "$data"
web=""; worker=""
finish() { end_process "$worker"; end_process "$web"; db_stop "$data"; }
trap 'finish; exit 130' INT TERM
trap finish EXIT
db_start "$data" "${LANTERN_BENCH_PG_PORT:-5482}"
psql "$DATABASE_URL" -qc "drop database if exists lantern_bench with (force)"
psql "$DATABASE_URL" -qc "create database lantern_bench"
export DATABASE_URL="${DATABASE_URL%/*}/lantern_bench"
node build/migrate.mjs
web_build
npx --no-install esbuild bench/main.ts --bundle --format=esm --platform=node --target=node20 --packages=external --alias:@=./src --outfile=build/bench.mjs --log-level=warning
if [ -f /usr/include/embree3/rtcore.h ]; then
  g++ -O3 -march=native -o build/native-rays bench/native/rays.cpp -lembree3 || echo "the native yardstick did not compile"
fi
port="${LANTERN_BENCH_PORT:-4182}"
node node_modules/next/dist/bin/next start -H 127.0.0.1 -p "$port" > "$data/web.log" 2>&1 & web=$!
node build/worker.mjs worker > "$data/worker.log" 2>&1 & worker=$!
await_web "$web" "$port" "$data/web.log"
export LANTERN_URL="http://127.0.0.1:$port"
node --expose-gc build/bench.mjs "$@"
