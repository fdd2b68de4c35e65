/* What a lexicon takes on a chip, before anything is compiled: flash and RAM, and what of it takes
 * how much. The table is made by bench/weigh from what compilers made of some hundred lexicons. */
#ifndef WEIGH_H
#define WEIGH_H

#include "weigh/facts.h"

/* The chips: id, name, what is measured. */
#define WEIGH_CHIPS(X)                                 \
    X(cortex_m0, "Cortex-M0", "arm-none-eabi-gcc -Os") \
    X(cortex_m3, "Cortex-M3", "arm-none-eabi-gcc -Os") \
    X(avr, "AVR", "avr-gcc -Os, ATmega328P")           \
    X(riscv, "RV32", "riscv64-unknown-elf-gcc -Os, RV32IMAC")

enum weigh_chip {
#define CHIP(id, name, by) WEIGH_CHIP_##id,
    WEIGH_CHIPS(CHIP)
#undef CHIP
        WEIGH_N_CHIPS
};

/* Bytes: the tables, the library and the device's state; without port, firmware and stack. */
struct weigh {
    double flash, ram;
};
struct weigh weigh_estimate(enum weigh_chip chip, const double facts[WEIGH_FACTS]);

/* How much less it would be without this feature or built-in word; 0 where it is not there. */
struct weigh weigh_without(enum weigh_chip chip, const double facts[WEIGH_FACTS],
                           enum weigh_fact fact);

/* A term of the table: so many bytes for each unit of the fact, or of the product of two. table.c
 */
struct weigh_term {
    enum weigh_fact a, b; /* b: WEIGH_ONE where it is one alone */
    float bytes[WEIGH_N_CHIPS];
};
extern const struct weigh_term weigh_flash[], weigh_ram[];
extern const unsigned weigh_n_flash, weigh_n_ram;

#endif
