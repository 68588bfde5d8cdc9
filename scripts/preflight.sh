#!/usr/bin/env bash
# Says in one sentence what the machine lacks, before anything fails half-way.
# usage: preflight.sh [python] [node] [chromium] [mosquitto]
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

# Debian packages that only the tests need: what is missing, its program, its packages, how to name another.
need_package() {
  local what=$1 program=$2 packages=$3 instead=$4
  command -v "$program" >/dev/null && return
  local by_hand="as an administrator run: apt-get install ${packages%% *}"
  command -v apt-get >/dev/null || stop "$what is missing and this is no Debian. Install it$instead."
  [ "$(id -u)" = 0 ] || stop "$what is missing and this user may not install it; $by_hand"
  echo "Installing $what for the tests …"
  export DEBIAN_FRONTEND=noninteractive
  # shellcheck disable=SC2086
  { apt-get update -qq && apt-get install -y -qq --no-install-recommends $packages; } >/dev/null 2>&1 \
    || stop "$what could not be installed; $by_hand"
}

need_chromium() {
  need_package Chromium "${EMBER_CHROMIUM:-/usr/bin/chromium}" "chromium fonts-dejavu-core" " and set EMBER_CHROMIUM to its path"
}

# Debian's package brings the program; its service is not needed and is not started by the tests.
need_mosquitto() {
  PATH="$PATH:/usr/sbin" need_package "the MQTT broker Mosquitto" mosquitto mosquitto ""
}

for what in "$@"; do
  case "$what" in
    python | node | chromium | mosquitto) "need_$what" ;;
    *) stop "preflight knows python, node, chromium and mosquitto, not '$what'." ;;
  esac
done
