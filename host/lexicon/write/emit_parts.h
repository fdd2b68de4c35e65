/* What the files of emit share. */
#ifndef EMIT_PARTS_H
#define EMIT_PARTS_H

#include "lexicon/write/table_image.h"

struct emit {
    const struct lexicon *lx;
    const struct image *image;
    char *upper; /* NAME in capitals */
    GString *out;
};

void emit_put(struct emit *e, const char *format, ...) G_GNUC_PRINTF(2, 3);
/* A text as it may stand in a comment. Owned by the caller. */
char *emit_comment(const char *text);
/* The first line of each file. */
void emit_made_by(struct emit *e);

/* The files. */
void emit_header(struct emit *e);
void emit_source(struct emit *e);
void emit_config(struct emit *e);
/* emit_config.c: what the compiler compares in NAME.c. */
void emit_asserts(struct emit *e);

#endif
