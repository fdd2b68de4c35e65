/* Finds the channels of a radio control: frames that never stop, in which each stick or switch
 * moves bits of its own. Each width and order is tried; the narrowest channel that holds all bits
 * of a stick is taken. Where the channels end and flags begin cannot be seen. */
#include <string.h>

#include "learn/learn_parts.h"

#define FRAMES_LEAST 50u /* that show a sender which never stops */
#define MARKS_MOST   2u  /* constant bytes before the channels */
#define WIDTH_LEAST  4u
#define WIDTH_MOST   16u

bool learn_is_stream(const struct learnt *l, uint64_t *every_us)
{
    unsigned n = l->frames->len, even = 0;
    if (!l->binary || n < FRAMES_LEAST || !l->span_us) return false;
    *every_us = l->span_us / (n - 1);
    for (unsigned i = 1; i < n; i++) {
        uint64_t us = frame_at(l->frames, i)->at_us - frame_at(l->frames, i - 1)->at_us;
        even += us * 5 >= *every_us * 4 && us * 5 <= *every_us * 6;
    }
    return even * 10 >= n * 9;
}

/* ---- bits ---- */

/* A way in which the channels may lie. */
struct lies {
    unsigned mark, each; /* bytes before them, bits of one */
    bool lsb;
};

/* The bit of the channels at this place, counted as they are packed. */
static unsigned bit_of(const struct lies *h, const guint8 *data, unsigned at)
{
    const guint8 byte = data[h->mark + at / 8];
    return h->lsb ? byte >> at % 8 & 1 : byte >> (7 - at % 8) & 1;
}

static unsigned value_of(const struct lies *h, const guint8 *data, unsigned channel)
{
    unsigned value = 0;
    for (unsigned i = 0; i < h->each; i++) {
        unsigned bit = bit_of(h, data, channel * h->each + i);
        value |= bit << (h->lsb ? i : h->each - 1 - i);
    }
    return value;
}

static const guint8 *data_of(const struct frame *f)
{
    size_t n;
    return g_bytes_get_data(f->whole, &n);
}

/* The channel that holds all bits which move in these frames; -1: none does. */
static int moving_channel(const struct lies *h, const GPtrArray *frames, unsigned bits)
{
    int channel = -1;
    for (unsigned at = 0; at < bits; at++) {
        bool moves = false;
        for (unsigned i = 1; i < frames->len && !moves; i++)
            moves = bit_of(h, data_of(frame_at(frames, i)), at) !=
                    bit_of(h, data_of(frame_at(frames, 0)), at);
        if (!moves) continue;
        if (channel >= 0 && channel != (int)(at / h->each)) return -1;
        channel = (int)(at / h->each);
    }
    return channel >= 0 && ((unsigned)channel + 1) * h->each <= bits ? channel : -1;
}

/* ---- uses ---- */

/* What somebody moved: the frames from just before it up to the next one. */
struct use {
    const struct mark *mark;
    uint64_t up_us; /* of a button: its release */
    GPtrArray *frames;
};

static void use_free(void *p)
{
    struct use *use = p;
    g_ptr_array_free(use->frames, TRUE);
    g_free(use);
}

/* A button is one use from its press to behind its release. */
static GPtrArray *uses_of(const struct learnt *l)
{
    const GArray *marks = l->recording->marks;
    GPtrArray *uses = g_ptr_array_new_with_free_func(use_free);
    for (unsigned m = 0; m < marks->len; m++) {
        const struct mark *mark = &g_array_index(marks, struct mark, m);
        unsigned next = m + 1;
        if (mark->act == ACT_RELEASED) continue;
        uint64_t up = UINT64_MAX;
        for (; next < marks->len; next++) {
            const struct mark *behind = &g_array_index(marks, struct mark, next);
            if (behind->act != ACT_RELEASED) break;
            up = MIN(up, behind->at_us);
        }
        uint64_t to =
            next < marks->len ? g_array_index(marks, struct mark, next).at_us : UINT64_MAX;
        struct use *use = g_new0(struct use, 1);
        use->mark = mark;
        use->up_us = up;
        use->frames = g_ptr_array_new();
        for (unsigned i = 0; i < l->frames->len; i++) {
            struct frame *f = l->frames->pdata[i];
            if (!f->damaged && f->at_us >= mark->at_us && f->at_us < to)
                g_ptr_array_add(use->frames, f);
        }
        g_ptr_array_add(uses, use);
    }
    return uses;
}

/* How far the values go in all, in parts of how far they reach: of bits in a wrong order it is
 * more.
 */
static double roughness(const struct lies *h, const GPtrArray *frames, unsigned channel)
{
    unsigned low = UINT_MAX, high = 0, last = 0;
    double way = 0;
    for (unsigned i = 0; i < frames->len; i++) {
        unsigned value = value_of(h, data_of(frame_at(frames, i)), channel);
        if (i) way += value > last ? value - last : last - value;
        low = MIN(low, value);
        high = MAX(high, value);
        last = value;
    }
    return high > low ? way / (high - low) : 0;
}

/* Whether each use moves one channel, each name one of its own, and how roughly; -1: it does not
 * lie so. */
static double score(const struct lies *h, const GPtrArray *uses, unsigned bits)
{
    const char *names[8 * 64] = {NULL}; /* by channel */
    double all = 0;
    unsigned moved = 0;
    for (unsigned i = 0; i < uses->len; i++) {
        const struct use *use = uses->pdata[i];
        if (use->frames->len < 2) continue;
        int channel = moving_channel(h, use->frames, bits);
        if (channel < 0 || channel >= (int)G_N_ELEMENTS(names)) return -1;
        if (names[channel] && strcmp(names[channel], use->mark->name) != 0) return -1;
        names[channel] = use->mark->name;
        moved++;
        if (use->mark->act == ACT_SLID) all += roughness(h, use->frames, (unsigned)channel);
    }
    return moved ? all : -1;
}

/* The narrowest of those that move nearly as smoothly as the best one. */
static bool find_lies(const GPtrArray *uses, unsigned bytes, bool marked, struct lies *found)
{
    static const unsigned marks[] = {1, 2, 0, 1, 2}; /* a first byte that never moves is one */
    double best = -1;
    for (unsigned pass = 0; pass < 2; pass++)
        for (unsigned each = WIDTH_LEAST; each <= WIDTH_MOST; each++)
            for (unsigned n = 0; n < 2 * (MARKS_MOST + 1); n++) {
                struct lies h = {marks[n / 2 + (marked ? 0 : 2)], each, n % 2};
                if (h.mark >= bytes) continue;
                double is = score(&h, uses, 8 * (bytes - h.mark));
                if (is < 0) continue;
                if (!pass && (best < 0 || is < best)) best = is;
                if (!pass || is > best * 1.02 + 0.01) continue;
                *found = h;
                return true;
            }
    return false;
}

/* ---- what each stick and switch is ---- */

/* The value that most frames have at its end. */
static unsigned settled(const struct lies *h, const GPtrArray *frames, unsigned channel,
                        uint64_t from_us, uint64_t to_us)
{
    unsigned last = 0;
    bool any = false;
    for (unsigned i = 0; i < frames->len; i++) {
        const struct frame *f = frame_at(frames, i);
        if (any && (f->at_us < from_us || f->at_us >= to_us)) continue;
        last = value_of(h, data_of(f), channel);
        any = true;
    }
    return last;
}

static struct learnt_stick *stick_of(struct learnt *l, const char *name)
{
    for (unsigned i = 0; i < l->sticks->len; i++) {
        struct learnt_stick *s = l->sticks->pdata[i];
        if (!strcmp(s->name, name)) return s;
    }
    struct learnt_stick *s = g_new0(struct learnt_stick, 1);
    s->name = g_strdup(name);
    s->low = UINT_MAX;
    g_ptr_array_add(l->sticks, s);
    return s;
}

static void take_use(struct learnt *l, const struct lies *h, const struct use *use, unsigned bits)
{
    const struct mark *mark = use->mark;
    struct learnt_stick *s = stick_of(l, mark->name);
    int channel = use->frames->len > 1 ? moving_channel(h, use->frames, bits) : -1;
    s->times++;
    if (channel < 0) return;
    s->moved = true;
    s->channel = (unsigned)channel;
    s->is_switch = mark->act == ACT_PRESSED;
    for (unsigned i = 0; i < use->frames->len; i++) {
        unsigned value = value_of(h, data_of(frame_at(use->frames, i)), s->channel);
        if (!i) s->rest = value;
        s->low = MIN(s->low, value);
        s->high = MAX(s->high, value);
    }
    if (!s->is_switch) return;
    s->on = settled(h, use->frames, s->channel, mark->at_us, use->up_us);
    s->rest = settled(h, use->frames, s->channel, use->up_us, UINT64_MAX);
}

static void doubt_sticks(struct learnt *l)
{
    for (unsigned i = 0; i < l->sticks->len; i++) {
        const struct learnt_stick *s = l->sticks->pdata[i];
        if (!s->moved) learn_doubt(l, "%s moved no channel", s->name);
        for (unsigned k = 0; k < i; k++) {
            const struct learnt_stick *other = l->sticks->pdata[k];
            if (s->moved && other->moved && s->channel == other->channel)
                learn_doubt(l, "%s and %s are the same channel", other->name, s->name);
        }
    }
    learn_doubt(l, "where the channels end and flags begin cannot be seen: is there a flag for "
                   "failsafe?");
}

bool learn_sticks(struct learnt *l, uint64_t every_us)
{
    struct learnt_channels *c = &l->channels;
    unsigned behind = l->layout.check.bits / 8 + l->layout.n_end;
    size_t n = g_bytes_get_size(frame_at(l->frames, 0)->whole);
    GPtrArray *uses = uses_of(l);
    bool marked = l->layout.n_head && l->layout.head[0].kind == BYTE_CONSTANT;
    struct lies h;
    for (unsigned i = 0; i < l->frames->len; i++) { /* of another length, nothing can be read */
        struct frame *f = l->frames->pdata[i];
        size_t is = g_bytes_get_size(f->whole);
        if (!f->damaged) n = is;
    }
    for (unsigned i = 0; i < uses->len; i++) {
        GPtrArray *frames = ((struct use *)uses->pdata[i])->frames;
        for (unsigned k = frames->len; k-- > 0;)
            if (g_bytes_get_size(frame_at(frames, k)->whole) != n)
                g_ptr_array_remove_index(frames, k);
    }
    c->found = n > behind && find_lies(uses, (unsigned)n - behind, marked, &h);
    if (c->found) {
        unsigned bits = 8 * ((unsigned)n - behind - h.mark);
        c->mark = h.mark;
        c->each = h.each;
        c->lsb = h.lsb;
        c->count = bits / h.each;
        while (h.lsb && c->count * h.each % 8) c->count--; /* those are whole bytes */
        c->rest = bits - c->count * h.each;
        c->every_us = every_us;
        for (unsigned i = 0; i < uses->len; i++) take_use(l, &h, uses->pdata[i], bits);
        doubt_sticks(l);
    }
    g_ptr_array_free(uses, TRUE);
    return c->found;
}
