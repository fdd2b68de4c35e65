/* Two versions of a lexicon: what a sender of the old one meets at a device of the new one. */
#ifndef COMPARE_H
#define COMPARE_H

#include "lexicon/model.h"

enum finding_kind {
    FINDING_REFUSED, /* obeyed before, refused now */
    FINDING_OTHER,   /* something else now */
    FINDING_OBEYED,  /* refused before, obeyed now */
    FINDING_ANSWER,  /* the answer reads otherwise */
    FINDING_EFFECT,  /* the same command, but for how long, or not always */
    FINDING_FRAME,   /* what stands around a command, or how it is sent */
    FINDING_EVENT,   /* an event that is sent no more, or otherwise */
    FINDING_KINDS
};
/* "refused now". */
extern const char *const finding_kinds[FINDING_KINDS];

struct finding {
    enum finding_kind kind;
    char *subject;  /* what of the old lexicon it is about: "glow {level 0..100%}", "link skiff" */
    char *witness;  /* the text that shows it; NULL: none does */
    char *was, *is; /* for each lexicon what becomes of it */
    unsigned more;  /* further texts of the same */
    unsigned line, now; /* of the old file and of the new one; 0: there is none */
};

struct comparison {
    char *name;          /* of the old lexicon */
    unsigned version;    /* of the new one, where it should be higher; 0: it need not */
    unsigned texts;      /* that were compared */
    GPtrArray *findings; /* struct finding * */
};

/* Both files, read anew. NULL: one cannot be read, or has faults (error is set). */
struct comparison *compare_files(const char *old, const char *now, GError **error);
void comparison_free(struct comparison *comparison);

#endif
