/* What several kinds of outputs share: attributes, safe states, wires, and the rows of what has a
 * level.
 * Each function is one entry of struct lex_kind, or a part of one.
 * What only one kind has is in its own file. */
#include "kinds/shared.h"

#include <string.h>

#include "rlx/drive.h"

#define MOST_TIME (24u * 3600000u)

/* off, on, N% */
bool kind_safe_level(struct statement *st, struct lex_output *out)
{
    struct token *token = statement_peek(st);
    guint64 percent;
    char *end;
    if (statement_take_word(st, "on") || statement_take_word(st, "off")) {
        out->safe = token->text[1] == 'n' ? 100 : 0;
        return true;
    }
    if (token->kind == TOKEN_WORD && g_ascii_isdigit(token->text[0])) {
        percent = g_ascii_strtoull(token->text, &end, 10);
        bool level_ok = out->pwm || percent == 0 || percent == 100;
        if ((!*end || !strcmp(end, "%")) && percent <= 100 && level_ok) {
            st->next++;
            out->safe = (unsigned)percent;
            return true;
        }
    }
    lex_fault(st->lx, token->place,
              out->pwm ? "expected the safe state: on, off or 0%%..100%%"
                       : "expected the safe state: on or off");
    return false;
}

/* What turns is safe when it stands. */
bool kind_safe_stop(struct statement *st, struct lex_output *out)
{
    struct token *token = statement_peek(st);
    if (statement_take_word(st, "stop") || statement_take_word(st, "0%") ||
        statement_take_word(st, "0"))
        return true;
    lex_fault(st->lx, token->place, "a %s is safe when it stands: stop or 0%%",
              lex_output_kinds[out->kind]);
    return false;
}

bool kind_read_safe(struct statement *st, void *target)
{
    struct lex_output *out = target;
    out->safe_told = true;
    return lex_kind_of(out)->read_safe(st, out);
}

bool kind_read_active(struct statement *st, void *target)
{
    static const char *const words[] = {"high", "low", NULL};
    unsigned index;
    if (!statement_one_of(st, "the level at which it is on", words, &index)) return false;
    ((struct lex_output *)target)->active_low = index == 1;
    return true;
}

bool kind_is_taken(struct statement *st, struct lex_output *out, bool *placed)
{
    if (*placed)
        lex_fault(st->lx, statement_peek(st)[-1].place, "'%s' has its pin already", out->name);
    bool before = *placed;
    *placed = true;
    return before;
}

bool kind_read_pin(struct statement *st, void *target)
{
    struct lex_output *out = target;
    return !kind_is_taken(st, out, &out->placed) && statement_pin(st, &out->pin);
}

bool kind_read_channel(struct statement *st, unsigned *channel, uint32_t *hz, uint32_t otherwise)
{
    if (!statement_number(st, "a PWM channel", 0, 255, channel)) return false;
    if (statement_take_word(st, "at")) return statement_hertz(st, hz);
    *hz = otherwise;
    if (otherwise) return true;
    lex_fault(st->lx, statement_peek(st)->place,
              "expected 'at' and the PWM frequency, like: at 1kHz");
    return false;
}

/* pwm N at F: of a motor its left wire, of a servo 50 Hz by default */
bool kind_read_pwm(struct statement *st, void *target)
{
    struct lex_output *out = target;
    if (kind_is_taken(st, out, &out->placed)) return false;
    out->pwm = true;
    out->left.placed = out->kind == LEX_MOTOR;
    if (!kind_read_channel(st, &out->pin, &out->hz, out->kind == LEX_SERVO ? 50 : 0)) return false;
    out->left.channel = out->pin;
    out->left.hz = out->hz;
    return true;
}

#define READ_TIME(name, what, most)                                                     \
    bool kind_read_##name(struct statement *st, void *target)                           \
    {                                                                                   \
        return statement_time(st, what, 1, most, &((struct lex_output *)target)->name); \
    }
READ_TIME(dead, "the dead time", 60000)
READ_TIME(travel, "the time from end to end", 3600000)

bool kind_read_ramp(struct statement *st, void *target)
{
    struct lex_output *out = target;
    return statement_time_by(st, "the time from stop to full", 1, LEX_RAMP_MOST, &out->ramp,
                             &out->ramp_by);
}

bool kind_read_expires(struct statement *st, void *target)
{
    struct lex_output *out = target;
    return statement_time_by(st, LEX_EXPIRES, 10, RLX_LASTS_MAX, &out->expires, &out->expires_by);
}

/* firmware [only safe] */
bool kind_read_by(struct statement *st, void *target)
{
    struct lex_output *out = target;
    const struct token *next;
    if (!statement_take_word(st, "firmware")) {
        lex_fault(st->lx, statement_peek(st)->place,
                  "expected 'by firmware' or 'by firmware only safe'");
        return false;
    }
    out->by = LEX_BY_FIRMWARE;
    next = statement_peek(st);
    if (g_strcmp0(next->text, "only") != 0 || g_strcmp0(next[1].text, "safe") != 0) return true;
    statement_take(st);
    statement_take(st);
    out->by = LEX_BY_FIRMWARE_SAFE;
    return true;
}

bool kind_read_only(struct statement *st, void *target)
{
    return statement_permits(st, ((struct lex_output *)target)->permits, RLX_GOES_ANY, "an input");
}

bool kind_read_way_only(struct statement *st, struct lex_output *out, unsigned way)
{
    if (statement_take_word(st, "only"))
        return statement_permits(st, out->permits, way, "an input");
    lex_fault(st->lx, statement_peek(st)->place, "expected 'only while', an input and its state");
    return false;
}

/* closed = 0  half = 45 */
bool kind_read_positions(struct statement *st, void *target)
{
    struct lexicon *lx = st->lx;
    struct lex_output *out = target;
    struct token *name = statement_peek(st);
    if (!out->range || name->kind != TOKEN_WORD || name[1].kind != TOKEN_EQUALS) {
        lex_fault(lx, name->place,
                  out->range ? "expected names and values, like: positions closed = 0 open = 90"
                             : "the range stands before the positions in it");
        return false;
    }
    for (; name->kind == TOKEN_WORD && name[1].kind == TOKEN_EQUALS; name = statement_peek(st)) {
        const char *why, *value = name[2].kind == TOKEN_WORD ? name[2].text : "";
        struct lex_position *position = g_new0(struct lex_position, 1);
        position->name = lex_spelt(lx, name->text);
        st->next += 2;
        if (!lex_word_ok(name->text, &why))
            lex_fault(lx, name->place, "'%s': %s", name->text, why);
        else if (lex_verb_of(out, name->text))
            lex_fault(lx, name->place, "'%s' is what '%s' understands already", name->text,
                      out->name);
        else if (lex_position_of(out, name->text))
            lex_fault(lx, name->place, "a second position '%s'", name->text);
        if (!lex_value_said(out->range, value, &position->value)) {
            char *range = lex_range_text(out->range);
            lex_fault(lx, name[2].place, "expected one of the values of '%s', %s%s", out->name,
                      range, out->range->unit ? out->range->unit : "");
            g_free(range);
        } else {
            st->next++;
        }
        g_ptr_array_add(out->positions, position);
    }
    return true;
}

bool kind_read_lost(struct statement *st, void *target)
{
    struct lex_output *out = target;
    g_free(out->lost);
    return (out->lost = statement_name(st, "the link whose loss makes it safe")) != NULL;
}

/* Which state of the link stands there; `lost` and a link's name is another attribute. */
static bool takes_shown(struct statement *st, const struct lex_output *out, unsigned *state)
{
    const struct token *token = statement_peek(st);
    for (*state = 0; *state < LEX_SHOWN; ++*state) {
        if (token->kind != TOKEN_WORD || strcmp(token->text, lex_shown_words[*state])) continue;
        if (*state == LEX_SHOWN_LOST && token[1].kind == TOKEN_WORD &&
            !lex_verb_of(out, token[1].text) && !g_ascii_isdigit(*token[1].text))
            return false;
        st->next++;
        return true;
    }
    return false;
}

/* What it is in that state of the link, to be read. */
static struct lex_command *shown_anew(struct lex_output *out, unsigned state)
{
    struct lex_command *act = g_new0(struct lex_command, 1);
    act->elements = g_ptr_array_new_with_free_func(lex_element_free);
    act->place = out->place;
    if (out->shown[state]) lex_command_free(out->shown[state]);
    return out->shown[state] = act;
}

bool kind_read_shows(struct statement *st, void *target)
{
    struct lex_output *out = target;
    unsigned state, number = st->lx->outputs->len - 1;
    g_free(out->shows);
    if (!(out->shows = statement_name(st, "the link whose state it shows"))) return false;
    while (takes_shown(st, out, &state)) {
        struct lex_place place = statement_peek(st)->place;
        struct lex_effect *effect = &shown_anew(out, state)->effect;
        if (!read_state(st, out->shown[state], number)) return false;
        if (!effect->verb || !effect->verb->steps || effect->verb->behind) continue;
        lex_fault(st->lx, place, "a link's state is shown by a state, and '%s' is none",
                  effect->verb->word);
        return false;
    }
    for (state = 0; state < LEX_SHOWN && lex_shows_own(out); state++) { /* what it is otherwise */
        if (out->shown[state]) continue;
        struct lex_effect *effect = &shown_anew(out, state)->effect;
        effect->output = number;
        effect->fixed = state == LEX_SHOWN_UP ? RLX_ON : RLX_OFF;
        effect->verb = &lex_verbs[effect->fixed];
    }
    return true;
}

void kind_check_placed(struct lexicon *lx, const struct lex_output *out)
{
    if (!out->placed)
        lex_fault(lx, out->place, "'%s' has no pin; write '%s'", out->name,
                  lex_kind_of(out)->wants);
}

/* ---- the card ---- */

char *kind_wiring(const struct lex_output *out)
{
    if (!out->pwm) return g_strdup_printf("pin %u", out->pin);
    return g_strdup_printf("PWM channel %u at %u Hz", out->pin, out->hz);
}

char *kind_level_text(const struct lex_output *out)
{
    return out->pwm ? g_strdup_printf("safe %u %%", out->safe)
                    : g_strdup(out->safe ? "safe on" : "safe off");
}

char *kind_stop_text(const struct lex_output *out)
{
    (void)out;
    return g_strdup("safe stop");
}

bool kind_tells_on(const struct lex_output *out)
{
    (void)out;
    return true;
}

char *kind_slots_switch(const struct lex_output *out)
{
    (void)out;
    return g_strdup("{on|off}");
}

/* ---- wires ---- */

unsigned kind_wire(const struct lex_output *out, struct lex_wire *wires, enum lex_wire_is channel)
{
    *wires = (struct lex_wire){.is = out->pwm ? channel : LEX_WIRE_PIN,
                               .number = out->pin,
                               .side = "",
                               .part = "",
                               .does = "",
                               .active_low = out->active_low};
    return 1;
}

unsigned kind_wires_of(const struct lex_drive *drive, const char *side, struct lex_wire *wires)
{
    const struct {
        enum lex_wire_is is;
        unsigned number;
        const char *part;
    } all[] = {{LEX_WIRE_DUTY, drive->channel, "drive"},
               {LEX_WIRE_DUTY, drive->other, "back"},
               {LEX_WIRE_PIN, drive->direction, "direction"},
               {LEX_WIRE_PIN, drive->brake, "brake"}};
    unsigned n = 0;
    for (unsigned i = 0; i < G_N_ELEMENTS(all); i++)
        if (all[i].number != LEX_NO_PIN)
            wires[n++] = (struct lex_wire){.is = all[i].is,
                                           .number = all[i].number,
                                           .side = side,
                                           .part = all[i].part,
                                           .does = "",
                                           .drive = drive};
    return n;
}

static void add_pin(GString *out, const char *what, unsigned pin)
{
    if (pin != LEX_NO_PIN) g_string_append_printf(out, "%s%s %u", out->len ? ", " : "", what, pin);
}

void kind_drive_text(GString *out, const struct lex_drive *drive, const char *side)
{
    g_string_append_printf(out, "%s%sPWM channel %u", out->len ? "; " : "", side, drive->channel);
    if (drive->other != LEX_NO_PIN) g_string_append_printf(out, " and %u", drive->other);
    g_string_append_printf(out, " at %u Hz", drive->hz);
    add_pin(out, "direction pin", drive->direction);
    add_pin(out, "brake pin", drive->brake);
    if (drive->reversed) g_string_append(out, ", reversed");
}

/* ---- the image ---- */

/* The number of an interlock: the place of its first relay, from 1. */
static unsigned interlock_number(const struct lexicon *lx, const char *name)
{
    for (unsigned i = 0; name && i < lx->outputs->len; i++)
        if (!g_strcmp0(((struct lex_output *)lx->outputs->pdata[i])->interlock, name)) return i + 1;
    return 0;
}

unsigned kind_ramp_by(struct build *b, const struct lex_output *out, unsigned otherwise)
{
    if (!out->ramp_by) return otherwise;
    build_need(b, RLX_BIT_SET_RAMPS);
    build_need(b, RLX_BIT_WIDE);
    return RLX_BY_SETTING | build_setting(b, out->ramp_by);
}

/* A curve by a setting. */
static bool is_set_curve(const struct lex_output *out)
{
    return out->curve && strcmp(out->curve, "linear") && strcmp(out->curve, "eye");
}

bool kind_put_steady(struct build *b, const struct lex_output *out)
{
    GByteArray *to = b->image->bytes;
    if (!out->min_on && !out->min_off && !out->interlock && !out->fade && !out->counted &&
        !is_set_curve(out))
        return false;
    uint32_t share = out->fade > 1 ? (uint32_t)((UINT64_C(1) << 32) / out->fade) : UINT32_MAX;
    if (is_set_curve(out)) build_need(b, RLX_BIT_CURVE);
    if (out->fade) build_need(b, RLX_BIT_ACTS);
    if (out->counted) {
        build_need(b, RLX_BIT_COUNTED);
        build_need(b, RLX_BIT_NUMBER);
        build_need(b, RLX_BIT_WIDE);
    }
    if (out->min_on || out->min_off || out->interlock) {
        build_need(b, RLX_BIT_RESTS);
        build_need(b, RLX_BIT_NUMBER);
        build_need(b, RLX_BIT_WIDE); /* for the time that it waits */
    }
    build_row(b, "times of %s", out->name);
    build_put32(to, out->min_on);
    build_put32(to, out->min_off);
    build_put32(to, out->dead);
    build_put32(to, MAX(MAX(out->min_on, out->min_off), out->dead));
    build_put32(to, out->ramp_by ? RLX_LASTS_SET | (kind_ramp_by(b, out, 0) & 0xFF) : out->fade);
    build_put32(to, out->fade && !out->ramp_by ? share : 0);
    build_put8(to, interlock_number(b->lx, out->interlock));
    build_put8(to, out->counted);
    struct lex_setting *curve = is_set_curve(out) ? lexicon_setting(b->lx, out->curve) : NULL;
    int32_t eye = 0;
    if (curve) lex_element_says(b->lx, curve->slot, "eye", &eye);
    build_put8(to, curve ? build_setting(b, out->curve) + 1 : 0);
    build_put8(to, curve ? image_choice_value(curve->slot, (unsigned)eye) : 0);
    return true;
}

static void put_side(struct build *b, const struct lex_drive *side)
{
    GByteArray *to = b->image->bytes;
    bool direction = side->direction != LEX_NO_PIN, brake = side->brake != LEX_NO_PIN;
    bool other = side->other != LEX_NO_PIN;
    build_put8(to, side->channel);
    build_put8(to, direction ? side->direction : 0);
    build_put8(to, brake ? side->brake : 0);
    build_put8(to, other ? side->other : 0);
    build_put8(to, (direction ? RLX_SIDE_HAS_DIRECTION : 0u) | (brake ? RLX_SIDE_HAS_BRAKE : 0u) |
                       (other ? RLX_SIDE_HAS_OTHER : 0u) |
                       (side->reversed ? RLX_SIDE_REVERSED : 0u));
    build_put32(to, side->hz);
}

/* A ramp is so much of a level in 10 ms, rounded up: it is never slower than the lexicon wants. */
void kind_put_sides(struct build *b, const struct lex_output *out, unsigned sides)
{
    GByteArray *to = b->image->bytes;
    unsigned turns = !g_strcmp0(out->style, "coast")    ? RLX_TURNS_COAST
                     : !g_strcmp0(out->style, "oppose") ? RLX_TURNS_OPPOSE
                                                        : RLX_TURNS_BRAKE;
    build_need(b, RLX_BIT_MOTORS);
    build_need(b, RLX_BIT_SWITCH);
    build_need(b, RLX_BIT_LEVEL);
    build_need(b, RLX_BIT_NUMBER);
    build_need(b, RLX_BIT_WIDE); /* for the time that it waits */
    build_row(b, "the wires of %s", out->name);
    build_put8(to, sides);
    build_put8(to, turns);
    build_put16(to,
                kind_ramp_by(b, out, out->ramp > 10 ? (327670 + out->ramp - 1) / out->ramp : 0));
    build_put32(to, out->dead);
    build_put32(to, out->travel);
    put_side(b, &out->left);
    if (sides == 2) put_side(b, &out->right);
}

/* ---- what is driven ---- */

unsigned kind_level(const struct lex_driven *driven, const struct lex_output *out)
{
    unsigned level = out->pwm ? driven->duty[out->pin] : driven->pin[out->pin] ? 65535 : 0;
    return out->active_low ? 65535 - level : level;
}

char *kind_level_state(const struct lex_driven *driven, const struct lex_output *out)
{
    unsigned level = kind_level(driven, out);
    if (!out->pwm) return g_strdup(level ? "on" : "off");
    return g_strdup_printf("%u%%", (level * 100 + 32767) / 65535);
}

const char *kind_level_is_at(const struct lex_driven *driven, const struct lex_output *out)
{
    unsigned level = kind_level(driven, out);
    if (!out->pwm) return level ? "on" : "off";
    return !level ? "off" : level == 65535 ? "full" : "level";
}

const char *const *kind_level_classes(const struct lex_output *out)
{
    static const char *const switched[] = {"off", "on", NULL}, *const levels[] = {"off", "level",
                                                                                  "full", NULL};
    return out->pwm ? levels : switched;
}

bool kind_level_is_safe(const struct lex_driven *driven, const struct lex_output *out)
{
    return kind_level(driven, out) == rlx_duty_of_percent((uint8_t)out->safe);
}

unsigned kind_level_from_safe(const struct lex_output *out, enum lex_wire_is is, unsigned value)
{
    unsigned safe = rlx_duty_of_percent((uint8_t)out->safe);
    if (out->active_low) safe = 65535 - safe;
    if (is == LEX_WIRE_PIN) return (value != 0) != (safe != 0);
    return MAX(value, safe) - MIN(value, safe);
}

char *kind_level_state_at(const struct lex_output *out, unsigned percent)
{
    bool straight = !out->curve || !strcmp(out->curve, "linear") || !percent || percent == 100;
    if (out->pwm) return straight ? g_strdup_printf("%u%%", percent) : NULL;
    return g_strdup(percent ? "on" : "off");
}

/* Its duty, negative where it goes back. */
static int turning(const struct lex_driven *driven, const struct lex_output *out)
{
    int duty = driven->duty[out->left.channel];
    bool back = out->left.direction != LEX_NO_PIN && driven->pin[out->left.direction];
    if (!duty && out->left.other != LEX_NO_PIN) return -(int)driven->duty[out->left.other];
    return back ? -duty : duty;
}

char *kind_turning_state(const struct lex_driven *driven, const struct lex_output *out)
{
    int duty = turning(driven, out);
    unsigned part = (unsigned)(duty < 0 ? -duty : duty);
    return g_strdup_printf("%s%u%%", duty < 0 ? "-" : "", (part * 100 + 32767) / 65535);
}

const char *kind_turning_is_at(const struct lex_driven *driven, const struct lex_output *out)
{
    int duty = turning(driven, out);
    return duty < 0 ? "back" : duty ? "forward" : "stopped";
}

const char *const *kind_turning_classes(const struct lex_output *out)
{
    static const char *const turns[] = {"stopped", "forward", "back", NULL}, *const forward[] = {
                                                                                 "stopped",
                                                                                 "forward", NULL};
    return out->left.direction != LEX_NO_PIN || out->left.other != LEX_NO_PIN ? turns : forward;
}

bool kind_turning_is_safe(const struct lex_driven *driven, const struct lex_output *out)
{
    return !turning(driven, out);
}

unsigned kind_turning_from_safe(const struct lex_output *out, enum lex_wire_is is, unsigned value)
{
    (void)out;
    return is == LEX_WIRE_DUTY ? value : 0; /* a pin is only its direction */
}

char *kind_turning_state_at(const struct lex_output *out, unsigned percent)
{
    (void)out;
    return g_strdup_printf("%u%%", percent);
}
