/* A lexicon as it was read: what is on the pins, the commands, the links. */
#ifndef LEXICON_H
#define LEXICON_H

#include <glib.h>
#include <stdbool.h>
#include <stdint.h>

#include "lexicon/codes.h"
#include "rlx/def/frames.h"
#include "rlx/def/verbs.h"

/* Where something stands: number of the file, line from 1, character from 0, its length. */
struct lex_place {
    unsigned file, line, column, length;
};

/* A file that was read: the lexicon itself, then what it uses. */
struct lex_source {
    char *file, **lines;
};

struct lex_fault {
    struct lex_place place; /* line 0: the file as a whole */
    enum lex_code code;
    char *text;    /* one sentence, with a witness where there is one */
    char *advice;  /* what to write instead; NULL: the sentence has it */
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

/* ---- what hangs on the pins ---- */

enum lex_output_kind {
#define KIND(id, word, drive) LEX_##id = RLX_KIND_##id,
    RLX_OUTPUT_KINDS(KIND) LEX_OUTPUT_KINDS
#undef KIND
};
extern const char *const lex_output_kinds[LEX_OUTPUT_KINDS + 1]; /* their names, NULL-ended */

#define LEX_NO_PIN 256

/* A motor's wires: LEX_NO_PIN where there is none. */
struct lex_drive {
    bool placed, reversed;
    unsigned channel, direction, brake, other; /* other: the channel of a second half-bridge */
    uint32_t hz;
    struct lex_place place;
};

/* A relay of a reverser, and the input that ends its way; NULL: not seen. The home of a stepper is
 * an input only. */
struct lex_way {
    bool placed;
    unsigned pin;
    char *until;
    struct lex_place place;
};

/* only while INPUT WORD: of the whole output, or of one way of what turns; of a command or setting
 * also while an output is on or off. */
struct lex_permit {
    struct lex_place place;
    char *name, *word;
    unsigned ways;                /* RLX_GOES_... */
    const struct lex_input *of;   /* found when all is read... */
    const struct lex_output *out; /* ...or this, of a command or setting... */
    bool on;                      /* ...with what the word means */
};

/* Whether the firmware drives an output too, by its own logic. */
enum lex_by {
    LEX_BY_COMMANDS,
    LEX_BY_FIRMWARE_SAFE, /* it may put it to its safe state */
    LEX_BY_FIRMWARE       /* it may switch it as it likes; by halt and expiry it is safe at first */
};

/* A value with a name: positions closed = 0 */
struct lex_position {
    char *name; /* as it is spelt in commands */
    int32_t value;
};

/* The states of a link that an output shows, and their words. */
enum { LEX_SHOWN_UP, LEX_SHOWN_LOST, LEX_SHOWN };
extern const char *const lex_shown_words[LEX_SHOWN];

struct lex_output {
    struct lex_place place;
    char *name, *title;
    enum lex_output_kind kind;
    bool pwm;
    bool active_low;
    bool placed;   /* pin or channel was given */
    unsigned pin;  /* pin, or PWM channel */
    uint32_t hz;   /* PWM frequency */
    unsigned safe; /* percent */
    bool safe_told;
    int32_t safe_value;           /* of a servo, in its own unit */
    uint32_t min_on, min_off;     /* ms, of a relay */
    uint32_t dead, ramp, travel;  /* ms, of what moves */
    uint32_t fade, slew, expires; /* ms; slew: from end to end */
    char *expires_by; /* the setting that has that time, which is then its standard... */
    char *ramp_by;    /* ...and that of its ramp, fade or slew time */
    bool counted;     /* a relay: how often it went on can be asked */
    char *interlock;  /* name shared by relays that are never on together */
    char *curve;      /* linear, eye, or the name of a setting */
    char *shows;      /* a link whose state it shows... */
    struct lex_command *shown[LEX_SHOWN]; /* ...each by a state of its own; NULL: on, and off */
    char *lost;                           /* a link whose loss makes it safe */
    char *style;                          /* of a pair: brake, coast or oppose */
    struct lex_drive left, right;         /* of a pair; a motor is left */
    struct lex_way open, close;           /* of a reverser */
    struct lex_way home;                  /* of a stepper */
    struct lex_element *range; /* of a servo or stepper: its values, scaled to us or steps */
    unsigned enable, speed;    /* of a stepper: pin of its current, or none; steps a second */
    GPtrArray *positions;      /* struct lex_position *: of a servo or stepper */
    GPtrArray *members;        /* char *: of a group */
    GPtrArray *permits;        /* struct lex_permit * */
    enum lex_by by;
};

enum lex_pull { LEX_PULL_NONE, LEX_PULL_UP, LEX_PULL_DOWN };

/* When an input does something: the field of its events, and its word. */
#define LEX_INPUT_ACTS(X) X(ON, pressed) X(OFF, released) X(HELD, held)
enum {
#define LEX_INPUT_ACT(field, word) LEX_WHEN_##field,
    LEX_INPUT_ACTS(LEX_INPUT_ACT) LEX_WHENS
#undef LEX_INPUT_ACT
};

struct lex_input {
    struct lex_place place;
    char *name, *title;
    unsigned pin;
    bool placed, active_low;
    enum lex_pull pull;
    uint32_t debounce, held, repeat;     /* ms; 0: not given */
    char *debounce_by;                   /* the setting that has that time, then its standard */
    struct lex_command *acts[LEX_WHENS]; /* what it does; NULL: nothing */
};

/* ---- commands ---- */

/* The kinds of a command's pieces, words and slots: id, and the name of its file in host/slots.
 * A slot is of the first kind whose keyword or sign it has. */
#define LEX_ELEMENTS(X) \
    X(WORD, word)       \
    X(SET, set)         \
    X(TEXT, text)       \
    X(LIST, list)       \
    X(CHOICE, choice)   \
    X(NUMBER, number)
enum lex_element_kind {
#define ELEMENT(id, word) LEX_##id,
    LEX_ELEMENTS(ELEMENT)
#undef ELEMENT
};

/* How a number is written: 12, 1.5, 0x1F, 90s. */
enum lex_form { LEX_WHOLE, LEX_FRACTION, LEX_HEX, LEX_TIME };

/* A piece of a command: a word, or a slot. */
struct lex_element {
    struct lex_place place;
    enum lex_element_kind kind;
    char *text;        /* the word, or the slot's name (NULL for a choice or set without one) */
    GPtrArray *words;  /* char *: of a choice or set; of a word with several spellings, the first is
                          text */
    unsigned *outputs; /* of a choice that names an output: of each word; else NULL */
    bool own;          /* a number in an output's own range: its bounds are these us or steps */
    int32_t own_low, own_high;
    bool verbs; /* a choice of verbs for an output: its values are those verbs */
    enum lex_form form;
    int32_t low, high; /* of a number, or of a list's numbers: a fraction's without its point, a
                          time's in milliseconds; of a text: its length in bytes */
    unsigned decimals; /* of a fraction */
    unsigned bare;     /* of a time without a unit: ms, s, min, h */
    bool scaled;       /* low..high become to_low..to_high */
    int32_t to_low, to_high;
    unsigned most;     /* of a list: how many numbers */
    bool rest;         /* of a text: to the end of the line, without quotes */
    char *unit;        /* of a number; NULL without one */
    char *from, *upto; /* settings that narrow a number's bounds; NULL: none */
    bool glued;        /* the unit is required */
    char *prefix;      /* a word that touches the number before it; NULL without one */
    bool unnamed;      /* a slot whose name, "value" or "text", is ours */
    bool filler;       /* a word that may be left out */
    bool optional;     /* a slot that may be left out... */
    int32_t fallback;  /* ...and is then this number, or this word's index */
};

/* A verb of an output: a row of rlx/def/verbs.h. */
struct lex_verb {
    const char *word; /* NULL: not in a lexicon */
    unsigned kinds;   /* bits: 1 << lex_output_kind */
    enum rlx_behind behind;
    bool steps; /* sent twice it does something else than sent once */
    bool stops; /* what moves stands still after it */
    bool again; /* done twice it leads to the same */
};
enum {
#define VERB(id, word, behind, kinds, steps, stops, again, does) LEX_VERB_##id,
    RLX_VERBS(VERB) LEX_VERBS
#undef VERB
};
extern const struct lex_verb lex_verbs[LEX_VERBS]; /* by enum rlx_verb */
extern const struct lex_behind {
    int32_t least, most, normal; /* of the number behind a verb; normal: where there is none */
} lex_behinds[];                 /* by enum rlx_behind */

enum lex_effect_kind { LEX_SWITCH, LEX_LEVEL, LEX_CALL, LEX_VERB, LEX_RUN, LEX_STORE };

struct lex_effect {
    enum lex_effect_kind kind;
    unsigned output; /* index; of RUN that of the routine, of STORE that of the setting */
    const struct lex_element *which; /* the slot that names the output, or NULL: that one */
    char *handler;                   /* function */
    int fixed; /* verb or percent that stands in the lexicon; -1: a slot's value; of RUN: RLX_RUN,
                  RLX_CANCEL */
    const struct lex_verb
        *verb; /* of VERB, where it stands in the lexicon; else the slot's words */
    bool argument_fixed;
    int32_t argument; /* of a verb: count, milliseconds, hertz, percent, number of a pattern */
    const struct lex_position
        *position;  /* of LEVEL: its name; NULL: the value itself stands there */
    uint32_t lasts; /* ms: for 20min; 0: until the next command... */
    char *lasts_by; /* ...or as the setting says; then this is its standard */
};

struct lex_command {
    struct lex_place place;
    GPtrArray *elements; /* struct lex_element * */
    struct lex_effect effect;
    char *title;
    bool made;            /* by a routine or setting, which it starts, ends or stores */
    char *implied;        /* the text of the key bound to an effect that asks for it; else NULL */
    uint32_t expires;     /* ms; 0: never... */
    char *expires_by;     /* ...or as the setting says; then this is its standard */
    bool newest;          /* a superseded frame of it need not run */
    char *says, *already; /* its own answers: answers.h; NULL: ok and the command */
    GPtrArray *guards;    /* struct lex_permit *: it is refused unless all hold; NULL: none */
    char *code;           /* the setting that its only slot has to be; NULL: none */
    GPtrArray *says_on;   /* char *: links that send them; empty: all. NULL without `says` */
    const struct lex_query *query; /* that it asks; NULL: none */
    GPtrArray *refuses;            /* char *: its handler's own reasons; NULL: none */
    GPtrArray *told;      /* struct lex_element *: the values that its handler answers with; those
                             of a query are the query's; NULL: none */
    GPtrArray *arguments; /* of its handler: elements, then told; NULL: elements alone */
};

/* What every lexicon can turn on, from RLX_BUILT_INS; ended by a NULL word. */
struct lex_built_in {
    const char *word, *does;
    unsigned bit;
    bool said; /* it is a command of this word */
};
extern const struct lex_built_in lex_built_ins[];
/* The one that is a command of this word; NULL: none. */
const struct lex_built_in *lex_said_built_in(const char *word);

/* query NAME {slots} [of {slots}] => FUNCTION(): asked as NAME?, with what stands behind `of` */
struct lex_query {
    struct lex_place place;
    char *name, *handler, *title;
    GPtrArray *elements;       /* struct lex_element *: the values of the answer */
    GPtrArray *of;             /* struct lex_element *, of `asked`: what is asked for */
    struct lex_command *asked; /* NAME?, which calls the handler; NULL after a fault */
};

/* What a handler makes of one output, or that it leaves it as it is. Everything but the place of
 * what is named is found when all is read. */
struct lex_promise {
    struct lex_place place;
    unsigned output; /* index */
    bool leaves;     /* the output does not change */
    char *state;     /* that it has then, as scenes write it; NULL: what a slot says */
    char *slot;      /* ...of this name */
    char *when;      /* "skim|drain": only with one of these words of a choice; NULL: always */
    uint32_t within; /* ms from the answer on */
    uint32_t lasts;  /* ms that it stays so, until it is safe; 0: until something else is said... */
    char *lasts_by;  /* ...or as long as this slot says; NULL: none */
};

/* contract FUNCTION() ...: what the function must do. */
struct lex_contract {
    struct lex_place place;
    char *handler;
    GPtrArray *promises;  /* struct lex_promise * */
    bool leaves_others;   /* all outputs that none of them names */
    bool ok;              /* it refuses no valid command */
    uint32_t takes;       /* ms at most; 0: not said */
    char *follows;        /* of a query: the words of the command whose value it tells; NULL */
    struct lex_place follows_place;
    const struct lex_command *followed;
};

/* event NAME {words} [<= INPUT] [to LINKS] */
struct lex_event {
    struct lex_place place;
    char *name, *title;
    struct lex_element *what; /* a choice, or NULL: it has no value */
    char *input;              /* its source; NULL: the firmware sends it */
    GPtrArray *to;            /* char *: links; empty: all */
    bool confirmed;           /* sent again until it is acknowledged... */
    bool kept;                /* ...also after a power cut, and when its link is up again */
    uint32_t every;           /* ms: no oftener; 0: as it comes */
    unsigned per_day;         /* 0: as many as come */
};

/* setting NAME {slot} = DEFAULT */
struct lex_setting {
    struct lex_place place;
    char *name, *title, *value;
    struct lex_element *slot; /* in the command that stores it, NULL after a fault */
    int32_t standard;         /* a number, a word's index, a set's bits: of VALUE */
    unsigned saved_every; /* ms: the memory takes no two changes of it within; 0: it takes all */
};

/* routine NAME = "command; wait 2s; command" */
struct lex_routine {
    struct lex_place place;
    char *name, *title;
    GPtrArray *steps; /* struct lex_step *; a routine that is a step is its steps */
    unsigned rounds;  /* how often they are done; 0: for ever */
};
struct lex_step {
    struct lex_place place;
    char *text;    /* a command; NULL: */
    uint32_t wait; /* ms */
};

/* pattern NAME 100ms 100ms 100ms 700ms: on, off, on, off. */
struct lex_pattern {
    struct lex_place place;
    char *name;
    GArray *times; /* uint32_t: ms */
};

/* A key and the text it stands for. */
struct lex_key {
    struct lex_place place;
    char key;
    char *code; /* the same as a text; on a link of codes all of it, '#' standing for a digit */
    char *text;
};

/* number 12 = gate close, command quit => bye: a text that stands for another one. */
struct lex_number {
    struct lex_place place;
    char *said, *text; /* digits, or words as commands have them; a command or a built-in word */
};

/* ---- over which links ---- */

enum lex_medium { LEX_SERIAL, LEX_BRIDGE, LEX_MODEM, LEX_RADIO, LEX_REPORT, LEX_SMS, LEX_MEDIA };
extern const char *const lex_media[LEX_MEDIA + 1]; /* their names, NULL-ended */

enum lex_frame {
#define FRAME(id, word, feature, keyed, ends, whole) LEX_FRAME_##id = RLX_FRAME_##id,
    RLX_FRAMES(FRAME) LEX_FRAMES
#undef FRAME
};
extern const char *const lex_frames[LEX_FRAMES + 1]; /* their names, NULL-ended */

enum lex_demand { LEX_DEMAND_OFF, LEX_DEMAND_OPTIONAL, LEX_DEMAND_REQUIRED };
enum lex_replies { LEX_REPLIES_FULL, LEX_REPLIES_SHORT, LEX_REPLIES_SILENT };

/* A text of a link's own for a reply or an event: texts pad ok = "+" */
struct lex_text {
    struct lex_place place;
    char *what; /* "ok", "err", "err range", "ev call pressed", ... */
    char *text;
};

enum lex_parity { LEX_PARITY_NONE, LEX_PARITY_EVEN, LEX_PARITY_ODD };

/* Of links, outputs, buttons: a letter, then letters, digits or '_'. */
#define LEX_NAME_MOST 31u
bool lex_name_ok(const char *text);

/* Of a byte on a serial line. */
struct lex_format {
    uint8_t data, stop; /* bits */
    enum lex_parity parity;
    bool inverted; /* the line is low where nothing is sent */
};
/* 8N1, 8E2 inverted */
#define LEX_FORMAT_TEXT 13
void lex_format_text(const struct lex_format *format, char text[LEX_FORMAT_TEXT]);
/* Reads what that writes; false: it is none, and `format` is as it was. */
bool lex_format_read(const char *text, struct lex_format *format);
/* Bits of a byte: start, data, parity, stop. */
unsigned lex_format_bits(const struct lex_format *format);

/* What stands behind a line of the device; in the order of lex_ends[]. */
enum lex_end { LEX_END_CRLF, LEX_END_CR, LEX_END_LF, LEX_END_NONE };
/* Its word, what it is called in a sentence, its bytes. */
extern const char *const lex_ends[], *const lex_end_names[], *const lex_end_bytes[];

/* ---- binary frames ---- */

struct lex_sum; /* a published check: layout.c */

/* A field of a layout: `u16 little level 0..1000`. What it is: RLX_FLD_... of rlx/image.h. */
struct lex_field {
    struct lex_place place;
    unsigned what, bits;
    bool little, is_signed;
    uint32_t constant;            /* of CONSTANT, cut to its bits */
    int addend;                   /* of LENGTH: what it counts is the frame less this */
    char *slot;                   /* of VALUE and SCALED: its name... */
    const struct lex_element *of; /* ...and itself, when everything is read */
    int32_t from,
        to;       /* of SCALED and CHANNEL: in the frame, for the slot's low and high; of ZONE */
    unsigned sum; /* of SUM: RLX_SUM_... */
    const struct lex_sum *crc; /* of CRC */
    unsigned channels;         /* of CHANNELS: how many... */
    unsigned each;             /* ...and bits of each; little: the least significant one first */
    unsigned channel;          /* of CHANNEL and ZONE: its number, from 1 */
    int32_t near_rest[2];      /* of CHANNEL: at rest from, to; of ZONE: kept from, to */
    bool anywhere;             /* of CHANNEL: it needs not be at rest first: a change is obeyed */
};

/* Most channels of a frame. */
#define LEX_CHANNELS_MOST 32u

/* What a command or event is in the body of a frame. */
struct lex_packed {
    struct lex_place place;
    char *text;                        /* as it was written: "glow {level}", "ev call pressed" */
    GPtrArray *fields;                 /* struct lex_field * */
    GPtrArray *answers;                /* the same: of the values that it is answered with */
    char **pieces;                     /* of a command: its words, and slots in braces */
    const struct lex_command *command; /* NULL: a built-in word, or an event */
    bool event;
};

struct lex_layout {
    struct lex_place place;
    GPtrArray *frame, *answer, *event; /* struct lex_field *; empty: there is none */
    GPtrArray *rows;                   /* struct lex_packed * */
    unsigned channels, each;           /* of a frame, and bits of one; 0: it has a body instead */
    uint32_t every;                    /* ms: its sender repeats the frame for ever; 0: not given */
    bool misread;                      /* a statement of it had a fault */
    bool raw;                          /* the firmware reads the bytes: there is nothing of it */
};

struct lex_link {
    struct lex_place place;
    char *name, *title;
    enum lex_medium medium;
    unsigned baud;            /* of serial, bridge and modem; of sms that of its modem */
    struct lex_format format; /* the same; default 8N1 */
    enum lex_frame frame;
    bool framed;                         /* it was given */
    bool people;                         /* typed by hand: echo, backspace */
    unsigned receive, transmit, longest; /* buffer sizes in bytes; 0: to be worked out */
    unsigned reply;                      /* longest reply in bytes, worked out */
    unsigned event;   /* longest event or note in bytes, all in all, worked out; 0: none */
    bool may_not_fit; /* some replies are longer than the transmit ring */
    GPtrArray *keys;  /* struct lex_key *: of keys and codes */
    char end;         /* the last character of `ended` */
    char lead;        /* behind it, on a link of keys, comes a line; 0: none */
    char pad;         /* of `fixed` */
    unsigned length;  /* of `fixed`, in bytes */
    uint32_t gap;     /* ms of silence that end or reset a frame; 0: none */
    unsigned payload; /* bytes of a packet or message */
    int address;      /* of this device; -1: none */
    unsigned senders; /* sources whose tags are remembered */
    enum lex_demand check, tags, seal;
    bool tags_kept;      /* over a power cut */
    bool seal_halt;      /* even a halt needs a seal */
    uint32_t window;     /* ms that a tag is remembered, or a session goes on */
    GPtrArray *only;     /* char *: commands that it accepts; empty: all... */
    GPtrArray *also;     /* ...and locks that can be changed here: char *, their names */
    GPtrArray *locked;   /* the locks that cannot: char *, worked out */
    GPtrArray *allow;    /* char *: numbers served; empty: all */
    char *allow_setting; /* the setting that holds them */
    char *code;          /* the setting with a code that each command begins with */
    uint32_t stale;      /* ms: older is refused; 0: never */
    bool handed;         /* the firmware hands the messages in: the library drives no modem */
    enum lex_replies replies;
    bool replies_drop;         /* a reply without room is dropped instead of waited for */
    bool one_way;              /* nothing can be sent back */
    bool open;                 /* anybody may command: `open` */
    enum lex_end answer_end;   /* of its lines */
    bool greets;               /* it sends the state of every event source when it comes up */
    char *yields;              /* the link that has precedence... */
    unsigned yields_s;         /* ...for this many seconds after it was last used */
    unsigned state_pin;        /* is on while somebody is there; LEX_NO_PIN: none... */
    bool state_low;            /* ...and is then low */
    unsigned hang_pin;         /* hangs it up behind bye; LEX_NO_PIN: none does... */
    bool hang_low;             /* ...it is active low... */
    uint32_t hang_ms;          /* ...for so long */
    uint32_t lost;             /* ms without a valid frame after which it is lost; 0: never */
    GPtrArray *texts;          /* struct lex_text * */
    struct lex_layout *layout; /* its frames are bytes by this; NULL: they are text */
};

/* Bytes that can come between two polls so many ms apart. Of a serial, bridge or modem link. */
unsigned lex_bytes_within(const struct lex_link *link, uint32_t ms);
/* Whether its characters are commands of their own, something in its bytes ends a frame, or a frame
 * comes whole. */
bool lex_is_keyed(const struct lex_link *link);
bool lex_ends_itself(const struct lex_link *link);
bool lex_comes_whole(const struct lex_link *link);
/* Whether the firmware reads its bytes, and no command comes over it. */
static inline bool lex_is_raw(const struct lex_link *link)
{
    return link->layout && link->layout->raw;
}
/* Whether the library drives the modem of this link. */
static inline bool lex_drives_modem(const struct lex_link *link)
{
    return link->medium == LEX_SMS && !link->handed;
}

/* ignore "hello" [on LINK] [reply "text"]: a known text that is no command. */
struct lex_ignore {
    struct lex_place place;
    char *text, *link, *reply;
};

/* key NAME over LINK [sender N]: a setting, whose number is its place among the link's, from 1. */
#define LEX_SEAL_KEYS_MOST 16u
struct lex_seal_key {
    struct lex_place place;
    char *name, *link;
    unsigned sender; /* 0: it seals what goes to all, or the link has no senders */
};

/* ---- what the sender has ---- */

/* A button, and what it sends: press, held and release, NULL for nothing. */
struct lex_button {
    struct lex_place place;
    char *name, *press, *held, *release, *with; /* with: the button held down meanwhile */
};

struct lex_slider {
    struct lex_place place;
    char *name, *text; /* "feed {0..100 step 10}" */
    struct lex_place text_place;
};

struct lex_lamp {
    struct lex_place place;
    char *name, *event, *word; /* lit by this event, with this word */
};

struct lex_handset {
    struct lex_place place;
    char *name, *link;
    uint32_t repeat; /* ms between the repeats of a held button */
    char *idle;      /* what it sends when its last button is released; NULL: nothing */
    GPtrArray *buttons, *sliders, *lamps;
};

/* ---- the whole ---- */

struct lex_statement_kind;

/* A letter's number, of either case: its low five bits. */
#define LEX_LETTERS 32u

struct lexicon {
    const struct lex_statement_kind
        *kinds;   /* of another language in this form; NULL: of lexicons */
    void *target; /* what those make */
    char *file;
    GPtrArray *sources; /* struct lex_source * */
    unsigned using;     /* while reading: files used by files... */
    bool full;          /* ...and there is too much of something: no more is read */
    GPtrArray *faults;  /* struct lex_fault * */
    char *name, *title;
    unsigned version;
    struct lex_place place;
    bool silent;                /* no greeting */
    bool connects;              /* the greeting also comes when a link comes up */
    unsigned built_in;          /* RLX_BUILT_IN_... */
    uint32_t poll;              /* ms between two polls, at most; 0: not given */
    unsigned nv_pages, nv_page; /* pages of non-volatile memory, and bytes of one; 0: not given */
    unsigned nv_endurance;      /* erases that a page of it outlasts; 0: not given */
    unsigned nv_erases;         /* of one half or the other, most in a day; 0: as many as needed */
    struct lex_place nv_place;
    bool any_case;
    unsigned shorten; /* least letters of a shortened word; 0: words are never cut */
    GPtrArray *outputs, *inputs, *commands, *links;
    GPtrArray *queries, *events, *settings, *routines, *ignores, *handsets;
    GPtrArray *contracts;   /* struct lex_contract * */
    GPtrArray *seal_keys;   /* struct lex_seal_key * */
    GPtrArray *patterns;    /* struct lex_pattern * */
    GPtrArray *reasons;     /* char *: that handlers refuse with; the first is RLX_ERR_REASON */
    GPtrArray *numbers;     /* struct lex_number * */
    GPtrArray *accepts;     /* struct lex_accept * */
    GHashTable *enum_names; /* see names.h */
    GPtrArray *by_letter[LEX_LETTERS]; /* commands that can begin so; NULL where they are few */
};

/* Reads a file. NULL when it cannot be read at all (error is set); otherwise a lexicon, whose
 * `faults` has what is wrong with it. */
struct lexicon *lexicon_read(const char *file, GError **error);
/* The same of a text, which is taken over and freed; a NUL stands behind its `size` bytes. */
struct lexicon *lexicon_read_text(const char *file, char *text, size_t size);
void lexicon_free(struct lexicon *lx);

/* Whether there is an error, or with `warnings` a warning that was not accepted. */
bool lexicon_has(const struct lexicon *lx, bool warnings);

/* Whether there is an error of the form (F01, F02): what was read is then not all there is. */
bool lexicon_misread(const struct lexicon *lx);

/* The name of a file by its number; 0 is the lexicon itself. */
const char *lex_source_file(const struct lexicon *lx, unsigned file);

/* The faults as messages with place, line and caret, at most `most` of them, then how many more. */
char *lexicon_faults_text(const struct lexicon *lx, unsigned most);

struct lex_link *lexicon_link(const struct lexicon *lx, const char *name);
struct lex_input *lexicon_input(const struct lexicon *lx, const char *name);
struct lex_event *lexicon_event(const struct lexicon *lx, const char *name);
struct lex_setting *lexicon_setting(const struct lexicon *lx, const char *name);
/* Whether it is a key... */
bool lex_is_key(const struct lexicon *lx, const char *setting);
/* ...and those of a link, struct lex_seal_key *. Owned by the caller; not its elements. */
GPtrArray *lex_keys_of(const struct lexicon *lx, const struct lex_link *link);
/* "nursery 3 skiff": what each code of the link covers besides. Owned by the caller. */
char *lex_seal_context(const struct lexicon *lx, const struct lex_link *link);
/* Whether some link has seals. */
bool lex_has_seals(const struct lexicon *lx);
/* Whether the command waits for something, or wants a code. */
static inline bool lex_is_guarded(const struct lex_command *command)
{
    return command->guards || command->code;
}
/* Whether it is the code of some command. */
bool lex_opens(const struct lexicon *lx, const char *setting);
/* Whether it tells that somebody guesses a code. */
bool lex_tells_guesses(const struct lexicon *lx, const struct lex_event *event);
/* Whether it decides who may command: a key, a code or a list of numbers... */
bool lex_is_lock(const struct lexicon *lx, const char *setting);
/* ...and whether the link accepts what begins with this word. */
bool lex_may_say_word(const struct lex_link *link, const char *word);
/* Whether it is a key, or the code of some link, which nobody is shown. */
bool lexicon_is_code(const struct lexicon *lx, const struct lex_setting *setting);
struct lex_output *lexicon_output(const struct lexicon *lx, const char *name);
int lexicon_output_index(const struct lexicon *lx, const char *name);
int lexicon_routine_index(const struct lexicon *lx, const char *name);
int lexicon_pattern_index(const struct lexicon *lx, const char *name);
/* The output that the effect is about, the first of those that a slot names; NULL: it is about
 * none. */
struct lex_output *lex_effect_output(const struct lexicon *lx, const struct lex_effect *effect);

/* Whether NAME? asks what the modem of a link is at. */
bool lex_asks_modem(const struct lexicon *lx, const char *name);
/* Whether `stats LINK` can be said. */
bool lex_tells_links(const struct lexicon *lx);
/* How long it takes, in ms; UINT64_MAX: it has no end. */
uint64_t lex_routine_ms(const struct lex_routine *routine);
/* What a number, or other words, stand for; NULL: they are none of the lexicon's. */
const char *lex_number_text(const struct lexicon *lx, const char *said);
/* The position of this name, or NULL. */
const struct lex_position *lex_position_of(const struct lex_output *output, const char *name);
/* Whether an element is a word or a choice; how many spellings, or words, it has, and each. */
bool lex_has_spellings(const struct lex_element *e);
unsigned lex_spellings(const struct lex_element *word);
char *lex_spelling(const struct lex_element *word, unsigned index);
/* A command's pattern as the lexicon writes it: pump {on|off|toggle}. */
char *lex_command_text(const struct lex_command *command);
char *lex_element_text(const struct lex_element *element);
/* An element's, or the command's, longest spelling, with units or without. Owned by the caller. */
char *lex_element_longest(const struct lex_element *element, bool units);
char *lex_command_longest(const struct lex_command *command, bool units);
/* The value behind the verb of an effect, as in the lexicon: "3", "500ms", "5%", "for 20min",
 * or
 * "". Owned by the caller. */
char *lex_effect_argument(const struct lexicon *lx, const struct lex_effect *effect);
/* The arguments of its handler: the values of its slots, then those that it fills in. */
const GPtrArray *lex_arguments(const struct lex_command *command);
/* Whether its handler fills it in. */
/* Whether settings narrow its range. */
bool lex_is_bound(const struct lex_element *slot);
/* Its range as long as nobody has changed a setting. */
/* The slot of a command's text whose value is beyond that; NULL: none is. */
const struct lex_element *lex_beyond_now(const struct lexicon *lx, const char *text);
void lex_bounds_now(const struct lexicon *lx, const struct lex_element *slot, int32_t *low,
                    int32_t *high);
bool lex_is_told(const struct lex_command *command, const struct lex_element *slot);
/* How many slots it has. */
unsigned lex_command_slots(const struct lex_command *command);
/* The link whose state pin the input's pin is; NULL: none. */
const struct lex_link *lex_input_link(const struct lexicon *lx, const struct lex_input *in);
/* Whether it has a state of its own for each state of the link that it shows. */
bool lex_shows_own(const struct lex_output *out);
/* Words that an input's event may have: on, off, held, and the other names of the first two. Ended
 * by NULL. */
extern const char *const lex_input_words[LEX_WHENS + 3];
/* The number of the word that an input's event sends when it goes on (0) or off (1) or is held (2),
 * or -1: by its name, or by its place where it has none of these names. */
int lex_input_word(const struct lex_event *event, unsigned when);
/* When the input is as the word says: on (LEX_WHEN_ON) or off, as `pressed`, or as an event of its
 * names it; -1: there is no such word. */
int lex_input_when(const struct lexicon *lx, const struct lex_input *in, const char *word);
/* "heater only while door closed": "only while door closed and hatch closed", of one way "forward
 * only while ..."; NULL: nothing permits it. Owned by the caller. */
char *lex_permits_text(const struct lex_output *out);
/* The command that writes the setting. */
const struct lex_command *lex_storing(const struct lexicon *lx, const struct lex_setting *setting);
/* "only while service on and door closed" of a command; empty: it waits for nothing. Owned by the
 * caller. */
char *lex_guards_text(const struct lex_command *command);
/* What the way of a permit is called: "open"; NULL: it is of the whole output. */
const char *lex_permit_way(const struct lex_output *out, unsigned ways);
/* Whether the firmware drives some output too. */
bool lex_has_own(const struct lexicon *lx);
/* Bytes that an area of non-volatile memory needs, to hold each setting twice, in whole records,
 * and six messages of each modem or commands of each link with kept tags; and those that it gets: half of `memory`, or a power of two from
 * 256 on. */
/* Bytes of the record of kept events, 0: none are; and as many as fit one. */
#define LEX_KEPT_MOST 200u
/* Bytes of the record of the numbers that a device with seals gives. */
#define LEX_OWN_NUMBERS 8u
unsigned lex_kept_bytes(const struct lexicon *lx);
/* Of the record of wrong codes of commands; 0: there is none. */
unsigned lex_guess_bytes(const struct lexicon *lx);
/* Bytes of the link's record of messages or commands; 0: it has none. */
unsigned lex_record_bytes(const struct lex_link *link);
/* Whether a link has `tags required kept`. */
bool lex_keeps_tags(const struct lexicon *lx);
/* Number of settings, with the records that the library keeps beside them. */
unsigned lex_n_settings(const struct lexicon *lx);
unsigned lex_nv_needs(const struct lexicon *lx);
unsigned lex_nv_area(const struct lexicon *lx);
/* How often this setting can change between two erases of half of the memory, at least. */
unsigned lex_nv_changes(const struct lexicon *lx, const struct lex_setting *setting);
/* How often a page of it can be erased; 10,000 where the lexicon does not say. */
unsigned lex_nv_endurance(const struct lexicon *lx);
/* Changes until a page is worn out, where there are this many between two erases. */
double lex_nv_outlasts(const struct lexicon *lx, unsigned changes);
/* How many recorded commands there are between two erases, of a link with kept tags. */
unsigned lex_nv_commands(const struct lexicon *lx, const struct lex_link *link);
/* Ms between two erases, where all of a day are used; 0: they are not limited. */
unsigned lex_nv_between(const struct lexicon *lx);
/* So long it lasts where each day's erases are used up; 0: they are not limited. */
double lex_nv_years(const struct lexicon *lx);
/* Whether erases are counted, and the memory may be written less often than settings change. */
bool lex_spares_memory(const struct lexicon *lx);
/* Whether inputs permit what this output does, or an output of this group. */
bool lex_is_permitted(const struct lexicon *lx, const struct lex_output *out);
/* The commands, and what inputs do, that call a function. Owned by the caller; not its elements. */
GPtrArray *lex_callers(const struct lexicon *lx);
/* The first command that takes the text, and its slots' values, not scaled, of a word its index, of
 * a set its bits; *given: how many the text has. NULL: none takes it. */
const struct lex_command *lex_command_taking(const struct lexicon *lx, const char *text,
                                             int32_t values[15], unsigned *given);

/* read/value.c: what numbers are in words. */
/* Most digits before the point, without sign and 0x. */
unsigned lex_number_digits(const struct lex_element *element);
/* A number in the form of its slot, without unit: 12, 1.5, 0x1F, 90s. Owned by the caller. */
char *lex_value_text(const struct lex_element *element, int32_t value);
/* Those words of a set that a value has: "feed+glow", or "none". Owned by the caller. */
char *lex_set_text(const struct lex_element *element, int32_t value);
/* "0..100", "0.0..9.9", "100ms..5min". Owned by the caller. */
char *lex_range_text(const struct lex_element *element);
/* The value of this text in the slot, with its unit; false: none within its bounds. */
bool lex_value_said(const struct lex_element *element, const char *text, int32_t *value);
/* What it becomes where it is scaled. */
int32_t lex_value_scaled(const struct lex_element *element, int32_t value);
/* How many values a slot gives to a handler. */
unsigned lex_slot_values(const struct lex_element *element);

/* facts.c: whether the command acts on this output... */
bool lex_tells(const struct lex_command *command, unsigned output);
/* ...and the link accepts it, by its `only`. */
bool lex_may_say(const struct lex_link *link, const struct lex_command *command);
/* The text that the device makes of what the link brings: of a key or a code what it stands for.
 * NULL: nothing. Owned by the caller. */
char *lex_link_hears(const struct lex_link *link, const char *said);
/* Bytes as a trace has them: what cannot be seen, and a backslash, as "\\x0D". Owned by the caller.
 */
char *lex_visible(const char *text, size_t count);
/* Bytes that stand around a frame of the link: address, tag, check, seal. */
unsigned lex_envelope_bytes(const struct lex_link *link);
/* Whether the link sends notes: to one person at a terminal, not to many and not as text messages.
 */
bool lex_has_notes(const struct lexicon *lx, const struct lex_link *link);

#endif
