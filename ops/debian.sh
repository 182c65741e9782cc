#!/bin/sh
# Installs the Debian packages named as arguments that are not installed yet, and says which.
set -eu
missing=""
for package in "$@"; do
    dpkg-query -W -f='${Status}' "$package" 2>/dev/null | grep -q "ok installed" || missing="$missing $package"
done
[ -n "$missing" ] || exit 0
echo "Installing Debian packages:$missing"
as_root=""
if [ "$(id -u)" != 0 ]; then
    command -v sudo >/dev/null || { echo "Please install them as root: apt-get install$missing" >&2; exit 1; }
    as_root=sudo
fi
$as_root apt-get update -qq
# shellcheck disable=SC2086  # a list of package names
DEBIAN_FRONTEND=noninteractive $as_root apt-get install -y -qq --no-install-recommends $missing >/dev/null
