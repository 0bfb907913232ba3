#!/usr/bin/env bash
# Everything for a look at Rhizome: install, build, serve on 127.0.0.1 with the demo shoot.
source "$(dirname "$0")/setup.sh"
npm run --silent build
exec node build/node/server.js
