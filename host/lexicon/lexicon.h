/* A lexicon as it was read: what hangs on the pins, what may be said, over which links. */
#ifndef LEXICON_H
#define LEXICON_H

#include <glib.h>
#include <stdbool.h>
#include <stdint.h>

#include "check/codes.h"

/* Where something stands in the file: line from 1, character from 0, its length. */
struct lex_place {
    unsigned line, column, length;
};

struct lex_fault {
    struct lex_place place; /* line 0: the file as a whole */
    enum lex_code code;
    char *text;    /* one sentence, with a witness where there is one */
    char *advice;  /* what to write instead; NULL: the sentence says it */
    char *subject; /* the name it is about, by which a warning can be accepted; may be NULL */
    char *reason;  /* why it was accepted; NULL: it was not */
    char *witness; /* the very text that shows it; NULL where none does */
};

/* accept CODE NAME "reason" */
struct lex_accept {
    struct lex_place place;
    enum lex_code code;
    char *subject, *reason;
    bool used;
};

enum lex_output_kind { LEX_RELAY, LEX_LED };

struct lex_output {
    struct lex_place place;
    char *name;
    enum lex_output_kind kind;
    bool pwm;
    bool active_low;
    unsigned pin;  /* pin, or PWM channel */
    uint32_t hz;   /* PWM frequency */
    unsigned safe; /* percent */
    bool safe_told;
};

enum lex_element_kind { LEX_WORD, LEX_CHOICE, LEX_NUMBER, LEX_SET, LEX_LIST, LEX_TEXT };

/* How a number is said: 12, 1.5, 0x1F, 90s. */
enum lex_form { LEX_WHOLE, LEX_FRACTION, LEX_HEX, LEX_TIME };

/* A piece of a command: a word, or a slot. */
struct lex_element {
    struct lex_place place;
    enum lex_element_kind kind;
    char *text;       /* the word, or the slot's name (NULL for a choice or set without one) */
    GPtrArray *words; /* char *: of a choice or set; of a word with several spellings, the first is
                         text */
    unsigned *outputs; /* of a choice that names an output: of each word; else NULL */
    enum lex_form form;
    int32_t low, high; /* of a number, or of a list's numbers: a fraction's without its point, a
                          time's in milliseconds; of a text: its length in bytes */
    unsigned decimals; /* of a fraction */
    unsigned bare;     /* of a time without a unit: ms, s, min, h */
    bool scaled;       /* low..high become to_low..to_high */
    int32_t to_low, to_high;
    unsigned most;    /* of a list: how many numbers */
    bool rest;        /* of a text: to the end of the line, without quotes */
    char *unit;       /* of a number; NULL without one */
    bool glued;       /* the unit must be said */
    char *prefix;     /* a word that touches the number before it; NULL without one */
    bool unnamed;     /* a slot whose name, "value" or "text", is ours */
    bool filler;      /* a word that may be left out */
    bool optional;    /* a slot that may be left out... */
    int32_t fallback; /* ...and is then this number, or this word's index */
};

enum lex_effect_kind { LEX_SWITCH, LEX_LEVEL, LEX_CALL };

struct lex_effect {
    enum lex_effect_kind kind;
    unsigned output;                 /* index */
    const struct lex_element *which; /* the slot that names the output, or NULL: that one */
    char *handler;                   /* function */
    int fixed; /* verb or percent that stands in the lexicon; -1: a slot's value */
};

struct lex_command {
    struct lex_place place;
    GPtrArray *elements; /* struct lex_element * */
    struct lex_effect effect;
    char *title;
    char *implied; /* the text of the key bound to an effect that asks for it; else NULL */
};

/* A key and the text it stands for. */
struct lex_key {
    struct lex_place place;
    char key;
    char *text;
};

/* number 12 = gate close: digits that stand for a command. */
struct lex_number {
    struct lex_place place;
    char *digits, *text;
};

enum lex_frame { LEX_FRAME_LINE, LEX_FRAME_KEYS };

struct lex_link {
    struct lex_place place;
    char *name;
    unsigned baud;
    enum lex_frame frame;
    unsigned receive, transmit, longest; /* buffer sizes in bytes; 0: to be worked out */
    unsigned reply;                      /* longest reply in bytes, worked out */
    bool may_not_fit;                    /* some replies are longer than the transmit ring */
    GPtrArray *keys;                     /* struct lex_key * */
};

struct lexicon {
    char *file;
    char **lines;      /* of the source */
    GPtrArray *faults; /* struct lex_fault * */
    char *name, *title;
    unsigned version;
    struct lex_place place;
    bool silent; /* no greeting */
    bool any_case;
    unsigned shorten; /* least letters of a shortened word; 0: words are never cut */
    GPtrArray *outputs, *commands, *links;
    GPtrArray *numbers;     /* struct lex_number * */
    GPtrArray *accepts;     /* struct lex_accept * */
    GHashTable *enum_names; /* see names.h */
};

/* Reads a file. NULL when it cannot be read at all (error is set); otherwise a lexicon, whose
 * `faults` tell what is wrong with it. */
struct lexicon *lexicon_read(const char *file, GError **error);
void lexicon_free(struct lexicon *lx);

/* Whether there is an error, or with `warnings` a warning that was not accepted. */
bool lexicon_has(const struct lexicon *lx, bool warnings);

/* The faults as messages with place, line and caret, at most `most` of them, then how many more. */
char *lexicon_faults_text(const struct lexicon *lx, unsigned most);

struct lex_link *lexicon_link(const struct lexicon *lx, const char *name);
int lexicon_output_index(const struct lexicon *lx, const char *name);

/* How many spellings an element that is a word has, and each. */
unsigned lex_spellings(const struct lex_element *word);
char *lex_spelling(const struct lex_element *word, unsigned index);
/* A command's pattern as the lexicon writes it: pump {on|off|toggle}. */
char *lex_command_text(const struct lex_command *command);
char *lex_element_text(const struct lex_element *element);
/* An element's, or the command's, longest spelling, with units or without. Owned by the caller. */
char *lex_element_longest(const struct lex_element *element, bool units);
char *lex_command_longest(const struct lex_command *command, bool units);
/* How many slots it has. */
unsigned lex_command_slots(const struct lex_command *command);

/* read/value.c: what numbers are in words. */
/* Most digits before the point, without sign and 0x. */
unsigned lex_number_digits(const struct lex_element *element);
/* A number as it is said there, without unit: 12, 1.5, 0x1F, 90s. Owned by the caller. */
char *lex_value_text(const struct lex_element *element, int32_t value);
/* "0..100", "0.0..9.9", "100ms..5min". Owned by the caller. */
char *lex_range_text(const struct lex_element *element);
/* The value that these characters say there, unit and all; false: none within its bounds. */
bool lex_value_said(const struct lex_element *element, const char *text, int32_t *value);
/* What it becomes where it is scaled. */
int32_t lex_value_scaled(const struct lex_element *element, int32_t value);
/* How many values a slot gives to a handler. */
unsigned lex_slot_values(const struct lex_element *element);

#endif
