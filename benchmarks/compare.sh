#!/usr/bin/env bash
# CPU seconds and memory of whole processes, as medians and ratios in one interleaved run, against loops that do the bare work.
# Needs an environment with Rivelt installed.
set -euo pipefail
here=$(cd "$(dirname "$0")" && pwd)
work=$(mktemp -d)
trap 'rm -rf "$work"' EXIT
runs=${RUNS:-5}
cpu() { python "$here/cpu.py" --runs "$runs" "$@"; }

rivelt demo --quiet "$work/demo"
cd "$work/demo"
rivelt plates --quiet --out "$work/plates"
python "$here/plain_screens.py" rivelt.toml "$work/scenes"

echo "Start-up"
cpu "import typer=python -c 'import typer'" "rivelt --help=rivelt --help"
echo "The plates of the demo: all targets, both looks, two editions"
cpu "plain pyvips loop=python $here/plain_loop.py art $work/plates $work/plain" "rivelt plates=rivelt plates --quiet --out $work/plates"
echo "Its proof: every screen, on a sheet and on a page"
cpu "plain pyvips loop=python $here/plain_screens.py $work/scenes" "rivelt proof=rivelt proof --quiet --out $work/proof.png" \
  "rivelt proof, a page=rivelt proof --quiet --out $work/proof.html"
echo "The rest, of a project in which all is applied"
cpu "rivelt survey=rivelt survey --quiet" "rivelt check=rivelt check --quiet" "rivelt check --planned=rivelt check --quiet --planned" \
  "rivelt apply (nothing is new)=rivelt apply --quiet"
rivelt undo --quiet
echo "And before"
cpu "rivelt apply --dry-run (all is new)=rivelt apply --quiet --dry-run" "rivelt check --planned=rivelt check --quiet --planned"
