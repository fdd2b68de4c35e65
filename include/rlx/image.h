/* The image: one lexicon as a position-independent run of bytes, read through RLX_ROM8().
 * `host/lexicon/write/` writes it, `src/core` reads it. docs/image.md describes all of it.
 * Numbers of more than one byte are little-endian; offsets count from the image's first byte, which
 * is at an even address. */
#ifndef RLX_IMAGE_H
#define RLX_IMAGE_H

#include "rlx/def/frames.h"
#include "rlx/def/verbs.h"
#include "rlx/error.h"

#define RLX_IMAGE_FORMAT 13

/* Header: offset of each field. */
enum {
    RLX_IMG_MAGIC = 0,   /* 'R' */
    RLX_IMG_VERSION = 1, /* RLX_IMAGE_FORMAT */
    RLX_IMG_LINKS = 2,   /* number of link rows */
    RLX_IMG_N_OUTPUTS = 3,
    RLX_IMG_SIZE = 4,        /* 16 bit: bytes in all */
    RLX_IMG_NEEDS = 6,       /* 96 bit: features, one bit each (RLX_FEATURES) */
    RLX_IMG_BUILT_IN = 18,   /* 16 bit: RLX_BUILT_IN_... */
    RLX_IMG_ROOT = 20,       /* 16 bit: the program every command begins with */
    RLX_IMG_SHAPES = 22,     /* 16 bit: table of 16-bit offsets of the shapes */
    RLX_IMG_OUTPUTS = 24,    /* 16 bit: the output rows */
    RLX_IMG_SHORTEN = 26,    /* least letters of a shortened word; 255: words are never cut */
    RLX_IMG_SLOTS = 27,      /* most values of one command */
    RLX_IMG_LINK_ROWS = 28,  /* 16 bit */
    RLX_IMG_GREETING = 30,   /* 16 bit: its text, up to the reset cause; 0: no greeting */
    RLX_IMG_TEXTS = 32,      /* 16 bit: the texts of replies, RLX_TEXT_... */
    RLX_IMG_NUMBERED = 34,   /* 16 bit: len16, then number text + command text for each */
    RLX_IMG_NAMES = 36,      /* 16 bit: the outputs' names, where their state can be asked */
    RLX_IMG_EVENTS = 38,     /* 16 bit: the event rows; 0: none */
    RLX_IMG_HELP = 40,       /* 16 bit: len16, then a text for each pattern; 0: none */
    RLX_IMG_LINK_NAMES = 42, /* 16 bit: the links' names, for the replies of `heard` and `log` */
    RLX_IMG_INPUTS = 44,     /* 16 bit: the input rows; 0: none */
    RLX_IMG_ROUTINES = 46,   /* 16 bit: the routines; 0: none */
    RLX_IMG_PATTERNS =
        48, /* 16 bit: number8, then count8, times of 16 bit and a name each; 0: none */
    RLX_IMG_SETTINGS = 50, /* 16 bit: the settings; 0: none */
    RLX_IMG_SAYS = 52,     /* 16 bit: len16, then the commands' own answers; 0: none */
    RLX_IMG_ACTS = 54,     /* 16 bit: len16, then what inputs do; 0: nothing */
    RLX_IMG_REASONS = 56,  /* 8 bit: number of reasons, whose texts stand behind RLX_IMG_TEXTS' */
    RLX_IMG_GUESSES = 57,  /* 8 bit: the setting, from 1, with the wrong codes of commands */
    RLX_IMG_PERMITS = 58,  /* 16 bit: len16, then what inputs permit; 0: nothing */
    RLX_IMG_HEADER = 60
};

/* Text: 7-bit characters, the last one with bit 7 set. Never empty. */
#define RLX_TEXT_END 0x80u

/* The texts of replies, one behind the other: behind these five those of errors, by number, then
 * those of reasons. Texts that this lexicon never sends have one character; behind the last one
 * that it sends there is none, unless an error's number can come from non-volatile memory. */
enum {
    RLX_TEXT_ALREADY,
    RLX_TEXT_ON,
    RLX_TEXT_OFF,
    RLX_TEXT_ERR,
    RLX_TEXT_AT,
    RLX_TEXT_ERRORS, /* that of error 1 */
    RLX_TEXTS = RLX_TEXT_ERRORS + RLX_ERR_REPLIES - 1
};

/* width8 of a number: most digits, whether a unit's text stands before the name's, and whether it
 * is required. */
#define RLX_NUM_DIGITS 0x0Fu
#define RLX_NUM_UNIT   0x80u
#define RLX_NUM_GLUED  0x40u
/* A form8 stands behind the bounds: the form of a number that is no plain whole one. */
#define RLX_NUM_FORM 0x10u
/* Behind all of that stand from8 and upto8: the settings that narrow the bounds now, or
 * RLX_NUM_FIXED. */
#define RLX_NUM_BOUND  0x20u
#define RLX_NUM_FIXED  255u
#define RLX_FORM_LOW   0x07u /* decimals of a fraction, or the unit of a bare time */
#define RLX_FORM_HEX   0x08u
#define RLX_FORM_TIME  0x10u /* milliseconds, written with ms, s, min or h */
#define RLX_FORM_SCALE 0x20u /* what the bounds become stands behind: low, high */

/* The value of the word that stands for an empty set, its last. */
#define RLX_SET_NONE 15u

/* A program is elements up to an END. */
enum {
    RLX_OP_WORDS = 0,  /* pre, len16, entries: a word, each leads to a shape of its own */
    RLX_OP_HASH = 1,   /* pre, mask16, groups16, shift table, group table, entries: as WORDS;
                          at an even offset */
    RLX_OP_CHOICE = 2, /* len8, entries of value8 + text: a word that is a slot's value */
    RLX_OP_NUM16 = 3,  /* skip8, width8, low16, high16, unit text, name text: that only where errors
                          are sent with their names */
    RLX_OP_NUM32 = 4,  /* the same with low32, high32 */
    RLX_OP_PUSH = 5,   /* value8: the value of a slot that is not read from the frame */
    RLX_OP_IF_END = 6, /* skip8: to be run where the frame is over, else skipped */
    RLX_OP_IF_NUM = 7, /* skip16: to be run where a digit or '-' is next, else skipped */
    RLX_OP_PUSH16 = 8, /* value16: as PUSH */
    RLX_OP_PUSH32 = 9, /* value32: as PUSH */
    RLX_OP_SET = 10,   /* as CHOICE, value8 a bit: several words joined by '+' */
    RLX_OP_TEXT = 11,  /* least8, most8, name text: a text in quotes */
    RLX_OP_REST = 12,  /* as TEXT: all that is left of the frame */
    RLX_OP_LIST = 13,  /* most8, a number: several joined by ',' */
    RLX_OP_IF_GLUE = 14, /* skip16, text: to be run where this and a digit or '-' are next */
    RLX_OP_LASTS = 15,   /* value32: nothing; what the command does lasts so many ms, up to
                            RLX_LASTS_MAX, until the output is safe, or off with RLX_LASTS_OFF;
                            with RLX_LASTS_SET as long as a setting says */
    RLX_OP_WAIT = 16,    /* value32: in a routine, so many milliseconds */
    RLX_OP_OVER = 17,    /* the end of a routine */
    RLX_OP_AGAIN = 19,  /* rounds16: a routine begins again until there were so many; 0: for ever */
    RLX_OP_WITHIN = 20, /* from8, upto8, value32: a routine's step is refused where these settings
                           do not allow the value; RLX_NUM_FIXED: none */
    RLX_OP_GUARD = 21,  /* at16: nothing; what the command waits for: RLX_GRD_... */
    RLX_OP_CODE = 22, /* setting8: the last value, a text, has to be this setting's; and is none */
    RLX_OP_SAYS = 18, /* at16: nothing; where the command's own answer stands */
    RLX_OP_END = 0x80 /* | act | operand | RLX_END_APPEND */
};

/* An own answer: 16 bit, on which links, one bit each; its text, and that where nothing changed, or
 * RLX_TEXT_END alone. In both a byte below RLX_SAYS_SLOTS stands for a slot's text: the number of
 * its first value, from 1, and RLX_SAYS_REST where it goes on to the command's end. */
#define RLX_SAYS_SLOTS 32u
#define RLX_SAYS_REST  16u

/* What a command waits for: flags, the number of an output or input, and its name. */
enum { RLX_GRD_WHAT = 0, RLX_GRD_NUMBER = 1, RLX_GRD_NAME = 2 };
enum {
    RLX_GRD_IF_ON = 1,  /* it has to be on; else off */
    RLX_GRD_OUTPUT = 2, /* it is an output */
    RLX_GRD_MORE = 4    /* another one follows */
};

/* An END byte: what is done... */
enum {
    RLX_ACT_CALL = 0,   /* signature8 follows; operand: index of the handler */
    RLX_ACT_SWITCH = 1, /* operand: output; value 0: enum rlx_verb */
    RLX_ACT_LEVEL = 2,  /* operand: output; value 0: percent */
    RLX_ACT_VERB = 3, /* operand: output; last value: enum rlx_verb, the one before: its argument */
    RLX_ACT_MASK = 0x03
};
/* ...where its operand stands: behind this byte, in the matched entry; or it is the number of the
 * matched hash group, or the first value (what is done is then the second)... */
enum {
    RLX_OPERAND_INLINE = 0x00,
    RLX_OPERAND_ENTRY = 0x10,
    RLX_OPERAND_GROUP = 0x20,
    RLX_OPERAND_VALUE = 0x30,
    RLX_OPERAND_MASK = 0x30
};
/* ...and whether a toggle's outcome is appended to the reply instead of replacing its word. */
#define RLX_END_APPEND 0x40u
/* A query: behind the END stand the elements of its values, and an END. With RLX_END_APPEND it is a
 * command that answers with them. */
#define RLX_END_TELLS 0x04u
/* Of several that wait the newest counts. */
#define RLX_END_NEWEST 0x08u

/* An output row. */
enum {
    RLX_OUT_DRIVE = 0, /* enum rlx_drive */
    RLX_OUT_FLAGS = 1,
    RLX_OUT_PIN = 2,  /* pin, or PWM channel */
    RLX_OUT_SAFE = 3, /* percent */
    RLX_OUT_HZ = 4,   /* 32 bit: PWM frequency */
    RLX_OUT_MORE = 8, /* 16 bit: what follows; 0: nothing of it. A group has a count8 there, and its
                         outputs' numbers */
    RLX_OUT_ROW = 10
};
enum { RLX_OUT_ACTIVE_LOW = 1, RLX_OUT_PWM = 2, RLX_OUT_EYE = 4, RLX_OUT_TONE = 8 };

/* In what comes of a time, of 16 bit: with this bit, the low byte is the number of the setting that
 * has the time. */
#define RLX_BY_SETTING 0x8000u

/* What a servo has instead: 16 bit each, microseconds. */
enum {
    RLX_SRV_LOW = 0,
    RLX_SRV_HIGH = 2,
    RLX_SRV_SAFE = 4,
    RLX_SRV_STEP = 6, /* most change in a frame of 20 ms; 0: any; or RLX_BY_SETTING */
    /* only where it can be asked: its values at both widths, 32 bit, as whole numbers */
    RLX_SRV_AT_LOW = 8,
    RLX_SRV_AT_HIGH = 12,
    RLX_SRV_DECIMALS = 16,
    RLX_SRV_UNIT = 17 /* a text, or RLX_TEXT_END */
};

/* What a motor, or a pair of them, has instead. */
enum {
    RLX_MOT_SIDES = 0,  /* 1, or 2: left, right */
    RLX_MOT_TURNS = 1,  /* RLX_TURNS_... */
    RLX_MOT_STEP = 2,   /* 16 bit: change of level, of 32767, in 10 ms; 0: at once; or
                           RLX_BY_SETTING */
    RLX_MOT_DEAD = 4,   /* 32 bit: milliseconds between one direction and the other */
    RLX_MOT_TRAVEL = 8, /* 32 bit: it stops after so long; 0: never */
    RLX_MOT_FIRST = 12, /* then each side: */
    RLX_SIDE_CHANNEL = 0,
    RLX_SIDE_DIRECTION = 1, /* pin: high for back */
    RLX_SIDE_BRAKE = 2,     /* pin: high to brake */
    RLX_SIDE_OTHER = 3,     /* channel of the second half-bridge */
    RLX_SIDE_FLAGS = 4,     /* RLX_SIDE_HAS_... */
    RLX_SIDE_HZ = 5,        /* 32 bit */
    RLX_SIDE_SIZE = 9
};
enum {
    RLX_SIDE_HAS_DIRECTION = 1,
    RLX_SIDE_HAS_BRAKE = 2,
    RLX_SIDE_HAS_OTHER = 4,
    RLX_SIDE_REVERSED = 8
};
enum { RLX_TURNS_BRAKE = 0, RLX_TURNS_COAST = 1, RLX_TURNS_OPPOSE = 2 };

/* What a reverser has instead; its pin is that of the relay that opens. */
enum {
    RLX_REV_CLOSE_PIN = 0,
    RLX_REV_OPEN_UNTIL = 1, /* number of the input that ends it; RLX_REV_UNSEEN: none does */
    RLX_REV_CLOSE_UNTIL = 2,
    RLX_REV_SEEN = 3,   /* 1: inputs see its ends */
    RLX_REV_DEAD = 4,   /* 32 bit: between one direction and the other */
    RLX_REV_TRAVEL = 8, /* 32 bit: it stops after so long; 0: never */
    RLX_REV_SIZE = 12
};
#define RLX_REV_UNSEEN 255

/* What a stepper has instead; its pin is the channel of its pulses. Where it is counts in steps
 * from where its home switch goes off, or from where it stood at the start. */
enum {
    RLX_STP_DIRECTION = 0, /* pin: high for fewer steps */
    RLX_STP_ENABLE = 1,    /* pin of its current */
    RLX_STP_FLAGS = 2,     /* RLX_STP_HAS_... */
    RLX_STP_HOME = 3,      /* number of the input */
    RLX_STP_SPEED = 4,     /* 16 bit: steps a second */
    RLX_STP_RUNGS = 6,     /* 16 bit: speeds of its ramp, of 10 ms each */
    RLX_STP_LOW = 8,       /* 32 bit each: its values, as whole numbers... */
    RLX_STP_HIGH = 12,
    RLX_STP_FROM = 16, /* ...and the steps of that */
    RLX_STP_TO = 20,
    RLX_STP_DECIMALS = 24,
    RLX_STP_UNIT = 25 /* a text */
};
enum {
    RLX_STP_HAS_ENABLE = 1,
    RLX_STP_HAS_HOME = 2,
    RLX_STP_HAS_UNIT = 4,
    RLX_STP_REVERSED = 8,
    RLX_STP_FREE = 16 /* its safe state is without current */
};

/* What only some outputs have; times are 32 bit, in milliseconds, 0 where there is none. */
enum {
    RLX_OUT_MIN_ON = 0,
    RLX_OUT_MIN_OFF = 4,
    RLX_OUT_DEAD = 8,        /* between it and another one of its interlock */
    RLX_OUT_REST = 12,       /* the longest of these three */
    RLX_OUT_FADE = 16,       /* from one level to another; or RLX_LASTS_SET and a setting */
    RLX_OUT_FADE_SHARE = 20, /* 2^32 by that; of a setting's time nothing */
    RLX_OUT_GROUP = 24,      /* number of its interlock, from 1; 0: none */
    RLX_OUT_COUNTED = 25,    /* 1: NAME? reports how often it went on */
    RLX_OUT_CURVE = 26,      /* number of the setting with its curve, from 1; 0: none... */
    RLX_OUT_EYE_WORD = 27,   /* ...and is the eye's with this value */
    RLX_OUT_MORE_SIZE = 28
};

/* A link row. */
enum {
    RLX_LNK_FRAME = 0,   /* RLX_FRAME_...: rlx/def/frames.h */
    RLX_LNK_REPLY = 1,   /* most bytes of one reply, line end included */
    RLX_LNK_RECEIVE = 2, /* ring sizes less 1 */
    RLX_LNK_TRANSMIT = 3,
    RLX_LNK_LONGEST = 4, /* longest frame */
    RLX_LNK_MORE = 5,    /* 16 bit: what follows; 0: nothing of it */
    RLX_LNK_ROW = 7
};
/* Bytes of a report. */
#define RLX_REPORT 64u

/* What only some links have. */
enum {
    RLX_MORE_KEYS = 0,      /* 16 bit: len16, then char8 + text for each key, or two texts for each
                               code, '#' standing for a digit; 0: none */
    RLX_MORE_CHAR = 2,      /* the last character, what fills a frame, the lead of a line, or the
                               bytes of a frame of channels */
    RLX_MORE_LENGTH = 3,    /* of a fixed frame */
    RLX_MORE_GAP = 4,       /* 16 bit: milliseconds of silence that end a frame; 0: none do */
    RLX_MORE_FLAGS = 6,     /* RLX_LINK_... */
    RLX_MORE_ADDRESS = 7,   /* of this device */
    RLX_MORE_SENDERS = 8,   /* sources 1..N whose tags are kept */
    RLX_MORE_WAYS = 9,      /* RLX_WAY_... */
    RLX_MORE_ONLY = 10,     /* 16 bit: len16, texts: the first words that it accepts, or
                               behind an empty text those that it does not; 0: all */
    RLX_MORE_TEXTS = 12,    /* 16 bit: len16, then what8 + text: own replies; 0: none. In
                                those of errors a byte below RLX_FIELD_BELOW is an RLX_FIELD_... */
    RLX_MORE_IGNORED = 14,  /* 16 bit: len16, known texts, each with its answer or RLX_TEXT_END
                                alone; 0: none */
    RLX_MORE_YIELDS = 16,   /* to which link, from 1; 0: to none... */
    RLX_MORE_EVENT = 17,    /* most bytes of an event or a note, all in all; 0: it sends none */
    RLX_MORE_YIELDS_S = 18, /* 16 bit: ...so many seconds after it was last used */
    RLX_MORE_PRESENCE = 20, /* 16 bit: how a loss is detected, and what follows; 0: nothing */
    RLX_MORE_SMS = 22,    /* 16 bit: who may command by text message; 0: no modem is driven here */
    RLX_MORE_WINDOW = 24, /* 32 bit: milliseconds that a tag is remembered, or a session lasts */
    RLX_MORE_SIZE = 28,
    RLX_MORE_SEAL = 28,  /* only where the flags have RLX_LINK_SEALED: */
    RLX_MORE_INTENT = 28 /* only where the flags have RLX_LINK_TAGS_REQUIRED alone, in an image that
                            needs KEPT_TAGS: its record, from 1; 0: it has none */
};

/* Characters of a sender in the record of RLX_MORE_INTENT. */
#define RLX_INTENT_BYTES 8u

/* Who may command by text message. */
enum {
    RLX_SMS_ROW_STALE = 0,   /* 32 bit: seconds; older ones are refused; 0: none are */
    RLX_SMS_ROW_ALLOW = 4,   /* number of the setting that holds more numbers, from 1; 0: none */
    RLX_SMS_ROW_CODE = 5,    /* of the setting that holds the code; 0: none is wanted */
    RLX_SMS_ROW_RECORD = 6,  /* of the one that holds what was begun and done, from 0 */
    RLX_SMS_ROW_NUMBERS = 7, /* so many numbers: */
    RLX_SMS_ROW_FIRST = 8    /* 12 bytes each, an address of 3GPP TS 23.040 */
};

/* Who may seal frames: behind RLX_MORE_SIZE of a link with seals. */
enum {
    RLX_SEAL_MODE = 0, /* RLX_SEAL_REQUIRED, RLX_SEAL_HALT */
    RLX_SEAL_OWN = 1,  /* the record of the device's own numbers */
    RLX_SEAL_KEYS = 2, /* number of keys, then for each: */
    RLX_SEAL_ROWS = 3  /* 8 bit: the setting that holds it; 8 bit: its sender, 0: none; then a text:
                         the lexicon's name and version, and the link's name */
};
enum {
    RLX_SEAL_REQUIRED = 1, /* what has no seal is refused, but for a halt... */
    RLX_SEAL_HALT = 2      /* ...or with it */
};

/* How the loss of a link is detected, and what follows. */
enum {
    RLX_PRS_FLAGS = 0,
    RLX_PRS_PIN = 1,
    RLX_PRS_SILENCE = 2, /* 32 bit: milliseconds without a valid frame; 0: any */
    RLX_PRS_LISTS =
        6 /* count8, the outputs that go to their safe state; count8, those that show it */
};
/* WATCHED: an input is on the pin, which watches it with its own pull. HANGS_UP: behind the lists
 * stand the pin8 that hangs up, and for how many milliseconds, of 16 bit. */
enum {
    RLX_PRS_HAS_PIN = 1,
    RLX_PRS_ACTIVE_LOW = 2,
    RLX_PRS_WATCHED = 4,
    RLX_PRS_HANGS_UP = 8,
    RLX_PRS_HANGS_LOW = 16 /* the pin is active low */
};
enum {
    RLX_LINK_CHECK = 1,          /* a check may stand behind a frame... */
    RLX_LINK_CHECK_REQUIRED = 2, /* ...or must */
    RLX_LINK_TAGS = 4,           /* a tag may stand before it... */
    RLX_LINK_TAGS_REQUIRED = 8,  /* ...or must; both: there are no tags, but seals... */
    RLX_LINK_SEALED = 12,        /* ...as RLX_MORE_SEAL has it */
    RLX_LINK_ADDRESSED = 16,     /* an address must stand before that */
    RLX_LINK_SHORT = 32,         /* ok, e7 */
    RLX_LINK_SILENT = 64,        /* no replies */
    RLX_LINK_SHARED = 128        /* damaged frames are only counted */
};
enum {
    RLX_WAY_PEOPLE = 1,     /* echo and backspace */
    RLX_WAY_DROP = 2,       /* answers without room are dropped */
    RLX_WAY_STATE_TOLD = 4, /* it sends the last word of every event when it comes up */
    RLX_WAY_ALOUD = 8,      /* it sends notes */
    RLX_WAY_FILLED = 16,    /* packets have all their bytes, filled up */
    RLX_WAY_NO_CR = 32,     /* its lines end without a CR... */
    RLX_WAY_NO_LF = 64,     /* ...and without a LF */
    RLX_WAY_BINARY = 128    /* its frames are bytes, by a layout */
};

/* A layout stands where a link of keys has those: len16; the bytes behind the body of a frame, 8
 * bit; the fields of a frame, of an answer, of an event; then rows, of the commands and events that
 * have one. A row is what it is for: RLX_ROW_COMMAND or the event's RLX_OWN_...; its fields; that
 * of a command a text, in which RLX_ROW_SLOT and then a slot's number and its decimals stand for
 * its value. Fields are ended by RLX_FLD_END. A field is what it is, its size, and what follows. */
enum {
    RLX_FLD_END,
    RLX_FLD_CONSTANT, /* 32 bit: it must be this */
    RLX_FLD_VALUE,    /* 8 bit: of this slot */
    RLX_FLD_SCALED,  /* 8 bit: the same; 4 times 32 bit: from, to in the frame; from, to of the slot
                      */
    RLX_FLD_LENGTH,  /* 8 bit: what the length of the whole frame is more than it */
    RLX_FLD_NUMBER,  /* the sender's; the answer has it, too */
    RLX_FLD_RESULT,  /* of an answer: 0, or the error's number */
    RLX_FLD_BODY,    /* here stands the row's */
    RLX_FLD_CHECKED, /* the check covers what follows; without it all of the frame */
    RLX_FLD_CHANNELS, /* 8 bit: so many, each of its size; LITTLE: least significant bits first */
    RLX_FLD_UNUSED,   /* whatever stands there */
    RLX_FLD_FAILSAFE, /* not 0: the sender's radio lost its hand-held, and all else is stale */
    RLX_FLD_CHANNEL,  /* RLX_CHN_...: a slot's value from a channel */
    RLX_FLD_ZONE,     /* RLX_ZON_...: the channel is within these */
    RLX_FLD_SUM,      /* 8 bit: 0, or RLX_SUM_...: the sum of the bytes so far */
    RLX_FLD_XOR,      /* of the bytes so far */
    RLX_FLD_CRC       /* 16 bit each: polynomial, start, final xor; see RLX_SIZE_SIGNED */
};
/* Its size: bits less 1, most significant bit first, and: */
enum {
    RLX_SIZE_BITS = 31,
    RLX_SIZE_LITTLE = 32, /* least significant byte first; whole bytes */
    RLX_SIZE_SIGNED = 64  /* two's complement; of a CRC: reflected. One of 8 bits that is not stands
                             in the upper byte of its numbers */
};
enum { RLX_SUM_PLAIN, RLX_SUM_INVERTED, RLX_SUM_NEGATED };

/* A frame of channels has no body. In its link's buffer stand this frame and the one before, each
 * of RLX_MORE_CHAR bytes; a byte that is not 0 once there was one; a byte of flags for each row;
 * and the text of a command, from where the byte that begins the layout's list says. */
enum {
    RLX_CHN_CHANNEL = 0, /* its number, and RLX_CHANNEL_... */
    RLX_CHN_SLOT = 1,
    RLX_CHN_FROM = 2,      /* 16 bit each: what the channel has for its low; */
    RLX_CHN_REST_FROM = 4, /* while it is at rest; */
    RLX_CHN_REST_TO = 6,
    RLX_CHN_TO = 8,   /* for its high */
    RLX_CHN_LOW = 10, /* 32 bit each: the slot's values there */
    RLX_CHN_REST = 14,
    RLX_CHN_HIGH = 18,
    RLX_CHN_SIZE = 22
};
enum {
    RLX_ZON_CHANNEL = 0,
    RLX_ZON_FROM = 1, /* 16 bit each: it enters... */
    RLX_ZON_TO = 3,
    RLX_ZON_KEEP_FROM = 5, /* ...and has not left */
    RLX_ZON_KEEP_TO = 7,
    RLX_ZON_SIZE = 9
};
enum {
    RLX_CHANNEL_NUMBER = 31,
    RLX_CHANNEL_RENEWS = 64,   /* its command expires: each frame renews it */
    RLX_CHANNEL_ANYWHERE = 128 /* it does not have to be at rest first: a change is obeyed */
};
#define RLX_ROW_COMMAND 0
#define RLX_ROW_ANSWERS 1 /* a command; behind its text stand the fields of its answer's body */
#define RLX_ROW_EVENTS  2 /* from here on it is an event's */
#define RLX_ROW_SLOT    1u
/* Of the byte behind RLX_ROW_SLOT: the slot, from 1, and its decimals above. */
#define RLX_ROW_SLOT_BITS 4
/* RFC 1662: what stands around a frame, and before a byte of it that is one of these, changed by...
 */
#define RLX_STUFF_FLAG   0x7Eu
#define RLX_STUFF_ESCAPE 0x7Du
#define RLX_STUFF_XOR    0x20u
/* What stands before what is echoed, so that nobody takes it for a command. */
#define RLX_ECHO_LEAD '>'
/* What stands before a reply where each character could be a command, and is none itself. */
#define RLX_REPLY_LEAD '<'

/* Most digits of a code. */
#define RLX_CODE_DIGITS 10

/* Most decimals of a number. */
#define RLX_DECIMALS_MOST 7

/* What an own text stands for: an error's number, or RLX_OWN_... */
enum {
    RLX_OWN_OK = 0,
    RLX_OWN_ALREADY = 100,
    RLX_OWN_ERR = 101,
    RLX_OWN_NOTE = 102,
    RLX_OWN_READY = 103
};
/* ...or, from here on, an event: RLX_EVT_FIRST of its row and the number of the word. */
#define RLX_OWN_EVENT 128

/* The event rows: their number in a byte, then each. */
enum {
    RLX_EVT_LINKS = 0,   /* 16 bit: to which links, one bit each */
    RLX_EVT_WORDS = 2,   /* number of its words; 0: it has none */
    RLX_EVT_FIRST = 3,   /* number of its first word among those of all events */
    RLX_EVT_FLAGS = 4,   /* RLX_EVT_IS_... */
    RLX_EVT_EVERY = 5,   /* 32 bit: least milliseconds between two of it; 0: none */
    RLX_EVT_A_DAY = 9,   /* 16 bit: most of it a day; 0: any number */
    RLX_EVT_TEXT = 11,   /* 16 bit: its name, then each of its words */
    RLX_EVT_SOURCE = 13, /* number of the input, output, routine or setting that it comes from;
                            RLX_EVT_NONE: none */
    RLX_EVT_ON = 14,     /* the word to send when that goes on, or is open... */
    RLX_EVT_OFF = 15,    /* ...off, or closed... */
    RLX_EVT_HELD = 16,   /* ...is held, or late; RLX_EVT_NONE: it sends none then */
    RLX_EVT_ROW = 17
};
#define RLX_EVT_NONE 255
enum {
    RLX_EVT_IS_CONFIRMED = 1, /* sent again until it is acknowledged */
    RLX_EVT_IS_OUTPUTS = 2,   /* it comes from an output... */
    RLX_EVT_IS_ROUTINES = 4,  /* ...or from a routine; else from an input, or the firmware */
    RLX_EVT_IS_CODES = 6,     /* ...or from guesses of the code in a setting */
    RLX_EVT_IS_KEPT = 8       /* it waits for its link, and outlasts a power cut */
};

/* The input rows: their number in a byte, then each. Times in milliseconds. */
enum {
    RLX_INP_FLAGS = 0, /* RLX_INP_ACTIVE_LOW, and enum rlx_pull from bit RLX_INP_PULL on */
    RLX_INP_PIN = 1,
    RLX_INP_DEBOUNCE = 2, /* 16 bit: how long a level lasts before it counts; or
                             RLX_BY_SETTING */
    RLX_INP_HELD = 4,     /* 16 bit: on for so long it is held; 0: never */
    RLX_INP_REPEAT = 6,   /* 16 bit: and sends it again that often; 0: once */
    RLX_INP_ROW = 8
};
enum { RLX_INP_ACTIVE_LOW = 1, RLX_INP_PULL = 1 };
/* What is pending of kept events is a setting, the last one, that no command stores: the
 * RLX_KEPT_HEAD characters that tell these events from others, which are the name of its slot; then
 * for each kept event and each link two characters with four bits each, of RLX_KEPT_NIBBLE. */
#define RLX_KEPT_HEAD   4u
#define RLX_KEPT_NIBBLE 0x40u

/* What an input or a link does: its number, when (RLX_EVT_ON, RLX_EVT_OFF or RLX_EVT_HELD; of a
 * link RLX_ACT_UP or RLX_ACT_LOST), the length of what stands there, and that: as a routine's
 * step. */
enum { RLX_ACT_NUMBER = 0, RLX_ACT_WHEN = 1, RLX_ACT_LENGTH = 2, RLX_ACT_ELEMENTS = 3 };
enum { RLX_ACT_UP = RLX_EVT_ROW, RLX_ACT_LOST }; /* none of an event's */
/* What an input permits: the number of an output; the ways that it may not go otherwise, and
 * whether the input has to be on; the input's number, and its name. */
enum { RLX_PER_OUTPUT = 0, RLX_PER_WHAT = 1, RLX_PER_INPUT = 2, RLX_PER_NAME = 3 };
enum { RLX_GOES_FORWARD = 1, RLX_GOES_BACK = 2, RLX_GOES_ANY = 3, RLX_PER_IF_ON = 0x80 };
/* The routines: their number in a byte, then 16 bits for each: where it stands. There: the number
 * of outputs that it acts on, their numbers, the number of its steps, and its elements:
 * PUSH, LASTS, END with an inline operand, WAIT, up to an OVER, with an AGAIN before it or not. */
#define RLX_ROUTINE_STEPS  64
#define RLX_ROUTINE_ROUNDS 60000
/* The settings: their number in a byte, 32 bits that identify their layout, then for each:
 */
enum {
    RLX_SET_VALUE = 0, /* 32 bit: that it has when nobody has changed it; of a text where it stands:
                          count8 and its bytes */
    RLX_SET_SLOT = 4,  /* 16 bit: its element */
    RLX_SET_AT = 6,    /* 16 bit: of a text, its place among all texts: count8 and its bytes; with
                          RLX_SET_HIDDEN nobody is shown it */
    RLX_SET_ROW = 8
};
#define RLX_SET_HIDDEN    0x8000u
#define RLX_SETTINGS_MOST 32

/* Behind the rows of the settings, where the memory is written less often. */
enum {
    RLX_WEAR_BETWEEN =
        0, /* 32 bit: ms between two erases, up to RLX_WEAR_DAY; 0: as often as needed */
    RLX_WEAR_RECORDS = 4, /* 32 bit: the library's own records, one bit each: never held back */
    RLX_WEAR_RESTS = 8,   /* number of settings with a least time between two changes, for each: */
    RLX_WEAR_FIRST = 9,   /* 8 bit: the setting, 32 bit: ms, up to RLX_WEAR_DAY */
    RLX_WEAR_ROW = 5
};
#define RLX_WEAR_DAY UINT32_C(86400000) /* ms */
/* Most words of an event, and most links where there are events. */
#define RLX_EVENT_WORDS 8
#define RLX_EVENT_LINKS 16

/* The word hash: 16 bits, started at 0, one step a (folded) character. */
#define RLX_HASH_STEP(hash, c)    ((hash)*31u + (c)) /* its low 16 bits count */
#define RLX_HASH_MIX(hash, shift) ((uint16_t)((unsigned)((hash) ^ (shift)) * 0x9E35u))
#define RLX_HASH_GROUP(hash, shift, groups) \
    ((uint16_t)(((uint32_t)RLX_HASH_MIX(hash, shift) * (groups)) >> 16))

#endif
