#!/bin/bash
# Tries every parser with what nobody wrote, each so often or so long (tools/fuzz.sh 10s). Those
# that need a database take that of ITEMRACK_DB_HOST, or are given one.
set -eu
cd "$(dirname "$0")/.."
long=${1:-300000x}
if [ -z "${ITEMRACK_DB_HOST:-}" ]; then
  tools/install.sh mariadb-server
  folder=$(mktemp -d)
  trap 'rm -rf "$folder"' EXIT
  tools/with-mariadb.sh "$folder" 0 tools/fuzz.sh "$long"
  exit
fi
failed=0
while IFS=: read -r file target; do
  go test -run '^$' -fuzz "^${target#func }\$" -fuzztime "$long" -fuzzminimizetime 20x "$(dirname "$file")" || failed=1
done < <(grep -r --include='*_test.go' -o '^func Fuzz[A-Za-z]*' . | sort)
exit $failed
