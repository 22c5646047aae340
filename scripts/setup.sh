#!/usr/bin/env bash
# Installs what is missing and builds kernel and command line. Starts nothing. Safe to repeat.
#   setup.sh [--tests]   --tests also installs what the tests need
set -euo pipefail
. "$(dirname "${BASH_SOURCE[0]}")/lib.sh"
cd "$root"
need=()
have() { dpkg -s "$1" >/dev/null 2>&1; }
for p in postgresql ffmpeg; do have "$p" || need+=("$p"); done
if [ "${1:-}" = --tests ]; then for p in chromium openexr openimageio-tools; do have "$p" || need+=("$p"); done; fi
# Debian's packages and node's come from other places: neither waits for the other.
debian=""
if [ "${#need[@]}" -gt 0 ]; then
  [ "$(id -u)" = 0 ] || fail "these Debian packages are missing: ${need[*]}; install them as root"
  echo "installing ${need[*]}"
  export DEBIAN_FRONTEND=noninteractive
  # Debian would start a cluster of its own; ours is the only one wanted.
  mkdir -p /etc/postgresql-common && { [ -f /etc/postgresql-common/createcluster.conf ] || echo 'create_main_cluster = false' > /etc/postgresql-common/createcluster.conf; }
  log="$(mktemp)"
  { apt-get update -qq && apt-get install -y -qq --no-install-recommends "${need[@]}"; } >"$log" 2>&1 & debian=$!
fi
stamp=node_modules/.lantern-lock
modules=0
if [ ! -f "$stamp" ] || ! cmp -s package-lock.json "$stamp"; then
  echo "installing node modules"
  npm ci --include=dev --no-audit --no-fund --loglevel=error >/dev/null && cp package-lock.json "$stamp" || modules=1
fi
if [ -n "$debian" ]; then
  wait "$debian" || { tail -n 5 "$log" >&2; rm -f "$log"; fail "installing ${need[*]} failed"; }
  rm -f "$log"
fi
[ "$modules" = 0 ] || fail "npm ci failed"
node scripts/build-wasm.mjs || fail "the kernel or the filter did not compile"
node scripts/build-node.mjs || fail "the command line did not build"
