/* What a kind of output has of its own in a lexicon: host/kinds has a file for each kind, and
 * RLX_OUTPUT_KINDS lists them. A kind that lacks a part does not link. */
#ifndef KIND_H
#define KIND_H

#include "lexicon/model.h"

struct attribute;
struct build;
struct statement;

/* One of its wires: a pin, or a channel with a duty, pulses of a width, a tone, or counted pulses.
 */
enum lex_wire_is { LEX_WIRE_PIN, LEX_WIRE_DUTY, LEX_WIRE_PULSE, LEX_WIRE_TONE, LEX_WIRE_STEPS };
struct lex_wire {
    enum lex_wire_is is;
    unsigned number;
    const char *side, *part;       /* "left", "direction"; "" where it has one wire, or one side */
    const char *does;              /* while it is on: "opening"; "" if on is enough */
    const struct lex_drive *drive; /* of a motor; else NULL */
    bool active_low;
};
#define LEX_WIRES_MOST 8
#define LEX_ENDS_MOST  2

/* What a device drives: the level of each pin, and of each channel its duty, or its pulse, pitch or
 * steps a second. */
struct lex_driven {
    bool pin[256];
    uint16_t duty[256], number[256];
};

/* Which levels an output takes. */
enum lex_levels {
    LEX_LEVELS_NONE,
    LEX_LEVELS_PWM,    /* 0..100 %, where it hangs on a PWM channel */
    LEX_LEVELS_SIGNED, /* -100..100 % */
    LEX_LEVELS_OWN     /* its own range */
};

/* The firmware's call for an output: what stands behind the device and its number. */
struct lex_call {
    const char *args, *function, *passes;
};

struct lex_kind {
    enum lex_levels levels;
    unsigned values; /* slots that a level of it takes: 1, of a pair 2 */
    unsigned need;   /* RLX_BIT_... of its verbs; 0: they are those of leds and relays */
    bool switches;   /* it is on or off, and a group may have it */
    bool turns;      /* it turns, one way or the other, and is safe when it stands */
    bool passes;     /* from one of its classes to another it goes by way of the first */
    bool waits;      /* a command may begin later */
    bool direct;     /* the number on its wire is its commanded value, in its own range */

    /* For messages: a slot and a verb that it understands, what it hangs on (NULL: `check` reports
     * so), a safe state (NULL: it has one without being told), what it does from power-up on where
     * none is given, what it is where no command reaches it (NULL: its safe state), and what keeps
     * it from being reversed at once. */
    const char *slot, *verb, *wants, *safe, *unsaid, *unreached, *gentle;
    const char *ways[2];  /* what its two ways are called, where permits tell them apart */
    struct lex_call call; /* function NULL: on and off, or its level in percent */
    const char *becomes;  /* what its own range is on its wire, with its unit: "us" */
    const struct attribute *attributes; /* ended by a NULL word */

    /* What stands first in its statement, and is no attribute; NULL: nothing. False after a fault.
     */
    bool (*read_first)(struct statement *st, struct lex_output *out);
    /* Whether this one knows a verb of its kind; NULL: all of them. */
    bool (*knows)(const struct lex_output *out, enum rlx_verb verb);
    /* Its safe state. False after a fault. */
    bool (*read_safe)(struct statement *st, struct lex_output *out);
    /* When its statement is over: what it lacks. */
    void (*check)(struct lexicon *lx, const struct lex_output *out);
    /* The slots of a command for it, to propose. Owned by the caller. */
    char *(*slots)(const struct lex_output *out);
    /* Whether it sends events by itself; NULL: never. Their words, NULL-ended: for RLX_EVT_ON,
     * RLX_EVT_OFF and RLX_EVT_HELD of its row; none: its event has no words. */
    bool (*tells)(const struct lex_output *out);
    const char *words[4];
    /* Where inputs end its way, or show where it is: LEX_ENDS_MOST places, whose input may be NULL;
     * NULL: nothing does. */
    const struct lex_way *(*ends)(const struct lex_output *out, unsigned place);
    /* All its wires; returns their number. */
    unsigned (*wires)(const struct lex_output *out, struct lex_wire *wires);
    /* What stands behind its row in the image, and the features that it needs. False: nothing. */
    bool (*put)(struct build *b, const struct lex_output *out);
    /* The characters of its longest answer to NAME?; NULL: that of the other kinds. */
    size_t (*state_length)(const struct lex_output *out);
    /* Of the card: its wires and its safe state in words. Owned by the caller. */
    char *(*wiring)(const struct lex_output *out);
    char *(*safe_text)(const struct lex_output *out);

    /* By what the device drives: its state in the words of scenes, owned by the caller; the same
     * coarser, as one of its classes (NULL-ended, the first is where it is off or stands); whether
     * it is safe, and how far this value of one of its wires is from that, in the wire's units. */
    char *(*state)(const struct lex_driven *driven, const struct lex_output *out);
    const char *(*is_at)(const struct lex_driven *driven, const struct lex_output *out);
    const char *const *(*classes)(const struct lex_output *out);
    bool (*is_safe)(const struct lex_driven *driven, const struct lex_output *out);
    unsigned (*from_safe)(const struct lex_output *out, enum lex_wire_is is, unsigned value);
    /* Its state at so many percent; NULL: its wires do not show it. Owned by the caller. */
    char *(*state_at)(const struct lex_output *out, unsigned percent);
};

#define LEX_KIND_DECLARE(id, word, drive) extern const struct lex_kind lex_kind_##word;
RLX_OUTPUT_KINDS(LEX_KIND_DECLARE)
#undef LEX_KIND_DECLARE

const struct lex_kind *lex_kind_of(const struct lex_output *out);
/* The number of the output with this wire, and the wire where `wire` is not NULL; -1: none. */
int lex_output_at(const struct lexicon *lx, enum lex_wire_is is, unsigned number,
                  struct lex_wire *wire);
/* Whether this input ends its way, or shows where it is. */
bool lex_ends_at(const struct lex_output *out, const char *input);
/* Whether it wants a range of its own and has none, which is a fault of its statement. */
bool lex_lacks_range(const struct lex_output *out);
/* Whether it takes a level. */
bool lex_takes_level(const struct lex_output *out);
/* Whether it knows on, off and toggle, and nothing else is wanted to switch it. */
bool lex_is_plain(const struct lex_output *out);

#endif
