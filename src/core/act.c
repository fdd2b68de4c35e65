/* Obeys a frame: reads it twice, first to check all of it, then to act; and answers.
 * A batch is read to its end before anything moves (P1).
 * How an output moves is in src/drive. */
#include "core.h"

/* Whether it asks, and does nothing. */
#if RLX_HAS_ANSWERS
#define IS_QUERY(end) (((end) & (RLX_END_TELLS | RLX_END_APPEND)) == RLX_END_TELLS)
#else
#define IS_QUERY(end) ((end)&RLX_END_TELLS)
#endif

/* Whether a command can lead to anything but a handler. */
#define ACTS (RLX_HAS_SWITCH || RLX_HAS_LEVEL || RLX_HAS_SETTINGS || RLX_HAS_ROUTINES)

#if RLX_HAS_PERMITTED
#define RLX_ASKS(d) ((d)->asks)
#else
#define RLX_ASKS(d) false
#endif

/* The operand of the END whose own bytes end before `at`. */
static uint16_t operand(const struct rlx_device *d, uint8_t end, rlx_rom at)
{
    end = rlx_operand(end);
    if (end == RLX_OPERAND_GROUP) return d->group;
    if ((RLX_HAS_SWITCH || RLX_HAS_LEVEL) && end == RLX_OPERAND_VALUE) return (uint16_t)d->value[0];
#if RLX_KEEPS_ENTRY
    if (end == RLX_OPERAND_ENTRY) at = d->entry + (rlx_is_many(d) ? 2 : 1);
#endif
    if (rlx_is_many(d)) return RLX_ROM16(at);
    return RLX_ROM8(at);
}

/* The reply to a toggle has the outcome: instead of the word, or behind the command. */
static void write_toggle(struct rlx_device *d, uint8_t end, uint8_t output)
{
#if RLX_HAS_STEPS
    if (d->in_step) return; /* it has no reply */
#endif
    if (end & RLX_END_APPEND) {
        rlx_reply_put(d, ' ');
#if RLX_HAS_SAYS
        d->said[d->n_values - 1] = (uint8_t)d->tx_next; /* the slot was left out */
#endif
    }
#if RLX_HAS_SWITCH
    else {
        d->tx_next = d->tx_word;
    }
#endif
    rlx_reply_nth(d, rlx_out_is_on(d, output) ? RLX_TEXT_ON : RLX_TEXT_OFF);
}

/* What stands in the values: a verb, a level, or on and off. */
static int act_on_output(struct rlx_device *d, uint8_t end, uint8_t output)
{
    uint8_t kind = end & RLX_ACT_MASK;
#if RLX_HAS_VERBS
    if (kind == RLX_ACT_VERB)
        return rlx_out_act(d, output, (enum rlx_verb)d->value[d->n_values - 1],
                           d->n_values > 1 ? (uint32_t)d->value[d->n_values - 2] : 0);
#endif
    const rlx_value *values = d->value + (rlx_operand(end) == RLX_OPERAND_VALUE);
    if (RLX_HAS_LEVEL && (!RLX_HAS_SWITCH || kind == RLX_ACT_LEVEL))
        return rlx_out_values(d, output, values);
    enum rlx_verb verb = (enum rlx_verb) * values;
    int done = rlx_out_switch(d, output, verb);
    if (verb == RLX_TOGGLE && !RLX_ASKS(d)) write_toggle(d, end, output);
    return done;
}

RLX_INTERNAL int rlx_act(struct rlx_device *d)
{
    rlx_rom at = d->at;
    uint8_t end = RLX_ROM8_NEXT(at), kind = end & RLX_ACT_MASK;
    if (RLX_HAS_CALL && (!ACTS || kind == RLX_ACT_CALL)) {
        rlx_invoke invoke = (rlx_invoke)RLX_ROM_FN(rlx_invokers(d) + RLX_ROM8(at));
        return invoke(RLX_ROM_FN(rlx_handlers(d) + operand(d, end, at + 1)), d->user, d->value,
                      rlx_frame_text(rlx_current(d)));
    }
    uint8_t output = (uint8_t)operand(d, end, at);
#if RLX_HAS_SETTINGS
    if (kind == RLX_ACT_VERB && d->value[d->n_values - 1] == RLX_STORE)
        return rlx_setting_store(d, output, d->value[d->n_values - 2]);
#endif
#if RLX_HAS_ROUTINES
    if (kind == RLX_ACT_VERB && !RLX_TELLS_OUTPUT(d->value[d->n_values - 1]))
        return rlx_routine_act(d, output, (enum rlx_verb)d->value[d->n_values - 1]);
#endif
#if RLX_HAS_EXPIRY
    bool pulse = kind == RLX_ACT_VERB && d->value[d->n_values - 1] == RLX_PULSE;
    if (pulse) d->lasts = (uint32_t)d->value[d->n_values - 2] | RLX_LASTS_OFF;
    int done = pulse ? rlx_out_switch(d, output, RLX_ON) : act_on_output(d, end, output);
    if (done >= 0 && !RLX_ASKS(d)) /* what was refused renews nothing */
        rlx_out_lasts(d, output, d->lasts);
    return pulse && done == RLX_ALREADY ? 0 : done;
#else
    return act_on_output(d, end, output);
#endif
}

#if RLX_HAS_WAITS || RLX_HAS_ROUTINES || RLX_TRIES_BOUNDS || \
    (RLX_HAS_LOG && RLX_HIDES_SETTINGS) || RLX_HAS_SEAL
/* The output, or setting, of the matched command. */
static uint8_t output_of(const struct rlx_device *d)
{
    return (uint8_t)operand(d, RLX_ROM8(d->at), d->at + 1);
}
#endif

#if RLX_HAS_ROUTINES || RLX_HAS_PERMITTED
/* Whether the matched command acts on an output. */
static bool is_of_output(const struct rlx_device *d)
{
    uint8_t kind = RLX_ROM8(d->at) & RLX_ACT_MASK;
    if (kind == RLX_ACT_VERB) return RLX_TELLS_OUTPUT(d->value[d->n_values - 1]);
    return kind != RLX_ACT_CALL;
}

/* Whether an input does not permit the matched command. */
static bool is_blocked(struct rlx_device *d)
{
#if RLX_HAS_PERMITTED
    uint8_t end = RLX_ROM8(d->at);
    d->blocked = 0;
    if (end & RLX_END_TELLS || !is_of_output(d)) return false;
    d->asks = true;
    int done = rlx_act(d);
    d->asks = false;
    return done == -RLX_ERR_BLOCKED;
#else
    (void)d;
    return false;
#endif
}
#endif

#if RLX_HAS_STEPS
/* Does what stands at d->at, and leaves it behind that. */
static int act_there(struct rlx_device *d)
{
    rlx_rom end = d->at;
    uint8_t what = RLX_ROM8(end);
    int done = 0;
#if RLX_HAS_BOUNDED && RLX_HAS_ROUTINES
    if (d->outside) done = -RLX_ERR_RANGE;
#endif
#if RLX_HAS_GUARDS
    if (d->guard && rlx_guarded(d)) done = -RLX_ERR_BLOCKED;
#endif
    if (!done) done = rlx_act(d);
    d->at = end + 1 + ((what & RLX_ACT_MASK) == RLX_ACT_CALL);
    if (rlx_operand(what) == RLX_OPERAND_INLINE) d->at += rlx_is_many(d) ? 2 : 1;
    return done;
}

RLX_INTERNAL int rlx_step(struct rlx_device *d, rlx_rom at, bool ends)
{
    d->n_values = 0;
#if RLX_HAS_EXPIRY
    d->lasts = 0;
#endif
    rlx_set_current(d, rlx_link_at(d, 0), rlx_current_number(d)); /* it has no texts */
    d->at = at;
#if RLX_HAS_BOUNDED && RLX_HAS_ROUTINES
    d->outside = false;
#endif
#if RLX_HAS_GUARDS
    d->guard = 0;
#endif
    while (rlx_take_silent(d, &at)) {}
#if RLX_HAS_ROUTINES
    if (ends && is_of_output(d) && !is_blocked(d)) rlx_routines_yield(d, output_of(d));
#endif
    (void)ends;
    d->in_step = true;
    int done = act_there(d);
    d->in_step = false;
    return done;
}
#endif

#if RLX_HAS_QUERY || (RLX_HAS_SETTINGS && RLX_HAS_STATE)
RLX_INTERNAL bool rlx_write_value(struct rlx_device *d, rlx_rom *op, rlx_value value)
{
    rlx_rom at = *op, entry = at + 2;
    uint8_t kind = RLX_ROM8(at);
    *op = at + 2 + RLX_ROM8(at + 1);
    rlx_reply_put(d, ' ');
    if (RLX_HAS_NUMBER && (kind == RLX_OP_NUM16 || kind == RLX_OP_NUM32)) {
        if (value < rlx_number_low(at) || value > rlx_number_high(at)) return false;
        rlx_number_put(d, at, value);
        return true;
    }
    if (RLX_HAS_SET && kind == RLX_OP_SET) return rlx_put_set(d, (uint16_t)value, entry, *op);
    for (; entry != *op; entry = rlx_behind(entry + 1)) {
        if (RLX_ROM8(entry) != value) continue;
        rlx_reply_text(d, entry + 1);
        return true;
    }
    return false;
}

#endif

/* What a handler or an output returned: an error, or 0. */
static uint8_t error_of(const struct rlx_device *d, int done)
{
    if (done >= 0) return 0;
#if RLX_HAS_REASONS
    if (done <= -RLX_ERR_REASON && done > -RLX_OWN_ALREADY && rlx_has_error_text(d, (uint8_t)-done))
        return (uint8_t)-done;
#endif
    (void)d;
#if RLX_HAS_BLOCKED
    if (done == -RLX_ERR_BLOCKED && d->blocked) return RLX_ERR_BLOCKED;
#endif
    return done == -RLX_ERR_BUSY ? RLX_ERR_BUSY : RLX_ERR_FAILED;
}

#if RLX_HAS_QUERY
#if RLX_HAS_ANSWERS
/* The '?' of the query, which its values stand behind, is no part of the answer. */
static void drop_mark(struct rlx_device *d, uint16_t at)
{
    uint8_t *ring = rlx_reply_ring(d), mask = rlx_reply_mask(d);
    while (ring[at & mask] != '?') at++;
    for (; at != d->tx_next; at++) ring[at & mask] = ring[(at + 1u) & mask];
    d->tx_next--;
}
#endif

/* Calls a handler that answers with values, and writes them behind the reply. 0, an error, or
 * RLX_OWN_ALREADY. */
static uint8_t answer_with(struct rlx_device *d, uint16_t start)
{
    rlx_rom at = d->at;
    uint8_t end = RLX_ROM8(at), given = 0;
#if RLX_HAS_ANSWERS
    given = d->n_values;
#endif
    for (uint8_t i = given; i < RLX_SLOTS; i++) d->value[i] = 0;
    rlx_invoke invoke = (rlx_invoke)RLX_ROM_FN(rlx_invokers(d) + RLX_ROM8(at + 1));
    int done = invoke(RLX_ROM_FN(rlx_handlers(d) + operand(d, end, at + 2)), d->user, d->value,
                      rlx_frame_text(rlx_current(d)));
    if (done < 0) return error_of(d, done);
    at += 2;
    if (rlx_operand(end) == RLX_OPERAND_INLINE) at += rlx_is_many(d) ? 2 : 1;
#if RLX_HAS_ANSWERS
    if (IS_QUERY(end)) drop_mark(d, start);
#else
    (void)start;
    d->tx_next--; /* the '?' */
#endif
    for (const rlx_value *value = d->value + given; !(RLX_ROM8(at) & RLX_OP_END); value++)
        if (!rlx_write_value(d, &at, *value)) return RLX_ERR_FAILED;
#if RLX_HAS_ANSWERS
    if (done == RLX_ALREADY) {
        rlx_reply_nth(d, RLX_TEXT_ALREADY);
        return RLX_OWN_ALREADY;
    }
#endif
    return 0;
}
#endif

static void write_ok(struct rlx_device *d)
{
    rlx_reply_put(d, 'o');
    rlx_reply_put(d, 'k');
}

#if (RLX_HAS_LOG && RLX_HIDES_SETTINGS) || RLX_HAS_SEAL || RLX_TRIES_BOUNDS
/* Whether what was matched stores a setting. */
static bool is_store(const struct rlx_device *d)
{
    return (RLX_ROM8(d->at) & RLX_ACT_MASK) == RLX_ACT_VERB &&
           d->value[d->n_values - 1] == RLX_STORE;
}
#endif

/* Whether this link accepts the matched command; if not, d->text is where it begins. */
static bool allowed(struct rlx_device *d, rlx_rom row, uint16_t start, const uint8_t *text)
{
#if RLX_HAS_LIMITED
    if (rlx_is_allowed(d, row, start)) return true;
    d->text = text;
    while (*d->text == ' ') d->text++;
    return false;
#else
    (void)d, (void)row, (void)start, (void)text;
    return true;
#endif
}

#if RLX_HAS_LOG
/* Whether what was matched stores a code, or begins with one. */
static bool is_secret(const struct rlx_device *d)
{
#if RLX_HAS_CODED
    if (d->code) return true;
#endif
#if RLX_HIDES_SETTINGS
    return is_store(d) && rlx_setting_is_code(d, output_of(d));
#else
    (void)d;
    return false;
#endif
}
#endif

static void log_act(struct rlx_device *d, const uint8_t *text, uint8_t verdict)
{
#if RLX_HAS_LOG
    rlx_log_add(d, text, verdict, is_secret(d));
#else
    (void)d, (void)text, (void)verdict;
#endif
}

#if RLX_HAS_BUILT_IN || RLX_HAS_NEWEST
/* Writes the reply anew from `start` on: ok and the command, which is read once more. */
static void begin_again(struct rlx_device *d, uint16_t start, const uint8_t *text)
{
    d->tx_next = start;
    d->text = text;
    write_ok(d);
}
#endif

#if RLX_HAS_BUILT_IN
static uint8_t obey_built_in(struct rlx_device *d, rlx_rom row, bool acts, uint16_t start,
                             const uint8_t *text)
{
    bool halt = rlx_is_halt(d); /* it is never denied */
    if (!halt && !allowed(d, row, start, text)) return RLX_ERR_DENIED;
    begin_again(d, start, text);
    bool already = rlx_built_in(d, acts) == RLX_BUILT_IN_ALREADY;
    if (!rlx_reply_fits(d)) d->tx_next = (uint16_t)(start + 2);
#if RLX_HAS_LOG
    if (acts && halt) rlx_log_add(d, text, 0, false);
#endif
    return already ? RLX_OWN_ALREADY : 0;
}
#endif

#if RLX_KEEPS_INTENT
/* Whether what was matched leads to the same when it is done twice. */
static bool is_repeatable(const struct rlx_device *d)
{
    uint8_t end = RLX_ROM8(d->at), kind = end & RLX_ACT_MASK;
    if (IS_QUERY(end)) return true;
    if (kind == RLX_ACT_LEVEL) return true;
    if (kind == RLX_ACT_SWITCH)
        return d->value[rlx_operand(end) == RLX_OPERAND_VALUE] != RLX_TOGGLE;
    if (kind == RLX_ACT_CALL) return false; /* who knows what the handler does */
#define AGAIN(id, word, behind, kinds, steps, stops, again, does) | (uint32_t)(again) << RLX_##id
    return (UINT32_C(0) RLX_VERBS(AGAIN)) >> d->value[d->n_values - 1] & 1;
#undef AGAIN
}
#endif

/* What was matched and is valid, and yet is not obeyed: RLX_ERR_..., or 0. */
static uint8_t held_up(struct rlx_device *d, rlx_rom row, bool acts)
{
    (void)d, (void)row;
#if RLX_HAS_HALT
    if (rlx_current(d)->halts) return RLX_ERR_HALTED;
#endif
#if RLX_HAS_YIELDS
    if (rlx_current(d)->yields && !IS_QUERY(RLX_ROM8(d->at))) return RLX_ERR_YIELDS;
#endif
#if RLX_HAS_SMS
    const struct rlx_sms *sms = rlx_current(d)->sms;
    if (sms && sms->again && (sms->old || !is_repeatable(d))) return RLX_ERR_UNSURE;
#endif
#if RLX_HAS_PERMITTED
    if (is_blocked(d)) return RLX_ERR_BLOCKED;
#endif
#if RLX_HAS_GUARDS || RLX_HAS_CODED
    uint8_t guarded = acts && RLX_PART(d) ? 0 : rlx_guarded(d); /* or before the first one */
    if (guarded) return guarded;
#endif
    (void)acts;
#if RLX_KEEPS_TAGS
    if (!is_repeatable(d)) return rlx_intent_begin(d, row);
#endif
    return 0;
}

/* Obeys the matched command, and writes the reply. 0, an error, or RLX_OWN_ALREADY. */
static uint8_t act_on(struct rlx_device *d, uint16_t start, const uint8_t *text)
{
#if RLX_HAS_QUERY
    if (RLX_ROM8(d->at) & RLX_END_TELLS) {
        uint8_t answered = answer_with(d, start);
#if RLX_HAS_ANSWERS
        if (!IS_QUERY(RLX_ROM8(d->at))) log_act(d, text, answered);
#endif
        return answered;
    }
#endif
    bool fits = rlx_reply_fits(d); /* as received: the word of a toggle may yet be replaced */
#if RLX_HAS_ROUTINES
    if (is_of_output(d)) rlx_routines_yield(d, output_of(d));
#endif
    int done = rlx_act(d);
    uint8_t error = error_of(d, done);
    log_act(d, text, done == RLX_ALREADY ? RLX_OWN_ALREADY : error);
    if (error) return error;
#if RLX_HAS_SAYS
    enum rlx_said said = rlx_say(d, start, done == RLX_ALREADY);
    fits = fits || said;
    if (done == RLX_ALREADY && said != RLX_SAID_ALREADY) rlx_reply_nth(d, RLX_TEXT_ALREADY);
#else
    if (done == RLX_ALREADY) rlx_reply_nth(d, RLX_TEXT_ALREADY);
#endif
#if RLX_HAS_WAITS
    if (done == RLX_WAITS) rlx_write_waits(d, output_of(d));
#endif
    if (!fits || !rlx_reply_fits(d)) {
        d->tx_next = start;
        write_ok(d);
    }
    return done == RLX_ALREADY ? RLX_OWN_ALREADY : 0;
}

/* Reads one command, and obeys it if `acts`; the reply is written but for an error. 0,
 * an error, RLX_MATCH_..., or RLX_OWN_ALREADY. */
static uint8_t obey_one(struct rlx_device *d, rlx_rom row, bool acts)
{
    uint16_t start = d->tx_next;
    const uint8_t *text = d->text;
    write_ok(d);
#if RLX_HAS_BUILT_IN
    if (rlx_built_in(d, false)) return obey_built_in(d, row, acts, start, text);
    d->text = text;
#endif
    uint8_t error = rlx_match(d);
    if (error) return error;
    if (!allowed(d, row, start, text)) return RLX_ERR_DENIED;
#if RLX_HAS_SEAL
    if (is_store(d) && rlx_seal_denies(d, output_of(d))) {
        d->text = text;
        while (*d->text == ' ') d->text++;
        return RLX_ERR_DENIED;
    }
#endif
    error = held_up(d, row, acts);
    if (error == RLX_ERR_BLOCKED || error == RLX_ERR_DENIED) log_act(d, text, error);
#if RLX_HAS_CODED
    if (error == RLX_ERR_DENIED) {
        d->text = text;
        while (*d->text == ' ') d->text++;
    }
#endif
#if RLX_TRIES_BOUNDS
    if (!error && !acts && is_store(d)) rlx_setting_try(d, output_of(d), d->value[d->n_values - 2]);
#endif
    if (error || !acts) return error;
#if RLX_HAS_NEWEST
    if (RLX_ROM8(d->at) & RLX_END_NEWEST && !RLX_PART(d)) {
        bool newer = rlx_is_superseded(d, row);
        begin_again(d, start, text);
        if (newer) {
            rlx_count(&rlx_current(d)->newer);
            return RLX_MATCH_NEWER;
        }
        rlx_match(d);
    }
#endif
    return act_on(d, start, text);
}

#if RLX_HAS_BUILT_IN
/* Several commands: all of them are read before the first one is obeyed. The reply is their count.
 * While they are read, a setting that bounds what follows has the value that it will have. */
static uint8_t obey_all(struct rlx_device *d, rlx_rom row)
{
    const uint8_t *first = d->text;
    uint16_t start = d->tx_next;
    uint8_t count = 0, error = 0;
#if RLX_TRIES_BOUNDS
    rlx_value before[RLX_SETTINGS_ROOM];
    rlx_settings_copy(d, before);
#endif
    for (uint8_t acts = 0; acts < 2 && !error; acts++) {
        const uint8_t *text = first;
        for (d->part = 1, count = 0; text < d->text_end; d->part++) {
            d->text = text;
            d->tx_next = start;
            error = obey_one(d, row, acts);
            if (error == RLX_MATCH_REPLY || (error && error < RLX_OWN_ALREADY)) break;
#if RLX_KEEPS_TAGS
            if (error == RLX_MATCH_LATER) break;
#endif
            if (error != RLX_MATCH_EMPTY) count++;
            error = 0;
            while (*text) text++;
            text++;
        }
#if RLX_TRIES_BOUNDS
        if (!acts) rlx_settings_put_back(d, before);
#endif
    }
    if (error) return error;
    d->part = 0;
    d->tx_next = start;
    if (!count) return RLX_MATCH_EMPTY;
    write_ok(d);
    rlx_reply_put(d, ' ');
    rlx_reply_number(d, count, 0);
    return 0;
}
#endif

#if RLX_KEEPS_TAGS
/* What was read before its record was written. */
static uint8_t obey_resumed(struct rlx_device *d, rlx_rom row)
{
    rlx_intent_resume(d);
    rlx_envelope_resume(d, row);
#if RLX_HAS_BUILT_IN
    if (d->text_end) return obey_all(d, row);
#endif
    return obey_one(d, row, true);
}
#endif

RLX_INTERNAL uint8_t rlx_obey(struct rlx_device *d, rlx_rom row)
{
#if RLX_TRIES_BOUNDS
    d->out_of = 0;
#endif
#if RLX_KEEPS_TAGS
    if (rlx_current(d)->intent.waits) return obey_resumed(d, row);
    rlx_intent_read(d);
#endif
#if RLX_HAS_BUILT_IN
    d->text_end = 0;
    d->part = 0;
    if (rlx_split(d)) return obey_all(d, row);
    d->text_end = 0;
#endif
    if (RLX_HAS_NUMBERED) rlx_frame_number(d);
#if RLX_KEEPS_TAGS
    rlx_intent_read(d);
#endif
    return obey_one(d, row, true);
}

/* What the frame is, and what it leads to; the reply is begun. */
static uint8_t read_frame(struct rlx_device *d, rlx_rom row)
{
    struct rlx_link *link = rlx_current(d);
    uint8_t error = link->frame_state & (uint8_t)~RLX_FRAME_READY;
    d->text = rlx_frame_text(link);
#if RLX_HAS_HEARD && RLX_COUNTS_OTHERS
    d->frame_why = error ? RLX_HEARD_DAMAGED : RLX_HEARD_ADDRESS;
#endif
#if RLX_HAS_SOURCE
    d->tagged = d->broadcast = false; /* also where this one is damaged */
    d->source = 0;
#endif
#if RLX_HAS_SEAL
    d->seal_key = 0;
#endif
#if RLX_HAS_MESSAGE
    d->source = link->source;
#endif
    if (error) {
        d->text += link->frame_len;
        return RLX_COUNTS_OTHERS && rlx_flags(d, row) & RLX_LINK_SHARED ? RLX_MATCH_OTHERS : error;
    }
#if RLX_HAS_BINARY
#if RLX_TAKES_CHANNELS
    if (rlx_channel_bytes(d, row)) return rlx_channels_read(d, row);
#endif
    if (rlx_is_binary(d, row)) {
        error = rlx_layout_read(d, row, &d->frame_number, RLX_FRAME_ANSWERS(d));
        return error ? error : rlx_obey(d, row);
    }
#endif
    if (RLX_HAS_TEXT && rlx_frame_stray(link)) {
        d->text = rlx_frame_stray(link);
        return RLX_ERR_BYTE;
    }
#if RLX_KEEPS_TAGS
    if (link->intent.waits) return rlx_obey(d, row);
#endif
#if RLX_HAS_LIMITED
    if (rlx_is_known(d, row)) return RLX_MATCH_KNOWN;
#endif
#if RLX_HAS_ENVELOPE
    error = rlx_envelope_open(d, row);
    if (error) return error;
#endif
#if RLX_HAS_OWN
    if (rlx_is_own(d, row)) return RLX_MATCH_REPLY;
#endif
#if RLX_HAS_SAYS
    if (rlx_is_said(d, row)) return RLX_MATCH_REPLY;
#endif
    return rlx_obey(d, row);
}

/* A valid frame arrived: the link is up unless the frame was bye, and has priority over others. */
static void link_used(struct rlx_device *d)
{
#if RLX_HAS_YIELDS
    rlx_rom row = rlx_link_rows(d);
    for (uint8_t i = 0; i < rlx_n_links(d); i++, row += RLX_LNK_ROW) {
        rlx_rom more = rlx_more(d, row);
        if (!more || rlx_more8(more, RLX_MORE_YIELDS) != rlx_current_number(d) + 1) continue;
        rlx_link_at(d, i)->yields = true;
        rlx_link_at(d, i)->yields_due =
            d->now + rlx_more16(more, RLX_MORE_YIELDS_S) * UINT32_C(1000);
    }
#endif
#if RLX_HAS_UP
    bool up = !d->bye;
    d->bye = false;
#if RLX_HANGS_UP
    rlx_hang_up(d, rlx_current_number(d), !up);
#endif
#if RLX_HAS_PRESENCE
    if (up && rlx_current(d)->pin_down) return;
    if (!up && rlx_current(d)->down)
        rlx_presence_lost(d, rlx_current_number(d)); /* obeyed all the same so far */
#endif
    rlx_link_set(d, rlx_current_number(d), up);
#endif
    (void)d;
}

#if RLX_KEEPS_TAGS
/* A repeat of what was obeyed before the device started. */
static void answer_came(struct rlx_device *d, rlx_rom row)
{
    uint8_t came = rlx_intent_came(d, row);
    if (rlx_flags(d, row) & RLX_LINK_SILENT) return;
#if RLX_HAS_BLOCKED
    d->blocked = 0;
#endif
#if RLX_HAS_OWN
    enum rlx_own own = rlx_reply_own(d, row, came);
    if (own == RLX_OWN_EMPTY) return;
    if (own == RLX_OWN_NONE)
#endif
        rlx_reply_verdict(d, came);
    rlx_envelope_close(d, row);
    rlx_reply_commit(d, row);
}
#endif

/* Answers the frame in hand; the reply is begun. */
static void answer(struct rlx_device *d, rlx_rom row)
{
    struct rlx_link *link = rlx_current(d);
#if RLX_HAS_HEARD
    rlx_heard_begin(d);
#endif
    uint8_t what = read_frame(d, row);
#if RLX_KEEPS_TAGS
    if (what == RLX_MATCH_LATER) return; /* it stays in hand */
    if (link->intent.waits) rlx_intent_end(d, row, what);
#endif
    rlx_frame_over(link);
#if RLX_KEEPS_TAGS
    if (what == RLX_MATCH_CAME) {
        answer_came(d, row);
        return;
    }
#endif
#if RLX_HAS_SMS
    if (link->sms) link->sms->verdict = what;
#endif
#if RLX_HAS_LIMITED
    if (what == RLX_MATCH_KNOWN) {
        rlx_count(&link->known);
        if (d->tx_next != rlx_reply_from(d) && !(rlx_flags(d, row) & RLX_LINK_SILENT))
            rlx_reply_commit(d, row);
        return;
    }
#endif
#if RLX_HAS_NEWEST
    if (what == RLX_MATCH_NEWER) {
        rlx_reply_newer(d);
        what = 0;
    }
#endif
    if (what >= RLX_MATCH_REPEAT) {
        if (what == RLX_MATCH_REPLY) rlx_count(&link->ignored);
#if RLX_COUNTS_OTHERS
        if (what == RLX_MATCH_OTHERS) {
            rlx_count(&link->others);
#if RLX_HAS_HEARD
            rlx_heard_end(d, d->frame_why);
#endif
        }
#endif
        return;
    }
    bool refused = what && what != RLX_OWN_ALREADY;
    if (refused) {
        rlx_count(&link->refused);
#if RLX_HAS_HEARD
        rlx_heard_end(d, RLX_HEARD_REFUSED);
#endif
    } else {
        link_used(d);
    }
#if RLX_HAS_OWN
    if (rlx_flags(d, row) & RLX_LINK_SILENT) return;
    enum rlx_own own = rlx_reply_own(d, row, what);
    if (own == RLX_OWN_EMPTY) return;
    refused = refused && own == RLX_OWN_NONE; /* the image may lack the errors' names */
#endif
#if RLX_HAS_ERRORS
    if (refused) rlx_reply_error(d, what);
#endif
    (void)refused;
#if RLX_HAS_ENVELOPE
    if (d->broadcast) return;
    rlx_envelope_close(d, row);
#endif
    rlx_reply_commit(d, row);
}

#if RLX_HAS_DROP
/* There is no room for the answer, and it is not waited for: it is written beside the ring. */
static void answer_unheard(struct rlx_device *d, uint8_t link_no, rlx_rom row)
{
    uint8_t beside[RLX_RING_MAX];
    rlx_reply_start(d, link_no, row);
    d->tx = beside;
    d->tx_mask = RLX_RING_MAX - 1;
    d->tx_next = rlx_current(d)->tx_head; /* with its lead, which went to the ring so far */
    if (rlx_is_keyed(row)) rlx_reply_put(d, RLX_REPLY_LEAD);
    d->unheard = true;
    answer(d, row);
    d->unheard = false;
}
#endif

RLX_INTERNAL bool rlx_answer(struct rlx_device *d, uint8_t link_no, rlx_rom row)
{
    bool waits = false;
#if RLX_KEEPS_TAGS
    rlx_intent_load(d, rlx_link_at(d, link_no), row);
    waits = rlx_intent_waits(d, rlx_link_at(d, link_no), row);
#endif
    if (!waits && rlx_reply_begin(d, link_no, row)) {
        answer(d, row);
        return true;
    }
#if RLX_HAS_DROP
    if (!waits && rlx_ways(d, row) & RLX_WAY_DROP) {
        answer_unheard(d, link_no, row);
        return true;
    }
#endif
#if RLX_HAS_HALT
    /* what moves is safe at once, also where the answer has to wait */
    if (rlx_has_built_in(d, RLX_BUILT_IN_HALT)) rlx_halt_ahead(d, link_no, row);
#endif
    return false;
}
