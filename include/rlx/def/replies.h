/* What the library itself says in replies, and how long each reply can be: the chip writes these
 * texts, and the host reserves room for the RLX_LONGEST_ ones. A number stands in those with its
 * most digits, a name of the lexicon not at all: the host adds it. */
#ifndef RLX_DEF_REPLIES_H
#define RLX_DEF_REPLIES_H

#define RLX_TXT_LINE_END "\r\n"
#define RLX_TXT_OK       "ok"
#define RLX_TXT_EVENT    "ev "
#define RLX_TXT_NOTE     "note "
#define RLX_TXT_ON       "on"
#define RLX_TXT_OFF      "off"
#define RLX_TXT_NOTHING  "nothing"
#define RLX_TXT_NONE     "none"

/* An error: the name in a byte's place of a frame, or the foreign word of so many characters. */
#define RLX_WORD_SHOWN         16
#define RLX_LONGEST_ERROR_AT   " at 254" RLX_TXT_LINE_END
#define RLX_LONGEST_TEXT_RANGE " 200..200"

/* Every reply begins with RLX_TXT_OK. A command, with what may stand behind it: */
#define RLX_TXT_WAITING       " waiting "
#define RLX_TXT_MS            "ms"
#define RLX_LONGEST_WAITING   RLX_TXT_WAITING "86400000" RLX_TXT_MS
#define RLX_LONGEST_NUMBER_EV "#255 " /* before a confirmed event's name */
#define RLX_TXT_HELD_BEGIN    " ("
#define RLX_TXT_HELD_END      " more)"
#define RLX_HELD_MOST         9999
#define RLX_LONGEST_HELD      RLX_TXT_HELD_BEGIN "9999" RLX_TXT_HELD_END

/* help; the commands' words, or one pattern, of RLX_HELP_LINE characters at most, are added. */
#define RLX_HELP_LINE        60
#define RLX_TXT_HELP         " help"
#define RLX_TXT_MORE         " more "
#define RLX_TXT_NO_MORE      " no more"
#define RLX_TXT_NO_SUCH_WORD " no such word"
#define RLX_LONGEST_HELP     RLX_TXT_OK RLX_TXT_HELP " " RLX_TXT_MORE "255" RLX_TXT_LINE_END

/* heard; the link's name, why a frame on a shared medium was none, and the bytes are added. */
#define RLX_TXT_HEARD          " heard "
#define RLX_TXT_HEARD_WHYS     " damaged check address "
#define RLX_TXT_HEARD_SEAL     "seal "
#define RLX_LONGEST_HEARD      RLX_TXT_OK RLX_TXT_HEARD " address" RLX_TXT_LINE_END
#define RLX_LONGEST_HEARD_BYTE " 00"

/* log; the link's name, the command and the longest name of an error are added. */
#define RLX_TXT_LOG      " log "
#define RLX_TXT_AGO      " ago"
#define RLX_TXT_LONG_AGO "long ago"
#define RLX_TXT_LOG_OK   " ok"
#define RLX_LONGEST_LOG \
    RLX_TXT_OK RLX_TXT_LOG "64 " RLX_TXT_LONG_AGO " /32 \"\" err " RLX_TXT_LINE_END

/* about and bye; about has the greeting, which the host makes. */
#define RLX_TXT_READY "ready"
#define RLX_TXT_ABOUT " about"
#define RLX_TXT_BYE   " bye"
#define RLX_TXT_HALT  " halt"
#define RLX_TXT_GOT   " got"
#define RLX_TXT_STATS " stats"

/* The counters of stats, up to RLX_COUNTER_MOST. The first three are always there. */
#define RLX_COUNTER_MOST    32767
#define RLX_LONGEST_COUNTER "32767"
#define RLX_COUNTER_LOST    " lost "
#define RLX_COUNTER_REFUSED " refused "
#define RLX_COUNTER_IGNORED " ignored "
#define RLX_COUNTER_OTHERS  " others "
#define RLX_COUNTER_KNOWN   " known "
#define RLX_COUNTER_NEWER   " newer "
#define RLX_COUNTER_UNHEARD " unheard "
#define RLX_COUNTER_UNSENT  " unsent "
#define RLX_COUNTER_WRONG   " wrong "
#define RLX_COUNTER_MERGED  " merged "
#define RLX_COUNTER_NOTES   " notes "
#define RLX_COUNTER_ERASES  " erases " /* of the device's memory */
#define RLX_COUNTERS(X) \
    X(LOST)             \
    X(REFUSED)          \
    X(IGNORED)          \
    X(OTHERS) X(KNOWN) X(NEWER) X(UNHEARD) X(UNSENT) X(WRONG) X(MERGED) X(NOTES) X(ERASES)

/* What an output is at, beside on, off, numbers and its own words. */
#define RLX_TXT_BLINK  "blink"
#define RLX_TXT_FLASH  "flash"
#define RLX_TXT_PARKED "parked"

/* NAME?; the name is added, of a group its outputs, of a setting its value. */
#define RLX_TXT_SWITCHED " switched "
#define RLX_TXT_UNSAVED  " unsaved"
#define RLX_TXT_HIDDEN   " hidden"
#define RLX_TXT_STEP     "step "
#define RLX_TXT_FAILED   "failed "
#define RLX_TXT_OF       " of "
#define RLX_TXT_LEFT     " left "
#define RLX_TXT_ROUND    " round "
/* What a modem for text messages is at. */
#define RLX_MODEM_STATES(X)     \
    X(STARTING, "starting")     \
    X(SILENT, "silent")         \
    X(NO_CARD, "no card")       \
    X(LOCKED, "locked")         \
    X(NO_NETWORK, "no network") \
    X(NO_CLOCK, "no clock")     \
    X(READY, "ready")
#define RLX_TXT_GUESSED "wrong codes" /* it is ready, and looks at no code */

#define RLX_LONGEST_ASKED    RLX_TXT_OK "  " RLX_TXT_LINE_END
#define RLX_LONGEST_SWITCHED RLX_TXT_SWITCHED "2147483647"
#define RLX_LONGEST_OF_ROUTINE \
    RLX_TXT_STEP "64" RLX_TXT_OF "64" RLX_TXT_LEFT "2147483647" RLX_TXT_MS
#define RLX_LONGEST_ROUND RLX_TXT_ROUND "60000" RLX_TXT_OF "60000"

#endif
