/* The private members of struct rlx_link, which includes this file in its midst. Each has one
 * writer: the interrupt side or the main side. Firmware uses none of them. */

/* Private, written by the interrupt side. */
uint8_t rx_head; /* free-running index of the next byte in */
uint8_t rx_cut;  /* differs from rx_seen while the stream is cut */
uint8_t tx_tail; /* free-running index of the next byte out */
#if RLX_HAS_TIMED
uint8_t rx_gap;    /* differs from rx_gap_seen while a silence is marked... */
uint8_t rx_gap_at; /* ...before the byte with this index */
#endif

/* Private, written by the main side. */
uint8_t rx_limit; /* rx_head may not reach this: tail + ring size */
uint8_t rx_seen;
uint8_t tx_head;
uint8_t frame_len;
uint8_t frame_state; /* error of the frame in the making; RLX_FRAME_READY */
#if RLX_HAS_TIMED
uint8_t rx_gap_seen;
bool armed;   /* the frame in the making ends... */
uint32_t due; /* ...at this time */
#endif
#if RLX_HAS_KEYS || RLX_HAS_CODES
bool frame_reply; /* somebody's reply, up to the end of its line */
#endif
#if RLX_HAS_CODES
uint8_t frame_next; /* the byte that begins the next code; 0: none */
#endif
#if RLX_HAS_MARKED
bool frame_line; /* a line, behind its lead character */
#endif
#if RLX_HAS_PACKET || RLX_HAS_REPORT
uint8_t frame_need; /* bytes of the packet that are still to come */
#endif
#if RLX_HAS_REPORT
bool frame_rest; /* they are nothing: the line is over */
#endif
#if RLX_HAS_MESSAGE
uint8_t source; /* of the message */
#endif
#if RLX_HAS_PEOPLE
bool echoes;
uint8_t echoed; /* bytes of the line that were echoed... */
bool prompted;  /* ...behind what stands before them */
#endif
#if RLX_HAS_UP
bool down; /* nobody is there: it sends no events */
#endif
#if RLX_HAS_GREETS
bool greets; /* it came up, and the greeting is still to be sent */
#endif
#if RLX_HAS_PRESENCE
bool pin_down;       /* its state pin is off */
bool listens;        /* it is lost... */
uint32_t silent_due; /* ...when nothing valid comes up to this time */
#if RLX_HANGS_UP
uint8_t hangs;     /* it is hung up: src/core/presence.c... */
uint32_t hang_due; /* ...and what comes next is due then */
#endif
#if RLX_LINKS_ACT
bool shows; /* what shows whether somebody is there has still to be changed */
#endif
#endif
#if RLX_HAS_EVENTS && RLX_HAS_PACED
uint8_t event_number; /* number of the last one that waits for its acknowledgement */
#endif
#if RLX_HAS_NOTES
bool note; /* the device's note is still to be sent here */
#endif

#if RLX_HAS_CODED
struct rlx_guesses guesses;
#endif
#if RLX_HAS_SEAL
bool starts; /* senders have still to hear that their sessions are over */
#endif
#if RLX_KEEPS_TAGS
struct rlx_intent intent;
#endif
#if RLX_HAS_TAGS && RLX_HAS_ADDRESS
struct rlx_tags to_all; /* of frames to all without a source */
#endif

/* Read-only after rlx_init(). */
#if !RLX_FIXED_RECEIVE
uint8_t rx_mask; /* ring sizes less 1 */
#endif
#if !RLX_FIXED_TRANSMIT
uint8_t tx_mask;
#endif
#if !RLX_FIXED_FRAME
uint8_t frame_size;
uint8_t *frame; /* in the buffer */
#endif

#if RLX_HAS_HALT
uint8_t ahead; /* bytes of the ring in which a halt was looked for */
uint8_t halts; /* found and done there, not yet answered */
bool looked;   /* the same of the frame in hand */
#endif
#if RLX_HAS_YIELDS
bool yields;         /* to another link... */
uint32_t yields_due; /* ...up to this time */
#endif
