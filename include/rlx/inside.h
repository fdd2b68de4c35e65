/* What the rooms of the library share. Not for firmware. */
#ifndef RLX_INSIDE_H
#define RLX_INSIDE_H

#include "rlx/tables.h"

/* 32 bits of the image, at any offset. */
static inline uint32_t rlx_rom32(rlx_rom at)
{
    return RLX_ROM16(at) | (uint32_t)RLX_ROM16(at + 2) << 16;
}

/* Behind a text of the image. */
static inline rlx_rom rlx_behind(rlx_rom text)
{
    while (RLX_ROM8_NEXT(text) < RLX_TEXT_END) {}
    return text;
}

#if RLX_HAS_EVENT_SOURCES
/* drive.c: sends the events of an input (kind 0), output, routine or code (RLX_EVT_IS_...), with the
 * word that their rows have at `field`. Whether there are any. */
RLX_INTERNAL bool rlx_source_event(struct rlx_device *device, uint8_t source, uint8_t kind,
                                   uint8_t field);
#endif

#if RLX_HAS_SETTINGS && RLX_HAS_CURVE
/* drive.c: shows the outputs anew whose curve is this setting. */
RLX_INTERNAL void rlx_outputs_curved(struct rlx_device *device, uint8_t setting);
#endif

#if RLX_INPUTS_ACT || RLX_LINKS_ACT
/* step_act.c: does what the lexicon has for this change of an input: RLX_EVT_ON, _OFF or _HELD; or
 * of a link: RLX_ACT_UP or RLX_ACT_LOST. */
RLX_INTERNAL void rlx_acts(struct rlx_device *device, uint8_t number, uint8_t when);
#endif

#if RLX_HAS_PERMITTED
/* drive.c: makes the outputs safe that this input does not permit to go on as they do. */
RLX_INTERNAL void rlx_drive_permits(struct rlx_device *device, uint8_t input);
#endif

/* ---- parts of rlx_init() and rlx_poll() ---- */

/* drive.c: puts every output into its safe state, in the order of the lexicon. rlx_init() only. */
void rlx_drive_init(struct rlx_device *device);
#if RLX_HAS_HALT
/* The same in the reverse order, at once. */
void rlx_drive_halt(struct rlx_device *device);
#endif
/* Goes on with what outputs do over time, and with what expires. Returns the milliseconds until it
 * has to run again, or RLX_FOREVER. */
uint32_t rlx_drive_run(struct rlx_device *device);
#if RLX_HAS_INPUTS
/* input.c: makes their pins inputs, and takes their levels as debounced. rlx_init() only. */
void rlx_inputs_init(struct rlx_device *device);
/* Reads the inputs, and sends events. Returns as rlx_drive_run(). */
uint32_t rlx_inputs_run(struct rlx_device *device);
#endif

/* The frame is complete and waits for its answer: a bit of frame_state. */
#define RLX_FRAME_READY 0x80u

/* ---- outputs: the number is one of the image's ---- */

static inline rlx_rom rlx_out_row(const struct rlx_device *d, uint8_t output)
{
    return rlx_part(d, RLX_IMG_OUTPUTS) + output * RLX_OUT_ROW;
}

/* How it is moved: enum rlx_drive. */
static inline uint8_t rlx_out_drive(const struct rlx_device *d, uint8_t output)
{
    return RLX_HAS_DRIVES ? RLX_ROM8(rlx_out_row(d, output) + RLX_OUT_DRIVE) : RLX_DRIVE_STEADY;
}

/* What only some outputs have; NULL: this one has nothing of it. */
static inline rlx_rom rlx_out_more(const struct rlx_device *d, uint8_t output)
{
    uint16_t at = RLX_ROM16(rlx_out_row(d, output) + RLX_OUT_MORE);
    return at && rlx_out_drive(d, output) == RLX_DRIVE_STEADY ? rlx_image(d) + at : 0;
}

static inline bool rlx_out_group(const struct rlx_device *d, uint8_t output)
{
    return RLX_HAS_GROUPS && rlx_out_drive(d, output) == RLX_DRIVE_GROUP;
}

static inline uint32_t rlx_out_time(rlx_rom more, uint8_t field)
{
    return rlx_rom32(more + field);
}

/* drive.c: as the calls of rlx/drive.h. */
RLX_INTERNAL int rlx_out_switch(struct rlx_device *d, uint8_t output, enum rlx_verb verb);
RLX_INTERNAL int rlx_out_level(struct rlx_device *d, uint8_t output, uint8_t percent);
/* The values of a command's slots, as its kind reads them. */
RLX_INTERNAL int rlx_out_values(struct rlx_device *d, uint8_t output, const rlx_value *values);
RLX_INTERNAL bool rlx_out_pwm(const struct rlx_device *d, uint8_t output);
RLX_INTERNAL uint8_t rlx_out_percent(const struct rlx_device *d, uint8_t output);
RLX_INTERNAL bool rlx_out_is_on(const struct rlx_device *d, uint8_t output);
#if RLX_HAS_VERBS
RLX_INTERNAL int rlx_out_act(struct rlx_device *d, uint8_t output, enum rlx_verb verb,
                             uint32_t argument);
RLX_INTERNAL uint32_t rlx_out_verbs(const struct rlx_device *d, uint8_t output);
#endif
#if RLX_HAS_WAITS
RLX_INTERNAL uint32_t rlx_out_waits(const struct rlx_device *d, uint8_t output);
#endif
#if RLX_HAS_STATE
/* What an output is at, for the answer to NAME?: a word, or a text of the image, then numbers with
 * a unit behind the last one; or the names of those of its outputs that are on. */
struct rlx_state {
    const char *word, *unit; /* NULL: none */
    rlx_rom text;            /* the same; behind the numbers */
    rlx_value number[2];
    uint8_t numbers, decimals;
    bool members;
};
RLX_INTERNAL void rlx_out_state(const struct rlx_device *d, uint8_t output,
                                struct rlx_state *state);
#endif
#if RLX_HAS_STATE && RLX_HAS_SMS
/* sms.c: what the modem is at of which this setting is the record; NULL: it is of none. */
RLX_INTERNAL const char *rlx_sms_state(const struct rlx_device *d, uint8_t record);
#endif
#if RLX_HAS_SAFE_CALL
RLX_INTERNAL void rlx_out_safe(struct rlx_device *d, uint8_t output);
#endif
#if RLX_HAS_EXPIRY
RLX_INTERNAL void rlx_out_lasts(struct rlx_device *d, uint8_t output, uint32_t lasts);
#endif
#if RLX_HAS_COUNTED
RLX_INTERNAL uint32_t rlx_out_switched(const struct rlx_device *d, uint8_t output);
RLX_INTERNAL bool rlx_out_counted(const struct rlx_device *d, uint8_t output);
#endif
#if RLX_HAS_GROUPS
/* group.c */
RLX_INTERNAL uint8_t rlx_members(const struct rlx_device *d, uint8_t group);
RLX_INTERNAL uint8_t rlx_member(const struct rlx_device *d, uint8_t group, uint8_t n);
#endif
#if RLX_HAS_INPUTS
/* input.c */
RLX_INTERNAL bool rlx_in_is_on(const struct rlx_device *d, uint8_t input);
#endif

#endif
