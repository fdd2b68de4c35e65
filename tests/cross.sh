#!/usr/bin/env bash
# The chip side for three chips: freestanding, warnings as errors, no C library but mem...(). With
# every feature, and with those of the tide tank alone, together with its emitted tables.
set -uo pipefail
cd "$(dirname "$0")/.."
out=${1:-build/dev}/cross
emitted=${1:-build/dev}/examples/tide_tank_emitted
passed=0 failed=0
verdict() { # ok? what
    if [ "$1" = 0 ]; then passed=$((passed + 1)); else failed=$((failed + 1)); echo "FAIL $2"; fi
}

build() { # chip, prefix, options, variant, defines
    local dir=$out/$1/$4 cc=$2gcc file bad
    rm -rf "$dir" && mkdir -p "$dir"
    for file in src/*/*.c ${6:-}; do
        # shellcheck disable=SC2086
        $cc $3 -std=c11 -ffreestanding -Os -Wall -Wextra -Wconversion -Werror -ffunction-sections \
            -fdata-sections -Iinclude $5 -c "$file" -o "$dir/$(basename "$file" .c).o" || return 1
    done
    # shellcheck disable=SC2086
    $cc $3 -nostdlib -r "$dir"/*.o -o "$dir/all.elf" || return 1
    # shellcheck disable=SC2046
    set -- "$1" "$4" $("$2size" "$dir/all.elf" | tail -n 1)
    printf '%-10s %-9s %6d %6d %6d\n' "$1" "$2" "$3" "$4" "$5"
}

strangers() { # undefined symbols that neither the port nor the compiler brings
    "$1nm" -u "$2" | awk '{print $NF}' |
        grep -vE '^(rlx_port_[a-z_]+|memcpy|memset|memmove|memcmp|__.*|tidetank_[a-z_]+)$'
}

printf '%-10s %-9s %6s %6s %6s   (bytes, -Os)\n' chip build text data bss
while read -r chip prefix options; do
    for variant in full stripped; do
        if [ $variant = full ]; then set -- "" ""; else set -- "-I$emitted -DRLX_CONFIG=\"tidetank_config.h\"" $emitted/tidetank.c; fi
        build "$chip" "$prefix" "$options" $variant "$1" "$2"
        verdict $? "$chip $variant does not compile"
        bad=$(strangers "$prefix" $out/"$chip"/$variant/all.elf)
        [ -z "$bad" ]
        verdict $? "$chip $variant needs: $bad"
    done
done <<'CHIPS'
cortex-m0 arm-none-eabi- -mcpu=cortex-m0 -mthumb
avr avr- -mmcu=atmega328p
riscv32 riscv64-unknown-elf- -march=rv32imc -mabi=ilp32
CHIPS
echo "$passed passed, $failed failed"
[ $failed -eq 0 ]
