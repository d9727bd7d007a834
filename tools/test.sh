#!/bin/bash
# Runs every test against a MariaDB of its own and leaves no process behind: packages
# side by side, and then those in the browser, jobs side by side. "bench" runs the
# benchmarks instead; tools/fuzz.sh tries the parsers with what nobody wrote.
set -eu
cd "$(dirname "$0")/.."
tools/install.sh mariadb-server chromium-headless-shell zbar-tools dmtx-utils poppler-utils qpdf
# in memory where there is room: what the tests write need not outlive them
folder=
if [ "$(df --output=avail -k /dev/shm 2>/dev/null | tail -n 1)" -gt 4000000 ] 2>/dev/null; then
  folder=$(mktemp -d -p /dev/shm)
else
  folder=$(mktemp -d)
fi
trap 'rm -rf "$folder"' EXIT
if [ "${1:-}" = bench ]; then
  tools/with-mariadb.sh "$folder" 0 go test -run "^$" -bench . -benchtime 3s -timeout 30m ./shop/register ./shop/lists ./web ./e2e
  exit
fi
# one way of building for all: whatever is above the network would be compiled twice
export CGO_ENABLED=0
unformatted=$(gofmt -l cmd core demo device e2e sheet shop store web)
if [ -n "$unformatted" ]; then
  echo "not formatted: $unformatted" >&2
  exit 1
fi
go mod tidy -diff
go vet ./...
go tool staticcheck ./...
command -v node >/dev/null || tools/install.sh nodejs
node --test web/kit/
go build -o bin/itemrack ./cmd/itemrack
# what the tests write need not outlive the machine
export ITEMRACK_DB_FLAGS="--innodb-flush-log-at-trx-commit=0 --innodb-doublewrite=0 --innodb-flush-method=nosync"
if [ $# -gt 0 ]; then
  tools/with-mariadb.sh "$folder" 0 go test -p 1 -timeout 14m "$@"
  exit
fi
# what takes longest begins first
tools/with-mariadb.sh "$folder" 0 bash -c '
  go test -p 3 -timeout 14m ./web ./demo ./device $(go list ./... | grep -v -e /e2e -e "/web$" -e "/demo$" -e "/device$") &&
  go test -timeout 14m -parallel 4 ./e2e'
