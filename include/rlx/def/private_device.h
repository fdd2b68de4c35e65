/* The private members of struct rlx_device, which includes this file in its midst. They come first
 * there because the library reads them most. Firmware uses none of them. */

/* Private: the command in hand. */
#if RLX_COUNTS_VALUES
uint8_t n_values;
#endif
#if RLX_REPLY_MASK
uint8_t tx_mask; /* of the ring that the reply goes to */
#endif
#if !RLX_FIXED_BUFFER
uint8_t link_no; /* over which link it came */
#endif
uint16_t tx_next; /* free-running index there; published when the reply is whole */
#if RLX_HAS_SWITCH || RLX_HAS_SAYS
uint16_t tx_word; /* tx_next where the last word of the reply began */
#endif
#if RLX_HAS_SAYS
rlx_rom says;            /* the command's own answer; NULL: it has none */
uint8_t said[RLX_SLOTS]; /* where the reply has each value's text: low bits of tx_next */
#endif
uint16_t group; /* where the first word was found in the hash */
#if RLX_HAS_LONG_REPLY
uint8_t tx_most; /* bytes of the reply before what stands behind it */
#endif
#if RLX_REPLY_FROM
uint16_t tx_start; /* where the reply begins, behind lead, address and tag */
#endif
#if RLX_HAS_SOURCE
uint8_t source;    /* number of its sender; 0: unknown */
uint16_t tag, sum; /* of the frame, that without its check */
#if RLX_HAS_TAGS
uint16_t tag_hint; /* the last tag, where this one was not obeyed before; 65535: perhaps it was */
#endif
bool tagged, broadcast;
#endif
#if RLX_HAS_SEAL
uint8_t seal_key;      /* number of the key that sealed the frame in hand; 0: it has no seal */
uint8_t seal_kind;     /* what the answer is sealed as: src/core/seal.c */
uint16_t seal_tx;      /* tx_next where its code goes */
uint32_t seal_session; /* of the frame in hand */
uint32_t seal_counter;
const uint8_t *seal_mac;                    /* the code of the frame in hand, while it is read... */
uint8_t seal_question[RLX_HMAC_CHARACTERS]; /* ...and while it is answered */
uint32_t own, own_most; /* the number that this device used last; it may use up to this */
bool own_known, own_wanted, own_writing; /* there are numbers, there are none, more are written */
#endif
#if RLX_HAS_EXPIRY
uint32_t lasts; /* of the command in hand: ms, and RLX_LASTS_OFF; 0: it does not expire */
#endif
#if RLX_HAS_BINARY
uint32_t frame_number; /* the sender's, of the frame in hand */
#if RLX_BINARY_VALUES
rlx_rom frame_answers; /* the fields of its answer's body; NULL: it has none */
#endif
#if RLX_TAKES_CHANNELS
bool renews; /* the command in hand is the one before once more */
#endif
#endif
#if RLX_HAS_UP
bool bye; /* the frame in hand is bye */
#endif
#if RLX_HAS_DROP
bool unheard; /* the reply is not sent: there is no room for it */
#endif
#if RLX_HAS_RESTS
bool runs; /* it was polled */
#endif
#if RLX_HAS_STEPS
bool in_step; /* of a routine, or of what an input does */
#endif
#if RLX_HAS_BLOCKED
rlx_rom blocked; /* the name of what did not permit the command in hand; NULL: nothing */
#endif
#if RLX_HAS_GUARDS
rlx_rom guard; /* what the command in hand waits for; NULL: nothing */
#endif
#if RLX_HAS_CODED
bool guesses_known; /* the wrong codes before the start */
uint8_t code;       /* the setting, from 1, that opens the command in hand; 0: none... */
rlx_value coded;    /* ...and the text that was given */
#endif
#if RLX_HAS_PERMITTED
bool asks;       /* outputs are asked what they would do, and do nothing */
#endif
#if RLX_HAS_SETTINGS
struct rlx_keep keep;
#endif
#if RLX_HAS_BOUNDED && RLX_HAS_ROUTINES
bool outside; /* a setting does not allow the step in hand */
#endif
#if RLX_TRIES_BOUNDS
rlx_rom out_of;        /* the number element that was refused last, NULL: none... */
rlx_value least, most; /* ...and its range then */
#endif
#if RLX_HAS_NOW
uint32_t now; /* of this poll */
#endif
#if !RLX_FIXED
/* Read-only after rlx_init(). */
uint8_t n_links;
uint8_t fold;    /* 26: letters any-case, else 0 */
uint8_t shorten; /* least letters of a shortened word; 255: never cut */
bool many;       /* 16-bit shapes and operands */
rlx_rom rows;    /* of the links */
#endif
/* Private: the command in hand. */
const uint8_t *text; /* what is still to be read of the frame */
#if RLX_HAS_BUILT_IN
const uint8_t *text_end; /* of several commands; NULL: there is one */
uint8_t part;            /* the one in hand, from 1 */
#endif
#if !RLX_FIXED_BUFFER
struct rlx_link *link; /* over which it came */
#endif
#if RLX_HAS_HEARD
uint8_t frame_begun[RLX_HEARD_BYTES]; /* how it began */
uint8_t frame_count;                  /* so many bytes of that */
uint8_t heard[RLX_HEARD_BYTES];       /* how the last refused one began */
uint8_t heard_count;
uint8_t heard_link;
#if RLX_COUNTS_OTHERS
uint8_t frame_why, heard_why; /* RLX_HEARD_... */
#endif
#endif
#if RLX_HAS_LOG
struct rlx_log_entry log[RLX_LOG_ENTRIES]; /* of which the next one is written at... */
uint8_t log_next;
uint8_t log_count; /* so many there are */
#endif
#if RLX_HAS_NOTES
char note[RLX_NOTE_BYTES]; /* for the links that have not sent it yet */
uint8_t note_length;
#endif
#if RLX_REPLY_RING
uint8_t *tx; /* its transmit ring */
#endif
rlx_rom at; /* element of the program */
#if RLX_KEEPS_ENTRY
rlx_rom entry; /* entry of the first word */
#endif
rlx_value value[RLX_SLOTS];
#if RLX_HAS_WEAR
struct rlx_wear wear;
#endif
