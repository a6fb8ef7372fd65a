#!/usr/bin/env bash
# Whole-process times as ratios in one run. Needs hyperfine and an environment with Rivelt installed.
set -euo pipefail
here=$(cd "$(dirname "$0")" && pwd)
work=$(mktemp -d)
trap 'rm -rf "$work"' EXIT
rivelt demo --quiet "$work/demo"

hyperfine --shell=none --warmup 3 --runs 20 \
  --command-name "plain pyvips loop" "python $here/plain_loop.py $work/demo/art $work/plain" \
  --command-name "rivelt plates" "rivelt plates --quiet $work/demo/rivelt.toml --out $work/plates"
hyperfine --shell=none --warmup 3 --runs 20 \
  --command-name "import typer" "python -c 'import typer'" \
  --command-name "rivelt --help" "rivelt --help"
