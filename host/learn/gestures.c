/* Finds what each button sends: when it is pressed, while it is held, when it is released.
 * Each use of a button votes, so that a damaged or lost frame changes nothing.
 * Without marks each text that came more than once is a button. */
#include <string.h>

#include "learn/learn_parts.h"

#define HELD_US      UINT64_C(1000000) /* who held it so long would have heard a repeat */
#define COPY_MOST    8u
#define BUTTONS_MOST 64u /* of a recording without marks */

const char *const learn_phases[PHASES] = {"press", "held", "release"};

/* One use of a button: what came while it was down, and behind that. */
struct gesture {
    const char *name;
    uint64_t from_us, up_us;
    GPtrArray *down, *up; /* struct frame * */
};

static void gesture_free(void *p)
{
    struct gesture *g = p;
    g_ptr_array_free(g->down, TRUE);
    g_ptr_array_free(g->up, TRUE);
    g_free(g);
}

/* The frames from a time on, up to another one. */
static GPtrArray *frames_within(const struct learnt *l, uint64_t from_us, uint64_t to_us)
{
    GPtrArray *found = g_ptr_array_new();
    unsigned low = 0, high = l->frames->len;
    while (low < high) { /* they are in order */
        unsigned middle = low + (high - low) / 2;
        if (frame_at(l->frames, middle)->at_us < from_us)
            low = middle + 1;
        else
            high = middle;
    }
    for (; low < l->frames->len && frame_at(l->frames, low)->at_us < to_us; low++)
        if (!frame_at(l->frames, low)->again) g_ptr_array_add(found, l->frames->pdata[low]);
    return found;
}

/* ---- votes ---- */

/* What most of them say. An entry of NULL says that nothing came: frames are lost, but none comes
 * by itself, so what came twice, and a third of the time, was sent. */
static struct learnt_text vote(const GPtrArray *all)
{
    struct learnt_text best = {NULL, 0, all->len};
    GHashTable *votes = g_hash_table_new(g_bytes_hash, g_bytes_equal);
    unsigned nothing = 0;
    for (unsigned i = 0; i < all->len; i++) nothing += all->pdata[i] == NULL;
    for (unsigned i = 0; i < all->len; i++) {
        GBytes *one = all->pdata[i];
        if (!one) continue;
        unsigned n = GPOINTER_TO_UINT(g_hash_table_lookup(votes, one)) + 1;
        g_hash_table_insert(votes, one, GUINT_TO_POINTER(n));
        if (n > best.votes) best.votes = n, best.bytes = one;
    }
    g_hash_table_unref(votes);
    if (nothing > best.votes && (best.votes < 2 || best.votes * 3 < all->len))
        best = (struct learnt_text){NULL, nothing, all->len};
    return best;
}

static bool is_same(GBytes *a, GBytes *b)
{
    return a == b || (a && b && g_bytes_equal(a, b));
}

/* ---- one button ---- */

static struct learnt_text vote_press(const GPtrArray *gestures)
{
    GPtrArray *all = g_ptr_array_new();
    for (unsigned i = 0; i < gestures->len; i++) {
        const struct gesture *g = gestures->pdata[i];
        const struct frame *first = g->down->len ? frame_at(g->down, 0) : NULL;
        if (!first || !first->damaged) g_ptr_array_add(all, first ? first->said : NULL);
    }
    struct learnt_text best = vote(all);
    g_ptr_array_free(all, TRUE);
    return best;
}

/* Each frame behind the first; who held it for long and heard none votes for nothing. */
static struct learnt_text vote_held(const GPtrArray *gestures)
{
    GPtrArray *all = g_ptr_array_new();
    for (unsigned i = 0; i < gestures->len; i++) {
        const struct gesture *g = gestures->pdata[i];
        for (unsigned k = 1; k < g->down->len; k++)
            if (!frame_at(g->down, k)->damaged) g_ptr_array_add(all, frame_at(g->down, k)->said);
        if (g->down->len < 2 && g->up_us - g->from_us >= HELD_US) g_ptr_array_add(all, NULL);
    }
    struct learnt_text best = vote(all);
    g_ptr_array_free(all, TRUE);
    return best;
}

/* Behind what is still a repeat: the first frame, NULL: none; the one behind that may be the idle
 * text. False: what came is damaged, and says nothing. */
static bool release_of(const struct gesture *g, GBytes *held, const struct frame **is,
                       unsigned *next)
{
    unsigned i = 0;
    while (held && i < g->up->len && is_same(frame_at(g->up, i)->said, held)) i++;
    *next = i + 1;
    *is = i < g->up->len ? frame_at(g->up, i) : NULL;
    return !*is || !(*is)->damaged;
}

static struct learnt_text vote_release(const GPtrArray *gestures, GBytes *held)
{
    GPtrArray *all = g_ptr_array_new();
    for (unsigned i = 0; i < gestures->len; i++) {
        unsigned next;
        const struct frame *f;
        if (release_of(gestures->pdata[i], held, &f, &next))
            g_ptr_array_add(all, f ? f->said : NULL);
    }
    struct learnt_text best = vote(all);
    g_ptr_array_free(all, TRUE);
    return best;
}

/* A sender without a way back sends each frame a few times, and then no more, however long the
 * button is held: how often. 1: it does not. */
static unsigned copies_of(const GPtrArray *gestures, GBytes *press)
{
    unsigned copies = 0, votes = 0, of = 0;
    for (unsigned i = 0; i < gestures->len; i++) {
        const struct gesture *g = gestures->pdata[i];
        unsigned n = g->down->len;
        if (n < 2 || n > COPY_MOST || g->up_us - g->from_us < HELD_US) continue;
        uint64_t span = frame_at(g->down, n - 1)->at_us - frame_at(g->down, 0)->at_us;
        uint64_t every = span / (n - 1);
        bool over = g->up_us - frame_at(g->down, n - 1)->end_us > 4 * every;
        of++;
        votes += over;
        if (over && is_same(frame_at(g->down, n - 1)->said, press)) copies = MAX(copies, n);
    }
    return votes && votes * 3 >= of * 2 ? MAX(copies, 1) : 1;
}

static void doubt_button(struct learnt *l, const struct learnt_button *b, bool long_enough)
{
    if (b->times < 2) learn_doubt(l, "%s was used once: press it again, twice or more", b->name);
    if (!long_enough && !b->phase[PHASE_HELD].bytes)
        learn_doubt(l, "%s was never held for %u s: hold it, to see whether it repeats", b->name,
                    (unsigned)(HELD_US / 1000000));
    if (!b->phase[PHASE_PRESS].bytes && !b->phase[PHASE_RELEASE].bytes)
        learn_doubt(l, "nothing was heard of %s", b->name);
    for (unsigned i = 0; i < PHASES && b->times > 1; i++) {
        const struct learnt_text *t = &b->phase[i];
        if (!t->of || t->votes * 3 > t->of * 2) continue;
        char *shown = t->bytes ? learn_shown(l, t->bytes) : g_strdup("nothing");
        learn_doubt(l, "%s, %s: %s came %u of %u times, something else otherwise", b->name,
                    learn_phases[i], shown, t->votes, t->of);
        g_free(shown);
    }
}

static void take_button(struct learnt *l, const char *name, const GPtrArray *gestures)
{
    struct learnt_button *b = g_new0(struct learnt_button, 1);
    bool long_enough = false;
    b->name = g_strdup(name);
    b->times = gestures->len;
    struct learnt_text press = vote_press(gestures), held = vote_held(gestures);
    b->copies = copies_of(gestures, press.bytes);
    if (b->copies > 1) held = (struct learnt_text){NULL, held.votes, held.of};
    struct learnt_text release = vote_release(gestures, held.bytes      ? held.bytes
                                                        : b->copies > 1 ? press.bytes
                                                                        : NULL);
    b->phase[PHASE_PRESS] = press;
    b->phase[PHASE_HELD] = held;
    b->phase[PHASE_RELEASE] = release;
    for (unsigned i = 0; i < PHASES; i++)
        if (b->phase[i].bytes) g_bytes_ref(b->phase[i].bytes);
    for (unsigned i = 0; i < gestures->len; i++) {
        const struct gesture *g = gestures->pdata[i];
        long_enough |= g->up_us - g->from_us >= HELD_US;
    }
    g_ptr_array_add(l->buttons, b);
    doubt_button(l, b, long_enough);
}

/* ---- what is the same for all ---- */

/* The text behind the last release, of two buttons or more. */
static void take_idle(struct learnt *l, const GPtrArray *gestures)
{
    GPtrArray *all = g_ptr_array_new();
    for (unsigned i = 0; i < gestures->len; i++) {
        const struct gesture *g = gestures->pdata[i];
        for (unsigned k = 0; k < l->buttons->len; k++) {
            const struct learnt_button *b = l->buttons->pdata[k];
            unsigned next;
            if (strcmp(b->name, g->name) != 0 || !b->phase[PHASE_RELEASE].bytes) continue;
            if (b->copies > 1) continue;
            const struct frame *f;
            release_of(g, b->phase[PHASE_HELD].bytes, &f, &next);
            f = next < g->up->len ? frame_at(g->up, next) : NULL;
            if (f && f->damaged) continue;
            g_ptr_array_add(all, f ? f->said : NULL);
        }
    }
    struct learnt_text best = vote(all);
    g_ptr_array_free(all, TRUE);
    if (!best.bytes || best.votes * 3 <= best.of * 2) return;
    l->idle = g_bytes_ref(best.bytes);
    l->idle_votes = best.votes;
    l->idle_of = best.of;
}

/* All buttons end with the same text: it is that of no button pressed. */
static void share_idle(struct learnt *l)
{
    GBytes *same = NULL;
    for (unsigned i = 0; i < l->buttons->len; i++) {
        const struct learnt_button *b = l->buttons->pdata[i];
        if (!b->phase[PHASE_RELEASE].bytes) return;
        if (!same) same = b->phase[PHASE_RELEASE].bytes;
        if (!g_bytes_equal(same, b->phase[PHASE_RELEASE].bytes)) return;
    }
    if (l->idle || l->buttons->len < 3) return;
    l->idle = g_bytes_ref(same);
    for (unsigned i = 0; i < l->buttons->len; i++) {
        struct learnt_button *b = l->buttons->pdata[i];
        l->idle_votes += b->phase[PHASE_RELEASE].votes;
        l->idle_of += b->phase[PHASE_RELEASE].of;
        g_bytes_unref(b->phase[PHASE_RELEASE].bytes);
        b->phase[PHASE_RELEASE].bytes = NULL;
    }
    learn_doubt(l, "all buttons end with the same text, which is taken for that of no button "
                   "pressed: hold two, release one, and see whether it comes");
}

static uint64_t median(GArray *all)
{
    g_array_sort(all, learn_compare_us);
    return all->len ? g_array_index(all, uint64_t, all->len / 2) : 0;
}

/* To two digits where that is within 3 % of it. */
static uint32_t round_ms(uint64_t us)
{
    uint32_t ms = (uint32_t)((us + 500) / 1000), unit = 1;
    while (ms / unit >= 100) unit *= 10;
    uint32_t round = (ms + unit / 2) / unit * unit;
    uint32_t off = round > ms ? round - ms : ms - round;
    return off * 100 <= ms * 3 ? round : ms;
}

/* The time between repeats, and before the first one where that is clearly longer. */
static void take_repeat(struct learnt *l, const GPtrArray *gestures)
{
    GArray *later = g_array_new(FALSE, FALSE, sizeof(uint64_t));
    GArray *first = g_array_new(FALSE, FALSE, sizeof(uint64_t));
    for (unsigned i = 0; i < gestures->len; i++) {
        const struct gesture *g = gestures->pdata[i];
        bool repeats = false;
        for (unsigned k = 0; k < l->buttons->len; k++) {
            const struct learnt_button *b = l->buttons->pdata[k];
            repeats |= !strcmp(b->name, g->name) && b->phase[PHASE_HELD].bytes;
        }
        for (unsigned k = 1; repeats && k < g->down->len; k++) {
            uint64_t us = frame_at(g->down, k)->at_us - frame_at(g->down, k - 1)->at_us;
            g_array_append_val(k == 1 ? first : later, us);
        }
    }
    uint64_t begins = median(first), goes_on = later->len ? median(later) : begins;
    l->repeats = first->len + later->len;
    l->repeat_ms = round_ms(goes_on);
    if (later->len && (begins > goes_on * 3 / 2 || begins * 3 / 2 < goes_on))
        l->first_ms = round_ms(begins);
    g_array_free(later, TRUE);
    g_array_free(first, TRUE);
    if (l->first_ms)
        learn_doubt(l,
                    "the first repeat comes after %u ms, the others every %u ms: a handset of a "
                    "lexicon has one time",
                    l->first_ms, l->repeat_ms);
}

/* ---- marks ---- */

/* Buttons in the order in which they were first used. */
static void take_buttons(struct learnt *l, GPtrArray *gestures)
{
    for (unsigned i = 0; i < gestures->len; i++) {
        const struct gesture *first = gestures->pdata[i];
        GPtrArray *same = g_ptr_array_new();
        bool seen = false;
        for (unsigned k = 0; k < gestures->len; k++) {
            const struct gesture *g = gestures->pdata[k];
            if (strcmp(g->name, first->name) != 0) continue;
            seen |= k < i;
            g_ptr_array_add(same, gestures->pdata[k]);
        }
        if (!seen) take_button(l, first->name, same);
        g_ptr_array_free(same, TRUE);
    }
    take_idle(l, gestures);
    share_idle(l);
    take_repeat(l, gestures);
}

static const struct mark *mark_at(const struct learnt *l, unsigned i)
{
    return &g_array_index(l->recording->marks, struct mark, i);
}

static uint64_t next_us(const struct learnt *l, unsigned i)
{
    return i + 1 < l->recording->marks->len ? mark_at(l, i + 1)->at_us : UINT64_MAX;
}

/* A press ends with the next release of that button, or the next mark. */
static struct gesture *gesture_at(const struct learnt *l, unsigned i)
{
    const struct mark *press = mark_at(l, i);
    struct gesture *g = g_new0(struct gesture, 1);
    unsigned up = i + 1;
    *g = (struct gesture){press->name, press->at_us, next_us(l, i), NULL, NULL};
    g->down = frames_within(l, g->from_us, g->up_us);
    bool released = up < l->recording->marks->len && mark_at(l, up)->act == ACT_RELEASED &&
                    !strcmp(mark_at(l, up)->name, press->name);
    g->up = released ? frames_within(l, g->up_us, next_us(l, up)) : g_ptr_array_new();
    if (g->up_us == UINT64_MAX) g->up_us = g->from_us + l->span_us;
    return g;
}

static void take_sliders(struct learnt *l)
{
    GHashTable *done = g_hash_table_new(g_str_hash, g_str_equal);
    for (unsigned i = 0; i < l->recording->marks->len; i++) {
        const char *name = mark_at(l, i)->name;
        if (mark_at(l, i)->act != ACT_SLID || !g_hash_table_add(done, (void *)name)) continue;
        GPtrArray *all = g_ptr_array_new();
        unsigned times = 0;
        for (unsigned k = i; k < l->recording->marks->len; k++) {
            if (mark_at(l, k)->act != ACT_SLID || strcmp(mark_at(l, k)->name, name) != 0) continue;
            GPtrArray *some = frames_within(l, mark_at(l, k)->at_us, next_us(l, k));
            for (unsigned n = 0; n < some->len; n++)
                if (!frame_at(some, n)->damaged) g_ptr_array_add(all, some->pdata[n]);
            g_ptr_array_free(some, TRUE);
            times++;
        }
        learn_slider(l, name, all, times);
        g_ptr_array_free(all, TRUE);
    }
    g_hash_table_unref(done);
}

/* ---- no marks ---- */

/* Each text that came twice, or all where nothing did: the most that can be said. */
static void take_texts(struct learnt *l)
{
    GHashTable *counts = g_hash_table_new(g_bytes_hash, g_bytes_equal);
    for (unsigned i = 0; i < l->frames->len; i++) {
        GBytes *said = frame_at(l->frames, i)->said;
        unsigned n = GPOINTER_TO_UINT(g_hash_table_lookup(counts, said));
        if (!frame_at(l->frames, i)->damaged && !frame_at(l->frames, i)->again)
            g_hash_table_insert(counts, said, GUINT_TO_POINTER(n + 1));
    }
    for (unsigned i = 0; i < l->frames->len && l->buttons->len < BUTTONS_MOST; i++) {
        const struct frame *f = frame_at(l->frames, i);
        unsigned times = GPOINTER_TO_UINT(g_hash_table_lookup(counts, f->said));
        if (f->damaged || !times || (times < 2 && l->frames->len > 8)) continue;
        g_hash_table_remove(counts, f->said);
        struct learnt_button *b = g_new0(struct learnt_button, 1);
        b->name = g_strdup_printf("b%u", l->buttons->len + 1);
        b->times = times;
        b->copies = 1;
        b->phase[PHASE_PRESS] = (struct learnt_text){g_bytes_ref(f->said), times, times};
        g_ptr_array_add(l->buttons, b);
    }
    g_hash_table_unref(counts);
    learn_doubt(l, "the recording does not say which button was pressed, nor when: each text is "
                   "taken for a button of its own");
}

void learn_gestures(struct learnt *l)
{
    GPtrArray *gestures = g_ptr_array_new_with_free_func(gesture_free);
    for (unsigned i = 0; i < l->recording->marks->len; i++)
        if (mark_at(l, i)->act == ACT_PRESSED) g_ptr_array_add(gestures, gesture_at(l, i));
    l->marked = l->recording->marks->len > 0;
    if (l->marked)
        take_buttons(l, gestures);
    else
        take_texts(l);
    take_sliders(l);
    g_ptr_array_free(gestures, TRUE);
}
