#!/usr/bin/env bash
# All checks, with their own set-up: types, lint, import rule, unit tests, browser tests.
source "$(dirname "$0")/setup.sh"
# the browser, and the independent tools that files are held against: command, then Debian's package
missing=()
for pair in chromium:chromium convert:imagemagick exiftool:libimage-exiftool-perl tiffinfo:libtiff-tools exrheader:openexr; do
  command -v "${pair%%:*}" >/dev/null || missing+=("${pair##*:}")
done
if [ ${#missing[@]} -gt 0 ]; then
  if [ "$(id -u)" = 0 ] && command -v apt-get >/dev/null; then
    echo "Installing from Debian, for the tests: ${missing[*]}"
    apt-get update -qq && DEBIAN_FRONTEND=noninteractive apt-get install -y -qq --no-install-recommends "${missing[@]}" >/dev/null
  else
    echo "The tests need some of Debian's packages: sudo apt-get install ${missing[*]}" >&2
    exit 1
  fi
fi
# the queue's server is for the tests of studios alone: without it these are left out by name
if ! command -v redis-server >/dev/null && [ "$(id -u)" = 0 ] && command -v apt-get >/dev/null; then
  echo "Installing from Debian, for the tests: redis-server"
  { apt-get update -qq && DEBIAN_FRONTEND=noninteractive apt-get install -y -qq --no-install-recommends redis-server; } >/dev/null || true
fi
if ! command -v redis-server >/dev/null; then
  echo "redis-server is missing (sudo apt-get install redis-server). Left out:" >&2
  grep -rl --include='*.test.ts' hasQueueServer cli | sed 's/^/  /' >&2
fi
npm run --silent build
echo "== types"; npm run --silent types
echo "== lint"; npm run --silent lint
echo "== imports"; npm run --silent imports
echo "== docs"; npm run --silent docs:check
echo "== unit tests"; npm run --silent test:unit
echo "== browser tests"; npm run --silent test:browser
