#!/usr/bin/env bash
# Write requirements/*.txt anew from *.in, with hashes and without any word of where they came from.
set -euo pipefail
cd "$(dirname "$(readlink -f "$0")")/../../requirements"
venv=$(mktemp -d)
trap 'rm -rf "$venv"' EXIT
../.venv/bin/python -m venv "$venv"
"$venv/bin/pip" install --quiet pip-tools==7.6.2
for kind in base japanese dev; do
  "$venv/bin/pip-compile" --quiet --generate-hashes --strip-extras --no-header --no-emit-index-url --no-emit-find-links \
    --output-file "$kind.txt" "$kind.in"
  sed -i "1i # Locked from $kind.in with hashes; \`./run lock\` writes it anew." "$kind.txt"
done
