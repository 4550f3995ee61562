#!/usr/bin/env bash
# A part of the reliability bench that fits into CI: all fault scenes beside kills, damaged input and random use.
# Usage: ci.sh PYTHON
set -u
cd "$(dirname "$0")"
python=$1
log=$(mktemp -d)
"$python" faults.py --quick --seed "${SEED:-1}" > "$log/faults" 2>&1 &
faults=$!
failed=0
part() {
    local name=$1
    shift
    "$python" "$@" --seed "${SEED:-1}" > "$log/$name" 2>&1 || { failed=1; tail -n 40 "$log/$name"; }
    grep "^$name: " "$log/$name"
}
part kills kills.py --count 30 --sessions 200 --cli 4 --modes fast keeping saving polite
part fuzz fuzz_readers.py --count 500 --cli 12
part soak soak.py --seconds 120 --edits 400 --decided 40
wait "$faults" || { failed=1; grep "BAD\|x " "$log/faults"; }
grep "^faults: " "$log/faults"
exit $failed
