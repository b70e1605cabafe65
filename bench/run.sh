#!/usr/bin/env bash
# The figures of Run, in one go: how far the tool travels in the air against a routing solver, the time and the way of the stand-in against the plan, how few tools
# are changed, what infill covers, and runs in which anything goes wrong. On seeds that nobody tuned with; takes about an hour.
# Usage: bench/run.sh [seed]
set -euo pipefail
cd "$(dirname "${BASH_SOURCE[0]}")/.."
seed=${1:-$RANDOM$RANDOM}
echo "seed $seed"
dotnet run -c Release --project bench/travel -- 60 "$seed" 20
dotnet run -c Release --project bench/travel -- 60 "$seed" 10 2
FALZKUNST_SHEETS=60@$seed ./test web Takes_the_time
./test core No_way_through_the_sheets
./test core No_split_into_rounds
FALZKUNST_INFILLS=400@$seed ./test core Fills_what
FALZKUNST_FAULTS=1000@$seed ./test web Whatever_goes_wrong
./test browser running
