/* What the files of the kinds share. */
#ifndef KINDS_H
#define KINDS_H

#include "lexicon/write/build.h"
#include "lexicon/kind.h"
#include "lexicon/read/reader.h"

/* Attributes: each reads what stands behind its word. */
bool kind_read_pin(struct statement *st, void *target);
bool kind_read_pwm(struct statement *st, void *target);
bool kind_read_active(struct statement *st, void *target);
bool kind_read_safe(struct statement *st, void *target); /* by the kind's own read_safe */
bool kind_read_dead(struct statement *st, void *target);
bool kind_read_ramp(struct statement *st, void *target);
bool kind_read_travel(struct statement *st, void *target);
bool kind_read_expires(struct statement *st, void *target);
bool kind_read_lost(struct statement *st, void *target);
bool kind_read_shows(struct statement *st, void *target); /* LINK [connected STATE] [lost STATE] */
bool kind_read_by(struct statement *st, void *target);
bool kind_read_only(struct statement *st, void *target); /* while ... */
bool kind_read_positions(struct statement *st, void *target);
/* only while ..., of one way: RLX_GOES_... */
bool kind_read_way_only(struct statement *st, struct lex_output *out, unsigned way);

/* N [at F]; without a frequency it is `otherwise`, or a fault where that is 0. */
bool kind_read_channel(struct statement *st, unsigned *channel, uint32_t *hz, uint32_t otherwise);
/* A fault where it has its pin already; it has one from now on. */
bool kind_is_taken(struct statement *st, struct lex_output *out, bool *placed);

/* What stands behind an attribute's word, for attributes of one kind: a name. */
#define KIND_READ_NAME(name, what)                              \
    static bool read_##name(struct statement *st, void *target) \
    {                                                           \
        struct lex_output *out = target;                        \
        g_free(out->name);                                      \
        return (out->name = statement_name(st, what)) != NULL;  \
    }

/* Safe states: off, on or N %; and for what turns: stop. */
bool kind_safe_level(struct statement *st, struct lex_output *out);
bool kind_safe_stop(struct statement *st, struct lex_output *out);
char *kind_level_text(const struct lex_output *out);
char *kind_stop_text(const struct lex_output *out);

/* What is on one pin or channel. */
void kind_check_placed(struct lexicon *lx, const struct lex_output *out);
char *kind_wiring(const struct lex_output *out);
unsigned kind_wire(const struct lex_output *out, struct lex_wire *wires, enum lex_wire_is channel);
/* It tells when it goes on and off. */
bool kind_tells_on(const struct lex_output *out);
/* The slots of a command for what is on or off. */
char *kind_slots_switch(const struct lex_output *out);

/* Relays, leds and buzzers: their minimum times, interlock, fade and curve. */
bool kind_put_steady(struct build *b, const struct lex_output *out);

/* By what is driven: 0..65535, before its polarity; what is on or off, or at a level. */
unsigned kind_level(const struct lex_driven *driven, const struct lex_output *out);
char *kind_level_state(const struct lex_driven *driven, const struct lex_output *out);
const char *kind_level_is_at(const struct lex_driven *driven, const struct lex_output *out);
const char *const *kind_level_classes(const struct lex_output *out);
bool kind_level_is_safe(const struct lex_driven *driven, const struct lex_output *out);
unsigned kind_level_from_safe(const struct lex_output *out, enum lex_wire_is is, unsigned value);
char *kind_level_state_at(const struct lex_output *out, unsigned percent);

/* The same of motors and pairs: by the left side. */
char *kind_turning_state(const struct lex_driven *driven, const struct lex_output *out);
const char *kind_turning_is_at(const struct lex_driven *driven, const struct lex_output *out);
const char *const *kind_turning_classes(const struct lex_output *out);
bool kind_turning_is_safe(const struct lex_driven *driven, const struct lex_output *out);
unsigned kind_turning_from_safe(const struct lex_output *out, enum lex_wire_is is, unsigned value);
char *kind_turning_state_at(const struct lex_output *out, unsigned percent);

/* The firmware's call for what knows verbs only. */
#define KIND_CALL_VERB                                                              \
    {                                                                               \
        "enum rlx_verb verb, uint32_t argument", "rlx_output_act", "verb, argument" \
    }

/* The last six of struct lex_kind: the kind's own functions (no prefix), or those with this one. */
#define KIND_SEEN(prefix)                                                       \
    .state = prefix##state, .is_at = prefix##is_at, .classes = prefix##classes, \
    .is_safe = prefix##is_safe, .from_safe = prefix##from_safe, .state_at = prefix##state_at

/* Motors and pairs. */
unsigned kind_wires_of(const struct lex_drive *drive, const char *side, struct lex_wire *wires);
void kind_drive_text(GString *text, const struct lex_drive *drive, const char *side);
/* What comes of a ramp or slew time, or which setting has that time. */
unsigned kind_ramp_by(struct build *b, const struct lex_output *out, unsigned otherwise);
void kind_put_sides(struct build *b, const struct lex_output *out, unsigned sides);

#endif
