/* Finds what a slider sends: the same text each time but for a number, a run of characters, or a
 * number in bytes.
 * The steps are those that most of its frames have; others are damaged.
 * Where the number lies in bytes is decided by how smoothly it moves. */
#include <stdlib.h>
#include <string.h>

#include "learn/learn_parts.h"

#define RANGE_MOST  1000000 /* of a number in digits, each way */
#define STEPS_MOST  1024u
#define VALUES_MOST 4096u /* that are looked at */

/* A frame with a number: what stands before and behind it. */
struct numbered {
    GBytes *before, *after;
    int32_t value;
};

static void clear_numbered(void *p)
{
    struct numbered *n = p;
    g_bytes_unref(n->before);
    g_bytes_unref(n->after);
}

/* The last number of a text, with a minus where a blank or nothing is before it. */
static bool read_digits(GBytes *said, struct numbered *n)
{
    size_t count, end, from;
    const char *text = (const char *)learn_data(said, &count);
    for (end = count; end && !g_ascii_isdigit(text[end - 1]); end--) {}
    for (from = end; from && g_ascii_isdigit(text[from - 1]); from--) {}
    if (from == end || end - from > 6) return false;
    if (from && text[from - 1] == '-' && (from == 1 || text[from - 2] == ' ')) from--;
    char digits[12] = "";
    memcpy(digits, text + from, end - from);
    n->value = (int32_t)strtol(digits, NULL, 10);
    n->before = g_bytes_new_from_bytes(said, 0, from);
    n->after = g_bytes_new_from_bytes(said, end, count - end);
    return abs(n->value) <= RANGE_MOST;
}

/* What stands around the number of most of them. */
static unsigned vote_around(const GArray *all, const struct numbered **best)
{
    GHashTable *votes = g_hash_table_new_full(g_str_hash, g_str_equal, g_free, NULL);
    unsigned most = 0;
    for (unsigned i = 0; i < all->len; i++) {
        const struct numbered *n = &g_array_index(all, struct numbered, i);
        size_t before, after;
        const char *b = (const char *)learn_data(n->before, &before);
        const char *a = (const char *)learn_data(n->after, &after);
        char *key = g_strdup_printf("%.*s\n%.*s", (int)before, b, (int)after, a);
        unsigned is = GPOINTER_TO_UINT(g_hash_table_lookup(votes, key)) + 1;
        g_hash_table_insert(votes, key, GUINT_TO_POINTER(is));
        if (is > most) most = is, *best = n;
    }
    g_hash_table_unref(votes);
    return most;
}

/* ---- steps ---- */

static int compare_value(const void *a, const void *b)
{
    int32_t x = *(const int32_t *)a, y = *(const int32_t *)b;
    return x < y ? -1 : x > y;
}

/* How many values, in order, are on a grid of steps that begins with one of them. */
static unsigned on_grid(const GArray *values, int32_t step, int32_t from)
{
    unsigned n = 0;
    for (unsigned i = 0; i < values->len; i++)
        n += (g_array_index(values, int32_t, i) - from) % step == 0;
    return n;
}

/* The widest step that nine of ten values are on; `from` is one of those. */
static int32_t step_of(const GArray *values, int32_t *from)
{
    int32_t best = 1;
    *from = g_array_index(values, int32_t, 0);
    for (unsigned i = 1; i < values->len; i++) {
        int32_t a = g_array_index(values, int32_t, i - 1), b = g_array_index(values, int32_t, i);
        if (b - a <= best || on_grid(values, b - a, b) * 10 < values->len * 9) continue;
        best = b - a;
        *from = b;
    }
    return best;
}

/* Lowest, highest, step and what is missing, of the values of all frames, each as often as it came.
 */
static void take_steps(struct learnt_slider *s, GArray *values)
{
    int32_t from, last = 0;
    if (values->len > VALUES_MOST) g_array_set_size(values, VALUES_MOST);
    g_array_sort(values, compare_value);
    s->step = step_of(values, &from);
    s->missing = g_array_new(FALSE, FALSE, sizeof(int32_t));
    for (unsigned i = 0; i < values->len; i++) {
        int32_t value = g_array_index(values, int32_t, i);
        if ((value - from) % s->step != 0 || (s->steps && value == last)) continue;
        if (!s->steps) s->low = value;
        for (int32_t m = last + s->step; s->steps && m < value && s->missing->len < STEPS_MOST;
             m += s->step)
            g_array_append_val(s->missing, m);
        s->high = last = value;
        s->steps++;
    }
    s->uneven = s->missing->len > s->steps;
    if (!s->uneven) return;
    s->step = MAX((s->high - s->low) / (int32_t)(s->steps - 1), 1);
    g_array_set_size(s->missing, 0);
}

/* Bits that are the same in all values, before those that move, are no part of the number unless
 * they are 0. */
static void take_top(struct learnt_slider *s)
{
    uint32_t same = ~((uint32_t)s->low ^ (uint32_t)s->high);
    unsigned moves = s->bits;
    while (moves && same >> (moves - 1) & 1) moves--;
    uint32_t top = moves < 32 ? (uint32_t)s->low >> moves : 0;
    if (!top || s->is_signed || s->little) return;
    s->top_bits = s->bits - moves;
    s->top = top;
    s->bits = moves;
    s->low &= (int32_t)((1u << moves) - 1);
    s->high &= (int32_t)((1u << moves) - 1);
}

/* ---- the three kinds ---- */

/* Texts with a number. */
static bool take_text(struct learnt_slider *s, const GPtrArray *frames)
{
    GArray *all = g_array_new(FALSE, TRUE, sizeof(struct numbered));
    GArray *values = g_array_new(FALSE, FALSE, sizeof(int32_t));
    const struct numbered *usual = NULL;
    g_array_set_clear_func(all, clear_numbered);
    for (unsigned i = 0; i < frames->len; i++) {
        struct numbered n = {NULL, NULL, 0};
        bool has = read_digits(frame_at(frames, i)->said, &n);
        if (has)
            g_array_append_val(all, n);
        else if (n.before)
            clear_numbered(&n);
    }
    unsigned fit = vote_around(all, &usual);
    for (unsigned i = 0; i < all->len; i++) {
        const struct numbered *n = &g_array_index(all, struct numbered, i);
        if (g_bytes_equal(n->before, usual->before) && g_bytes_equal(n->after, usual->after))
            g_array_append_val(values, n->value);
    }
    bool ok = fit * 2 > frames->len;
    if (ok) {
        s->before = g_bytes_ref(usual->before);
        s->after = g_bytes_ref(usual->after);
        take_steps(s, values);
    }
    g_array_free(values, TRUE);
    g_array_free(all, TRUE);
    return ok;
}

/* Single characters that follow each other. */
static bool take_keys(struct learnt_slider *s, const GPtrArray *frames)
{
    GArray *values = g_array_new(FALSE, FALSE, sizeof(int32_t));
    for (unsigned i = 0; i < frames->len; i++) {
        size_t n;
        const guint8 *data = learn_data(frame_at(frames, i)->said, &n);
        int32_t value = *data;
        if (n == 1) g_array_append_val(values, value);
    }
    bool ok = values->len && values->len * 10 >= frames->len * 9;
    if (ok) {
        take_steps(s, values);
        s->keys = true;
        s->before = g_bytes_new(NULL, 0);
        s->after = g_bytes_new(NULL, 0);
    }
    g_array_free(values, TRUE);
    return ok && s->step == 1;
}

/* One way to read a number in bytes. */
struct lies {
    unsigned at, bytes;
    bool little, is_signed;
};

static int64_t number_in(const struct lies *lies, const guint8 *data)
{
    uint32_t value = 0;
    for (unsigned i = 0; i < lies->bytes; i++)
        value = value << 8 | data[lies->at + (lies->little ? lies->bytes - 1 - i : i)];
    unsigned bits = 8 * lies->bytes;
    bool negative = lies->is_signed && (value >> (bits - 1) & 1);
    return negative ? (int64_t)value - (INT64_C(1) << bits) : value;
}

static const guint8 *body(const GPtrArray *frames, unsigned i, size_t *count)
{
    return learn_data(frame_at(frames, i)->said, count);
}

/* How far it goes in all: a slider that is moved slowly goes there and back, while bytes in a wrong
 * order, and a sign that is taken for the highest bit, jump. */
static double roughness(const struct lies *lies, const GPtrArray *frames, size_t length)
{
    int64_t last = 0;
    double way = 0;
    bool any = false;
    for (unsigned i = 0; i < frames->len; i++) {
        size_t n;
        const guint8 *data = body(frames, i, &n);
        if (n != length) continue;
        int64_t value = number_in(lies, data);
        if (any) way += (double)llabs(value - last);
        last = value;
        any = true;
    }
    return way;
}

/* The first and last byte that are not the same in nearly all. */
static bool moving_bytes(const GPtrArray *frames, size_t length, unsigned *first, unsigned *last)
{
    bool any = false;
    for (unsigned at = 0; at < length; at++) {
        unsigned counts[256] = {0}, of = 0, most = 0;
        for (unsigned i = 0; i < frames->len; i++) {
            size_t n;
            const guint8 *data = body(frames, i, &n);
            if (n != length) continue;
            of++;
            counts[data[at]]++;
            most = MAX(most, counts[data[at]]);
        }
        if (most * 10 >= of * 9) continue;
        if (!any) *first = at;
        *last = at;
        any = true;
    }
    return any;
}

/* A number in bytes, where the body of a frame moves. */
static bool take_bytes(struct learnt *l, struct learnt_slider *s, const GPtrArray *frames)
{
    unsigned length, first, last;
    learn_common_length(frames, &length);
    if (!length || !moving_bytes(frames, length, &first, &last) || last - first > 3) return false;
    unsigned bytes = last - first == 2 ? 4 : last - first + 1;
    if (first + bytes > length) first = (unsigned)length - bytes;
    if (bytes > length) return false;
    struct lies best = {first, bytes, false, false};
    for (unsigned way = 1; way < 4; way++) {
        struct lies lies = {first, bytes, bytes > 1 && (way & 1), (way & 2) != 0};
        if (roughness(&lies, frames, length) < roughness(&best, frames, length) * 0.99) best = lies;
    }
    GArray *values = g_array_new(FALSE, FALSE, sizeof(int32_t));
    size_t n = 0;
    const guint8 *data = NULL;
    for (unsigned i = 0; i < frames->len; i++) {
        const guint8 *one = body(frames, i, &n);
        if (n != length) continue;
        int64_t value = number_in(&best, one);
        int32_t fits = (int32_t)CLAMP(value, INT32_MIN / 4, INT32_MAX / 4);
        data = one;
        g_array_append_val(values, fits);
    }
    take_steps(s, values);
    g_array_free(values, TRUE);
    s->bits = 8 * bytes;
    s->little = best.little;
    s->is_signed = best.is_signed;
    take_top(s);
    s->before = g_bytes_new(data, best.at);
    s->after = g_bytes_new(data + best.at + bytes, length - best.at - bytes);
    if (bytes == 1 && length > 1 && !s->top_bits)
        learn_doubt(l,
                    "%s moves one byte: a zero byte beside it may be the other half of a number "
                    "of 16 bits",
                    s->name);
    return true;
}

bool learn_slid(const struct learnt_slider *s, GBytes *said, int32_t *value)
{
    size_t n, before, after;
    const guint8 *data = learn_data(said, &n);
    const guint8 *b = learn_data(s->before, &before), *a = learn_data(s->after, &after);
    unsigned bits = s->bits + s->top_bits;
    if (!bits || n != before + after + bits / 8) return false;
    if (memcmp(data, b, before) != 0 || memcmp(data + n - after, a, after) != 0) return false;
    struct lies lies = {(unsigned)before, bits / 8, s->little, s->is_signed};
    int64_t number = number_in(&lies, data);
    if (s->top_bits && (uint32_t)number >> s->bits != s->top) return false;
    *value = (int32_t)(s->top_bits ? number & ((INT64_C(1) << s->bits) - 1) : number);
    return true;
}

void learn_slider(struct learnt *l, const char *name, const GPtrArray *frames, unsigned times)
{
    struct learnt_slider *s = g_new0(struct learnt_slider, 1);
    s->name = g_strdup(name);
    s->times = times;
    bool ok = frames->len &&
              (l->binary ? take_bytes(l, s, frames) : take_keys(s, frames) || take_text(s, frames));
    if (!ok) {
        learn_doubt(l, "%s: %s", name,
                    frames->len ? "its frames do not differ by a number" : "nothing was heard");
        learnt_slider_free(s);
        return;
    }
    g_ptr_array_add(l->sliders, s);
    if (s->steps < 3)
        learn_doubt(l, "%s: %u value%s heard: move it slowly from end to end", name, s->steps,
                    s->steps == 1 ? " was" : "s were");
    else if (s->uneven)
        learn_doubt(l,
                    "%s: %u values between %d and %d, in no even steps: its sender may scale "
                    "them",
                    name, s->steps, s->low, s->high);
    else if (s->missing->len)
        learn_doubt(l, "%s: %u of %u values between %d and %d were not heard: move it once more",
                    name, s->missing->len, s->steps + s->missing->len, s->low, s->high);
}
