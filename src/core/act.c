#include "core.h"

static const char ok_[] RLX_ROM = "ok";
static const char on_[] RLX_ROM = "on";
static const char off_[] RLX_ROM = "off";
static const char already_[] RLX_ROM = " already";

/* The operand of the END at *at, which is moved behind what was read. */
static uint16_t operand(const struct rlx_device *d, uint8_t end, rlx_rom at)
{
    switch (end & RLX_OPERAND_MASK) {
    case RLX_OPERAND_GROUP: return d->group;
    case RLX_OPERAND_ENTRY: at = d->entry + (RLX_HAS_MANY && d->many ? 2 : 1); break;
    default: break;
    }
    if (RLX_HAS_MANY && d->many) return RLX_ROM16(at);
    return RLX_ROM8(at);
}

/* A toggle's reply tells the outcome: instead of the word, or behind the command. */
static void tell_toggle(struct rlx_device *d, uint8_t end, uint8_t output)
{
    if (end & RLX_END_APPEND)
        rlx_reply_put(d, ' ');
    else
        rlx_reply_rewind(d, d->tx_word);
    rlx_reply_string(d, rlx_output_is_on(d, output) ? on_ : off_);
}

/* Does what the END at d->at says. 0, RLX_ALREADY, or negative. */
static int act(struct rlx_device *d)
{
    rlx_rom at = d->at;
    uint8_t end = RLX_ROM8(at++), kind = end & RLX_ACT_MASK, signature = 0;
    if (RLX_HAS_CALL && kind == RLX_ACT_CALL) signature = RLX_ROM8(at++);
    uint16_t what = operand(d, end, at);
    if (RLX_HAS_SWITCH && kind == RLX_ACT_SWITCH) {
        enum rlx_verb verb = (enum rlx_verb)d->value[0];
        int done = rlx_output_switch(d, (uint8_t)what, verb);
        if (verb == RLX_TOGGLE) tell_toggle(d, end, (uint8_t)what);
        return done;
    }
    if (RLX_HAS_LEVEL && kind == RLX_ACT_LEVEL)
        return rlx_output_level(d, (uint8_t)what, (uint8_t)d->value[0]);
    if (RLX_HAS_CALL) {
        rlx_invoke invoke = (rlx_invoke)RLX_ROM_FN(d->invokers + signature);
        return invoke(RLX_ROM_FN(d->handlers + what), d->user, d->value);
    }
    return -RLX_ERR_FAILED;
}

/* Reads and obeys the frame. 0, an error, or RLX_MATCH_EMPTY; the reply is written. */
static int obey(struct rlx_device *d)
{
    rlx_reply_string(d, ok_);
    uint8_t said = d->tx_next;
    int error = rlx_match(d);
    if (error) return error;
    int done = act(d);
    if (done < 0) return done < -RLX_ERR_BUSY ? RLX_ERR_FAILED : -done;
    if (done == RLX_ALREADY) rlx_reply_string(d, already_);
    if (d->full) rlx_reply_rewind(d, said);
    return 0;
}

bool rlx_answer(struct rlx_device *d, struct rlx_link *link, rlx_rom row)
{
    if (!rlx_reply_begin(d, link, RLX_ROM8(row + RLX_LNK_REPLY))) return false;
    uint8_t *text = rlx_frame_text(link);
    int error = link->frame_state & (uint8_t)~RLX_FRAME_READY;
    d->text = error ? text + link->frame_len : text;
    if (!error) error = obey(d);
    if (error == RLX_MATCH_EMPTY) {
        /* blanks only: an empty line */
    } else if (error == RLX_ERR_UNKNOWN && rlx_match_reply_word(text)) {
        link->ignored++;
    } else {
        if (error) {
            link->refused++;
            rlx_reply_error(d, (uint8_t)error);
        }
        rlx_reply_commit(d);
    }
    rlx_frame_clear(link);
    return true;
}
