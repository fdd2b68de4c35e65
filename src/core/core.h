/* What the files of the core share. The way of a byte: ring.c, frame.c, act.c, match.c,
 * reply.c; device.c starts and polls. */
#ifndef RLX_CORE_H
#define RLX_CORE_H

#include "rlx/device.h"
#include "rlx/drive.h"
#include "rlx/image.h"
#include "rlx/port.h"

/* ring.c: the main side of the rings. */
enum rlx_got { RLX_GOT_NONE, RLX_GOT_BYTE, RLX_GOT_CUT };

/* The next byte of the receive ring. CUT, once, after the last byte before a loss: what follows
 * does not belong to what came before. */
enum rlx_got rlx_ring_get(struct rlx_link *link, uint8_t *byte);

/* Whether rlx_ring_get() would have something. */
bool rlx_ring_waits(const struct rlx_link *link);

/* Free bytes of the transmit ring. */
uint8_t rlx_ring_room(const struct rlx_link *link);

/* Writes at a free-running index of the transmit ring; unseen until rlx_ring_publish(). */
void rlx_ring_put(struct rlx_link *link, uint8_t index, uint8_t byte);
void rlx_ring_publish(struct rlx_link *link, uint8_t head);

/* frame.c: from bytes to a frame. */
uint8_t *rlx_frame_text(const struct rlx_link *link);
void rlx_frame_byte(struct rlx_device *device, struct rlx_link *link, rlx_rom row, uint8_t byte);
void rlx_frame_cut(struct rlx_link *link, rlx_rom row);
void rlx_frame_clear(struct rlx_link *link);

/* match.c: the frame at device->text against the image. Writes the command as the lexicon
 * spells it into the reply, its values into device->value, leaves device->at at the END. On an
 * error device->text is where it is and device->at what was wanted there. */
#define RLX_MATCH_EMPTY (-1)
int rlx_match(struct rlx_device *device);
rlx_rom rlx_number_row(rlx_rom at, rlx_value *low, rlx_value *high);
bool rlx_match_reply_word(const uint8_t *text);

/* act.c: answers the complete frame of a link; false when there is no room for the reply yet. */
bool rlx_answer(struct rlx_device *device, struct rlx_link *link, rlx_rom row);

/* reply.c: writes one reply, published as a whole. */
bool rlx_reply_begin(struct rlx_device *device, struct rlx_link *link, uint8_t most);
void rlx_reply_commit(struct rlx_device *device);
void rlx_reply_put(struct rlx_device *device, uint8_t c);
void rlx_reply_rewind(struct rlx_device *device, uint8_t index);
void rlx_reply_string(struct rlx_device *device, const char *rom);
void rlx_reply_nth(struct rlx_device *device, const char *rom, uint8_t n);
rlx_rom rlx_reply_text(struct rlx_device *device, rlx_rom text);
void rlx_reply_error(struct rlx_device *device, uint8_t error);

/* device.c: row of a link in the image. */
rlx_rom rlx_link_row(const struct rlx_device *device, uint8_t link);

#endif
