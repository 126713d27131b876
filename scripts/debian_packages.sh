#!/usr/bin/env bash
# Installs the named Debian packages where they are missing; without root prints the one line to run.
set -euo pipefail
missing=()
for name in "$@"; do dpkg -s "$name" >/dev/null 2>&1 || missing+=("$name"); done
[ ${#missing[@]} -eq 0 ] && exit 0
if [ "$(id -u)" -ne 0 ]; then
  echo "Please run: sudo apt-get update && sudo apt-get install -y --no-install-recommends ${missing[*]}" >&2
  exit 1
fi
apt-get update -qq
DEBIAN_FRONTEND=noninteractive apt-get install -y -qq --no-install-recommends "${missing[@]}" >/dev/null
