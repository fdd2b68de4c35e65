/* The world file: what the links go through. One statement a line, like a lexicon:
 *     seed 7
 *     cable bench  baud 19200  noise 1/2000  lost 1%  twice 1%  open | crossed | no answers
 *     air skiff  bits 50000  loss 20%  twice 10%  late 20% by 60ms  errors 1/10000  duty 1%
 *     controller shore on skiff  from 1  tries 4  pause 200ms
 *     after 10s  cable bench  noise 0%
 *     after 12s  reset brownout
 * docs/world.md tells it. */
#ifndef WORLD_FILE_H
#define WORLD_FILE_H

#include "lexicon.h"
#include "rlx/error.h"
#include "radio.h"
#include "sampler.h"

struct world_link {
    uint64_t at_us; /* from this time on */
    unsigned link;  /* its number in the lexicon */
    bool is_air;
    struct faults faults;
    struct air air;
};

struct world_controller {
    char *name;
    unsigned link, from, tries;
    uint32_t pause_ms;
};

/* The device starts anew. */
struct world_reset {
    uint64_t at_us;
    enum rlx_reset cause;
};

struct world_file {
    uint32_t seed;
    GArray *links;       /* struct world_link, in the order of the file */
    GArray *controllers; /* struct world_controller */
    GArray *resets;      /* struct world_reset */
    const struct lexicon *lx;
    struct lexicon *read; /* whose faults are those of the file */
};

/* NULL where it cannot be read at all; otherwise its faults are in file->read. */
struct world_file *world_file_read(const char *file, const struct lexicon *lx, GError **error);
void world_file_free(struct world_file *file);

#endif
