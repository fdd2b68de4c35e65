/* A conversation with a device: lines in, what comes back and what the outputs do out. */
#ifndef TALK_H
#define TALK_H

#include <stdio.h>

#include "image.h"
#include "trace.h"
#include "world_file.h"

struct talk_options {
    const char *link;               /* NULL: the first */
    const char *firmware;           /* program to talk to; NULL: the lexicon's own tables */
    bool plain;                     /* only the bytes the device sent on the link */
    bool raw;                       /* input byte for byte, at the link's speed */
    bool prompt;                    /* somebody sits there */
    const struct world_file *world; /* what the links go through; NULL: they are perfect */
    struct trace *trace;            /* NULL: nobody wants one */
    bool loads;                     /* what hangs on the pins moves */
    uint32_t seed;                  /* of its bounces */
    uint32_t start_ms;              /* what the device's clock begins with */
};

/* Reads `in` to its end. False: it could not begin, or the device failed (error is set). */
bool talk(struct lexicon *lx, const struct image *image, const struct talk_options *options,
          FILE *in, FILE *out, GError **error);

#endif
