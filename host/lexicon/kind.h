/* What a kind of output has of its own in a lexicon: host/kinds has a file for each kind, and
 * RLX_OUTPUT_KINDS lists them. A kind that lacks a part does not link. */
#ifndef KIND_H
#define KIND_H

#include "lexicon.h"

struct attribute;
struct build;
struct statement;

/* One of its wires: a pin, or a channel with a duty, pulses or a tone. */
enum lex_wire_is { LEX_WIRE_PIN, LEX_WIRE_DUTY, LEX_WIRE_PULSE, LEX_WIRE_TONE };
struct lex_wire {
    enum lex_wire_is is;
    unsigned number;
    const char *side, *part;       /* "left", "direction"; "" where it has one wire, or one side */
    const struct lex_drive *drive; /* of a motor; else NULL */
    bool active_low;
};
#define LEX_WIRES_MOST 8

struct lex_kind {
    bool switches;         /* it is on or off, and a group may have it */
    bool turns;            /* it turns, one way or the other, and is safe when it stands */
    const char *wants;     /* what it hangs on, in the lexicon's words; NULL: it tells itself */
    const char *safe;      /* a safe state to propose; NULL: it has one without being told */
    const char *unsaid;    /* what it does from power-up on where no safe state is given */
    const char *unreached; /* what it is where no command reaches it; NULL: its safe state */
    const char *gentle;    /* what keeps it from being reversed at once, to propose */
    const struct attribute *attributes; /* of its own, ended by a NULL word */

    /* What stands first in its statement, and is no attribute; NULL: nothing. False after a fault.
     */
    bool (*read_first)(struct statement *st, struct lex_output *out);
    /* Its safe state. False after a fault. */
    bool (*read_safe)(struct statement *st, struct lex_output *out);
    /* When its statement is over: what it lacks. */
    void (*check)(struct lexicon *lx, const struct lex_output *out);
    /* The slots of a command for it, to propose. Owned by the caller. */
    char *(*slots)(const struct lex_output *out);
    /* All its wires; returns their number. */
    unsigned (*wires)(const struct lex_output *out, struct lex_wire *wires);
    /* What stands behind its row in the image, and the features that it needs. False: nothing. */
    bool (*put)(struct build *b, const struct lex_output *out);
    /* Of the card: its wires and its safe state in words. Owned by the caller. */
    char *(*wiring)(const struct lex_output *out);
    char *(*safe_text)(const struct lex_output *out);
};

#define LEX_KIND_DECLARE(id, word, drive) extern const struct lex_kind lex_kind_##word;
RLX_OUTPUT_KINDS(LEX_KIND_DECLARE)
#undef LEX_KIND_DECLARE

const struct lex_kind *lex_kind_of(const struct lex_output *out);
/* Whether an output of its kind may have the attribute with this word. */
bool lex_kind_may_have(const struct lex_output *out, const char *attribute);

#endif
