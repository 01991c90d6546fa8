#!/usr/bin/env bash
# Writes requirements/run.txt, dev.txt and engines.txt (dev, and what drives the other browsers) from pyproject.toml:
# every version pinned and hashed, no index address.
# Needs uv (pip install uv) on the path.
set -euo pipefail
cd "$(dirname "$0")/.."
build=$(mktemp --suffix=.in)
trap 'rm -f "$build"' EXIT
echo setuptools > "$build"
flags=(--quiet --python-version 3.11 --generate-hashes --no-emit-index-url --no-header --no-annotate)
uv pip compile "${flags[@]}" pyproject.toml "$build" -o requirements/run.txt
uv pip compile "${flags[@]}" --extra dev pyproject.toml "$build" -o requirements/dev.txt
uv pip compile "${flags[@]}" --extra dev --extra engines pyproject.toml "$build" -o requirements/engines.txt
