/* What the files of the core share. The way of a byte: ring.c, frame.c, act.c, match.c,
 * reply.c; device.c starts and polls. */
#ifndef RLX_CORE_H
#define RLX_CORE_H

#include "rlx/inside.h"
#include "rlx/port.h"

/* A test lets the interrupt in at each of these places, which are between two accesses to what both
 * sides share. */
#ifndef RLX_PREEMPT
#define RLX_PREEMPT() ((void)0)
#endif

/* Where these are inlined, avr-gcc 5 writes the loop around them twice: 320 bytes. */
#ifdef __AVR__
#define RLX_APART __attribute__((__noinline__))
#else
#define RLX_APART
#endif

/* ring.c: the main side of the rings. */
enum rlx_got { RLX_GOT_NONE, RLX_GOT_BYTE, RLX_GOT_CUT, RLX_GOT_GAP };

/* What the receive ring has. BYTE: those from index *tail up to, not with, *head; take some of
 * them, then say so by rlx_ring_took(). CUT, once, after the last byte before a loss: what follows
 * does not belong to what came before. GAP, once, where a silence was marked. */
RLX_INTERNAL enum rlx_got rlx_ring_run(struct rlx_link *link, uint8_t *tail, uint8_t *head);
/* The bytes before this index were read, and their room is free. */
RLX_INTERNAL void rlx_ring_took(struct rlx_link *link, uint8_t tail);
#if RLX_HAS_SMS
/* The same for the next byte alone. */
RLX_INTERNAL enum rlx_got rlx_ring_get(struct rlx_link *link, uint8_t *byte);
#endif

/* Whether rlx_ring_run() would have something. */
RLX_INTERNAL bool rlx_ring_waits(const struct rlx_link *link);

/* Free bytes of the transmit ring. */
RLX_INTERNAL uint8_t rlx_ring_room(const struct rlx_link *link);

#if RLX_HANGS_UP
/* Whether all of it was taken by the port. */
RLX_INTERNAL bool rlx_ring_is_sent(const struct rlx_link *link);
#endif

/* Lets the interrupt side see what was written to the transmit ring up to this index. */
RLX_INTERNAL void rlx_ring_publish(struct rlx_link *link, uint8_t head);

/* frame.c: from bytes to a frame. */
/* Takes what there is up to the end of a frame, a cut or a silence, but at most *budget bytes, and
 * takes them off it; false: there is nothing. */
RLX_INTERNAL bool rlx_frame_step(const struct rlx_device *device, struct rlx_link *link,
                                 rlx_rom row, uint8_t *budget);
/* There was a silence: it ends a frame that is not complete. */
RLX_INTERNAL void rlx_frame_silence(const struct rlx_device *device, struct rlx_link *link,
                                    rlx_rom row);
/* Behind the text of the image that what stands at s begins with; NULL: it begins otherwise. */
RLX_INTERNAL const uint8_t *rlx_behind_text(const struct rlx_device *device, const uint8_t *s,
                                            rlx_rom text);
/* Puts a command in the place of the number that stands for it. */
RLX_INTERNAL void rlx_frame_number(struct rlx_device *device);
#if RLX_HAS_PEOPLE
/* Ends the line that is being echoed: an event would stand within it, and what comes behind
 * that would have no lead. With the next byte all of it is echoed anew. */
RLX_INTERNAL void rlx_echo_break(const struct rlx_device *device, struct rlx_link *link);
#endif
/* The first byte of the frame that may only stand within quotes, and does not; or NULL. */
RLX_INTERNAL const uint8_t *rlx_frame_stray(const struct rlx_link *link);
/* It was answered: the next one begins. */
static inline void rlx_frame_over(struct rlx_link *link)
{
    link->frame_len = 0;
    link->frame_state = 0;
#if RLX_HAS_PEOPLE
    link->echoed = 0;
    link->prompted = false;
#endif
}

/* The value of the next slot. */
static inline void rlx_keep_value(struct rlx_device *device, rlx_value value)
{
#if RLX_HAS_SAYS
    device->said[RLX_SLOTS == 1 ? 0 : device->n_values] = (uint8_t)device->tx_word;
#endif
#if RLX_COUNTS_VALUES
    device->value[RLX_SLOTS == 1 ? 0 : device->n_values] = value;
    device->n_values++;
#else
    device->value[0] = value;
#endif
}

/* Whether this is an error that has a text: the number may come from memory. */
static inline bool rlx_has_error_text(const struct rlx_device *d, uint8_t error)
{
    (void)d;
    if (RLX_HAS_REASONS && error >= RLX_ERR_REASON)
        return error - RLX_ERR_REASON < rlx_head8(d, RLX_IMG_REASONS);
    return error && error < RLX_ERR_REPLIES;
}
/* The number of an error's text. */
static inline uint8_t rlx_text_of_error(uint8_t error)
{
    return RLX_HAS_REASONS && error >= RLX_ERR_REASON
               ? (uint8_t)(error - RLX_ERR_REASON + RLX_TEXTS)
               : (uint8_t)(error - 1 + RLX_TEXT_ERRORS);
}
#if RLX_HAS_STEPS
/* act.c: does what stands at a place of the image that no frame leads to, without a reply, and
 * leaves device->at behind it. As rlx_act(). */
RLX_INTERNAL int rlx_step(struct rlx_device *device, rlx_rom at, bool ends);
#endif
/* act.c: obeys d->text, as a frame's: 0, an error, RLX_MATCH_... or RLX_OWN_ALREADY. */
RLX_INTERNAL uint8_t rlx_obey(struct rlx_device *device, rlx_rom row);
/* match.c: the frame at device->text against the image. Writes the command as the lexicon
 * spells it into the reply, its values into device->value, leaves device->at at the END. 0 or an
 * error; then device->text is where it is and device->at what was wanted there. */
#define RLX_MATCH_EMPTY 255
#define RLX_MATCH_REPLY 254 /* somebody's reply, not a command */
RLX_INTERNAL uint8_t rlx_match(struct rlx_device *device);
/* Takes an element that reads nothing; false: it is another, where *op stays. */
RLX_INTERNAL bool rlx_take_silent(struct rlx_device *device, rlx_rom *op);
#define RLX_MATCH_NEWER 250 /* the same command waits behind it */
#if RLX_HAS_PEOPLE || RLX_HAS_TAGS || RLX_HAS_SEAL
/* Whether a line that begins with these bytes is a reply of others; `over`: it is all of it. */
enum rlx_begun { RLX_BEGUN_OTHER, RLX_BEGUN_PERHAPS, RLX_BEGUN_REPLY };
RLX_INTERNAL enum rlx_begun rlx_reply_begun(const struct rlx_device *device, const uint8_t *bytes,
                                            uint8_t count, bool over);
#endif
/* Whether the word at device->text begins a reply, event or note of others. */
RLX_INTERNAL bool rlx_is_reply(struct rlx_device *device);
/* The entries of a WORDS or CHOICE element, to which *at is moved; returns their end. */
RLX_INTERNAL rlx_rom rlx_word_list(rlx_rom *at, uint8_t *before);

/* number.c: the bounds, the name and the unit of a number element. */
RLX_INTERNAL rlx_value rlx_number_low(rlx_rom op);
RLX_INTERNAL rlx_value rlx_number_high(rlx_rom op);
/* The bounds as settings narrow them now. */
#if RLX_HAS_BOUNDED
RLX_INTERNAL rlx_value rlx_number_least(const struct rlx_device *device, rlx_rom op);
RLX_INTERNAL rlx_value rlx_number_most(const struct rlx_device *device, rlx_rom op);
#else
#define rlx_number_least(device, op) rlx_number_low(op)
#define rlx_number_most(device, op)  rlx_number_high(op)
#endif
#if RLX_HAS_ERRORS
RLX_INTERNAL rlx_rom rlx_number_name(rlx_rom op);
#endif
RLX_INTERNAL rlx_rom rlx_number_unit(rlx_rom op);
/* A value of 2 or 4 bytes. */
RLX_INTERNAL rlx_value rlx_number_read(rlx_rom at, uint8_t size);
/* Writes a value, not yet scaled, in the form of its slot: 12, 1.5, 0x1F, 90s. */
RLX_INTERNAL void rlx_number_put(struct rlx_device *device, rlx_rom op, rlx_value value);

/* Each reads what its element wants at device->text as a value, writes it to the reply and goes on
 * behind it: 0, or an error. A number ends at a blank or at `comma`. */
RLX_INTERNAL uint8_t rlx_take_number(struct rlx_device *device, rlx_rom op, uint8_t comma);
/* slot.c */
RLX_INTERNAL uint8_t rlx_take_set(struct rlx_device *device, rlx_rom op);
RLX_INTERNAL uint8_t rlx_take_text(struct rlx_device *device, rlx_rom op);
#if RLX_HAS_LIST
RLX_INTERNAL uint8_t rlx_take_list(struct rlx_device *device, rlx_rom op);
#endif
/* The words of a set's bits; false: some bits have none. */
RLX_INTERNAL bool rlx_put_set(struct rlx_device *device, uint16_t bits, rlx_rom entry, rlx_rom end);

/* envelope.c: takes address, tag and check off the frame, and writes those of the reply. 0, an
 * error, or RLX_MATCH_OTHERS; RLX_MATCH_REPEAT: the reply was sent again. */
#define RLX_MATCH_OTHERS 253 /* not for this device, or damaged on a shared medium */
#define RLX_MATCH_REPEAT 252
#if RLX_HAS_ENVELOPE
RLX_INTERNAL uint8_t rlx_envelope_open(struct rlx_device *device, rlx_rom row);
/* Only takes it off: its fields are then in the device, and nothing else has changed. */
RLX_INTERNAL uint8_t rlx_envelope_read(struct rlx_device *device, rlx_rom row);
#if RLX_HAS_TAGS
/* Whether the tag that was read is new: 0, RLX_ERR_OLD, or RLX_MATCH_REPEAT. */
RLX_INTERNAL uint8_t rlx_envelope_judge(struct rlx_device *device, rlx_rom row);
#endif
#if RLX_HAS_EVENTS || RLX_HAS_NOTES || RLX_HAS_SEAL
/* Begins what nobody asked for: to all. */
RLX_INTERNAL void rlx_envelope_to_all(struct rlx_device *device, rlx_rom row);
#endif
/* The check behind the reply; the reply is kept for a repeat. */
RLX_INTERNAL void rlx_envelope_close(struct rlx_device *device, rlx_rom row);
#endif
#if RLX_HAS_TAGS || RLX_HAS_SEAL
/* Whether what is left of the frame is somebody's reply. Nothing is written: the frame may only be
 * looked at, while there is no room for a reply. */
RLX_INTERNAL bool rlx_is_answer(struct rlx_device *device);
#endif

#define RLX_TAGS_BACK 16u /* how far behind the last tag a frame may come */

#if RLX_KEEPS_TAGS
/* intent.c: whether the frame in hand waits for the memory; the main loop goes on. */
RLX_INTERNAL bool rlx_intent_waits(const struct rlx_device *device, const struct rlx_link *link,
                                   rlx_rom row);
/* Lets the tags of the link go on from what is kept, once that can be read. */
RLX_INTERNAL void rlx_intent_load(struct rlx_device *device, struct rlx_link *link, rlx_rom row);
/* The frame in hand is read up to its command, at device->text. */
RLX_INTERNAL void rlx_intent_read(struct rlx_device *device);
/* It must not be done twice: RLX_MATCH_LATER, its record has to be written before; 0, it is obeyed
 * now; RLX_ERR_FAILED, the memory fails; RLX_ERR_BUSY, its erases of today are used up. */
#define RLX_MATCH_LATER 249
RLX_INTERNAL uint8_t rlx_intent_begin(struct rlx_device *device, rlx_rom row);
/* Goes on with the frame whose record is written. */
RLX_INTERNAL void rlx_intent_resume(struct rlx_device *device);
/* Records the result of that frame. */
RLX_INTERNAL void rlx_intent_end(struct rlx_device *device, rlx_rom row, uint8_t what);
/* The recorded result of the frame in hand, a repeat; RLX_MATCH_REPEAT: it has no record. */
#define RLX_MATCH_CAME 248 /* there is one */
RLX_INTERNAL uint8_t rlx_intent_came(struct rlx_device *device, rlx_rom row);
/* envelope.c: the reply to it begins. */
RLX_INTERNAL void rlx_envelope_resume(struct rlx_device *device, rlx_rom row);
#endif

#if RLX_HAS_SEAL
/* seal.c; `more` is of a link with seals. */
/* Takes the seal off the frame, whose address is off: 0, RLX_ERR_SEAL or RLX_MATCH_REPLY. Nothing
 * else has changed. */
RLX_INTERNAL uint8_t rlx_seal_read(struct rlx_device *device, rlx_rom more);
/* Whether that frame is new: 0, RLX_MATCH_REPEAT, or RLX_MATCH_OTHERS for an older one. */
RLX_INTERNAL uint8_t rlx_seal_judge(const struct rlx_device *device);
/* Whether it opens a session: it is then to be answered, but where device->seal_key is 0. */
RLX_INTERNAL bool rlx_seal_opens(struct rlx_device *device, rlx_rom more);
/* The frame is obeyed, `fresh`, or answered once more. */
RLX_INTERNAL void rlx_seal_take(struct rlx_device *device, rlx_rom more, bool fresh);
/* The session that the reply in hand is of; NULL: none. */
RLX_INTERNAL struct rlx_session *rlx_seal_session(const struct rlx_device *device);
/* The seal before the reply in hand, and later its code. */
RLX_INTERNAL void rlx_seal_put(struct rlx_device *device);
RLX_INTERNAL void rlx_seal_close(struct rlx_device *device, rlx_rom more);
/* Whether something can be sealed to all; begins it. */
RLX_INTERNAL bool rlx_seal_is_ready(const struct rlx_device *device, rlx_rom row);
RLX_INTERNAL void rlx_seal_to_all(struct rlx_device *device, rlx_rom row);
/* Sends what is still to be sent of a start. */
RLX_INTERNAL void rlx_seal_greet(struct rlx_device *device, uint8_t link, rlx_rom row);
/* Ends sessions, and keeps numbers ready. Milliseconds until the next call. */
RLX_INTERNAL uint32_t rlx_seal_run(struct rlx_device *device);
/* Whether it is the key of the session in hand, which cannot replace it. */
RLX_INTERNAL bool rlx_seal_denies(const struct rlx_device *device, uint8_t setting);
/* Whether even a halt needs a seal. */
static inline bool rlx_seal_needs_halt(rlx_rom more)
{
    return RLX_ROM8(more + RLX_MORE_SEAL + RLX_SEAL_MODE) & RLX_SEAL_HALT;
}
#endif

#if RLX_HAS_SAYS
/* says.c: writes the command's own answer in place of what the reply has from `start` on, if this
 * link has one; that for `already` where nothing changed, if there is one. */
enum rlx_said { RLX_SAID_NOTHING, RLX_SAID, RLX_SAID_ALREADY };
RLX_INTERNAL enum rlx_said rlx_say(struct rlx_device *device, uint16_t start, bool already);
/* Whether the text at d->text is such an answer. */
RLX_INTERNAL bool rlx_is_said(const struct rlx_device *device, rlx_rom row);
#endif
#if RLX_HAS_OWN
/* admit.c: whether what is left of the frame is a text of the link's own: what another such device
 * would answer. */
RLX_INTERNAL bool rlx_is_own(const struct rlx_device *device, rlx_rom row);
#endif

#if RLX_HAS_LIMITED
/* admit.c: whether the frame at device->text is a known text that is no command. Its answer, if it
 * has one, is then the reply. */
#define RLX_MATCH_KNOWN 251
RLX_INTERNAL bool rlx_is_known(struct rlx_device *device, rlx_rom row);
/* Whether this link accepts the matched command, which stands in the reply from `start` on. */
RLX_INTERNAL bool rlx_is_allowed(const struct rlx_device *device, rlx_rom row, uint16_t start);
#endif

#if RLX_HAS_GUESSES
/* guess.c: the count of wrong codes that was kept as this character; a pause begins anew. */
RLX_INTERNAL void rlx_guess_load(const struct rlx_device *device, struct rlx_guesses *guesses,
                                 uint8_t kept);
/* Ends a pause that is over; to be called often. */
RLX_INTERNAL void rlx_guess_run(const struct rlx_device *device, struct rlx_guesses *guesses);
/* One more, of the code in this setting. */
RLX_INTERNAL void rlx_guess_wrong(struct rlx_device *device, struct rlx_guesses *guesses,
                                  uint8_t setting);
RLX_INTERNAL void rlx_guess_right(struct rlx_guesses *guesses);
/* Compares all bytes, wherever the first difference is. */
RLX_INTERNAL bool rlx_same_code(const uint8_t *text, const uint8_t *code, uint8_t count);
#endif
#if RLX_HAS_GUARDS || RLX_HAS_CODED
/* guard.c: what keeps the matched command from being obeyed: RLX_ERR_BLOCKED, a wrong code:
 * RLX_ERR_DENIED; 0: nothing. */
RLX_INTERNAL uint8_t rlx_guarded(struct rlx_device *device);
#endif
#if RLX_HAS_CODED
/* Loads the counts of wrong codes, and ends pauses. */
RLX_INTERNAL void rlx_guard_run(struct rlx_device *device);
#endif

#if RLX_HAS_BUILT_IN
/* built_in.c: whether the text at device->text is a built-in word; writes it to the reply, and does
 * it if `act` is true. 0: it is none; RLX_BUILT_IN_ALREADY: it was so. */
enum { RLX_BUILT_IN_NONE, RLX_BUILT_IN_ANSWERED, RLX_BUILT_IN_ALREADY };
RLX_INTERNAL uint8_t rlx_built_in(struct rlx_device *device, bool act);
RLX_INTERNAL bool rlx_is_halt(const struct rlx_device *device);
/* Cuts the text into commands at each ';' outside quotes; device->text_end is where the last one
 * ends. False: it is one. */
RLX_INTERNAL bool rlx_split(struct rlx_device *device);
#endif

/* Whether what is left of the frame is `halt`. */
static inline bool rlx_halts(const struct rlx_device *device)
{
#if RLX_HAS_HALT
    return rlx_is_halt(device);
#else
    (void)device;
    return false;
#endif
}

#if RLX_HAS_ROUTINES
/* routine.c: begins or ends one: 0 or RLX_ALREADY. */
RLX_INTERNAL int rlx_routine_act(struct rlx_device *device, uint8_t routine, enum rlx_verb verb);
#if RLX_HAS_HALT
/* All of them end. */
RLX_INTERNAL void rlx_routines_stop(struct rlx_device *device);
#endif
/* Those end that drive this output, or one of this group. */
RLX_INTERNAL void rlx_routines_yield(struct rlx_device *device, uint8_t output);
/* Does the steps that are due; milliseconds until the next one. */
RLX_INTERNAL uint32_t rlx_routines_run(struct rlx_device *device);
#if RLX_HAS_STATE
/* The answer to NAME? */
RLX_INTERNAL void rlx_write_routine(struct rlx_device *device, uint8_t routine);
#endif
#endif

#if RLX_HAS_UP
/* presence.c: the link is up or down. */
RLX_INTERNAL void rlx_link_set(struct rlx_device *device, uint8_t link, bool up);
#endif
#if RLX_HAS_PRESENCE
/* Outputs that the lexicon makes safe on loss of the link go to their safe state. */
RLX_INTERNAL void rlx_presence_lost(struct rlx_device *device, uint8_t link);
/* presence.c: which links are up at the start. */
RLX_INTERNAL void rlx_presence_init(struct rlx_device *device);
#if RLX_HANGS_UP
/* presence.c: bye was said, or after it something else. */
RLX_INTERNAL void rlx_hang_up(struct rlx_device *device, uint8_t link, bool bye);
#endif
/* Looks at pins and silences; milliseconds until it must again. */
RLX_INTERNAL uint32_t rlx_presence_run(struct rlx_device *device);
#if RLX_HAS_HALT
/* The outputs that show it do so. */
RLX_INTERNAL void rlx_presence_show(struct rlx_device *device);
#endif
#endif

#if RLX_HAS_QUERY || (RLX_HAS_SETTINGS && RLX_HAS_STATE)
/* act.c: a blank and the value of one slot; false: it is none of the slot's. *op is then behind it.
 */
RLX_INTERNAL bool rlx_write_value(struct rlx_device *device, rlx_rom *op, rlx_value value);
#endif

#if RLX_HIDES_SETTINGS
/* settings.c: whether it is a key, or the code of text messages, which is never sent. */
RLX_INTERNAL bool rlx_setting_is_code(const struct rlx_device *device, uint8_t setting);
#endif
#if RLX_HAS_SETTINGS
/* settings.c: what they are when nobody has changed them, then what is kept. */
RLX_INTERNAL void rlx_settings_init(struct rlx_device *device);
/* It has this value, of a text its place in the frame; 0 or RLX_ALREADY. */
RLX_INTERNAL int rlx_setting_store(struct rlx_device *device, uint8_t setting, rlx_value value);
#if RLX_TRIES_BOUNDS
/* While a line of several commands is read: the numbers are copied; one has the value that the line
 * gives it; they are as before. */
RLX_INTERNAL void rlx_settings_copy(const struct rlx_device *device, rlx_value *to);
RLX_INTERNAL void rlx_setting_try(struct rlx_device *device, uint8_t setting, rlx_value value);
RLX_INTERNAL void rlx_settings_put_back(struct rlx_device *device, const rlx_value *from);
#endif
/* wear.c: ends the rests that are over; milliseconds until the next one ends. To be called often.
 */
RLX_INTERNAL uint32_t rlx_wear_run(struct rlx_device *device);
/* These settings were written, one bit each. */
RLX_INTERNAL void rlx_wear_saved(struct rlx_device *device, uint32_t settings);
/* Milliseconds until an area may be erased; 0: it may be now. */
RLX_INTERNAL uint32_t rlx_wear_holds(const struct rlx_device *device);
RLX_INTERNAL void rlx_wear_erased(struct rlx_device *device);
/* The number of erases, as an area keeps it in 4 bytes. */
RLX_INTERNAL void rlx_wear_put(const struct rlx_device *device, uint8_t *to);
RLX_INTERNAL void rlx_wear_load(struct rlx_device *device, const uint8_t *from);
/* The settings that rest, one bit each. */
static inline uint32_t rlx_wear_rests(const struct rlx_device *device)
{
#if RLX_HAS_WEAR
    return device->wear.resting;
#else
    (void)device;
    return 0;
#endif
}
/* Writes what has changed; milliseconds until it must go on. */
RLX_INTERNAL uint32_t rlx_settings_run(struct rlx_device *device);
#if RLX_KEEPS_RECORDS
#if RLX_KEEPS_TAGS
/* Whether a change has to wait: it needs an erase, and the budget is used up. */
RLX_INTERNAL bool rlx_setting_held(struct rlx_device *device, uint8_t setting);
#endif
/* Whether what is kept was read... */
RLX_INTERNAL bool rlx_settings_read(const struct rlx_device *device);
/* ...or nobody knows when it can be. */
RLX_INTERNAL bool rlx_settings_loaded(const struct rlx_device *device);
/* A setting that only the library knows: its count8 and bytes, to be written to... */
RLX_INTERNAL uint8_t *rlx_setting_record(const struct rlx_device *device, uint8_t setting);
/* ...and then to be kept. */
RLX_INTERNAL void rlx_setting_changed(struct rlx_device *device, uint8_t setting);
#endif
#if RLX_KEEPS_EVENTS
/* The name of a text's slot. */
RLX_INTERNAL rlx_rom rlx_setting_name(const struct rlx_device *device, uint8_t setting);
#endif
#if RLX_HAS_STATE
/* The answer to NAME? */
RLX_INTERNAL void rlx_write_setting(struct rlx_device *device, uint8_t setting);
#endif
#endif

#if RLX_TAKES_CHANNELS
/* No channel moves anything before it was at rest. */
RLX_INTERNAL void rlx_channels_halt(struct rlx_device *device);
#endif
#if RLX_HAS_HALT
/* All outputs go to their safe state, and what would move them again ends. */
static inline void rlx_make_safe(struct rlx_device *device)
{
    rlx_drive_halt(device);
#if RLX_HAS_ROUTINES
    rlx_routines_stop(device);
#endif
#if RLX_HAS_PRESENCE
    rlx_presence_show(device);
#endif
#if RLX_TAKES_CHANNELS
    rlx_channels_halt(device);
#endif
}
#endif

/* ahead.c */
#if RLX_HAS_HALT
/* Does each halt that waits behind the frame in hand, or is it. */
RLX_INTERNAL void rlx_halt_ahead(struct rlx_device *device, uint8_t link, rlx_rom row);
#endif
#if RLX_HAS_NEWEST
/* Whether the same command, which was matched, waits behind it, from the same sender. What was
 * matched is then to be matched anew. */
RLX_INTERNAL bool rlx_is_superseded(struct rlx_device *device, rlx_rom row);
#endif

/* log.c */
#if RLX_HAS_HEARD
/* Why a frame was none: for what it says, or on a shared medium. */
enum { RLX_HEARD_REFUSED, RLX_HEARD_DAMAGED, RLX_HEARD_CHECK, RLX_HEARD_ADDRESS, RLX_HEARD_SEAL };
/* The link whose name the text at s is, which is written to the reply; RLX_NO_LINK: none. */
RLX_INTERNAL uint8_t rlx_link_named(struct rlx_device *device, const uint8_t *s);
#endif
#if RLX_HAS_HEARD
RLX_INTERNAL void rlx_heard_begin(struct rlx_device *device);            /* the frame in hand... */
RLX_INTERNAL void rlx_heard_end(struct rlx_device *device, uint8_t why); /* ...was refused */
RLX_INTERNAL void rlx_write_heard(struct rlx_device *device);
#endif
#if RLX_HAS_LOG
/* The verdict about a command: 0, RLX_OWN_ALREADY, or an error; of a secret one its first word. */
RLX_INTERNAL void rlx_log_add(struct rlx_device *device, const uint8_t *text, uint8_t verdict,
                              bool secret);
RLX_INTERNAL void rlx_write_log(struct rlx_device *device, uint8_t back);
/* Milliseconds until it must be called again. */
RLX_INTERNAL uint32_t rlx_log_run(struct rlx_device *device);
#endif

/* help.c: `help` and what stands behind it; false: it cannot stand there. */
#if RLX_HAS_HELP
RLX_INTERNAL bool rlx_help(struct rlx_device *device, const uint8_t *behind, bool act);
#endif

/* event.c: sends the pending events for which there is room. Milliseconds until there may be more.
 */
#if RLX_HAS_EVENTS || RLX_HAS_NOTES
RLX_INTERNAL uint32_t rlx_events_run(struct rlx_device *device, uint8_t link, rlx_rom row);
/* Whether an event is pending, and there is room for it. */
RLX_INTERNAL bool rlx_event_fits(const struct rlx_device *device, uint8_t link, rlx_rom row);
#endif
#if RLX_HAS_EVENTS
/* The link went up or down: nothing is pending but the events that the lexicon wants then. */
RLX_INTERNAL void rlx_events_up(struct rlx_device *device, uint8_t link, bool up);
#endif
#if RLX_KEEPS_EVENTS
/* What was pending when it was kept is pending again. */
RLX_INTERNAL void rlx_events_restore(struct rlx_device *device);
/* What is pending now is to be kept, where that has changed. */
RLX_INTERNAL void rlx_events_keep(struct rlx_device *device);
#endif
#if RLX_HAS_EVENTS && RLX_HAS_INPUTS
/* The levels of inputs at the start are sent only if the lexicon wants it. */
RLX_INTERNAL void rlx_events_begin(struct rlx_device *device);
#endif
#if RLX_HAS_EVENTS && RLX_HAS_PACED
/* The other side has received the event with this number, or with 0 the last one of each event;
 * false: none waits for that. */
RLX_INTERNAL bool rlx_event_got(struct rlx_device *device, uint8_t number);
#endif

#if RLX_HAS_SMS
/* links/sms.c: the next byte for the modem; false: there is none. From the transmit interrupt. */
RLX_INTERNAL bool rlx_sms_take(struct rlx_sms *sms, uint8_t *byte);
RLX_INTERNAL void rlx_sms_begin(struct rlx_device *device, struct rlx_link *link, rlx_rom row);
/* Goes on with the modem; milliseconds until it must again. */
RLX_INTERNAL uint32_t rlx_sms_run(struct rlx_device *device, uint8_t link, rlx_rom row);
#if RLX_HAS_EVENTS || RLX_HAS_NOTES
/* Whether it looks at its store, or handles a message: events wait. */
RLX_INTERNAL bool rlx_sms_is_busy(const struct rlx_link *link);
#endif
#endif
#if RLX_KEEPS_INTENT
/* reply.c: the verdict about a command without more: ok, ok already, err NAME. */
RLX_INTERNAL void rlx_reply_verdict(struct rlx_device *device, uint8_t verdict);
#endif

#ifndef RLX_MEASURED /* the benchmark keeps this call apart, to count its instructions */
#define RLX_MEASURED
#endif
/* act.c: answers the complete frame of a link; false when there is no room for the reply yet. */
RLX_MEASURED RLX_INTERNAL bool rlx_answer(struct rlx_device *device, uint8_t link, rlx_rom row);
/* Does what the END at device->at contains. enum rlx_result, or negative. */
RLX_INTERNAL int rlx_act(struct rlx_device *device);

/* reply.c: writes one reply, published as a whole. Set device->tx_next back to take back. False:
 * there is no room for it. */
RLX_INTERNAL bool rlx_reply_begin(struct rlx_device *device, uint8_t link, rlx_rom row);
/* The same without a look at the room. */
RLX_INTERNAL void rlx_reply_start(struct rlx_device *device, uint8_t link, rlx_rom row);
#if RLX_HAS_WAITS
/* " waiting 200ms" */
RLX_INTERNAL void rlx_write_waits(struct rlx_device *device, uint8_t output);
#endif
#if RLX_HAS_NEWEST
/* Replaces what was written by: ok newer. */
RLX_INTERNAL void rlx_reply_newer(struct rlx_device *device);
#endif
/* Ends it as the link's frames end, and sends it. */
RLX_INTERNAL void rlx_reply_commit(struct rlx_device *device, rlx_rom row);
/* Sends the packet that waits, if the radio takes it. */
RLX_INTERNAL void rlx_reply_packet(struct rlx_device *device, uint8_t link, rlx_rom row);
#if RLX_HAS_OWN
/* Replaces what was written by the link's own or short form of `what`, RLX_OWN_... or an error.
 * NONE: it has none. EMPTY: nothing is to be sent. */
enum rlx_own { RLX_OWN_NONE, RLX_OWN_WRITTEN, RLX_OWN_EMPTY };
RLX_INTERNAL enum rlx_own rlx_reply_own(struct rlx_device *device, rlx_rom row, uint8_t what);
#endif
#if RLX_HAS_BINARY
/* layout.c */
/* Puts the text of the command in the place of a binary frame. RLX_MATCH_OTHERS: it is damaged or
 * for others. The sender's number, where it has one, and the fields of its answer's body, or NULL.
 */
RLX_INTERNAL uint8_t rlx_layout_read(struct rlx_device *device, rlx_rom row, uint32_t *number,
                                     rlx_rom *answers);
#if RLX_BINARY_VALUES
#define RLX_FRAME_ANSWERS(device) &(device)->frame_answers
#else
#define RLX_FRAME_ANSWERS(device) 0
#endif
/* In the place of what was written so far: an answer or event as rlx_reply_own(), in bytes. */
RLX_INTERNAL enum rlx_own rlx_layout_write(struct rlx_device *device, rlx_rom row, uint8_t what);
/* All bytes of a frame are there: takes off what stands around them. */
RLX_INTERNAL void rlx_layout_unwrap(struct rlx_link *link, uint8_t framing);
/* A tenth, without a division. */
RLX_INTERNAL rlx_magnitude rlx_tenth(rlx_magnitude n);

/* One field of a layout. */
struct rlx_field {
    uint8_t what, size;
    rlx_rom operand;
};
/* Steps to the next field; false behind the last one, with `at` behind the list. */
RLX_INTERNAL bool rlx_field_next(rlx_rom *at, struct rlx_field *field);
/* Behind the list. */
RLX_INTERNAL rlx_rom rlx_fields_end(rlx_rom at);
/* Behind a row of this kind, whose fields end here. */
RLX_INTERNAL rlx_rom rlx_row_end(rlx_rom at, uint8_t what);
/* The fields of an answer stand behind those of a frame, then those of an event, then the rows. */
enum { RLX_OF_FRAME, RLX_OF_ANSWER, RLX_OF_EVENT, RLX_OF_ROWS };
RLX_INTERNAL rlx_rom rlx_layout_fields(const struct rlx_device *device, rlx_rom row, uint8_t which,
                                       rlx_rom *end);
/* How much of a frame was read. */
struct rlx_reading {
    const uint8_t *bytes;
    uint8_t length, checked; /* of the frame; where its check begins */
    uint16_t bit;
#if RLX_TAKES_CHANNELS
    uint16_t channels; /* the first bit of the first one... */
    uint8_t size;      /* ...and of each, as a field has it */
    bool failsafe;
#endif
};
/* Whether the fields around the body are as they must be; the reading is then where the body is.
 * `behind`: bytes behind the body. */
RLX_INTERNAL bool rlx_layout_take(struct rlx_reading *reading, rlx_rom at, uint8_t behind,
                                  uint32_t *number);
/* Puts a row's text there, with d->value in its slots. False: the frame's room is too small. */
RLX_INTERNAL bool rlx_layout_text(struct rlx_device *device, uint8_t *to, rlx_rom text);
#if RLX_HAS_SCALED || RLX_TAKES_CHANNELS
/* to + (value - from) * other / range, to the nearest: the products fit (checked when the tables
 * were made). */
RLX_INTERNAL int32_t rlx_stretched(int32_t value, int32_t from, int32_t range, int32_t to,
                                   int32_t other);
#endif
#endif
#if RLX_TAKES_CHANNELS
/* channels.c */
/* Obeys what the frame in hand asks for. RLX_MATCH_OTHERS: it is damaged. RLX_MATCH_EMPTY: its
 * sender hears nobody. Else 0. */
RLX_INTERNAL uint8_t rlx_channels_read(struct rlx_device *device, rlx_rom row);
/* From now on nothing moves before it was at rest: the link is new, silent, or all was made safe.
 */
RLX_INTERNAL void rlx_channels_forget(struct rlx_device *device, uint8_t link);
#endif
RLX_INTERNAL void rlx_reply_put(struct rlx_device *device, uint8_t c);
#if RLX_HAS_BUILT_IN || RLX_HAS_EVENTS || RLX_KEEPS_INTENT || RLX_HAS_WAITS || RLX_HAS_SEAL
RLX_INTERNAL void rlx_reply_words(struct rlx_device *device, const char *text);
#endif
/* Whether what was written, with what comes behind it, is not too long for the link. */
RLX_INTERNAL bool rlx_reply_fits(const struct rlx_device *device);
/* A text of the image; returns where it ends. */
RLX_INTERNAL rlx_rom rlx_reply_text(struct rlx_device *device, rlx_rom text);
/* The digits of the widest number, with the 0 before the most decimals that a slot has. */
#define RLX_NUMBER_DIGITS (RLX_HAS_WIDE ? 10 : RLX_HAS_FORM ? RLX_DECIMALS_MOST + 1 : 5)
/* A number with so many digits behind the point. */
RLX_INTERNAL void rlx_reply_number(struct rlx_device *device, rlx_value value, uint8_t decimals);
/* A tenth of 32 bits. */
#if RLX_HAS_WIDE || RLX_HAS_SEAL
RLX_INTERNAL uint32_t rlx_tenth32(uint32_t n);
#endif
/* The nth of the image's texts of replies. */
RLX_INTERNAL void rlx_reply_nth(struct rlx_device *device, uint8_t n);
#if RLX_HAS_ERRORS
/* Replaces what was written so far: err NAME, what is meant, where. */
RLX_INTERNAL void rlx_reply_error(struct rlx_device *device, uint8_t error);
#endif

/* Which of several commands is in hand, from 1; 0: there is one. */
#if RLX_HAS_BUILT_IN
#define RLX_PART(device) ((device)->part)
#else
#define RLX_PART(device) 0
#endif

/* The framing of the link: RLX_FRAME_... */
static inline uint8_t rlx_framing(rlx_rom row)
{
    return rlx_row8(row, RLX_LNK_FRAME);
}

/* Whether each character could be a command: replies then begin with RLX_REPLY_LEAD. */
static inline bool rlx_is_keyed(rlx_rom row)
{
    return (RLX_HAS_KEYS && rlx_framing(row) == RLX_FRAME_KEYS) ||
           (RLX_HAS_CODES && rlx_framing(row) == RLX_FRAME_CODES);
}

/* Whether the link sends packets, reports or messages. */
static inline bool rlx_in_packets(rlx_rom row)
{
    uint8_t framing = rlx_framing(row);
    return (RLX_HAS_PACKET && framing == RLX_FRAME_PACKET) ||
           (RLX_HAS_REPORT && framing == RLX_FRAME_REPORT) ||
           (RLX_HAS_MESSAGE && framing == RLX_FRAME_MESSAGE);
}

/* Whether the reply may be written there: where it is too long it is written anew, and what stands
 * before it must not be overwritten. */
static inline bool rlx_in_ring(const struct rlx_device *device, unsigned at)
{
#if RLX_HAS_LONG_REPLY
    return (uint16_t)(at - rlx_current(device)->tx_head) <= rlx_reply_mask(device);
#else
    (void)device, (void)at;
    return true;
#endif
}

static inline uint8_t rlx_flags(const struct rlx_device *device, rlx_rom row)
{
    return rlx_perhaps8(device, row, RLX_MORE_FLAGS);
}

static inline uint8_t rlx_ways(const struct rlx_device *device, rlx_rom row)
{
    return rlx_perhaps8(device, row, RLX_MORE_WAYS);
}

/* Whether its frames are bytes, by a layout. */
static inline bool rlx_is_binary(const struct rlx_device *device, rlx_rom row)
{
    return RLX_HAS_BINARY && rlx_ways(device, row) & RLX_WAY_BINARY;
}

#if RLX_TAKES_CHANNELS
/* Bytes of its frames; 0: it has no channels. */
static inline uint8_t rlx_channel_bytes(const struct rlx_device *device, rlx_rom row)
{
    bool silence = rlx_framing(row) == RLX_FRAME_GAP && rlx_is_binary(device, row);
    return silence ? rlx_more8(rlx_more(device, row), RLX_MORE_CHAR) : 0;
}
#endif

/* A list that only some links have: where it begins and ends; NULL: it is empty. */
static inline rlx_rom rlx_more_list(const struct rlx_device *device, rlx_rom row, uint8_t field,
                                    rlx_rom *end)
{
    uint16_t list = rlx_perhaps16(device, row, field);
    if (!list) return 0;
    rlx_rom at = rlx_image(device) + list;
    *end = at + 2 + RLX_ROM16(at);
    return at + 2;
}

/* Counters stay at their last number. */
static inline void rlx_count(uint16_t *counter)
{
    uint16_t next = (uint16_t)(*counter + 1);
    if (next) *counter = next;
}

/* The value of a digit; above 9: it is none. */
static inline uint8_t rlx_digit(uint8_t c)
{
    return (uint8_t)(c - '0');
}

/* Frame text holds no control bytes, and a 0 behind it. */
static inline bool rlx_ends_word(uint8_t c)
{
    return c <= ' ';
}

#endif
