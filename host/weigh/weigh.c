/* Estimates flash and RAM of a lexicon's firmware on a chip.
 * A sum over the table's terms.
 * It compiles nothing, and knows nothing of ports and stacks. */
#include "weigh/weigh.h"

#include <string.h>

static double sum(const struct weigh_term *terms, unsigned n, enum weigh_chip chip,
                  const double facts[WEIGH_FACTS])
{
    double bytes = 0;
    for (unsigned i = 0; i < n; i++)
        bytes += (double)terms[i].bytes[chip] * facts[terms[i].a] * facts[terms[i].b];
    return MAX(bytes, 0);
}

struct weigh weigh_estimate(enum weigh_chip chip, const double facts[WEIGH_FACTS])
{
    return (struct weigh){sum(weigh_flash, weigh_n_flash, chip, facts),
                          sum(weigh_ram, weigh_n_ram, chip, facts)};
}

struct weigh weigh_without(enum weigh_chip chip, const double facts[WEIGH_FACTS],
                           enum weigh_fact fact)
{
    double less[WEIGH_FACTS];
    memcpy(less, facts, sizeof less);
    less[fact] = 0;
    struct weigh all = weigh_estimate(chip, facts), rest = weigh_estimate(chip, less);
    return (struct weigh){MAX(all.flash - rest.flash, 0), MAX(all.ram - rest.ram, 0)};
}
