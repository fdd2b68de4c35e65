/* Compares a firmware's conversation with that of the reference model, run beside it.
 * Changes of outputs are matched lane by lane, with times mapped from move to move.
 * A difference that the firmware may have (its own outputs, a slow reply) is none. */
#include "drill/judge/record.h"

#include <string.h>

#include "drill/judge/seen.h"
#include "rlx/image.h"

#define MARKS_MOST 200000u
#define LATE_US    20000u
#define LATE_PART  50u      /* 2 % */
#define AGAIN_US   2000000u /* a retry client sends a packet again */
#define STEPS_US   100000u  /* between two steps of a fade, ramp or slew it is not at rest */

/* Something that was sent over a link (lane: its number) or done at a pin. */
struct mark {
    uint64_t us;
    unsigned lane, move;
    bool bad; /* the link is */
    char *text;
    uint64_t left_ms;          /* of a time in it, from 1 on; 0: it has none */
    guint said;                /* of the real text: an answer may be the firmware's own business */
    unsigned value, from_safe; /* of an output */
};

struct record {
    const struct lexicon *lx;
    bool own; /* the firmware drives outputs by its own logic */
    uint64_t slack_us;
    GArray *marks;
    unsigned move;
    bool bad;
    GArray *begun;   /* uint64_t: when each move began... */
    uint64_t end_us; /* ...and the last one ended; 0: not known */
    bool loose[SIM_UARTS], chance, mute;
    int only;           /* a link; -1: all is seen */
    uint64_t own_us;    /* the firmware first sent something of its own */
    uint64_t chance_us; /* the last that was done before chance came in */
};

#define LANES (SIM_UARTS + 5u * 256u)

static void clear_mark(void *p)
{
    g_free(((struct mark *)p)->text);
}

struct record *record_new(const struct lexicon *lx, uint64_t slack_us)
{
    struct record *r = g_new0(struct record, 1);
    r->lx = lx;
    r->own = lex_has_own(lx);
    r->slack_us = slack_us;
    r->own_us = r->chance_us = UINT64_MAX;
    r->only = -1;
    r->begun = g_array_new(FALSE, TRUE, sizeof(uint64_t));
    r->marks = g_array_new(FALSE, FALSE, sizeof(struct mark));
    g_array_set_clear_func(r->marks, clear_mark);
    return r;
}

void record_slack(struct record *r, uint64_t slack_us)
{
    r->slack_us = slack_us;
}

void record_free(struct record *r)
{
    if (!r) return;
    g_array_free(r->marks, TRUE);
    g_array_free(r->begun, TRUE);
    g_free(r);
}

void record_move(struct record *r, unsigned move, uint64_t us)
{
    r->move = move;
    while (r->begun->len <= move) g_array_append_val(r->begun, us);
}

void record_bad(struct record *r, bool bad)
{
    r->bad = bad;
}

void record_end(struct record *r, uint64_t us)
{
    r->end_us = us;
}

void record_loose(struct record *r, unsigned link, bool loose)
{
    if (link < SIM_UARTS) r->loose[link] = loose;
}

void record_only(struct record *r, unsigned link)
{
    r->only = (int)link;
}

void record_mute(struct record *r, bool mute)
{
    r->mute = mute;
}

void record_chance(struct record *r)
{
    r->chance = true;
    if (r->marks->len)
        r->chance_us =
            MIN(r->chance_us, g_array_index(r->marks, struct mark, r->marks->len - 1).us);
}

static void add(struct record *r, uint64_t us, unsigned lane, char *text, guint said)
{
    struct mark mark = {
        .us = us, .lane = lane, .move = r->move, .bad = r->bad, .text = text, .said = said};
    if (r->marks->len < MARKS_MOST)
        g_array_append_val(r->marks, mark);
    else
        g_free(text);
}

/* Whether the firmware sends this by itself: a note, or an event without a source. */
static bool is_own(const struct lexicon *lx, const char *text)
{
    const char *at = strstr(text, "ev ");
    if (strstr(text, "note ")) return true;
    if (!at) return false;
    at += 3;
    if (*at == '#') at += strcspn(at, " ") + 1;
    char *name = g_strndup(at, strcspn(at, " *"));
    const struct lex_event *event = lexicon_event(lx, name);
    g_free(name);
    return event && !event->input;
}

/* Whether it is an answer with values of a handler, or a reason of its own. */
static bool tells_query(const struct lexicon *lx, const char *text)
{
    for (unsigned i = 0; i < lx->reasons->len; i++) {
        char *refused = g_strdup_printf("err %s", (char *)lx->reasons->pdata[i]);
        bool is = strstr(text, refused) != NULL;
        g_free(refused);
        if (is) return true;
    }
    for (unsigned i = 0; i < lx->commands->len; i++) {
        const struct lex_command *command = lx->commands->pdata[i];
        const struct lex_element *first = command->elements->pdata[0];
        if (!command->told) continue;
        char *told = g_strdup_printf("ok %s", first->kind == LEX_WORD ? first->text : "");
        bool tells = strstr(text, told) != NULL;
        g_free(told);
        if (tells) return true;
    }
    for (unsigned i = 0; i < lx->queries->len; i++) {
        char *told = g_strdup_printf("ok %s ", ((struct lex_query *)lx->queries->pdata[i])->name);
        bool tells = strstr(text, told) != NULL;
        g_free(told);
        if (tells) return true;
    }
    return false;
}

/* What is left of a time depends on when it was asked: it is cut off, and given in milliseconds. */
static uint64_t cut_time(char *text)
{
    static const char *const before[] = {" waiting ", " left "};
    static const struct {
        const char *unit;
        uint64_t ms;
    } units[] = {{"ms", 1}, {"s", 1000}, {"min", 60000}, {"h", 3600000}};
    for (unsigned i = 0; i < G_N_ELEMENTS(before); i++) {
        char *at = strstr(text, before[i]), *unit;
        if (!at) continue;
        at += strlen(before[i]);
        uint64_t number = g_ascii_strtoull(at, &unit, 10);
        for (unsigned k = 0; k < G_N_ELEMENTS(units); k++)
            if (g_str_has_prefix(unit, units[k].unit)) {
                *at = 0;
                return number * units[k].ms + 1;
            }
    }
    char *log = strstr(text, "ok log ");
    if (log) log[strlen("ok log ")] = 0;
    return 0;
}

static bool changes_by_itself(const struct lexicon *lx, unsigned output)
{
    const struct lex_output *out = lx->outputs->pdata[output];
    bool expires = out->expires || out->lost || lex_kind_of(out)->ends;
    for (unsigned i = 0; i < lx->commands->len; i++) {
        const struct lex_command *command = lx->commands->pdata[i];
        bool its = command->effect.which || lex_effect_output(lx, &command->effect) == out;
        expires |= its && (command->expires || command->effect.lasts);
    }
    return expires || out->ramp || out->fade || out->slew || out->min_on || out->min_off;
}

/* With slack, how an output that changes by itself is depends on when it was asked, and whether a
 * setting is saved: cut off. */
static void cut_state(const struct record *r, char *text)
{
    /* handlers that refuse with reasons of their own do so when they have one */
    char *refused = r->lx->reasons->len ? strstr(text, " refused ") : NULL;
    if (refused) {
        char *count = refused + strlen(" refused "), *behind = count;
        while (g_ascii_isdigit(*behind)) behind++;
        memmove(count, behind, strlen(behind) + 1);
    }
    char *unsaved = r->slack_us ? strstr(text, " unsaved") : NULL;
    char *check = r->slack_us ? strrchr(text, '*') : NULL;
    if (unsaved) *unsaved = 0;
    if (check && strlen(check) == strlen("*ABCD")) *check = 0;
    for (unsigned i = 0; r->slack_us && i < r->lx->outputs->len; i++) {
        const struct lex_output *out = r->lx->outputs->pdata[i];
        char *told = g_strdup_printf("ok %s ", out->name), *at = strstr(text, told);
        if (at && changes_by_itself(r->lx, i)) at[strlen(told) - 1] = 0;
        g_free(told);
    }
}

void record_sight(void *user, const struct sight *sight)
{
    struct record *r = user;
    uint64_t us = sight->board ? sight->board->bench->world->now_us : 0;
    if (!sight->board || *sight->board->name || r->mute) return;
    if (r->only >= 0 && (!sight->end || sight->end->link != (unsigned)r->only)) return;
    int output = sight->kind == SIGHT_OUT ? output_of_event(r->lx, sight->event) : -1;
    const struct lex_output *out = output < 0 ? NULL : r->lx->outputs->pdata[output];
    if (out) {
        if (out->by == LEX_BY_FIRMWARE) return;
        unsigned lane = SIM_UARTS + (sight->event.kind % 5u) * 256u + sight->event.index;
        add(r, us, lane, g_strdup_printf("%lu", (unsigned long)sight->event.value), 0);
        if (!r->marks->len) return;
        struct mark *last = &g_array_index(r->marks, struct mark, r->marks->len - 1);
        last->value = sight->event.value;
        last->from_safe = output_from_safe(out, sight->event);
    } else if (sight->kind == SIGHT_ANSWERED && sight->end && !lex_is_raw(sight->end->of)) {
        char *text = g_strndup(sight->text, sight->count);
        bool unasked = strstr(text, "ev ") || strstr(text, "ready ");
        guint said = g_str_hash(text);
        if (unasked &&
            r->slack_us) { /* it may have been asked before, or seen one change for two */
            g_free(text);
            return;
        }
        bool loose = (r->loose[sight->end->link] || tells_query(r->lx, text)) && !unasked;
        if (is_own(r->lx, text) || (loose && r->own)) {
            r->own_us = MIN(r->own_us, us);
            g_free(text);
            return;
        }
        if (loose) {
            g_free(text);
            text = g_strdup("an answer");
        }
        uint64_t left_ms = cut_time(text);
        cut_state(r, text);
        if (sight->number && *text) {
            char *to = g_strdup_printf("%s (to %s)", text, sight->number);
            g_free(text);
            text = to;
        }
        add(r, us, sight->end->link, text, said);
        if (r->marks->len)
            g_array_index(r->marks, struct mark, r->marks->len - 1).left_ms = left_ms;
    }
}

/* ---- two of them ---- */

/* The next mark of the lane from *at on; NULL: none. */
static const struct mark *next_in(const struct record *r, unsigned lane, unsigned *at)
{
    while (*at < r->marks->len) {
        const struct mark *mark = &g_array_index(r->marks, struct mark, (*at)++);
        if (mark->lane == lane) return mark;
    }
    return NULL;
}

/* As long behind the lane's last mark. */
static bool in_time(uint64_t a, uint64_t b, uint64_t slack_us)
{
    uint64_t more = MAX(a, b), less = MIN(a, b);
    return more - less <= LATE_US + slack_us + less / LATE_PART;
}

/* When it would have been in the conversation of the reference model, which goes faster by its
 * slack. */
static uint64_t as_tables(const struct record *tables, const struct record *firmware, uint64_t us)
{
    unsigned n = MIN(tables->begun->len, firmware->begun->len);
    while (n && g_array_index(firmware->begun, uint64_t, n - 1) > us) n--;
    if (!n) return us;
    return g_array_index(tables->begun, uint64_t, n - 1) + us -
           g_array_index(firmware->begun, uint64_t, n - 1);
}

/* The output that owns the lane; NULL: it is a link. */
static const struct lex_output *output_of_lane(const struct lexicon *lx, unsigned lane)
{
    if (lane < SIM_UARTS) return NULL;
    unsigned kind = (lane - SIM_UARTS) / 256u, index = (lane - SIM_UARTS) % 256u;
    for (unsigned k = kind; k < 256; k += 5) {
        int out = output_of_event(lx, (struct sim_event){(uint8_t)k, (uint8_t)index, 0, 0});
        if (out >= 0) return lx->outputs->pdata[out];
    }
    return NULL;
}

static char *in_words(const struct record *r, const struct mark *mark)
{
    if (!mark) return g_strdup("nothing");
    double s = (double)mark->us / 1e6;
    if (mark->lane < SIM_UARTS) {
        const struct lex_link *link = r->lx->links->pdata[mark->lane];
        return g_strdup_printf("%s: \"%s\" at %.3f s", link->name, mark->text, s);
    }
    const struct lex_output *out = output_of_lane(r->lx, mark->lane);
    if (out)
        return g_strdup_printf("%s (pin or channel %u) at %s at %.3f s", out->name,
                               (mark->lane - SIM_UARTS) % 256u, mark->text, s);
    return g_strdup(mark->text);
}

struct pair {
    const struct mark *a, *b;
    uint64_t us;
};

/* What the lane is between these times of the reference model. */
struct span {
    unsigned low, high, from_safe; /* from_safe: at most */
};

static struct span span_of(const struct record *tables, const struct record *r, unsigned lane,
                           uint64_t from, uint64_t to)
{
    struct span span = {0};
    unsigned at = 0;
    bool begun = false;
    for (const struct mark *m; (m = next_in(r, lane, &at));) {
        uint64_t us = r == tables ? m->us : as_tables(tables, r, m->us);
        if (us > to) break;
        if (us <= from || !begun) span = (struct span){m->value, m->value, m->from_safe};
        begun = true;
        span.low = MIN(span.low, m->value);
        span.high = MAX(span.high, m->value);
        span.from_safe = MAX(span.from_safe, m->from_safe);
    }
    return span;
}

static uint64_t before(uint64_t us, uint64_t less)
{
    return us > less ? us - less : 0;
}

/* The first place where the firmware has an output farther from safe than the reference model. */
static struct pair lane_beyond(const struct record *tables, const struct record *firmware,
                               unsigned lane)
{
    const uint64_t late = LATE_US + firmware->slack_us;
    uint64_t last = 0;
    unsigned at = 0;
    for (const struct mark *b; (b = next_in(firmware, lane, &at));) {
        uint64_t us = as_tables(tables, firmware, b->us), most = late + us / LATE_PART;
        if (b->from_safe > span_of(tables, tables, lane, before(us, most), us + most).from_safe)
            return (struct pair){NULL, b, b->us};
    }
    at = 0;
    for (const struct mark *a; (a = next_in(tables, lane, &at)); last = a->us) {
        uint64_t until = a->us + 2 * (late + (a->us - last) / LATE_PART);
        if (span_of(tables, firmware, lane, until, until).from_safe >
            span_of(tables, tables, lane, a->us, until).from_safe)
            return (struct pair){a, NULL, a->us};
    }
    return (struct pair){NULL, NULL, UINT64_MAX};
}

/* Whether nothing follows the mark in its lane for so long, by its own clock. */
static bool is_rest(const struct record *r, const struct mark *mark, unsigned at, uint64_t us)
{
    const struct mark *next = next_in(r, mark->lane, &at);
    return !next || next->us - mark->us > us;
}

/* The last mark of the lane up to this time. */
static const struct mark *last_in(const struct record *r, unsigned lane, uint64_t us)
{
    const struct mark *last = NULL;
    unsigned at = 0;
    for (const struct mark *m; (m = next_in(r, lane, &at)) && m->us <= us;) last = m;
    return last;
}

static uint64_t time_in(const struct record *tables, const struct record *r, uint64_t us)
{
    return r == tables ? us : as_tables(tables, r, us);
}

/* When, in the time of the reference model, the other would do what this one does at the mark: as
 * long behind what it did before. 0: it is not known. */
static uint64_t time_behind(const struct record *tables, const struct record *own,
                            const struct record *other, const struct mark *m, uint64_t late)
{
    const struct mark *was = last_in(own, m->lane, before(m->us, 4 * STEPS_US)), *then = NULL;
    unsigned at = 0;
    if (!was) return 0;
    for (const struct mark *o; (o = next_in(other, m->lane, &at));)
        if (time_in(tables, other, o->us) <= time_in(tables, own, was->us) + late) then = o;
    return then ? time_in(tables, other, then->us + m->us - was->us) : 0;
}

/* Whether the lane is at this value about then. */
static bool has_value(const struct record *tables, const struct record *r, const struct mark *m,
                      uint64_t us, uint64_t late)
{
    struct span span = span_of(tables, r, m->lane, before(us, late), us + late + us / LATE_PART);
    return m->value >= span.low && m->value <= span.high;
}

/* The first place where an output that moves comes to rest at what the other does not have then:
 * what it is at on its way depends on when the next command comes. */
static struct pair lane_at_rest(const struct record *tables, const struct record *firmware,
                                unsigned lane)
{
    const struct record *of[] = {tables, firmware};
    const uint64_t late = 2 * (LATE_US + firmware->slack_us) + STEPS_US;
    struct pair first = {NULL, NULL, UINT64_MAX};
    for (unsigned i = 0; i < G_N_ELEMENTS(of); i++) {
        unsigned at = 0;
        for (const struct mark *m; (m = next_in(of[i], lane, &at));) {
            uint64_t us = time_in(tables, of[i], m->us);
            uint64_t behind = time_behind(tables, of[i], of[!i], m, late);
            if (has_value(tables, of[!i], m, us, late) || m->us >= first.us ||
                (behind && has_value(tables, of[!i], m, behind, late)) ||
                !is_rest(of[i], m, at, 2 * (late + us / LATE_PART)))
                continue;
            first = (struct pair){i ? NULL : m, i ? m : NULL, m->us};
        }
    }
    return first;
}

/* Two conversations, and how exactly they can be compared. */
struct both {
    const struct record *tables, *firmware;
    bool loose;         /* the firmware has slack, or the clocks drift */
    uint64_t chance_us; /* behind that chance has met the two differently */
};

static bool says_again(const struct lexicon *lx)
{
    for (unsigned i = 0; i < lx->links->len; i++)
        if (((struct lex_link *)lx->links->pdata[i])->tags) return true;
    return false;
}

static bool same_time(const struct both *of, const struct mark *a, const struct mark *b,
                      uint64_t last_a, uint64_t last_b)
{
    const struct record *tables = of->tables, *firmware = of->firmware;
    const struct lex_link *link = a->lane < SIM_UARTS ? tables->lx->links->pdata[a->lane] : NULL;
    uint64_t slack_us = firmware->slack_us;
    /* a packet may have been sent twice; what it did came later, too */
    if (link ? of->loose && link->tags : slack_us && says_again(tables->lx)) slack_us += AGAIN_US;
    return in_time(a->us - last_a, b->us - last_b, slack_us) ||
           (of->loose && in_time(a->us, as_tables(tables, firmware, b->us), slack_us));
}

/* Whether they say the same; with slack what one still waits for may just be over for the other. */
static bool same_text(const struct mark *a, const struct mark *b, uint64_t slack_us)
{
    bool both = !a->left_ms == !b->left_ms;
    size_t n = MIN(strlen(a->text), strlen(b->text));
    if (both || !slack_us) return both && !strcmp(a->text, b->text);
    const char *rest = (a->left_ms ? a : b)->text + n;
    return !strncmp(a->text, b->text, n) && (!*rest || !strcmp(rest, " waiting "));
}

/* The first place where a lane differs; us UINT64_MAX: nowhere. *own: the first one where it does
 * in what is not compared. */
static struct pair lane_difference(const struct both *of, unsigned lane, uint64_t *own)
{
    const struct record *tables = of->tables, *firmware = of->firmware;
    const uint64_t slack_us = firmware->slack_us;
    unsigned i = 0, k = 0;
    uint64_t last_a = 0, last_b = 0;
    for (;;) {
        const struct mark *a = next_in(tables, lane, &i), *b = next_in(firmware, lane, &k);
        if (!a && !b) return (struct pair){NULL, NULL, UINT64_MAX};
        bool same = a && b && same_text(a, b, slack_us) && same_time(of, a, b, last_a, last_b) &&
                    in_time(a->left_ms * 1000, b->left_ms * 1000, slack_us);
        if (same && !a->left_ms && a->said != b->said) *own = MIN(*own, MIN(a->us, b->us));
        if (!same) return (struct pair){a, b, MIN(a ? a->us : UINT64_MAX, b ? b->us : UINT64_MAX)};
        last_a = a->us;
        last_b = b->us;
    }
}

/* Whether it is an amount, no direction. */
static bool is_level(unsigned lane)
{
    return (lane - SIM_UARTS) / 256u != SIM_PIN % 5u;
}

/* Whether the conversation of the reference model ended before it could have come there. */
static bool is_behind_end(const struct both *of, const struct pair *pair)
{
    const struct record *own = pair->a ? of->tables : of->firmware;
    const struct mark *mark = pair->a ? pair->a : pair->b;
    if (!of->loose || (pair->a && pair->b) || !of->tables->end_us) return false;
    const struct lex_output *out = output_of_lane(own->lx, mark->lane);
    bool moves = out && (out->ramp || out->fade || out->slew);
    const struct mark *was = last_in(own, mark->lane, before(mark->us, moves ? 4 * STEPS_US : 1));
    uint64_t slack_us = of->firmware->slack_us, late = slack_us ? LATE_US + slack_us : 0;
    uint64_t us = time_in(of->tables, own, mark->us);
    if (pair->b) us = MAX(us, time_behind(of->tables, own, of->tables, mark, LATE_US + slack_us));
    return us + late + (mark->us - (was ? was->us : 0)) / LATE_PART > of->tables->end_us;
}

/* Of answers: what should have come, and what came instead or when. */
static void put_texts(struct difference *d, const struct record *tables,
                      const struct record *firmware, const struct pair *pair)
{
    const struct mark *a = pair->a, *b = pair->b;
    if ((a ? a : b)->lane >= SIM_UARTS) return;
    d->should = a ? g_strdup(a->text) : NULL;
    d->is = b ? g_strdup(b->text) : NULL;
    if (a && b && !strcmp(a->text, b->text))
        d->late_us = (int64_t)as_tables(tables, firmware, b->us) - (int64_t)a->us;
}

/* Of outputs: the levels, and how long each took. */
static void put_wire(struct difference *d, const struct record *tables,
                     const struct record *firmware, const struct pair *pair)
{
    const struct mark *a = pair->a, *b = pair->b, *one = a ? a : b;
    if (one->lane < SIM_UARTS) return;
    const struct mark *was = a ? last_in(tables, a->lane, before(a->us, 1)) : NULL;
    const struct mark *had = b ? last_in(firmware, b->lane, before(b->us, 1)) : NULL;
    d->wire = (struct at_wire){.number = (one->lane - SIM_UARTS) % 256u,
                               .is_pin = !is_level(one->lane),
                               .should = a ? a->value : 0,
                               .is = b ? b->value : 0,
                               .due_us = a ? a->us - (was ? was->us : 0) : 0,
                               .did_us = b ? b->us - (had ? had->us : 0) : 0};
}

struct difference record_difference(const struct record *tables, const struct record *firmware,
                                    bool drifts)
{
    const struct both of = {tables, firmware, drifts || firmware->slack_us,
                            MIN(tables->chance_us, firmware->chance_us)};
    struct pair first = {NULL, NULL, UINT64_MAX};
    struct difference d = {0};
    uint64_t own = MIN(tables->own_us, firmware->own_us);
    bool used[LANES] = {false};
    for (unsigned i = 0; i < tables->marks->len; i++)
        used[g_array_index(tables->marks, struct mark, i).lane] = true;
    for (unsigned i = 0; i < firmware->marks->len; i++)
        used[g_array_index(firmware->marks, struct mark, i).lane] = true;
    for (unsigned lane = 0; lane < LANES; lane++) {
        if (!used[lane]) continue;
        const struct lex_output *out = output_of_lane(tables->lx, lane);
        bool safer = out && out->by == LEX_BY_FIRMWARE_SAFE;
        bool moves = out && of.loose && (out->ramp || out->fade || out->slew);
        if (moves && !is_level(lane)) continue; /* a way that it turned to and never went */
        struct pair pair = safer   ? lane_beyond(tables, firmware, lane)
                           : moves ? lane_at_rest(tables, firmware, lane)
                                   : lane_difference(&of, lane, &own);
        if (pair.us >= first.us) continue;
        if (is_behind_end(&of, &pair)) continue;
        first = pair;
        d.out = out;
        d.safer = out && lane_beyond(tables, firmware, lane).us == UINT64_MAX;
    }
    bool bad = (first.a && first.a->bad) || (first.b && first.b->bad);
    bool by_chance = (tables->chance && first.us > own) || (drifts && bad && tables->chance) ||
                     (firmware->slack_us && first.us > of.chance_us);
    if (first.us == UINT64_MAX || by_chance) return (struct difference){0};
    unsigned a = first.a ? first.a->move : UINT_MAX, b = first.b ? first.b->move : UINT_MAX;
    d.move = MIN(a, b);
    put_texts(&d, tables, firmware, &first);
    put_wire(&d, tables, firmware, &first);
    d.expected = in_words(tables, first.a);
    d.came = in_words(firmware, first.b);
    if (first.a && first.a->lane < SIM_UARTS) {
        d.link = g_strdup(((struct lex_link *)tables->lx->links->pdata[first.a->lane])->name);
        d.heard = g_strdup(first.a->text);
    }
    return d;
}

void difference_clear(struct difference *d)
{
    g_free(d->expected);
    g_free(d->came);
    g_free(d->link);
    g_free(d->heard);
    g_free(d->should);
    g_free(d->is);
    *d = (struct difference){0};
}
