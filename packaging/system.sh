#!/usr/bin/env bash
# Install what packaging/apt.txt (or the list that is named) has and the machine lacks. Without apt it only says what it would need.
set -eu
list="${1:-$(dirname "$0")/apt.txt}"
missing=()
while read -r name; do
  case "$name" in ""|\#*) continue ;; esac
  dpkg-query -W -f='${Status}' "$name" 2>/dev/null | grep -q '^install ok installed' || missing+=("$name")
done < "$list"
[ ${#missing[@]} -eq 0 ] && exit 0
if ! command -v apt-get >/dev/null; then
  echo "These Debian packages (or what your system calls them) are needed: ${missing[*]}" >&2
  exit 0
fi
as_root=""
[ "$(id -u)" = 0 ] || as_root=sudo
echo "Installing system libraries: ${missing[*]}"
$as_root apt-get update -qq
DEBIAN_FRONTEND=noninteractive $as_root apt-get install -y -qq --no-install-recommends "${missing[@]}"
