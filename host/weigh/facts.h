/* What of a lexicon decides how large its firmware is: a number each. The table of chips (table.c)
 * has what each of them, or the product of two, adds. */
#ifndef WEIGH_FACTS_H
#define WEIGH_FACTS_H

#include "lexicon/write/table_image.h"
#include "rlx/config.h"
#include "rlx/def/built_ins.h"
#include "rlx/def/features.h"
#include "rlx/def/outputs.h"

/* Counts, beside a 0 or 1 for each feature and built-in word, and the number of outputs of each
 * kind. */
#define WEIGH_COUNTS(X)                                                       \
    X(ONE, "1, always")                                                       \
    X(SEVERAL_LINKS, "1 where there are two links or more")                   \
    X(LINKS, "links")                                                         \
    X(MODEMS, "links with a modem for text messages")                         \
    X(FRAMINGS, "different framings")                                         \
    X(DIFFER, "links that differ from the first in medium, framing or check") \
    X(OUTPUTS, "outputs")                                                     \
    X(INPUTS, "inputs")                                                       \
    X(EVENTS, "events, on each link that has them")                           \
    X(ROUTINES, "routines")                                                   \
    X(SETTINGS, "settings")                                                   \
    X(SETTING_TEXTS, "bytes of settings that are texts")                      \
    X(HANDLERS, "handlers")                                                   \
    X(SIGNATURES, "different parameter lists of handlers")                    \
    X(PARAMETERS, "parameters in these lists")                                \
    X(SLOTS, "most slots of a command")                                       \
    X(IMAGE, "bytes of the tables")                                           \
    X(BUFFERS, "bytes of the links' buffers")                                 \
    X(KEPT, "bytes of replies kept for senders with tags, or keys")           \
    X(SENDERS, "senders with tags, or keys")                                  \
    X(AHEAD, "bytes of a frame that is read before its turn")                 \
    X(SAID, "bytes of a command's own answer")

enum weigh_fact {
#define FACT(id, what) WEIGH_##id,
    WEIGH_COUNTS(FACT)
#undef FACT
#define FACT(id, name) WEIGH_HAS_##id,
        RLX_FEATURES(FACT)
#undef FACT
#define FACT(id, word, spoken, sentence) WEIGH_WORD_##id,
            RLX_BUILT_INS(FACT)
#undef FACT
#define FACT(id, word, drive) WEIGH_KIND_##id,
                RLX_OUTPUT_KINDS(FACT)
#undef FACT
                    WEIGH_FACTS
};

/* "HAS_TAGS": as table.c and the JSON call it. */
const char *weigh_fact_name(enum weigh_fact fact);

void weigh_facts(const struct lexicon *lx, const struct image *image, double facts[WEIGH_FACTS]);

#endif
