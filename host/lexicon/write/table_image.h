/* Makes the image of a lexicon: the one place that knows how to write its bytes. */
#ifndef IMAGE_H
#define IMAGE_H

#include "lexicon/model.h"
#include "rlx/def/features.h"

/* A run of bytes and what it is, for a listing. */
struct image_row {
    unsigned offset;
    char *comment;
};

struct image {
    GByteArray *bytes;
    GArray *rows;          /* struct image_row, by offset */
    GPtrArray *handlers;   /* const struct lex_command *: whose handler has this index */
    GPtrArray *signatures; /* char *: of each invoker, like "uint8_t,int16_t" */
    uint32_t needs[RLX_FEATURE_WORDS]; /* RLX_FEATURES bits */
    unsigned slots;                    /* most slots of one command */
    unsigned rests;                    /* settings with a least time between two changes */
    unsigned setting_texts;            /* bytes of all settings that are texts */
    unsigned hashed;   /* where the hashed table of first words is; 0: there is none */
    unsigned operands; /* bits of RLX_OPERAND_..., in units of RLX_OPERAND_ENTRY: which it has */
    char *fingerprint; /* 8 hex digits */
};

/* NULL after a fault in lx->faults. Works out the links' buffer sizes too. */
struct image *image_build(struct lexicon *lx);
void image_free(struct image *image);
/* What the library does not support yet, a sentence each; empty: all of it.
 * Owned by the caller. */
GPtrArray *image_not_run(const struct lexicon *lx);

/* A choice's values: its words in order from 0, but those of enum rlx_verb where all its words are
 * verbs. */
unsigned image_choice_value(const struct lex_element *choice, unsigned index);

/* The value of a slot for its text: a number not scaled, a word's index, a set's bits. */
int32_t image_said_value(const struct lex_element *slot, int32_t said);

/* Whether the link sends the event. */
bool image_tells(const struct lex_event *event, const struct lex_link *link);

/* Whether it needs a feature: RLX_BIT_... */
bool image_needs(const struct image *image, unsigned bit);
/* Whether a reply of this lexicon can have this error. */
bool image_can_fail(const struct lexicon *lx, const struct image *image, unsigned number);

/* The number of that of this link. */
unsigned image_record_of(const struct lexicon *lx, const struct lex_link *link);
/* The record of the numbers that a device with seals gives. */
unsigned image_own_record(const struct lexicon *lx);

#endif
