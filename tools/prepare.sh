#!/bin/sh
# Makes .venv with the pinned packages, and the system libraries that Qt needs: installed when root, named otherwise.
set -eu
PYTHON=${PYTHON:-python3}
LIBRARIES="libegl1 libgl1 libxkbcommon0 libxkbcommon-x11-0 libdbus-1-3 libfontconfig1 libfreetype6 libglib2.0-0
libxcb-cursor0 libxcb-icccm4 libxcb-image0 libxcb-keysyms1 libxcb-randr0 libxcb-render-util0 libxcb-shape0
libxcb-xinerama0 libxcb-xfixes0 xvfb"

missing=""
if command -v dpkg-query >/dev/null 2>&1; then
    for package in $LIBRARIES; do
        dpkg-query -W -f='${Status}' "$package" 2>/dev/null | grep -q 'ok installed' || missing="$missing $package"
    done
    "$PYTHON" -c 'import ensurepip' 2>/dev/null || missing="$missing python3-venv"
fi
if [ -n "$missing" ]; then
    if [ "$(id -u)" = 0 ]; then
        echo "Installing system libraries:$missing"
        DEBIAN_FRONTEND=noninteractive apt-get -o DPkg::Lock::Timeout=300 update -qq
        # shellcheck disable=SC2086
        DEBIAN_FRONTEND=noninteractive apt-get -o DPkg::Lock::Timeout=300 install -y -qq --no-install-recommends $missing >/dev/null
    else
        echo "System libraries are missing. Run this line, then try again:" >&2
        echo "  sudo apt-get update && sudo apt-get install -y --no-install-recommends$missing" >&2
        exit 1
    fi
fi
"$PYTHON" -c 'import sys; sys.exit(sys.version_info < (3, 11))' || { echo "Hypsos needs Python 3.11 or newer." >&2; exit 1; }
echo "Preparing Hypsos, once: a minute or two on the first run."
[ -x .venv/bin/python ] || { echo "1 of 3: making .venv"; "$PYTHON" -m venv .venv; }
echo "2 of 3: installing the pinned packages into .venv (about 640 MB on the disk)"
offline() { echo "The pinned packages cannot be had. Is there a network? Nothing else was changed; try again then." >&2; exit 1; }
.venv/bin/python -m pip install -q --disable-pip-version-check -c constraints.txt setuptools wheel >.venv/pip.log 2>&1 || offline
.venv/bin/python -m pip install --progress-bar off -c constraints.txt --no-build-isolation -e '.[test]' 2>>.venv/pip.log |
    sed -n 's/^Collecting \([^ =<>!~;]*\).*/    \1/p; s/^Installing collected packages.*/    putting them in place/p'
.venv/bin/python -c 'import PyQt6.QtWidgets, numpy, pydantic' 2>>.venv/pip.log || offline
echo "3 of 3: compiling"
.venv/bin/python -m compileall -q src
echo "Ready."
