#!/usr/bin/env bash
# Installs what is missing, and says what it does: Debian packages (where that is allowed) and a virtual environment
# with pinned, hashed requirements. `setup.sh run` for the demo and the command line, `setup.sh dev` for tests as well,
# `setup.sh engines` for the tests in other browsers, too.
set -euo pipefail
cd "$(dirname "$0")/.."
kind=${1:-run}

python=$(command -v python3.11 || command -v python3 || true)
[ -n "$python" ] && "$python" -c 'import sys; sys.exit(sys.version_info < (3, 11))' || {
  echo "Python 3.11 or later is needed; install it (Debian: apt-get install python3 python3-venv)." >&2; exit 1; }

missing=()
ls /usr/lib/postgresql/*/bin/initdb >/dev/null 2>&1 || command -v initdb >/dev/null || [ -n "${DATABASE_URL:-}" ] || missing+=(postgresql)
# The PDF of a proof sheet is set by Pango.
# Asked once: in a pipe, grep may close it on ldconfig and so find nothing.
libraries=$(/sbin/ldconfig -p 2>/dev/null || true)
for library in libpango-1.0-0:libpango-1.0.so.0 libpangoft2-1.0-0:libpangoft2-1.0.so.0 libharfbuzz-subset0:libharfbuzz-subset.so.0; do
  [[ $libraries == *"${library#*:}"* ]] || missing+=("${library%:*}")
done
# Labels of units are read by a text recogniser: English and Spanish.
command -v tesseract >/dev/null || missing+=(tesseract-ocr tesseract-ocr-eng)
ls /usr/share/tesseract-ocr/*/tessdata/spa.traineddata >/dev/null 2>&1 || missing+=(tesseract-ocr-spa)
if [ "$kind" = engines ]; then
  command -v firefox-esr >/dev/null || missing+=(firefox-esr)
  command -v WebKitWebDriver >/dev/null || missing+=(webkit2gtk-driver)
  command -v Xvfb >/dev/null || missing+=(xvfb)
fi
if [ "$kind" != run ]; then
  [ -x /usr/bin/chromium-headless-shell ] || [ -x /usr/bin/chromium ] || missing+=(chromium-headless-shell)
  [ -x /usr/sbin/nginx ] || missing+=(nginx)
  [ -x /usr/sbin/pgbouncer ] || missing+=(pgbouncer)
  ls /usr/share/fonts/truetype/dejavu/*.ttf >/dev/null 2>&1 || missing+=(fonts-dejavu-core)
  # Playwright's own driver is linked against it; a bare Debian does not have it.
  [[ $libraries == *libatomic.so.1* ]] || missing+=(libatomic1)
fi
if [ ${#missing[@]} -gt 0 ]; then
  as_root=()
  if [ "$(id -u)" != 0 ]; then
    if command -v sudo >/dev/null && sudo -n true 2>/dev/null; then as_root=(sudo); else
      echo "Missing: ${missing[*]}. Installing them needs root; ask for:" >&2
      echo "    apt-get install ${missing[*]}" >&2
      echo "or point DATABASE_URL and DATABASE_OWNER_URL at a PostgreSQL 15 or later." >&2
      exit 1
    fi
  fi
  echo "Installing ${missing[*]} ..."
  log=$(mktemp)
  { "${as_root[@]}" apt-get update && DEBIAN_FRONTEND=noninteractive "${as_root[@]}" apt-get install -y --no-install-recommends "${missing[@]}"; } >"$log" 2>&1 \
    || { tail -20 "$log" >&2; echo "Could not install ${missing[*]}; see above." >&2; exit 1; }
  rm -f "$log"
fi

# The stamp names what is installed: an environment made half, for other pins or at another place is made again.
wanted=$(cat "requirements/$kind.txt" pyproject.toml <(pwd) <("$python" -V) | sha256sum | cut -d' ' -f1)
installed=$(cat .venv/installed-"$kind" 2>/dev/null || true)
if [ "$wanted" != "$installed" ]; then
  [ -x .venv/bin/python ] && [ "$(.venv/bin/python -c 'import sys; print(sys.prefix)' 2>/dev/null)" = "$(pwd)/.venv" ] || rm -rf .venv
  if [ ! -d .venv ]; then
    "$python" -m venv .venv || { echo "Python's venv module is missing (Debian: apt-get install python3-venv)." >&2; exit 1; }
  fi
  echo "Installing Python packages (about a minute) ..."
  .venv/bin/pip install -q --disable-pip-version-check --require-hashes -r "requirements/$kind.txt" 2> >(grep -vE "^WARNING: Location|DEPRECATION" >&2)
  .venv/bin/pip install -q --disable-pip-version-check --no-build-isolation --no-deps -e . 2> >(grep -vE "^WARNING: Location|DEPRECATION" >&2)
  echo "$wanted" > .venv/installed-"$kind"
fi
# Where the environment keeps Python from writing bytecode, each process would compile all of ours anew: a second every time.
.venv/bin/python -m compileall -q src || true
