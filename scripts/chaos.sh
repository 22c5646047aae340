#!/usr/bin/env bash
# Kills processes at random while the product works, and checks that nothing was lost: npm run chaos -- [kills] [stops].
set -euo pipefail
. "$(dirname "${BASH_SOURCE[0]}")/lib.sh"
cd "$root"
bash scripts/setup.sh
npx --no-install esbuild bench/chaos.ts --bundle --format=cjs --platform=node --target=node20 --packages=external --alias:@=./src --outfile=build/chaos.cjs --log-level=warning
exec node build/chaos.cjs "$@"
