/* Steppers: a value of their own range, as a number of steps from home.
 * What a kind of output has of its own, for kind.h.
 * Its behaviour on the chip is in src/drive/stepper.c. */
#include "kinds/shared.h"

#include <string.h>

#define SPEED_MOST 50000 /* steps a second */
#define STEPS_MOST 1000000000
#define RUNG_MS    10 /* src/drive/stepper.c */

/* step pwm N */
static bool read_step(struct statement *st, void *target)
{
    struct lex_output *out = target;
    if (kind_is_taken(st, out, &out->placed)) return false;
    if (!statement_take_word(st, "pwm")) {
        lex_fault(st->lx, statement_peek(st)->place,
                  "expected 'pwm' and the channel of its step pulses, like: step pwm 5");
        return false;
    }
    if (!statement_number(st, "a PWM channel", 0, 255, &out->pin)) return false;
    out->left.channel = out->pin;
    return true;
}

static bool read_direction(struct statement *st, void *target)
{
    return statement_pin(st, &((struct lex_output *)target)->left.direction);
}

static bool read_enable(struct statement *st, void *target)
{
    return statement_pin(st, &((struct lex_output *)target)->enable);
}

static bool read_reversed(struct statement *st, void *target)
{
    (void)st;
    ((struct lex_output *)target)->left.reversed = true;
    return true;
}

/* 0..400mm as 0..8000 steps */
static bool read_range(struct statement *st, struct lex_output *out)
{
    struct token *range = statement_take(st), *to;
    struct lex_element *e = g_new0(struct lex_element, 1);
    unsigned faults = st->lx->faults->len;
    e->place = range->place;
    e->kind = LEX_NUMBER;
    e->text = g_strdup("value");
    out->range = e;
    if (!statement_take_word(st, "as") || statement_peek(st)->kind != TOKEN_WORD) {
        lex_fault(st->lx, statement_peek(st)->place,
                  "expected 'as' and the steps of this range, like: %s as 0..8000 steps",
                  range->text);
        return false;
    }
    to = statement_take(st);
    size_t n = strlen(to->text);
    bool glued = n > 5 && !strcmp(to->text + n - 5, "steps");
    if (!glued && !statement_take_word(st, "steps")) {
        lex_fault(st->lx, to->place, "expected the steps of this range, like: as 0..8000 steps");
        return false;
    }
    char *body = g_strdup_printf("%s as %.*s", range->text, (int)(n - 5 * glued), to->text);
    lex_read_range(st->lx, e, body);
    g_free(body);
    if (st->lx->faults->len == faults && (e->form == LEX_TIME || e->form == LEX_HEX))
        lex_fault(st->lx, e->place, "expected a way or an angle, like 0..400mm or 0.0..360.0deg");
    if (st->lx->faults->len == faults && e->to_low == e->to_high)
        lex_fault(st->lx, to->place, "a range of one step is no way");
    if (st->lx->faults->len == faults &&
        (MIN(e->to_low, e->to_high) < -STEPS_MOST || MAX(e->to_low, e->to_high) > STEPS_MOST))
        lex_fault(st->lx, to->place, "a stepper has at most %d steps from home", STEPS_MOST);
    return st->lx->faults->len == faults;
}

/* 2000, or 100mm/s of its range: steps a second */
static bool read_speed(struct statement *st, void *target)
{
    struct lex_output *out = target;
    struct token *token = statement_peek(st);
    const char *text = token->kind == TOKEN_WORD ? token->text : "";
    char *unit = NULL;
    guint64 speed = g_ascii_isdigit(*text) ? g_ascii_strtoull(text, &unit, 10) : 0;
    const struct lex_element *range = out->range;
    char *own = g_strdup_printf("%s/s", range && range->unit ? range->unit : "");
    if (unit && *unit && strcmp(unit, "steps/s") != 0) {
        int64_t span = range ? (int64_t)range->high - range->low : 0,
                reach = range ? ABS((int64_t)range->to_high - range->to_low) : 0;
        for (unsigned i = 0; range && i < range->decimals; i++) reach *= 10;
        speed = span && range->unit && !strcmp(unit, own) && speed <= SPEED_MOST
                    ? (speed * (guint64)reach + (guint64)span / 2) / (guint64)span
                    : 0;
    }
    g_free(own);
    if (speed < 1 || speed > SPEED_MOST) {
        lex_fault(st->lx, token->place,
                  "expected its speed, 1..%d steps a second, like 2000; or in its range's unit, "
                  "behind that, like 100mm/s",
                  SPEED_MOST);
        return false;
    }
    st->next++;
    out->speed = (unsigned)speed;
    return true;
}

/* A ramp has a whole number of rungs, and 1000 at most. */
static bool read_ramp(struct statement *st, void *target)
{
    return statement_time(st, "the time from stop to full speed", RUNG_MS, 1000 * RUNG_MS,
                          &((struct lex_output *)target)->ramp);
}

static bool read_home(struct statement *st, void *target)
{
    struct lex_way *home = &((struct lex_output *)target)->home;
    home->place = statement_peek(st)->place;
    g_free(home->until);
    return (home->until = statement_name(st, "the input that is on at home")) != NULL;
}

/* hold, release */
static bool read_safe(struct statement *st, struct lex_output *out)
{
    static const char *const words[] = {"hold", "release", NULL};
    unsigned index;
    if (!statement_one_of(st, "its safe state", words, &index)) return false;
    out->safe = index == 0 ? 100 : 0;
    return true;
}

static const struct attribute attributes[] = {{"step", read_step, 0},
                                              {"direction", read_direction, 0},
                                              {"enable", read_enable, 0},
                                              {"active", kind_read_active, 0},
                                              {"reversed", read_reversed, 0},
                                              {"speed", read_speed, 0},
                                              {"ramp", read_ramp, 0},
                                              {"home", read_home, 0},
                                              {"safe", kind_read_safe, 0},
                                              {"expires", kind_read_expires, 0},
                                              {"lost", kind_read_lost, 0},
                                              {"only", kind_read_only, 0},
                                              {"by", kind_read_by, 0},
                                              {"positions", kind_read_positions, 0},
                                              {NULL, NULL, 0}};

/* Its range stands between the attributes, where no other word has two points. */
static bool read_first(struct statement *st, struct lex_output *out)
{
    out->enable = LEX_NO_PIN;
    out->safe = 100;
    while (!out->range && statement_peek(st)->kind == TOKEN_WORD) {
        if (strstr(statement_peek(st)->text, "..")) return read_range(st, out);
        const struct attribute *a = attributes;
        while (a->word && !statement_take_word(st, a->word)) a++;
        if (!a->word) return true;
        if (!a->read(st, out)) return false;
    }
    return true;
}

static void check(struct lexicon *lx, const struct lex_output *out)
{
    const struct lex_element *range = out->range;
    const char *lacks = !out->placed                              ? "step pwm 5"
                        : out->left.direction == LEX_NO_PIN       ? "direction 6"
                        : !range                                  ? "0..400mm as 0..8000 steps"
                        : !out->speed                             ? "speed 2000"
                        : !out->ramp                              ? "ramp 500ms"
                        : !out->safe && out->enable == LEX_NO_PIN ? "enable 7"
                                                                  : NULL;
    if (lacks) lex_fault(lx, out->place, "'%s' needs more; write like '%s'", out->name, lacks);
    if (!range) return;
    int32_t low = MIN(range->to_low, range->to_high), high = MAX(range->to_low, range->to_high);
    if (out->home.until && low < 0 && high > 0)
        lex_fault(lx, range->place,
                  "home is at 0 steps: it cannot lie between the ends of the range, %d and %d", low,
                  high);
    if (!out->home.until && (low > 0 || high < 0))
        lex_fault(lx, range->place,
                  "'%s' stands at 0 steps at power-up: without 'home INPUT' these are part of its "
                  "range",
                  out->name);
}

static char *slots(const struct lex_output *out)
{
    struct lex_element plain = *out->range;
    plain.scaled = false;
    return lex_element_text(&plain);
}

static const struct lex_way *ends(const struct lex_output *out, unsigned place)
{
    static const struct lex_way none;
    return place ? &none : &out->home;
}

/* Where it arrives, is at home, or did not find it. */
static bool tells(const struct lex_output *out)
{
    (void)out;
    return true;
}

static bool knows(const struct lex_output *out, enum rlx_verb verb)
{
    return verb != RLX_RELEASE || out->enable != LEX_NO_PIN;
}

static unsigned wires(const struct lex_output *out, struct lex_wire *all)
{
    const struct lex_wire of[] = {
        {.is = LEX_WIRE_STEPS, .number = out->pin, .side = "", .part = "hz", .does = ""},
        {.is = LEX_WIRE_PIN,
         .number = out->left.direction,
         .side = "",
         .part = "direction",
         .does = "back",
         .active_low = out->left.reversed},
        {.is = LEX_WIRE_PIN,
         .number = out->enable,
         .side = "",
         .part = "enable",
         .does = "enable",
         .active_low = out->active_low}};
    unsigned n = out->enable == LEX_NO_PIN ? 2 : 3;
    for (unsigned i = 0; i < n; i++) all[i] = of[i];
    return n;
}

static bool put(struct build *b, const struct lex_output *out)
{
    static const unsigned needs[] = {RLX_BIT_STEPPERS, RLX_BIT_SWITCH, RLX_BIT_LEVEL,
                                     RLX_BIT_NUMBER, RLX_BIT_WIDE};
    GByteArray *to = b->image->bytes;
    const struct lex_element *range = out->range;
    for (unsigned i = 0; i < G_N_ELEMENTS(needs); i++) build_need(b, needs[i]);
    build_row(b, "the way of %s", out->name);
    build_put8(to, out->left.direction);
    build_put8(to, out->enable & 255);
    build_put8(
        to, (out->enable == LEX_NO_PIN ? 0u : RLX_STP_HAS_ENABLE) |
                (out->home.until ? RLX_STP_HAS_HOME : 0u) | (range->unit ? RLX_STP_HAS_UNIT : 0u) |
                (out->left.reversed ? RLX_STP_REVERSED : 0u) | (out->safe ? 0u : RLX_STP_FREE));
    build_put8(to, build_input(b->lx, out->home.until));
    build_put16(to, out->speed);
    build_put16(to, (out->ramp + RUNG_MS - 1) / RUNG_MS);
    build_put32(to, (uint32_t)range->low);
    build_put32(to, (uint32_t)range->high);
    build_put32(to, (uint32_t)range->to_low);
    build_put32(to, (uint32_t)range->to_high);
    build_put8(to, range->decimals);
    if (range->unit) build_put_text(to, range->unit);
    return true;
}

/* The longest answer of src/drive/stepper.c. */
static size_t state_length(const struct lex_output *out)
{
    char *longest = lex_element_longest(out->range, true);
    size_t length =
        strlen("released ") + strlen(longest) + (out->range->unit ? strlen(out->range->unit) : 0);
    g_free(longest);
    return length;
}

static char *wiring(const struct lex_output *out)
{
    GString *text = g_string_new(NULL);
    g_string_append_printf(text, "steps on PWM channel %u, direction pin %u", out->pin,
                           out->left.direction);
    if (out->enable != LEX_NO_PIN)
        g_string_append_printf(text, ", enable pin %u%s", out->enable,
                               out->active_low ? " active low" : " active high");
    g_string_append_printf(text, ", %u steps a second", out->speed);
    if (out->home.until) g_string_append_printf(text, ", home %s", out->home.until);
    return g_string_free(text, FALSE);
}

static char *safe_text(const struct lex_output *out)
{
    return g_strdup(out->safe ? "safe hold" : "safe release");
}

/* ---- what is driven ---- */

static bool has_current(const struct lex_driven *driven, const struct lex_output *out)
{
    return out->enable == LEX_NO_PIN || driven->pin[out->enable] != out->active_low;
}

static const char *is_at(const struct lex_driven *driven, const struct lex_output *out)
{
    return driven->number[out->pin] ? "moving" : has_current(driven, out) ? "holding" : "released";
}

static char *state(const struct lex_driven *driven, const struct lex_output *out)
{
    return g_strdup(is_at(driven, out));
}

static const char *const *classes(const struct lex_output *out)
{
    static const char *const holds[] = {"holding", "moving", NULL};
    static const char *const frees[] = {"holding", "released", "moving", NULL};
    return out->safe ? holds : frees;
}

static bool is_safe(const struct lex_driven *driven, const struct lex_output *out)
{
    return !driven->number[out->pin] && has_current(driven, out) == (out->safe != 0);
}

static unsigned from_safe(const struct lex_output *out, enum lex_wire_is is, unsigned value)
{
    (void)out;
    return is == LEX_WIRE_STEPS ? value : 0;
}

/* Percent is no value of it: the safe one. */
static char *state_at(const struct lex_output *out, unsigned percent)
{
    return percent ? NULL : g_strdup(out->safe ? "holding" : "released");
}

const struct lex_kind lex_kind_stepper = {.call = {"int32_t steps", "rlx_stepper_go", "steps"},
                                          .levels = LEX_LEVELS_OWN,
                                          .values = 1,
                                          .need = RLX_BIT_STEPPERS,
                                          .becomes = " steps",
                                          .slot = "its range",
                                          .verb = "home",
                                          .wants = "step pwm N",
                                          .safe = "hold",
                                          .unsaid = "stand and hold",
                                          .unreached = "standing",
                                          .passes = true,
                                          .attributes = attributes,
                                          .read_first = read_first,
                                          .read_safe = read_safe,
                                          .check = check,
                                          .slots = slots,
                                          .knows = knows,
                                          .tells = tells,
                                          .ends = ends,
                                          .words = {"arrived", "home", "blocked"},
                                          .wires = wires,
                                          .put = put,
                                          .state_length = state_length,
                                          .wiring = wiring,
                                          .safe_text = safe_text,
                                          KIND_SEEN()};
