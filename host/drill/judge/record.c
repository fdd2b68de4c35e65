#include "record.h"

#include <string.h>

#include "outputs.h"
#include "rlx/image.h"

#define MARKS_MOST 200000u
#define LATE_US    20000u
#define LATE_PART  50u /* 2 % */

/* Something that was said over a link (lane: its number) or done at a pin. */
struct mark {
    uint64_t us;
    unsigned lane, move;
    char *text;
    uint64_t left_ms; /* of a time that it tells, from 1 on; 0: it tells none */
    guint said;       /* of what was really said: an answer may be the firmware's own business */
};

struct record {
    const struct lexicon *lx;
    const char *const *own;
    GArray *marks;
    unsigned move;
    bool loose[SIM_UARTS], chance;
    uint64_t own_us; /* the firmware first said something of its own */
};

#define LANES (SIM_UARTS + 5u * 256u)

static void clear_mark(void *p)
{
    g_free(((struct mark *)p)->text);
}

struct record *record_new(const struct lexicon *lx, const char *const *own)
{
    struct record *r = g_new0(struct record, 1);
    r->lx = lx;
    r->own = own;
    r->own_us = UINT64_MAX;
    r->marks = g_array_new(FALSE, FALSE, sizeof(struct mark));
    g_array_set_clear_func(r->marks, clear_mark);
    return r;
}

void record_free(struct record *r)
{
    if (!r) return;
    g_array_free(r->marks, TRUE);
    g_free(r);
}

void record_move(struct record *r, unsigned move)
{
    r->move = move;
}

void record_loose(struct record *r, unsigned link, bool loose)
{
    if (link < SIM_UARTS) r->loose[link] = loose;
}

void record_chance(struct record *r)
{
    r->chance = true;
}

static void add(struct record *r, uint64_t us, unsigned lane, char *text, guint said)
{
    struct mark mark = {.us = us, .lane = lane, .move = r->move, .text = text, .said = said};
    if (r->marks->len < MARKS_MOST)
        g_array_append_val(r->marks, mark);
    else
        g_free(text);
}

/* Whether the firmware tells this by itself: a note, or an event without a source. */
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

/* Whether it tells what a query's handler filled in. */
static bool tells_query(const struct lexicon *lx, const char *text)
{
    for (unsigned i = 0; i < lx->queries->len; i++) {
        char *told = g_strdup_printf("ok %s ", ((struct lex_query *)lx->queries->pdata[i])->name);
        bool tells = strstr(text, told) != NULL;
        g_free(told);
        if (tells) return true;
    }
    return false;
}

/* What is left of a time depends on when it was asked: it is cut off, and told in milliseconds. */
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

void record_sight(void *user, const struct sight *sight)
{
    struct record *r = user;
    uint64_t us = sight->board ? sight->board->bench->world->now_us : 0;
    if (!sight->board || *sight->board->name) return;
    int output = sight->kind == SIGHT_OUT ? output_of_event(r->lx, sight->event) : -1;
    const struct lex_output *out = output < 0 ? NULL : r->lx->outputs->pdata[output];
    if (out) {
        if (r->own && g_strv_contains(r->own, out->name)) return;
        unsigned lane = SIM_UARTS + (sight->event.kind % 5u) * 256u + sight->event.index;
        add(r, us, lane, g_strdup_printf("%lu", (unsigned long)sight->event.value), 0);
    } else if (sight->kind == SIGHT_ANSWERED && sight->end) {
        char *text = g_strndup(sight->text, sight->count);
        bool unasked = strstr(text, "ev ") || strstr(text, "ready ");
        guint said = g_str_hash(text);
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
static bool in_time(uint64_t a, uint64_t b)
{
    uint64_t more = MAX(a, b), less = MIN(a, b);
    return more - less <= LATE_US + less / LATE_PART;
}

static char *in_words(const struct record *r, const struct mark *mark)
{
    if (!mark) return g_strdup("nothing");
    double s = (double)mark->us / 1e6;
    if (mark->lane < SIM_UARTS) {
        const struct lex_link *link = r->lx->links->pdata[mark->lane];
        return g_strdup_printf("%s: \"%s\" at %.3f s", link->name, mark->text, s);
    }
    unsigned kind = (mark->lane - SIM_UARTS) / 256u, index = (mark->lane - SIM_UARTS) % 256u;
    for (unsigned k = 0; k < 256; k += 5) {
        struct sim_event event = {(uint8_t)(k + kind), (uint8_t)index, 0, 0};
        int out = output_of_event(r->lx, event);
        if (out < 0) continue;
        return g_strdup_printf("%s (pin or channel %u) at %s at %.3f s",
                               ((struct lex_output *)r->lx->outputs->pdata[out])->name, index,
                               mark->text, s);
    }
    return g_strdup(mark->text);
}

struct pair {
    const struct mark *a, *b;
    uint64_t us;
};

/* The first place where a lane differs; us UINT64_MAX: nowhere. *own: the first one where it does
 * in what is not compared. */
static struct pair lane_difference(const struct record *tables, const struct record *firmware,
                                   unsigned lane, uint64_t *own)
{
    unsigned i = 0, k = 0;
    uint64_t last_a = 0, last_b = 0;
    for (;;) {
        const struct mark *a = next_in(tables, lane, &i), *b = next_in(firmware, lane, &k);
        if (!a && !b) return (struct pair){NULL, NULL, UINT64_MAX};
        bool same = a && b && !strcmp(a->text, b->text) && in_time(a->us - last_a, b->us - last_b);
        same = same && in_time(a->left_ms * 1000, b->left_ms * 1000) && !a->left_ms == !b->left_ms;
        if (same && !a->left_ms && a->said != b->said) *own = MIN(*own, MIN(a->us, b->us));
        if (!same) return (struct pair){a, b, MIN(a ? a->us : UINT64_MAX, b ? b->us : UINT64_MAX)};
        last_a = a->us;
        last_b = b->us;
    }
}

struct difference record_difference(const struct record *tables, const struct record *firmware)
{
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
        struct pair pair = lane_difference(tables, firmware, lane, &own);
        if (pair.us < first.us) first = pair;
    }
    if (first.us == UINT64_MAX || (tables->chance && first.us > own)) return d;
    d.move = first.a ? first.a->move : first.b->move;
    if (first.a && first.b) d.move = MIN(first.a->move, first.b->move);
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
    *d = (struct difference){0};
}
