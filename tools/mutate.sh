#!/bin/bash
# Changes operators, signs and bounds in core/, one at a time, and runs the tests of the package that each stands in:
# prints what they did not notice, and the share that they did, a package a line and in all. mutate.sh [PACKAGE ...]
# A change that the tests never come by counts as not noticed.
set -eu
cd "$(dirname "$0")/.."
tool=github.com/go-gremlins/gremlins/cmd/gremlins@v0.6.0
log=$(mktemp)
trap 'rm -f "$log"' EXIT
noticed=0 all=0
for package in "${@:-core/*/}"; do
  for folder in $package; do
    go run "$tool" unleash "./$folder" --workers 2 --timeout-coefficient 3 >"$log" 2>&1 || { cat "$log"; exit 1; }
    grep -E '^ *(LIVED|NOT COVERED)' "$log" || true
    killed=$(grep -cE '^ *(KILLED|TIMED OUT)' "$log" || true)
    survived=$(grep -cE '^ *(LIVED|NOT COVERED)' "$log" || true)
    noticed=$((noticed + killed)) all=$((all + killed + survived))
    [ $((killed + survived)) -eq 0 ] || echo "$folder: $killed of $((killed + survived)) noticed"
  done
done
[ "$all" -eq 0 ] || echo "in all: $noticed of $all noticed, $((100 * noticed / all)) %"
