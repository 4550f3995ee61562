#!/usr/bin/env bash
# A part of the reliability bench that fits into CI: all fault scenes beside kills, damaged input and random use. What fails is
# told and tried once more: machines of CI are slow at times, and what is broken fails twice. Every child has a time of its
# own; what does not end says where it stands.
# Usage: ci.sh PYTHON
set -u
cd "$(dirname "$0")"
python=$1
log=$(mktemp -d)
seed=${SEED:-1}
failed=0
for k in 1 2; do  # scenes mostly wait, so two rows of them go beside the rest
    "$python" faults.py --quick --part "$k/2" --seed "$seed" > "$log/faults$k" 2>&1 &
    faults[k]=$!
done
part() {
    local name=$1
    shift
    if ! "$python" "$@" --seed "$seed" > "$log/$name" 2>&1; then
        tail -n 40 "$log/$name"
        echo "$name: once more"
        "$python" "$@" --seed "$seed" > "$log/$name" 2>&1 || { failed=1; tail -n 40 "$log/$name"; }
    fi
    grep "^$name: " "$log/$name"
}
part kills kills.py --count 18 --sessions 40 --cli 4 --modes fast keeping saving polite
part fuzz fuzz_readers.py --count 500 --cli 12
part soak soak.py --seconds 120 --edits 400 --decided 40
for k in 1 2; do
    if ! wait "${faults[k]}"; then
        grep "BAD\|x " "$log/faults$k"
        again=$(sed -n 's/^  [0-9]* x \([a-z0-9_]*\):.*/\1/p' "$log/faults$k" | sort -u)
        echo "faults: once more: $again"
        # shellcheck disable=SC2086
        if [ -z "$again" ] || ! "$python" faults.py --quick --seed "$seed" --only $again > "$log/again$k" 2>&1; then
            failed=1
            tail -n 40 "$log/again$k" 2>/dev/null
        fi
    fi
    grep "^faults: " "$log/faults$k"
done
exit $failed
