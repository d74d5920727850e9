#!/bin/sh
# Installs the Debian packages named as arguments where they are missing; without root it says what to install.
set -eu
missing=""
for name in "$@"; do
    dpkg-query -W -f='${Status}' "$name" 2>/dev/null | grep -q "install ok installed" || missing="$missing $name"
done
[ -z "$missing" ] && exit 0
if [ "$(id -u)" -ne 0 ]; then
    echo "Glintor needs these system packages. Nothing was changed. Please run:" >&2
    echo "    sudo apt-get install$missing" >&2
    exit 1
fi
apt-get update -qq
# shellcheck disable=SC2086
DEBIAN_FRONTEND=noninteractive apt-get install -y -qq --no-install-recommends $missing >/dev/null
