#!/usr/bin/env bash
# Says in one sentence what the machine lacks, before anything fails half-way.
# usage: preflight.sh [python] [node] [chromium]
set -u

stop() { echo "Honest Ember: $*" >&2; exit 1; }

need_python() {
  command -v python3 >/dev/null || stop "Python is missing. Install Python 3.11 or newer: apt-get install python3 python3-venv"
  python3 -c 'import sys; sys.exit(sys.version_info < (3, 11))' \
    || stop "Python $(python3 -c 'import platform; print(platform.python_version())') is too old; Python 3.11 or newer is needed."
  python3 -c 'import venv, ensurepip' 2>/dev/null \
    || stop "Python's venv module is missing, so no virtual environment can be made. Install it: apt-get install python3-venv"
}

need_node() {
  command -v node >/dev/null || stop "Node is missing. Install Node 20 or newer; the screens are built with it."
  local version major
  version=$(node --version); major=${version#v}; major=${major%%.*}
  [ "$major" -ge 20 ] 2>/dev/null || stop "Node $version is too old; Node 20 or newer is needed to build the screens."
}

need_chromium() {
  [ -x "${EMBER_CHROMIUM:-/usr/bin/chromium}" ] && return
  local by_hand="as an administrator run: apt-get install chromium"
  command -v apt-get >/dev/null || stop "Chromium is missing and this is no Debian. Install it and set EMBER_CHROMIUM to its path."
  [ "$(id -u)" = 0 ] || stop "Chromium is missing and this user may not install it; $by_hand"
  echo "Installing Chromium for the browser tests …"
  export DEBIAN_FRONTEND=noninteractive
  { apt-get update -qq && apt-get install -y -qq --no-install-recommends chromium fonts-dejavu-core; } >/dev/null 2>&1 \
    || stop "Chromium could not be installed; $by_hand"
}

for what in "$@"; do
  case "$what" in
    python | node | chromium) "need_$what" ;;
    *) stop "preflight knows python, node and chromium, not '$what'." ;;
  esac
done
