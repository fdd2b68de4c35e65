"""What lexicons really take on chips, by the compilers: for bench/weigh and test weigh.

Each lexicon is emitted, compiled with the library for each chip as docs/config.md has it, and linked without the parts that
nothing calls. Flash is text and data, RAM data and bss, with the device's own state and without port, main() and stack.
"""
import json
import os
import re
import subprocess
import sys

ROOT = os.path.dirname(os.path.dirname(os.path.abspath(__file__)))
TRAINED_SHAPES = 300  # of bench/shapes: those behind them are for the test
CHIPS = {
    "cortex_m0": "arm-none-eabi-gcc -mcpu=cortex-m0 -mthumb",
    "cortex_m3": "arm-none-eabi-gcc -mcpu=cortex-m3 -mthumb",
    "avr": "avr-gcc -mmcu=atmega328p -mrelax -fno-move-loop-invariants -fno-tree-loop-optimize",
    "riscv": "riscv64-unknown-elf-gcc -march=rv32imac -mabi=ilp32 -msmall-data-limit=0",
}
FLAGS = "-std=gnu11 -ffreestanding -Os -w -ffunction-sections -fdata-sections -nostdlib -Wl,--gc-sections " \
        "-Wl,--unresolved-symbols=ignore-all -Wl,--no-relax -Wl,-e,main"
MAIN = """
#include "NAME.h"
struct NAME device;
volatile unsigned char port;
int main(void)
{
    unsigned char byte;
    if (NAME_init(&device, (void *)&port, RLX_RESET_POWER)) return 1;
    for (unsigned i = 0; i < NAMES_LINKS; i++) {
        rlx_link_feed(&device.link[i], port);
        rlx_link_fault(&device.link[i]);
        if (rlx_link_take(&device.link[i], &byte)) port = byte;
        FEEDS
    }
    return (int)rlx_poll(&device.device, port) + rlx_idle(&device.device);
}
"""


def emitted(rlx, lexicon, out):
    """Emits it; its name, or None where it has faults."""
    name = re.search(r"^lexicon +([A-Za-z_0-9]+)", open(lexicon).read(), re.M)
    done = subprocess.run([rlx, "emit", lexicon, "-o", out], capture_output=True)
    return name.group(1) if name and done.returncode == 0 else None


def size(compiler, out, name):
    """(flash, RAM) of the program."""
    tool = compiler.split()[0].replace("gcc", "size")
    target = os.path.join(out, "program")
    main = MAIN.replace("NAMES", name.upper()).replace("NAME", name)
    config = open(os.path.join(out, name + "_config.h")).read()
    packets = re.search(r"RLX_HAS_(PACKET|REPORT|MESSAGE) 1", config)
    main = main.replace("FEEDS", "rlx_link_feed_packet(&device.link[i], &byte, 1); rlx_link_sent(&device.link[i]);" if packets else "")
    with open(os.path.join(out, "main.c"), "w") as file:
        file.write(main)
    flags = FLAGS.replace("-Wl,--no-relax ", "") if "relax" in compiler else FLAGS
    command = compiler.split() + flags.split() + [
        "-I" + os.path.join(ROOT, "include"), "-I" + out, "-DRLX_CONFIG=\"%s_config.h\"" % name,
        os.path.join(ROOT, "src/rlx.c"), os.path.join(out, name + ".c"), os.path.join(out, "main.c"), "-lgcc", "-o", target]
    subprocess.run(command, check=True, capture_output=True)
    text, data, bss = subprocess.run([tool, target], check=True, capture_output=True, text=True).stdout.split("\n")[1].split()[:3]
    return int(text) + int(data), int(data) + int(bss)


def measure(rlx, lexicon, chips, out):
    """{chip: (flash, RAM)}, or None where the lexicon has faults."""
    os.makedirs(out, exist_ok=True)
    name = emitted(rlx, lexicon, out)
    if not name:
        return None
    return {chip: size(CHIPS[chip], out, name) for chip in chips}


if __name__ == "__main__":
    print(json.dumps(measure(sys.argv[1], sys.argv[2], sys.argv[4:] or list(CHIPS), sys.argv[3])))
