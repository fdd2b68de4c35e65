#!/usr/bin/env bash
# qemu.sh TEST NM ELF DIAL: runs the test with the addresses of link 0's ring and of its count of lost bytes,
# whose offsets are symbols of the program, and of the dial's count of pulses.
set -euo pipefail
at() { "$2" "$3" | awk -v name="$1" '$3 == name { print $1 }'; }
tank=$(at tank "$2" "$3") lost=$(at rx_lost_offset "$2" "$3") head=$(at rx_head_offset "$2" "$3")
RX_LOST_AT=$(printf '%x' $((0x$tank + 0x$lost)))
RX_HEAD_AT=$(printf '%x' $((0x$tank + 0x$head)))
PULSES_AT=$(at pulses "$2" "$4")
export RX_LOST_AT RX_HEAD_AT PULSES_AT
exec "$1"
