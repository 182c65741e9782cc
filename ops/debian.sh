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
# Another installation on the machine may be at work: wait for it instead of giving up.
wait_for_it="-o DPkg::Lock::Timeout=300"
$as_root apt-get update -qq
# shellcheck disable=SC2086  # lists of words
DEBIAN_FRONTEND=noninteractive $as_root apt-get $wait_for_it install -y -qq --no-install-recommends $missing >/dev/null
