/* Made by packaging/make-defaults from the lists in this folder; change those, not this file.
 * Every feature, every built-in word, and each knob's default, where nothing else is given. */
#ifndef RLX_HAS_ANY_CASE
#define RLX_HAS_ANY_CASE 1
#endif
#ifndef RLX_HAS_SHORTEN
#define RLX_HAS_SHORTEN 1
#endif
#ifndef RLX_HAS_HASH
#define RLX_HAS_HASH 1
#endif
#ifndef RLX_HAS_FAMILY
#define RLX_HAS_FAMILY 1
#endif
#ifndef RLX_HAS_CHOICE
#define RLX_HAS_CHOICE 1
#endif
#ifndef RLX_HAS_NUMBER
#define RLX_HAS_NUMBER 1
#endif
#ifndef RLX_HAS_WIDE
#define RLX_HAS_WIDE 1
#endif
#ifndef RLX_HAS_UNIT
#define RLX_HAS_UNIT 1
#endif
#ifndef RLX_HAS_MANY
#define RLX_HAS_MANY 1
#endif
#ifndef RLX_HAS_CALL
#define RLX_HAS_CALL 1
#endif
#ifndef RLX_HAS_SWITCH
#define RLX_HAS_SWITCH 1
#endif
#ifndef RLX_HAS_LEVEL
#define RLX_HAS_LEVEL 1
#endif
#ifndef RLX_HAS_LINE
#define RLX_HAS_LINE 1
#endif
#ifndef RLX_HAS_KEYS
#define RLX_HAS_KEYS 1
#endif
#ifndef RLX_HAS_GREETING
#define RLX_HAS_GREETING 1
#endif
#ifndef RLX_HAS_LONG_REPLY
#define RLX_HAS_LONG_REPLY 1
#endif
#ifndef RLX_HAS_FORM
#define RLX_HAS_FORM 1
#endif
#ifndef RLX_HAS_SET
#define RLX_HAS_SET 1
#endif
#ifndef RLX_HAS_LIST
#define RLX_HAS_LIST 1
#endif
#ifndef RLX_HAS_TEXT
#define RLX_HAS_TEXT 1
#endif
#ifndef RLX_HAS_GLUE
#define RLX_HAS_GLUE 1
#endif
#ifndef RLX_HAS_NUMBERED
#define RLX_HAS_NUMBERED 1
#endif
#ifndef RLX_HAS_CODES
#define RLX_HAS_CODES 1
#endif
#ifndef RLX_HAS_MARKED
#define RLX_HAS_MARKED 1
#endif
#ifndef RLX_HAS_TIMED
#define RLX_HAS_TIMED 1
#endif
#ifndef RLX_HAS_PACKET
#define RLX_HAS_PACKET 1
#endif
#ifndef RLX_HAS_CHECK
#define RLX_HAS_CHECK 1
#endif
#ifndef RLX_HAS_ADDRESS
#define RLX_HAS_ADDRESS 1
#endif
#ifndef RLX_HAS_TAGS
#define RLX_HAS_TAGS 1
#endif
#ifndef RLX_HAS_OWN
#define RLX_HAS_OWN 1
#endif
#ifndef RLX_HAS_LIMITED
#define RLX_HAS_LIMITED 1
#endif
#ifndef RLX_HAS_EXPIRY
#define RLX_HAS_EXPIRY 1
#endif
#ifndef RLX_HAS_QUERY
#define RLX_HAS_QUERY 1
#endif
#ifndef RLX_HAS_EVENTS
#define RLX_HAS_EVENTS 1
#endif
#ifndef RLX_HAS_PACED
#define RLX_HAS_PACED 1
#endif
#ifndef RLX_HAS_PEOPLE
#define RLX_HAS_PEOPLE 1
#endif
#ifndef RLX_HAS_REPORT
#define RLX_HAS_REPORT 1
#endif
#ifndef RLX_HAS_MESSAGE
#define RLX_HAS_MESSAGE 1
#endif
#ifndef RLX_HAS_NEWEST
#define RLX_HAS_NEWEST 1
#endif
#ifndef RLX_HAS_DROP
#define RLX_HAS_DROP 1
#endif
#ifndef RLX_HAS_YIELDS
#define RLX_HAS_YIELDS 1
#endif
#ifndef RLX_HAS_INPUTS
#define RLX_HAS_INPUTS 1
#endif
#ifndef RLX_HAS_ACTS
#define RLX_HAS_ACTS 1
#endif
#ifndef RLX_HAS_CURVE
#define RLX_HAS_CURVE 1
#endif
#ifndef RLX_HAS_RESTS
#define RLX_HAS_RESTS 1
#endif
#ifndef RLX_HAS_TONE
#define RLX_HAS_TONE 1
#endif
#ifndef RLX_HAS_REVERSERS
#define RLX_HAS_REVERSERS 1
#endif
#ifndef RLX_HAS_MOTORS
#define RLX_HAS_MOTORS 1
#endif
#ifndef RLX_HAS_SERVOS
#define RLX_HAS_SERVOS 1
#endif
#ifndef RLX_HAS_GROUPS
#define RLX_HAS_GROUPS 1
#endif
#ifndef RLX_HAS_ROUTINES
#define RLX_HAS_ROUTINES 1
#endif
#ifndef RLX_HAS_PRESENCE
#define RLX_HAS_PRESENCE 1
#endif
#ifndef RLX_HAS_PATTERNS
#define RLX_HAS_PATTERNS 1
#endif
#ifndef RLX_HAS_COUNTED
#define RLX_HAS_COUNTED 1
#endif
#ifndef RLX_HAS_PLACES
#define RLX_HAS_PLACES 1
#endif
#ifndef RLX_HAS_SETTINGS
#define RLX_HAS_SETTINGS 1
#endif
#ifndef RLX_HAS_SMS
#define RLX_HAS_SMS 1
#endif
#ifndef RLX_HAS_STEPPERS
#define RLX_HAS_STEPPERS 1
#endif
#ifndef RLX_HAS_WORDS
#define RLX_HAS_WORDS 1
#endif
#ifndef RLX_HAS_ERRORS
#define RLX_HAS_ERRORS 1
#endif
#ifndef RLX_HAS_SAYS
#define RLX_HAS_SAYS 1
#endif
#ifndef RLX_HAS_INPUT_ACTS
#define RLX_HAS_INPUT_ACTS 1
#endif
#ifndef RLX_HAS_REASONS
#define RLX_HAS_REASONS 1
#endif
#ifndef RLX_HAS_PERMITS
#define RLX_HAS_PERMITS 1
#endif
#ifndef RLX_HAS_OUTPUT_EVENTS
#define RLX_HAS_OUTPUT_EVENTS 1
#endif
#ifndef RLX_HAS_ANSWERS
#define RLX_HAS_ANSWERS 1
#endif
#ifndef RLX_HAS_GREETS
#define RLX_HAS_GREETS 1
#endif
#ifndef RLX_HAS_LINE_ENDS
#define RLX_HAS_LINE_ENDS 1
#endif
#ifndef RLX_HAS_FIELDS
#define RLX_HAS_FIELDS 1
#endif
#ifndef RLX_HAS_LOOPS
#define RLX_HAS_LOOPS 1
#endif
#ifndef RLX_HAS_SHOWS
#define RLX_HAS_SHOWS 1
#endif
#ifndef RLX_HAS_SET_TIMES
#define RLX_HAS_SET_TIMES 1
#endif
#ifndef RLX_HAS_BOUNDS
#define RLX_HAS_BOUNDS 1
#endif
#ifndef RLX_HAS_SET_RAMPS
#define RLX_HAS_SET_RAMPS 1
#endif
#ifndef RLX_HAS_SET_DEBOUNCE
#define RLX_HAS_SET_DEBOUNCE 1
#endif
#ifndef RLX_HAS_HANG_UP
#define RLX_HAS_HANG_UP 1
#endif
#ifndef RLX_HAS_KEPT
#define RLX_HAS_KEPT 1
#endif
#ifndef RLX_HAS_LAYOUT
#define RLX_HAS_LAYOUT 1
#endif
#ifndef RLX_HAS_STUFFED
#define RLX_HAS_STUFFED 1
#endif
#ifndef RLX_HAS_COBS
#define RLX_HAS_COBS 1
#endif
#ifndef RLX_HAS_SCALED
#define RLX_HAS_SCALED 1
#endif
#ifndef RLX_HAS_CHANNELS
#define RLX_HAS_CHANNELS 1
#endif
#ifndef RLX_HAS_RAW
#define RLX_HAS_RAW 1
#endif
#ifndef RLX_HAS_SEAL
#define RLX_HAS_SEAL 1
#endif
#ifndef RLX_HAS_SMS_CODE
#define RLX_HAS_SMS_CODE 1
#endif
#ifndef RLX_HAS_GUARDS
#define RLX_HAS_GUARDS 1
#endif
#ifndef RLX_HAS_CODED
#define RLX_HAS_CODED 1
#endif
#ifndef RLX_HAS_WEAR
#define RLX_HAS_WEAR 1
#endif
#ifndef RLX_HAS_KEPT_TAGS
#define RLX_HAS_KEPT_TAGS 1
#endif

#ifndef RLX_BUILT_IN
#define RLX_BUILT_IN 1023
#endif
#if RLX_BUILT_IN < 0 || RLX_BUILT_IN > 1023
#error "RLX_BUILT_IN is 0..1023: take the value that rlx emit wrote into NAME_config.h"
#endif
#define RLX_HAS_HALT  (RLX_BUILT_IN >> 0 & 1)
#define RLX_HAS_ABOUT (RLX_BUILT_IN >> 1 & 1)
#define RLX_HAS_STATS (RLX_BUILT_IN >> 2 & 1)
#define RLX_HAS_STATE (RLX_BUILT_IN >> 3 & 1)
#define RLX_HAS_BATCH (RLX_BUILT_IN >> 4 & 1)
#define RLX_HAS_HELP  (RLX_BUILT_IN >> 5 & 1)
#define RLX_HAS_HEARD (RLX_BUILT_IN >> 6 & 1)
#define RLX_HAS_LOG   (RLX_BUILT_IN >> 7 & 1)
#define RLX_HAS_BYE   (RLX_BUILT_IN >> 8 & 1)
#define RLX_HAS_NOTES (RLX_BUILT_IN >> 9 & 1)

/* Whether a build has one of the drives, and one that changes by itself. */
#define RLX_HAS_DRIVES \
    (RLX_HAS_REVERSERS || RLX_HAS_MOTORS || RLX_HAS_SERVOS || RLX_HAS_GROUPS || RLX_HAS_STEPPERS)
#define RLX_HAS_MOVING (RLX_HAS_REVERSERS || RLX_HAS_MOTORS || RLX_HAS_SERVOS || RLX_HAS_STEPPERS)

/* slots of a command */
#ifndef RLX_SLOTS
#define RLX_SLOTS 15
#endif
#if RLX_SLOTS < 1 || RLX_SLOTS > 15
#error "RLX_SLOTS is 1..15: slots of a command"
#endif

/* links; 0: as many as the image has */
#ifndef RLX_LINKS
#define RLX_LINKS 0
#endif
#if (RLX_LINKS && RLX_LINKS < 1) || RLX_LINKS > 255
#error "RLX_LINKS is 1..255, or 0: links; 0: as many as the image has"
#endif

/* bytes that one poll takes from each link */
#ifndef RLX_POLL_BYTES
#define RLX_POLL_BYTES 64
#endif
#if RLX_POLL_BYTES < 1 || RLX_POLL_BYTES > 255
#error "RLX_POLL_BYTES is 1..255: bytes that one poll takes from each link"
#endif

/* bytes of a reply kept for each sender with tags */
#ifndef RLX_KEPT_REPLY_BYTES
#define RLX_KEPT_REPLY_BYTES 128
#endif
#if RLX_KEPT_REPLY_BYTES < 16 || RLX_KEPT_REPLY_BYTES > 128
#error "RLX_KEPT_REPLY_BYTES is 16..128: bytes of a reply kept for each sender with tags"
#endif

/* bytes of a frame that is read before its turn */
#ifndef RLX_AHEAD_BYTES
#define RLX_AHEAD_BYTES 254
#endif
#if RLX_AHEAD_BYTES < 40 || RLX_AHEAD_BYTES > 254
#error "RLX_AHEAD_BYTES is 40..254: bytes of a frame that is read before its turn"
#endif

/* bytes of a refused frame that `heard` shows */
#ifndef RLX_HEARD_BYTES
#define RLX_HEARD_BYTES 16
#endif
#if RLX_HEARD_BYTES < 4 || RLX_HEARD_BYTES > 16
#error "RLX_HEARD_BYTES is 4..16: bytes of a refused frame that `heard` shows"
#endif

/* commands that `log` remembers */
#ifndef RLX_LOG_ENTRIES
#define RLX_LOG_ENTRIES 16
#endif
#if RLX_LOG_ENTRIES < 2 || RLX_LOG_ENTRIES > 64
#error "RLX_LOG_ENTRIES is 2..64: commands that `log` remembers"
#endif

/* characters of each command in the log */
#ifndef RLX_LOG_CHARACTERS
#define RLX_LOG_CHARACTERS 16
#endif
#if RLX_LOG_CHARACTERS < 4 || RLX_LOG_CHARACTERS > 16
#error "RLX_LOG_CHARACTERS is 4..16: characters of each command in the log"
#endif

/* bytes of a note */
#ifndef RLX_NOTE_BYTES
#define RLX_NOTE_BYTES 48
#endif
#if RLX_NOTE_BYTES < 8 || RLX_NOTE_BYTES > 48
#error "RLX_NOTE_BYTES is 8..48: bytes of a note"
#endif

/* bytes of ok and a command with its own answer */
#ifndef RLX_SAYS_BYTES
#define RLX_SAYS_BYTES 128
#endif
#if RLX_SAYS_BYTES < 4 || RLX_SAYS_BYTES > 128
#error "RLX_SAYS_BYTES is 4..128: bytes of ok and a command with its own answer"
#endif

/* bytes of a settings area; 0: nv_area */
#ifndef RLX_NV_AREA_BYTES
#define RLX_NV_AREA_BYTES 256
#endif
#if (RLX_NV_AREA_BYTES && RLX_NV_AREA_BYTES < 32) || RLX_NV_AREA_BYTES > 4096
#error "RLX_NV_AREA_BYTES is 32..4096, or 0: bytes of a settings area; 0: nv_area"
#endif

/* 1: rlx_output_safe() is there for the firmware */
#ifndef RLX_FIRMWARE_SAFE
#define RLX_FIRMWARE_SAFE 0
#endif
#if (RLX_FIRMWARE_SAFE && RLX_FIRMWARE_SAFE < 1) || RLX_FIRMWARE_SAFE > 1
#error "RLX_FIRMWARE_SAFE is 1..1, or 0: 1: rlx_output_safe() is there for the firmware"
#endif

/* 1: for the one lexicon of NAME_config.h; 0: any tables */
#ifndef RLX_FIXED
#define RLX_FIXED 0
#endif
#if (RLX_FIXED && RLX_FIXED < 1) || RLX_FIXED > 1
#error "RLX_FIXED is 1..1, or 0: 1: for the one lexicon of NAME_config.h; 0: any tables"
#endif
