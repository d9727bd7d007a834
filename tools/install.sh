#!/bin/bash
# Installs the named Debian packages that are missing, without leaving a system
# service running: install.sh PACKAGE ...
set -eu
missing=()
for package in "$@"; do dpkg -s "$package" >/dev/null 2>&1 || missing+=("$package"); done
[ ${#missing[@]} -eq 0 ] && exit 0
echo "Installing ${missing[*]} …"
sudo=
[ "$(id -u)" = 0 ] || sudo=sudo
policy=/usr/sbin/policy-rc.d
made=
if [ ! -e $policy ]; then
  printf '#!/bin/sh\nexit 101\n' | $sudo tee $policy >/dev/null
  $sudo chmod +x $policy
  made=1
fi
trap '[ -z "$made" ] || $sudo rm -f $policy' EXIT
log=$(mktemp)
if ! { $sudo apt-get update && $sudo env DEBIAN_FRONTEND=noninteractive apt-get install -y --no-install-recommends "${missing[@]}"; } >"$log" 2>&1; then
  tail -n 20 "$log" >&2
  echo "Could not install ${missing[*]}." >&2
  exit 1
fi
rm -f "$log"
