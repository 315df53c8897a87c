#!/usr/bin/env bash
# Make the environment in VENV from the lock file with hashes; usage: setup.sh PYTHON VENV
set -euo pipefail
python=$1 venv=$2
fits() { # whether the command is there and a Python that is supported
  command -v "$1" >/dev/null && "$1" -c 'import sys; sys.exit(not ((3, 11) <= sys.version_info[:2] <= (3, 14)))' 2>/dev/null
}
if ! fits "$python"; then
  for other in python3.13 python3.12 python3.14 python3.11; do
    if fits "$other"; then
      echo "'$python' is not Python 3.11 to 3.14; taking $other instead."; python=$other; break
    fi
  done
fi
fits "$python" || { echo "Python 3.11 to 3.14 is needed, and none was found. Try: make PYTHON=/path/to/python3 setup" >&2; exit 1; }
if ! "$python" -c 'import ensurepip, venv' 2>/dev/null; then
  if [ "$(id -u)" -eq 0 ] && command -v apt-get >/dev/null; then
    apt-get update -qq && apt-get install -y -qq --no-install-recommends python3-venv >/dev/null
  else
    echo "Python's venv is missing. Run: sudo apt-get install python3-venv" >&2; exit 1
  fi
fi
[ -x "$venv/bin/python" ] || "$python" -m venv "$venv"
"$venv/bin/python" -m pip install --quiet --disable-pip-version-check --require-hashes -r requirements.lock
"$venv/bin/python" -m pip install --quiet --disable-pip-version-check --no-deps --no-build-isolation -e .
touch "$venv/.ready"
