# What bench/figures and bench/ratchet share. Sourced; ends in the repository's root.
set -euo pipefail
root=$(cd "$(dirname "${BASH_SOURCE[0]}")/.." && pwd)
cd "$root"
. packaging/packages.sh
# shellcheck disable=SC2086
packages $BUILD_PACKAGES $CHECK_PACKAGES $FIGURE_PACKAGES
work=${RLX_BENCH:-build/bench}
work=${work#"$root/"}
mkdir -p "$work"
tools=${RLX_TOOLS:-$root/build/release/bin} # rlx and variants
if [ -z "${RLX_TOOLS:-}" ] && ! { cmake --preset release && cmake --build --preset release --target rlx variants; } >$work/build.log 2>&1; then
    tail -n 20 $work/build.log
    exit 1
fi
rlx=$tools/rlx variants=$tools/variants
hand="chain table table1 switch switch1" ours="exact any" # table1: table and front end in one file
includes="-I$root/bench -I$root/include -I. -std=gnu11 -Wall -Wextra -ffunction-sections -fdata-sections"

make_set() { # N
    local m
    mkdir -p $work/"$1"
    $variants "$1" $work/"$1"
    sed 's/"chain.h"/"poor.h"/' $work/"$1"/chain.c >$work/"$1"/poor.c
    for m in table switch; do
        printf '#include "%s.c"\n#include "%s"\n' $m "$root/bench/hand.c" >$work/"$1"/${m}1.c
    done
    for m in $ours short; do $rlx emit $work/"$1"/$m.lexicon -o $work/"$1"/$m >/dev/null; done
}

# The files and defines of a parser.
files() {
    case $1 in
    chain) echo "-DHAND -DCHAIN chain.c $root/bench/hand.c" ;;
    table | switch) echo "-DHAND $1.c $root/bench/hand.c" ;;
    table1 | switch1 | poor) echo "-DHAND $1.c" ;;
    *) echo "-I$1 -DRLX_CONFIG=\"bench_config.h\" $1/bench.c $root/src/rlx.c" ;;
    esac
}

compile() { # compiler and its options, parser, main, output
    # shellcheck disable=SC2046,SC2086
    $1 $includes $(files "$2") handlers.c "$3" -Wl,--gc-sections -o "$4" 2>$root/$work/compile.log ||
        { cat $root/$work/compile.log; exit 1; }
}

m0="arm-none-eabi-gcc -mcpu=cortex-m0 -mthumb -Os"
m0_link="-nostartfiles -Wl,--defsym=end=bss_end -specs=nano.specs -specs=nosys.specs -T $root/ports/cortex_m0/nrf51.ld $root/ports/cortex_m0/start.c"
# docs/config.md tells of these options.
avr="avr-gcc -mmcu=atmega328p -Os -mrelax -fno-move-loop-invariants -fno-tree-loop-optimize"
measured='-DRLX_MEASURED=__attribute__((noinline))'

# Flash and RAM that a parser adds: the program with it, less the same without, less the handlers.
weigh() { # compiler, parser, size tool, options for the link -> "flash ram"
    local hand=-DHAND
    case $2 in exact | any | short) hand="-I$2 -DRLX_CONFIG=\"bench_config.h\"" ;; esac
    compile "$1 $4 -Wl,-u,interrupt" "$2" "$root/bench/size.c" "w_$2"
    # shellcheck disable=SC2086
    $1 $includes $hand -c handlers.c -o handlers.o
    # shellcheck disable=SC2086
    $1 $includes -DNOTHING $4 "$root/bench/size.c" -Wl,--gc-sections -Wl,-u,interrupt -o nothing
    { $3 "w_$2"; $3 nothing; $3 handlers.o; } | awk '
        BEGIN { n = 0 }
        /text/ { next }
        { flash[n] = $1 + $2; ram[n++] = $2 + $3 }
        END { print flash[0] - flash[1] - flash[2], ram[0] - ram[1] - ram[2] }'
}
