#!/usr/bin/env bash
# qemu.sh TEST NM ELF: runs the test with the address of link 0's count of lost bytes, which a constant
# in the program holds as an offset.
set -euo pipefail
at() { "$2" "$3" | awk -v name="$1" '$3 == name { print $1 }'; }
tank=$(at tank "$2" "$3") offset=$(at rx_lost_offset "$2" "$3")
RX_LOST_AT=$(printf '%x' $((0x$tank + 0x$offset)))
export RX_LOST_AT
exec "$1"
