#!/usr/bin/env bash
# What is worth running at every change: types, layout, lint, import rule, and the unit tests that changed files touch.
# npm run check [COMMIT]: changed since that commit; without it, what is not committed yet, or the last commit.
source "$(dirname "$0")/setup.sh"
since="${1:-}"
if [ -z "$since" ]; then
  if git diff --quiet HEAD; then since=HEAD~1; else since=HEAD; fi
fi
[ -f kernels/generated/wasm.ts ] || npm run --silent build:kernels
npm run --silent types &
types=$!
npm run --silent lint
npm run --silent imports
npm run --silent docs:check
wait "$types"
npm run --silent test:unit -- --silent --changedSince "$since" --passWithNoTests
