/* Links without the library, for a board that commands others and is no device itself: a handset.
 * The ports call rlx_link_feed(), rlx_link_feed_packet() and rlx_link_take() from their interrupts;
 * raw_links.c has these calls in the place of src/rlx.c, on plain rings. The main loop reads and
 * writes bytes. Nothing here allocates or waits. */
#ifndef RAW_LINKS_H
#define RAW_LINKS_H

#include <stdbool.h>
#include <stdint.h>

#include "rlx/link.h"

#ifndef RAW_LINKS /* links of the board, 1..8 */
#define RAW_LINKS 2
#endif

#ifndef RAW_RING /* bytes of each ring: a power of two, 2..128, so that 8-bit indices are enough \
                  */
#define RAW_RING 128u
#endif

/* For board_start(raw_links, RAW_LINKS, baud). */
extern struct rlx_link raw_links[RAW_LINKS];

/* Takes what was received, at most `room` bytes, of a radio one packet; a packet that is longer is
 * dropped. Returns how many; 0: nothing. Main loop only. After a loss one byte 0xFF stands where
 * bytes are missing, so that no answer is made of two halves. */
uint8_t raw_read(uint8_t link, uint8_t *bytes, uint8_t room);
/* Queues bytes for a wire; false: there is no room, and none is queued. Main loop only. Call
 * rlx_port_kick() after it. */
bool raw_write(uint8_t link, const uint8_t *bytes, uint8_t count);
/* Whether nothing that was received waits to be read: ask it with interrupts masked, before sleep.
 */
bool raw_idle(void);
/* Bytes and packets that found no room; stays at 65535. */
uint16_t raw_lost(uint8_t link);

#endif
