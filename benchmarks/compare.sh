#!/usr/bin/env bash
# Whole-process times as ratios in one run. Needs hyperfine and an environment with Rivelt installed.
set -euo pipefail
here=$(cd "$(dirname "$0")" && pwd)
work=$(mktemp -d)
trap 'rm -rf "$work"' EXIT
rivelt demo --quiet "$work/demo"
rivelt undo --quiet > /dev/null 2>&1 || true
(cd "$work/demo" && rivelt undo --quiet)
rivelt plates --quiet "$work/demo/rivelt.toml" --out "$work/plates"

# The whole demo: all targets, both looks.
hyperfine --shell=none --warmup 1 --runs "${RUNS:-8}" \
  --command-name "plain pyvips loop" "python $here/plain_loop.py $work/demo/art $work/plates $work/plain" \
  --command-name "rivelt plates" "rivelt plates --quiet $work/demo/rivelt.toml --out $work/plates" \
  --command-name "rivelt apply --dry-run (all is new)" "rivelt apply --quiet --dry-run $work/demo/rivelt.toml" --ignore-failure
(cd "$work/demo" && rivelt apply --quiet)
hyperfine --shell=none --warmup 1 --runs "${RUNS:-8}" \
  --command-name "rivelt apply (nothing is new)" "rivelt apply --quiet $work/demo/rivelt.toml"
hyperfine --shell=none --warmup 3 --runs 20 \
  --command-name "import typer" "python -c 'import typer'" \
  --command-name "rivelt --help" "rivelt --help"
