#!/usr/bin/env bash
# Measures speed side by side in one run; prints ratios and writes build/bench.json. Never a gate.
set -euo pipefail
. "$(dirname "${BASH_SOURCE[0]}")/lib.sh"
cd "$root"
bash scripts/setup.sh --tests
data="$root/.data/bench"; mkdir -p "$data"
trap 'db_stop "$data"' EXIT
db_start "$data" "${LANTERN_BENCH_PG_PORT:-5482}"
node_bench="build/bench.mjs"
npx --no-install esbuild bench/main.ts --bundle --format=esm --platform=node --target=node20 --packages=external --alias:@=./src --outfile="$node_bench" --log-level=warning
if [ -f /usr/include/embree3/rtcore.h ]; then
  g++ -O3 -march=native -o build/native-rays bench/native/rays.cpp -lembree3 || echo "native yardstick did not compile"
fi
node "$node_bench"
