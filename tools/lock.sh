#!/usr/bin/env bash
# Solves the dependencies anew into requirements/*.lock, with hashes, for every Python that Ondine runs on.
set -euo pipefail
cd "$(dirname "${BASH_SOURCE[0]}")/.."
uv=${1:-uv}
solve() { "$uv" pip compile --quiet --universal --python-version 3.11 --generate-hashes --no-emit-index-url --no-header --no-annotate "$@"; }
solve --group build -o requirements/build.lock
solve pyproject.toml -o requirements/run.lock
solve pyproject.toml --group dev -o requirements/dev.lock
