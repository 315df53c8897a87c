#!/usr/bin/env bash
# Make the environment in VENV from the lock file with hashes; usage: setup.sh PYTHON VENV
set -euo pipefail
python=$1 venv=$2
if ! command -v "$python" >/dev/null; then
  echo "Python 3.11 to 3.13 is needed; '$python' was not found. Try: make PYTHON=python3.11 setup" >&2; exit 1
fi
"$python" - <<'PY' || { echo "Python 3.11, 3.12 or 3.13 is needed. Try: make PYTHON=python3.11 setup" >&2; exit 1; }
import sys
sys.exit(not ((3, 11) <= sys.version_info[:2] <= (3, 13)))
PY
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
