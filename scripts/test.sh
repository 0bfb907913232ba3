#!/usr/bin/env bash
# All checks, with their own set-up: types, lint, import rule, unit tests, browser tests.
source "$(dirname "$0")/setup.sh"
if ! command -v chromium >/dev/null; then
  if [ "$(id -u)" = 0 ] && command -v apt-get >/dev/null; then
    echo "Installing Debian's chromium for the browser tests"
    apt-get update -qq && DEBIAN_FRONTEND=noninteractive apt-get install -y -qq --no-install-recommends chromium >/dev/null
  else
    echo "The browser tests need Debian's chromium: sudo apt-get install chromium" >&2
    exit 1
  fi
fi
npm run --silent build
echo "== types"; npm run --silent types
echo "== lint"; npm run --silent lint
echo "== imports"; npm run --silent imports
echo "== unit tests"; npm run --silent test:unit
echo "== browser tests"; npm run --silent test:browser
