#include "reader.h"

#include <string.h>

const char *const lex_output_kinds[LEX_OUTPUT_KINDS + 1] = {
#define KIND(id, word, drive) [LEX_##id] = word,
    RLX_OUTPUT_KINDS(KIND)
#undef KIND
};

#define MOST_TIME (24u * 3600000u)

/* off, on, N% */
static bool safe_level(struct statement *st, struct lex_output *out)
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

/* What moves is safe when it stands; a servo where it is told to be. */
static bool read_safe(struct statement *st, void *target)
{
    struct lex_output *out = target;
    struct token *token = statement_peek(st);
    out->safe_told = true;
    switch (out->kind) {
    case LEX_MOTOR:
    case LEX_REVERSER:
    case LEX_PAIR:
        if (statement_take_word(st, "stop") || statement_take_word(st, "0%") ||
            statement_take_word(st, "0"))
            return true;
        lex_fault(st->lx, token->place, "a %s is safe when it stands: stop or 0%%",
                  lex_output_kinds[out->kind]);
        return false;
    case LEX_SERVO:
        if (token->kind == TOKEN_WORD && out->range &&
            lex_value_said(out->range, token->text, &out->safe_value)) {
            st->next++;
            return true;
        }
        lex_fault(st->lx, token->place,
                  out->range ? "expected the safe value, one of the servo's"
                             : "the servo's range, like 0..400mm as 950..2050us, "
                               "stands before its safe value");
        return false;
    default: return safe_level(st, out);
    }
}

static bool read_active(struct statement *st, void *target)
{
    static const char *const words[] = {"high", "low", NULL};
    unsigned index;
    if (!statement_one_of(st, "the level at which it is on", words, &index)) return false;
    ((struct lex_output *)target)->active_low = index == 1;
    return true;
}

static bool taken(struct statement *st, struct lex_output *out, bool *placed)
{
    if (*placed)
        lex_fault(st->lx, statement_peek(st)[-1].place, "'%s' has its pin already", out->name);
    bool before = *placed;
    *placed = true;
    return before;
}

static bool read_pin(struct statement *st, void *target)
{
    struct lex_output *out = target;
    return !taken(st, out, &out->placed) && statement_pin(st, &out->pin);
}

/* N [at F] */
static bool read_channel(struct statement *st, unsigned *channel, uint32_t *hz, uint32_t otherwise)
{
    if (!statement_number(st, "a PWM channel", 0, 255, channel)) return false;
    if (statement_take_word(st, "at")) return statement_hertz(st, hz);
    *hz = otherwise;
    if (otherwise) return true;
    lex_fault(st->lx, statement_peek(st)->place,
              "expected 'at' and the PWM frequency, like: at 1kHz");
    return false;
}

/* pwm N at F: of a motor its left wire, of a servo 50 Hz when nothing is told */
static bool read_pwm(struct statement *st, void *target)
{
    struct lex_output *out = target;
    if (taken(st, out, &out->placed)) return false;
    out->pwm = true;
    out->left.placed = out->kind == LEX_MOTOR;
    if (!read_channel(st, &out->pin, &out->hz, out->kind == LEX_SERVO ? 50 : 0)) return false;
    out->left.channel = out->pin;
    out->left.hz = out->hz;
    return true;
}

static bool read_direction(struct statement *st, void *target)
{
    return statement_pin(st, &((struct lex_output *)target)->left.direction);
}

static bool read_brake(struct statement *st, void *target)
{
    return statement_pin(st, &((struct lex_output *)target)->left.brake);
}

/* and N: the channel of the other half-bridge */
static bool read_and(struct statement *st, void *target)
{
    return statement_number(st, "a PWM channel", 0, 255,
                            &((struct lex_output *)target)->left.other);
}

static bool read_reversed(struct statement *st, void *target)
{
    (void)st;
    ((struct lex_output *)target)->left.reversed = true;
    return true;
}

/* pwm N [at F] [direction P] [brake P] [reversed] */
static bool read_side(struct statement *st, struct lex_output *out, struct lex_drive *side)
{
    side->place = statement_peek(st)->place;
    if (taken(st, out, &side->placed)) return false;
    if (!statement_take_word(st, "pwm")) {
        lex_fault(st->lx, side->place, "expected 'pwm' and the channel of this side");
        return false;
    }
    if (!read_channel(st, &side->channel, &side->hz, out->hz ? out->hz : 20000)) return false;
    out->hz = side->hz;
    for (;;) {
        if (statement_take_word(st, "direction")) {
            if (!statement_pin(st, &side->direction)) return false;
        } else if (statement_take_word(st, "brake")) {
            if (!statement_pin(st, &side->brake)) return false;
        } else if (statement_take_word(st, "reversed")) {
            side->reversed = true;
        } else {
            return true;
        }
    }
}

static bool read_left(struct statement *st, void *target)
{
    struct lex_output *out = target;
    return read_side(st, out, &out->left);
}

static bool read_right(struct statement *st, void *target)
{
    struct lex_output *out = target;
    return read_side(st, out, &out->right);
}

/* pin P [until INPUT] */
static bool read_way(struct statement *st, struct lex_output *out, struct lex_way *way)
{
    way->place = statement_peek(st)->place;
    if (taken(st, out, &way->placed)) return false;
    if (!statement_take_word(st, "pin")) {
        lex_fault(st->lx, way->place, "expected 'pin' and the relay's pin");
        return false;
    }
    if (!statement_pin(st, &way->pin)) return false;
    if (!statement_take_word(st, "until")) return true;
    way->place = statement_peek(st)->place;
    way->until = statement_name(st, "the input at the end of its way");
    return way->until != NULL;
}

static bool read_open(struct statement *st, void *target)
{
    return read_way(st, target, &((struct lex_output *)target)->open);
}

static bool read_close(struct statement *st, void *target)
{
    return read_way(st, target, &((struct lex_output *)target)->close);
}

/* least on 1s off 2s */
static bool read_least(struct statement *st, void *target)
{
    struct lex_output *out = target;
    struct token *token = statement_peek(st);
    bool any = false;
    for (;; any = true) {
        if (statement_take_word(st, "on")) {
            if (!statement_time(st, "the least time on", 1, MOST_TIME, &out->least_on))
                return false;
        } else if (statement_take_word(st, "off")) {
            if (!statement_time(st, "the least time off", 1, MOST_TIME, &out->least_off))
                return false;
        } else {
            break;
        }
    }
    if (!any) lex_fault(st->lx, token->place, "expected 'on' or 'off' and a time, like: off 3min");
    return any;
}

#define READ_TIME(name, what, most)                                                     \
    static bool read_##name(struct statement *st, void *target)                         \
    {                                                                                   \
        return statement_time(st, what, 1, most, &((struct lex_output *)target)->name); \
    }
READ_TIME(dead, "the dead time", 60000)
READ_TIME(ramp, "the time from stop to full", 60000)
READ_TIME(travel, "the time from end to end", 3600000)
READ_TIME(fade, "the time of a fade", 60000)
READ_TIME(slew, "the time from end to end", 60000)
READ_TIME(expires, "the time after which it is made safe", MOST_TIME)

static bool read_counted(struct statement *st, void *target)
{
    (void)st;
    ((struct lex_output *)target)->counted = true;
    return true;
}

#define READ_NAME(name, what)                                   \
    static bool read_##name(struct statement *st, void *target) \
    {                                                           \
        struct lex_output *out = target;                        \
        g_free(out->name);                                      \
        return (out->name = statement_name(st, what)) != NULL;  \
    }
READ_NAME(interlock, "the name that relays share which are never on together")
READ_NAME(curve, "a curve: linear, eye, or a setting that says which")
READ_NAME(shows, "the link whose state it shows")
READ_NAME(lost, "the link whose loss makes it safe")

static bool read_style(struct statement *st, void *target)
{
    static const char *const words[] = {"brake", "coast", "oppose", NULL};
    struct lex_output *out = target;
    unsigned index;
    if (!statement_one_of(st, "what the inner side does in a turn", words, &index)) return false;
    g_free(out->style);
    out->style = g_strdup(words[index]);
    return true;
}

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
static bool read_servo_range(struct statement *st, struct lex_output *out)
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
    e->scaled = true;
    e->to_low = down ? us.high : us.low;
    e->to_high = down ? us.low : us.high;
    g_free(down);
    e->text = g_strdup("value");
    return lx->faults->len == faults;
}

static const struct attribute attributes[] = {
#define K(kind) (1u << LEX_##kind)
    {"pin", K(RELAY) | K(LED) | K(BUZZER), read_pin},
    {"pwm", K(LED) | K(BUZZER) | K(MOTOR) | K(SERVO), read_pwm},
    {"active", K(RELAY) | K(LED) | K(BUZZER) | K(REVERSER), read_active},
    {"safe", ~K(GROUP), read_safe},
    {"least", K(RELAY), read_least},
    {"interlock", K(RELAY), read_interlock},
    {"curve", K(LED), read_curve},
    {"fade", K(LED), read_fade},
    {"counted", K(RELAY), read_counted},
    {"shows", K(LED), read_shows},
    {"direction", K(MOTOR), read_direction},
    {"brake", K(MOTOR), read_brake},
    {"and", K(MOTOR), read_and},
    {"reversed", K(MOTOR), read_reversed},
    {"ramp", K(MOTOR) | K(PAIR), read_ramp},
    {"dead", K(RELAY) | K(MOTOR) | K(REVERSER) | K(PAIR), read_dead},
    {"travel", K(MOTOR) | K(REVERSER), read_travel},
    {"left", K(PAIR), read_left},
    {"right", K(PAIR), read_right},
    {"turns", K(PAIR), read_style},
    {"open", K(REVERSER), read_open},
    {"close", K(REVERSER), read_close},
    {"slew", K(SERVO), read_slew},
    {"expires", ~K(GROUP), read_expires},
    {"lost", ~K(GROUP), read_lost},
    {NULL, 0, NULL}};

/* What is on or off, each once, and all of them may be on. */
static void check_member(struct lexicon *lx, const struct lex_output *group,
                         const struct token *token)
{
    int index = lexicon_output_index(lx, token->text);
    if (index < 0) {
        char *near = lex_did_you_mean_output(lx, token->text);
        lex_fault(lx, token->place, "there is no output '%s' above%s", token->text, near);
        g_free(near);
        return;
    }
    const struct lex_output *out = lx->outputs->pdata[index];
    if (out->kind != LEX_RELAY && out->kind != LEX_LED && out->kind != LEX_BUZZER)
        lex_fault(lx, token->place, "a group is of relays, leds and buzzers; '%s' is a %s",
                  out->name, lex_output_kinds[out->kind]);
    for (unsigned i = 0; i < group->members->len; i++) {
        int other = lexicon_output_index(lx, group->members->pdata[i]);
        if (other == index)
            lex_fault(lx, token->place, "'%s' is in the group already", out->name);
        else if (other >= 0 && out->interlock &&
                 !g_strcmp0(out->interlock,
                            ((struct lex_output *)lx->outputs->pdata[other])->interlock))
            lex_fault(lx, token->place,
                      "'%s' and '%s' are never on together: their interlock is '%s'",
                      (char *)group->members->pdata[i], out->name, out->interlock);
    }
}

/* of a, b, c */
static bool read_members(struct statement *st, struct lex_output *out)
{
    if (!statement_take_word(st, "of")) {
        lex_fault(st->lx, statement_peek(st)->place,
                  "expected 'of' and the outputs of the group, like: of red, green");
        return false;
    }
    while (statement_peek(st)->kind == TOKEN_WORD) {
        struct token *token = statement_peek(st);
        size_t length = strlen(token->text);
        if (length > 1 && token->text[length - 1] == ',') token->text[length - 1] = 0;
        check_member(st->lx, out, token);
        g_ptr_array_add(out->members, g_strdup(token->text));
        st->next++;
    }
    if (!out->members->len || out->members->len > 15)
        lex_fault(st->lx, out->place, "a group has 1 to 15 outputs");
    return true;
}

/* What the kind must have. */
static void check_placed(struct lexicon *lx, struct lex_output *out)
{
    switch (out->kind) {
    case LEX_GROUP: return;
    case LEX_PAIR:
        if (!out->left.placed || !out->right.placed)
            lex_fault(lx, out->place, "'%s' needs both sides; write 'left pwm N' and 'right pwm N'",
                      out->name);
        return;
    case LEX_REVERSER:
        if (!out->open.placed || !out->close.placed)
            lex_fault(lx, out->place,
                      "'%s' needs both relays; write 'open pin N' and 'close pin N'", out->name);
        return;
    case LEX_SERVO:
        if (!out->range)
            lex_fault(lx, out->place, "'%s' needs its range; write like '0..180deg as 950..2050us'",
                      out->name);
        break;
    default: break;
    }
    if (!out->placed)
        lex_fault(lx, out->place, "'%s' has no pin; write '%s'%s", out->name,
                  out->kind == LEX_MOTOR   ? "pwm N at 20kHz"
                  : out->kind == LEX_SERVO ? "pwm N"
                                           : "pin N",
                  out->kind == LEX_LED || out->kind == LEX_BUZZER ? " or 'pwm N at 1kHz'" : "");
}

static bool read_attributes(struct statement *st, struct lex_output *out)
{
    if (out->kind == LEX_GROUP) return read_members(st, out);
    const char *name = lex_output_kinds[out->kind];
    while (statement_peek(st)->kind == TOKEN_WORD) {
        struct token *token = statement_peek(st);
        bool range = out->kind == LEX_SERVO && !out->range && strstr(token->text, "..");
        if (range && !read_servo_range(st, out)) return false;
        if (!range && out->kind == LEX_RELAY && !strcmp(token->text, "pwm")) {
            lex_fault(st->lx, token->place, "a relay is on or off; a level by PWM needs an led");
            return false;
        }
        if (!range && out->kind == LEX_SERVO && !out->range &&
            statement_peek(st)[1].kind == TOKEN_WORD && !strcmp(token->text, "pwm")) {
            st->next++;
            if (!read_pwm(st, out)) return false;
        } else if (!range && !statement_attributes(st, attributes, out->kind, name, out)) {
            return false;
        }
    }
    return true;
}

/* output NAME KIND attributes ["title"] */
void read_output(struct statement *st)
{
    struct lexicon *lx = st->lx;
    struct lex_output *out = g_new0(struct lex_output, 1);
    unsigned kind;
    out->place = statement_peek(st)->place;
    out->members = g_ptr_array_new_with_free_func(g_free);
    out->left.direction = out->left.brake = out->left.other = LEX_NO_PIN;
    out->right = out->left;
    out->name = statement_name(st, "the output's name");
    if (out->name && lexicon_output_index(lx, out->name) >= 0)
        lex_fault(lx, out->place, "a second output '%s'", out->name);
    if (!out->name) {
        lex_output_free(out);
        return;
    }
    g_ptr_array_add(lx->outputs, out); /* also where a fault follows: others may name it */
    if (lx->outputs->len == 256) lex_too_many(lx, out->place, 255, "outputs");
    if (!statement_one_of(st, "what it is", lex_output_kinds, &kind)) return;
    out->kind = (enum lex_output_kind)kind;
    if (!read_attributes(st, out)) return;
    out->title = statement_title(st);
    check_placed(lx, out);
}

void lex_output_free(void *p)
{
    struct lex_output *out = p;
    char *texts[] = {out->name, out->title, out->interlock,  out->curve,      out->shows,
                     out->lost, out->style, out->open.until, out->close.until};
    for (unsigned i = 0; i < G_N_ELEMENTS(texts); i++) g_free(texts[i]);
    if (out->range) lex_element_free(out->range);
    g_ptr_array_free(out->members, TRUE);
    g_free(out);
}

/* ---- inputs ---- */

static bool input_pin(struct statement *st, void *target)
{
    struct lex_input *in = target;
    in->placed = true;
    return statement_pin(st, &in->pin);
}

static bool input_active(struct statement *st, void *target)
{
    static const char *const words[] = {"high", "low", NULL};
    unsigned index;
    if (!statement_one_of(st, "the level at which it is on", words, &index)) return false;
    ((struct lex_input *)target)->active_low = index == 1;
    return true;
}

static bool input_pull(struct statement *st, void *target)
{
    static const char *const words[] = {"none", "up", "down", NULL};
    unsigned index;
    if (!statement_one_of(st, "where it is pulled", words, &index)) return false;
    ((struct lex_input *)target)->pull = (enum lex_pull)index;
    return true;
}

static bool input_settle(struct statement *st, void *target)
{
    return statement_time(st, "the time until it is settled", 1, 1000,
                          &((struct lex_input *)target)->settle);
}

static bool input_held(struct statement *st, void *target)
{
    return statement_time(st, "the time after which it is held", 10, 60000,
                          &((struct lex_input *)target)->held);
}

static bool input_repeat(struct statement *st, void *target)
{
    return statement_time(st, "the time between what a held one tells", 10, 60000,
                          &((struct lex_input *)target)->repeat);
}

/* input NAME pin N [pull up|down] [active low|high] [settle T] [held T] [repeat T] ["title"] */
void read_input(struct statement *st)
{
    static const struct attribute known[] = {{"pin", 0, input_pin},
                                             {"pull", 0, input_pull},
                                             {"active", 0, input_active},
                                             {"settle", 0, input_settle},
                                             {"held", 0, input_held},
                                             {"repeat", 0, input_repeat},
                                             {NULL, 0, NULL}};
    struct lexicon *lx = st->lx;
    struct lex_input *in = g_new0(struct lex_input, 1);
    in->place = statement_peek(st)->place;
    in->name = statement_name(st, "the input's name");
    if (!in->name) {
        g_free(in);
        return;
    }
    if (lexicon_input(lx, in->name)) lex_fault(lx, in->place, "a second input '%s'", in->name);
    g_ptr_array_add(lx->inputs, in);
    if (lx->inputs->len == 256) lex_too_many(lx, in->place, 255, "inputs");
    if (!statement_attributes(st, known, 0, "input", in)) return;
    in->title = statement_title(st);
    if (!in->placed) lex_fault(lx, in->place, "'%s' has no pin; write 'pin N'", in->name);
    if (in->repeat && !in->held)
        lex_fault(lx, in->place, "'%s' repeats, but 'held' does not say from when on", in->name);
}

void lex_input_free(void *p)
{
    struct lex_input *in = p;
    g_free(in->name);
    g_free(in->title);
    g_free(in);
}

/* ---- when everything is read ---- */

static void want_link(struct lexicon *lx, const struct lex_output *out, const char *link,
                      const char *word)
{
    if (link && !lexicon_link(lx, link))
        lex_fault(lx, out->place, "'%s %s': there is no link '%s'", word, link, link);
}

static void want_input(struct lexicon *lx, const struct lex_way *way)
{
    if (way->until && !lexicon_input(lx, way->until))
        lex_fault(lx, way->place, "there is no input '%s'", way->until);
}

/* Of an interlock one is safe on at most: from power-up on they are what is safe. */
static void check_interlock(struct lexicon *lx, unsigned output)
{
    const struct lex_output *out = lx->outputs->pdata[output];
    for (unsigned i = 0; out->interlock && out->safe && i < output; i++) {
        const struct lex_output *other = lx->outputs->pdata[i];
        if (g_strcmp0(other->interlock, out->interlock) || !other->safe) continue;
        lex_fault(lx, out->place, "'%s' and '%s' are never on together, but both are safe on",
                  other->name, out->name);
        return;
    }
}

void finish_outputs(struct lexicon *lx)
{
    for (unsigned i = 0; i < lx->outputs->len; i++) {
        const struct lex_output *out = lx->outputs->pdata[i];
        check_interlock(lx, i);
        want_link(lx, out, out->shows, "shows");
        want_link(lx, out, out->lost, "lost");
        want_input(lx, &out->open);
        want_input(lx, &out->close);
        if (out->curve && strcmp(out->curve, "linear") != 0 && strcmp(out->curve, "eye") != 0 &&
            !lexicon_setting(lx, out->curve))
            lex_fault(lx, out->place, "'curve %s': linear, eye, or a setting that says which",
                      out->curve);
        if (out->dead && out->kind == LEX_RELAY && !out->interlock)
            lex_fault(lx, out->place, "a relay's dead time belongs to an interlock");
    }
}
