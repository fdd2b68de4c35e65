/* Servos: a value of their own range, as a pulse's width.
 * What a kind of output has of its own, for kind.h.
 * Its behaviour on the chip is in src/drive/servo.c. */
#include "kinds/shared.h"

#include <string.h>

/* 2050..950us as 950..2050us; NULL: it does not go down. Owned by the caller. */
static char *turned_round(const char *text)
{
    char *end, *unit;
    guint64 from = g_ascii_strtoull(text, &end, 10);
    if (end == text || strncmp(end, "..", 2) != 0) return NULL;
    guint64 to = g_ascii_strtoull(end + 2, &unit, 10);
    return unit == end + 2 || from <= to
               ? NULL
               : g_strdup_printf("%" G_GUINT64_FORMAT "..%" G_GUINT64_FORMAT "%s", to, from, unit);
}

/* 0..400mm as 950..2050us, or as 2050..950us */
static bool read_range(struct statement *st, struct lex_output *out)
{
    struct lexicon *lx = st->lx;
    struct token *token = statement_take(st), *as;
    struct lex_element us = {.place = token->place}, *e = g_new0(struct lex_element, 1);
    e->place = token->place;
    e->kind = LEX_NUMBER;
    out->range = e;
    unsigned faults = lx->faults->len;
    lex_read_range(lx, e, token->text);
    as = statement_take(st);
    if (as->kind != TOKEN_WORD || strcmp(as->text, "as") != 0) {
        lex_fault(lx, as->place, "expected 'as' and the pulse's width, like 950..2050us");
        return false;
    }
    token = statement_take(st);
    us.place = token->place;
    char *down = token->kind == TOKEN_WORD ? turned_round(token->text) : NULL;
    lex_read_range(lx, &us, down ? down : token->kind == TOKEN_WORD ? token->text : "");
    bool ok = !g_strcmp0(us.unit, "us") && us.low >= 100 && us.high <= 3000;
    g_free(us.unit);
    if (lx->faults->len == faults && !ok)
        lex_fault(lx, token->place, "expected a pulse's width within 100..3000us, with its unit");
    else if (lx->faults->len == faults && us.low == us.high)
        lex_fault(lx, token->place, "a range of one width is no way");
    else if (lx->faults->len == faults)
        lex_check_scale(lx, e, us.high - us.low);
    e->scaled = true;
    e->to_low = down ? us.high : us.low;
    e->to_high = down ? us.low : us.high;
    g_free(down);
    e->text = g_strdup("value");
    return lx->faults->len == faults;
}

static bool read_slew(struct statement *st, void *target)
{
    struct lex_output *out = target;
    return statement_time_by(st, "the time from end to end", 1, LEX_RAMP_MOST, &out->slew,
                             &out->ramp_by);
}

/* Its range and its channel, in either order; the range stands before what is one of its values. */
static bool read_first(struct statement *st, struct lex_output *out)
{
    while (!out->range && statement_peek(st)->kind == TOKEN_WORD) {
        bool range = strstr(statement_peek(st)->text, "..") != NULL;
        if (!range && (statement_peek(st)[1].kind != TOKEN_WORD || !statement_take_word(st, "pwm")))
            return true;
        if (range ? !read_range(st, out) : !kind_read_pwm(st, out)) return false;
    }
    return true;
}

static bool read_safe(struct statement *st, struct lex_output *out)
{
    struct token *token = statement_peek(st);
    if (token->kind == TOKEN_WORD && out->range &&
        lex_range_said(out, token->text, &out->safe_value)) {
        st->next++;
        return true;
    }
    lex_fault(st->lx, token->place,
              out->range ? "expected the safe value, one of the servo's"
                         : "the servo's range, like 0..400mm as 950..2050us, "
                           "stands before its safe value");
    return false;
}

static void check(struct lexicon *lx, const struct lex_output *out)
{
    if (!out->range)
        lex_fault(lx, out->place, "'%s' needs its range; write like '0..180deg as 950..2050us'",
                  out->name);
    kind_check_placed(lx, out);
}

static char *slots(const struct lex_output *out)
{
    struct lex_element plain = *out->range;
    plain.scaled = false;
    return lex_element_text(&plain);
}

static unsigned wires(const struct lex_output *out, struct lex_wire *all)
{
    kind_wire(out, all, LEX_WIRE_PULSE);
    all->is = LEX_WIRE_PULSE;
    all->part = "us";
    return 1;
}

/* Where it is not told, the low end of its range. */
static int32_t safe_value(const struct lex_output *out)
{
    return out->safe_told ? out->safe_value : out->range->low;
}

static bool put(struct build *b, const struct lex_output *out)
{
    GByteArray *to = b->image->bytes;
    const struct lex_element *range = out->range;
    int32_t low = MIN(range->to_low, range->to_high), high = MAX(range->to_low, range->to_high);
    unsigned way = (unsigned)(high - low) * 20;
    build_need(b, RLX_BIT_SERVOS);
    build_need(b, RLX_BIT_SWITCH);
    build_need(b, RLX_BIT_LEVEL);
    build_row(b, "the pulse of %s", out->name);
    build_put16(to, (unsigned)low);
    build_put16(to, (unsigned)high);
    build_put16(to, (unsigned)lex_value_scaled(range, safe_value(out)));
    unsigned step = out->slew ? MAX((way + out->slew - 1) / out->slew, 1) : 0;
    build_put16(to, kind_ramp_by(b, out, MIN(step, RLX_BY_SETTING - 1)));
    if (!(b->lx->built_in & RLX_BUILT_IN_STATE)) return true;
    bool down = range->to_low > range->to_high;
    build_put32(to, (uint32_t)(down ? range->high : range->low));
    build_put32(to, (uint32_t)(down ? range->low : range->high));
    build_put8(to, range->decimals);
    if (range->unit)
        build_put_text(to, range->unit);
    else
        build_put8(to, RLX_TEXT_END);
    return true;
}

/* The longest answer of src/drive/servo.c. */
static size_t state_length(const struct lex_output *out)
{
    char *longest = lex_element_longest(out->range, true);
    size_t length = strlen(longest) + (out->range->unit ? strlen(out->range->unit) : 0);
    g_free(longest);
    return MAX(length, strlen(RLX_TXT_PARKED));
}

static char *safe_text(const struct lex_output *out)
{
    char *value = lex_value_text(out->range, safe_value(out));
    char *text = g_strdup_printf("safe %s%s", value, out->range->unit ? out->range->unit : "");
    g_free(value);
    return text;
}

static unsigned safe_us(const struct lex_output *out)
{
    return out->range ? (unsigned)lex_value_scaled(out->range, safe_value(out)) : 0;
}

static char *state(const struct lex_driven *driven, const struct lex_output *out)
{
    return g_strdup_printf("%uus", driven->number[out->pin]);
}

static const char *is_at(const struct lex_driven *driven, const struct lex_output *out)
{
    return driven->number[out->pin] ? "pulse" : "none";
}

static const char *const *classes(const struct lex_output *out)
{
    static const char *const pulses[] = {"none", "pulse", NULL};
    (void)out;
    return pulses;
}

static bool is_safe(const struct lex_driven *driven, const struct lex_output *out)
{
    return driven->number[out->pin] == safe_us(out);
}

static unsigned from_safe(const struct lex_output *out, enum lex_wire_is is, unsigned value)
{
    (void)is;
    return MAX(value, safe_us(out)) - MIN(value, safe_us(out));
}

/* Percent is no value of it: the safe one. */
static char *state_at(const struct lex_output *out, unsigned percent)
{
    (void)percent;
    return out->range ? g_strdup_printf("%uus", safe_us(out)) : NULL;
}

static const struct attribute attributes[] = {{"pwm", kind_read_pwm, 0},
                                              {"safe", kind_read_safe, 0},
                                              {"slew", read_slew, 0},
                                              {"expires", kind_read_expires, 0},
                                              {"lost", kind_read_lost, 0},
                                              {"only", kind_read_only, 0},
                                              {"by", kind_read_by, 0},
                                              {"positions", kind_read_positions, 0},
                                              {NULL, NULL, 0}};

const struct lex_kind lex_kind_servo = {.call = {"uint16_t us", "rlx_output_pulse", "us"},
                                        .levels = LEX_LEVELS_OWN,
                                        .values = 1,
                                        .need = RLX_BIT_SERVOS,
                                        .waits = true,
                                        .direct = true,
                                        .becomes = "us",
                                        .slot = "its range",
                                        .verb = "park",
                                        .wants = "pwm N",
                                        .safe = "",
                                        .unsaid = "go to the low end",
                                        .unreached = "at its safe value",
                                        .attributes = attributes,
                                        .read_first = read_first,
                                        .read_safe = read_safe,
                                        .check = check,
                                        .slots = slots,
                                        .wires = wires,
                                        .put = put,
                                        .state_length = state_length,
                                        .wiring = kind_wiring,
                                        .safe_text = safe_text,
                                        KIND_SEEN()};
