#!/bin/bash
# Starts a private MariaDB and the program with the demo shop. --fresh starts over.
set -eu
cd "$(dirname "$0")/.."
[ "${1:-}" = --fresh ] && rm -rf .data/demo
tools/install.sh mariadb-server
CGO_ENABLED=0 go build -o bin/itemrack ./cmd/itemrack
ITEMRACK_LOG=${ITEMRACK_LOG:-warn} exec tools/with-mariadb.sh .data/demo 0 bin/itemrack demo
