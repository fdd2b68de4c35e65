/* What a sender that cannot be changed sends, found in recordings of it: how its frames end, what
 * stands around them, what each button and slider says. */
#ifndef LEARN_H
#define LEARN_H

#include "learn/recording.h"

/* What was found and how sure it is: "" is sure, else what would have to be recorded. */
struct learnt_text {
    GBytes *bytes;      /* what stands in the frame; NULL: it sends nothing */
    unsigned votes, of; /* gestures that agree */
};

/* What a button does in its three phases; the words of the lexicon. */
enum { PHASE_PRESS, PHASE_HELD, PHASE_RELEASE, PHASES };
extern const char *const learn_phases[PHASES];

struct learnt_button {
    char *name;
    struct learnt_text phase[PHASES];
    unsigned times;  /* it was used */
    unsigned copies; /* of each frame, one behind the other; 1: no more */
};

struct learnt_slider {
    char *name;
    GBytes *before, *after; /* what stands around its number, the same in each frame */
    int32_t low, high, step;
    unsigned bits;     /* of a number in bytes; 0: digits */
    unsigned top_bits; /* before these, in the same bytes, that are always... */
    uint32_t top;      /* ...this */
    bool little, is_signed;
    bool keys;       /* each step is a character of its own: low, high are characters */
    unsigned steps;  /* that were heard */
    bool uneven;     /* those are no even steps: `step` is about as far */
    GArray *missing; /* int32_t: values between that were not */
    unsigned times;
};

struct learnt_framing {
    enum lex_frame frame;
    bool found;
    enum lex_end end;    /* of lines */
    char character;      /* of `ended`; what fills a `fixed` frame */
    unsigned length;     /* of `fixed` frames */
    uint64_t silence_us; /* ends a frame, or a part of one; 0: there is none */
    unsigned fit, of;    /* frames that are so */
};

/* What stands around a text. */
struct learnt_envelope {
    int address, source; /* -1: none */
    bool tags, check;
    unsigned fit, of;
};

/* What a byte of a binary frame is, where it is not of the body. */
enum byte_kind {
    BYTE_CONSTANT,
    BYTE_LENGTH,
    BYTE_NUMBER, /* one more with each frame */
    BYTE_BIG,    /* the same of two bytes, the high one first... */
    BYTE_LITTLE, /* ...or the low one */
    BYTE_SECOND  /* of those two */
};
struct learnt_byte {
    enum byte_kind kind;
    int value; /* of a constant; what the length counts is the frame less this */
};
#define LEARN_AROUND 16u

struct learnt_layout {
    bool found;
    unsigned n_head, n_tail, n_end; /* bytes before the body, behind it, behind the check */
    struct learnt_byte head[LEARN_AROUND], tail[LEARN_AROUND], end[LEARN_AROUND];
    struct lex_field check; /* bits 0: none was found */
    unsigned skipped;       /* bytes before those that the check covers */
    unsigned fit, of, distinct;
};

/* The frames of a radio control. */
struct learnt_channels {
    bool found;
    unsigned mark, each, count, rest; /* bytes before them; bits of one; how many; bits behind */
    bool lsb;                         /* the least significant bit first */
    uint64_t every_us;
};
struct learnt_stick {
    char *name;
    unsigned channel, low, high; /* from 0; of its values */
    unsigned rest, on;           /* before it moves; of a switch that is on */
    unsigned times;
    bool is_switch, moved;
};

struct learnt {
    const struct recording *recording;
    struct learnt_framing framing;
    bool binary;
    struct learnt_envelope envelope;
    struct learnt_layout layout;
    GPtrArray *frames; /* struct frame * */
    unsigned damaged;  /* of them */
    unsigned again;    /* that were sent once more, by their tag */
    unsigned others;   /* that are whole and nothing that was learnt */
    uint64_t span_us;
    GPtrArray *buttons, *sliders; /* struct learnt_button *, learnt_slider * */
    struct learnt_channels channels;
    GPtrArray *sticks;  /* struct learnt_stick *: instead of buttons and sliders */
    uint32_t repeat_ms; /* 0: nothing repeats */
    uint32_t first_ms;  /* before the first repeat, where that is another time */
    unsigned repeats;   /* intervals heard */
    GBytes *idle;       /* NULL: none */
    unsigned idle_votes, idle_of;
    bool marked;       /* somebody told which button it was */
    GPtrArray *doubts; /* char *: what is not sure, and what would make it so */
};

/* Never NULL: what was not found is a doubt. The recording must outlive it. `known`: what is known
 * of the frames, from another recording of the same sender; NULL: nothing. */
struct learnt *learn(const struct recording *recording, const struct learnt *known);
void learnt_free(struct learnt *learnt);

/* The lexicon that it proposes: link, commands, handset. What that cannot say is a doubt more: ask
 * for it before the report. Owned by the caller. */
char *learnt_lexicon(struct learnt *learnt);
/* What was found, for people. Owned by the caller. */
char *learnt_report(const struct learnt *learnt);
/* What another recording, learnt with this one known, or the handset of a lexicon, has otherwise;
 * the count of differences. A line for each thing goes to `out`. */
unsigned learnt_confirm(const struct learnt *learnt, const struct learnt *other, GString *out);
unsigned learnt_against(const struct learnt *learnt, const struct lexicon *lx,
                        const struct lex_handset *handset, GString *out);

#endif
