/* The world file: what the links go through, and who else is there. One statement a line, like a
 * lexicon:
 *     seed 7
 *     device two lexicon "weir.lexicon" firmware "build/weir"
 *     wire bench to two.bench
 *     cable bench  baud 19200  noise 1/2000  loss 1%  duplicate 1%  open | crossed | no answers
 *     air skiff  with two.skiff  bits 50000  loss 20%  duplicate 10%  delay 20% by 60ms
 *     controller shore on skiff  from 1  tries 4  pause 200ms
 *     push door on
 *     after 10s  cable bench  noise 0%
 *     after 12s  reset brownout
 * docs/world.md describes it. */
#ifndef WORLD_FILE_H
#define WORLD_FILE_H

#include "world/media/hop.h"
#include "lexicon/write/table_image.h"
#include "lexicon/model.h"
#include "world/modem/modem.h"
#include "world/media/radio.h"
#include "world/media/reports.h"
#include "rlx/error.h"
#include "world/media/sampler.h"

/* A device beside the one that is talked to. */
struct world_device {
    char *name, *firmware; /* firmware: NULL: the lexicon's own tables */
    struct lexicon *lx;
    struct image *image;
};

/* A link of a device: 0 is the one that is talked to, 1 the first of the file. */
struct world_place {
    unsigned device, link;
};

enum world_what {
    WORLD_CABLE,
    WORLD_MODEM,
    WORLD_AIR,
    WORLD_REPORTS,
    WORLD_SMS,
    WORLD_CONNECT,
    WORLD_LEAVE,
    WORLD_RESET,
    WORLD_PUSH
};

/* A modem for text messages, and its network. */
struct world_sms {
    struct sms_manner manner;
    struct network_faults faults;
    bool off, resets;
};

/* What is so from a time on. */
struct world_change {
    uint64_t at_us;
    enum world_what what;
    struct world_place place;
    struct faults faults;
    struct modem modem;
    struct air air;
    struct port_manner reports;
    struct world_sms sms;
    struct {
        char *name, *code;
    } connect;
    enum rlx_reset cause;
    const struct lex_input *input; /* of WORLD_PUSH */
    bool on;
};

/* Two links of different devices on one cable, or in one air. */
struct world_join {
    struct world_place a, b;
};

struct world_controller {
    char *name;
    struct world_place place;
    unsigned from, tries;
    uint32_t pause_ms;
    bool one_way, all;
    bool attacker; /* it only has a name and a place */
};

/* A wireless bridge in range. */
struct world_bridge {
    char *name, *code; /* code: "" where anybody may connect */
    bool stranger;     /* of no device here */
    struct world_place place;
    uint32_t notices_us; /* that nobody is there any more */
};

/* What shares a line with the firmware, from power-up or a reset on. */
struct world_loader {
    struct world_place place;
    char *says, *hears;
    unsigned baud; /* 0: the link's */
    uint32_t for_us;
};

struct world_file {
    uint32_t seed;
    GPtrArray *devices;   /* struct world_device * */
    GArray *changes;      /* struct world_change, in the order of the file */
    GArray *wires, *airs; /* struct world_join */
    GArray *controllers;  /* struct world_controller */
    GArray *bridges;      /* struct world_bridge */
    GArray *loaders;      /* struct world_loader */
    unsigned known;       /* changes that were so before */
    struct lexicon *lx;   /* of the device that is talked to */
    struct lexicon *read; /* whose faults are those of the file */
};

/* NULL where it cannot be read at all; otherwise its faults are in file->read. */
struct world_file *world_file_read(const char *file, struct lexicon *lx, GError **error);
/* The same of a text, which it takes over. */
struct world_file *world_file_text(const char *name, char *text, size_t size, struct lexicon *lx);
/* A statement of a world as it is by now, its devices and what its links go through: `text` is so
 * from then on. What it changes stands behind what was so before; see bench_now(). */
struct world_file *world_file_more(const struct world_file *before, const char *text,
                                   struct lexicon *lx);
void world_file_free(struct world_file *file);
struct lex_statement_kind;
/* The statements there are. */
const struct lex_statement_kind *world_statements(void);

#endif
