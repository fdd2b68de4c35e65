/* Finds what stands around the body of binary frames: constants, a length, a counter, a check.
 * Checks are tried, published ones and sums; what fits most frames is taken, and says how surely.
 * Which command a body is, and where its value lies, is found elsewhere. */
#include "lexicon/layout/layout.h"

#include <string.h>

#include "learn/learn_parts.h"
#include "rlx/image.h"

#define SKIPPED_MOST 4u   /* bytes before those that a check covers */
#define ENDS_MOST    2u   /* constant bytes behind a check */
#define TRIED_MOST   400u /* frames that a check is tried on... */
#define LENGTH_MOST  256u /* ...and bytes of the longest one */
#define LIKELY_BITS  8u   /* bits of evidence: a wrong check fits once in 256 recordings... */
#define SURE_BITS    24u  /* ...and one that is called sure once in 2^24 */

/* ---- the check ---- */

/* One that is tried: its field, and where it lies. */
struct trial {
    struct lex_field field;
    unsigned skipped, ends;
    unsigned fit, of, distinct;
};

static bool fits(const struct trial *t, const guint8 *data, size_t n)
{
    size_t width = t->field.bits / 8;
    if (n < t->skipped + width + t->ends + 1) return false;
    size_t covered = n - t->ends - width;
    uint32_t sum = layout_sum(&t->field, data + t->skipped, covered - t->skipped), there = 0;
    for (size_t i = 0; i < width; i++)
        there |= (uint32_t)data[covered + i] << 8 * (t->field.little ? i : width - 1 - i);
    return sum == there;
}

/* How many frames it fits, and how many different bytes it covers there: those that are the same in
 * all frames show nothing. */
static void try(const struct learnt *l, struct trial *t)
{
    GHashTable *seen =
        g_hash_table_new_full(g_bytes_hash, g_bytes_equal, (GDestroyNotify)g_bytes_unref, NULL);
    t->fit = t->of = 0;
    for (unsigned i = 0; i < l->frames->len && t->of < TRIED_MOST; i++) {
        const struct frame *f = frame_at(l->frames, i);
        size_t n;
        const guint8 *data = learn_data(f->whole, &n);
        if (n > LENGTH_MOST) continue;
        t->of++;
        if (!fits(t, data, n)) continue;
        t->fit++;
        g_hash_table_add(seen,
                         g_bytes_new_from_bytes(f->whole, t->skipped, n - t->skipped - t->ends));
    }
    t->distinct = g_hash_table_size(seen);
    g_hash_table_unref(seen);
}

/* Whether the chance that a wrong one fits is below 1 in 2^bits. */
static bool is_shown(const struct trial *t, unsigned bits)
{
    return t->distinct > 1 && (t->distinct - 1) * t->field.bits >= bits;
}

static bool is_better(const struct trial *a, const struct trial *b)
{
    if (a->fit != b->fit) return a->fit > b->fit;
    if (a->field.bits != b->field.bits) /* a wide sum is a narrow one behind a zero */
        return (a->field.bits > b->field.bits) == (a->field.what == RLX_FLD_CRC);
    if (a->ends != b->ends) return a->ends < b->ends;
    return a->skipped < b->skipped;
}

/* At each place where it could lie. */
static void try_places(const struct learnt *l, struct lex_field field, struct trial *best)
{
    for (unsigned ends = 0; ends <= ENDS_MOST; ends++)
        for (unsigned skipped = 0; skipped <= SKIPPED_MOST; skipped++)
            for (unsigned little = 0; little < (field.bits > 8 ? 2u : 1u); little++) {
                struct trial t = {field, skipped, ends, 0, 0, 0};
                t.field.little = little;
                try(l, &t);
                if (is_better(&t, best)) *best = t;
            }
}

static struct trial find_check(const struct learnt *l)
{
    struct trial best = {.skipped = UINT_MAX};
    for (unsigned sum = RLX_SUM_PLAIN; sum <= RLX_SUM_NEGATED; sum++)
        for (unsigned bits = 8; bits <= 16; bits += 8)
            try_places(l, (struct lex_field){.what = RLX_FLD_SUM, .bits = bits, .sum = sum}, &best);
    try_places(l, (struct lex_field){.what = RLX_FLD_XOR, .bits = 8}, &best);
    for (unsigned i = 0; i < lex_n_sums; i++)
        try_places(
            l,
            (struct lex_field){.what = RLX_FLD_CRC, .bits = lex_sums[i].bits, .crc = &lex_sums[i]},
            &best);
    return best;
}

/* ---- what stands at a place in all frames ---- */

/* Of the frames that are whole: the byte at a place from the front, or from the back. */
static int byte_at(const struct frame *f, unsigned at, bool back)
{
    size_t n;
    const guint8 *data = learn_data(f->whole, &n);
    return at < n ? data[back ? n - 1 - at : at] : -1;
}

/* Without a check some of the frames are damaged ones: one of ten may have another byte. */
static bool is_constant(const struct learnt *l, unsigned at, bool back, int *value)
{
    unsigned counts[256] = {0}, of = 0, best = 0;
    for (unsigned i = 0; i < l->frames->len; i++) {
        const struct frame *f = frame_at(l->frames, i);
        int byte = f->damaged ? -1 : byte_at(f, at, back);
        of += !f->damaged;
        if (byte >= 0) counts[byte]++;
    }
    for (unsigned b = 1; b < 256; b++)
        if (counts[b] > counts[best]) best = b;
    *value = (int)best;
    return of && counts[best] * 10 >= of * (l->layout.check.bits ? 10 : 9);
}

/* How much longer than this byte a frame is; -1: it is no length. */
static int more_than(const struct frame *f, unsigned at)
{
    size_t n;
    learn_data(f->whole, &n);
    int byte = byte_at(f, at, false), less = (int)n - byte;
    return byte >= 0 && less >= 0 && less < (int)LEARN_AROUND ? less : -1;
}

/* It counts the frame, less the same in each; the frames have two lengths or more. A lost zero byte
 * passes a sum: nine of ten frames are enough, and the others are damaged. */
static bool is_length(const struct learnt *l, unsigned at, int *less)
{
    unsigned counts[LEARN_AROUND] = {0}, of = 0, best = 0;
    size_t shortest = SIZE_MAX, longest = 0;
    for (unsigned i = 0; i < l->frames->len; i++) {
        const struct frame *f = frame_at(l->frames, i);
        of += !f->damaged;
        if (!f->damaged && more_than(f, at) >= 0) counts[more_than(f, at)]++;
    }
    for (unsigned n = 1; n < LEARN_AROUND; n++)
        if (counts[n] > counts[best]) best = n;
    *less = (int)best;
    for (unsigned i = 0; i < l->frames->len; i++) {
        const struct frame *f = frame_at(l->frames, i);
        size_t n = g_bytes_get_size(f->whole);
        if (f->damaged || more_than(f, at) != *less) continue;
        shortest = MIN(shortest, n);
        longest = MAX(longest, n);
    }
    return counts[best] * 10 >= of * 9 && shortest < longest;
}

/* A length that is found first shows frames that are damaged. */
static void drop_wrong_lengths(struct learnt *l)
{
    int less;
    for (unsigned at = 0; at < SKIPPED_MOST; at++) {
        if (!is_length(l, at, &less)) continue;
        for (unsigned i = 0; i < l->frames->len; i++) {
            struct frame *f = l->frames->pdata[i];
            f->damaged |= more_than(f, at) != less;
        }
        return;
    }
}

/* One more with each frame; frames that were lost, and ones that came again, are a fifth. Of two
 * bytes: `step` leads to the low one, and the high one has to move with it. */
static bool is_number(const struct learnt *l, unsigned at, bool back, int step)
{
    int last = -1;
    int carries = 0; /* less those that are none */
    unsigned steps = 0, ones = 0;
    for (unsigned i = 0; i < l->frames->len; i++) {
        const struct frame *f = frame_at(l->frames, i);
        if (f->damaged) continue;
        int high = byte_at(f, at, back), low = step ? byte_at(f, at + (unsigned)step, back) : 0;
        int value = step ? high << 8 | low : high;
        if (high < 0 || low < 0) return false;
        bool one = last >= 0 && ((value - last) & (step ? 0xFFFF : 0xFF)) == 1;
        if (last >= 0) steps++, ones += one;
        if (step && last >= 0 && last >> 8 != high) carries += one ? 1 : -1;
        last = value;
    }
    return steps >= 4 && ones * 5 >= steps * 4 && (!step || carries > 0);
}

/* At a place and the one behind it. */
static bool is_wide(const struct learnt *l, unsigned at, bool back, enum byte_kind *kind)
{
    *kind = BYTE_BIG; /* from behind, the first one that is met is the low one of these */
    if (is_number(l, back ? at + 1 : at, back, back ? -1 : 1)) return true;
    *kind = BYTE_LITTLE;
    return is_number(l, back ? at : at + 1, back, back ? 1 : -1);
}

static unsigned shortest_of(const struct learnt *l)
{
    size_t shortest = 0;
    for (unsigned i = 0; i < l->frames->len; i++) {
        size_t n = g_bytes_get_size(frame_at(l->frames, i)->whole);
        if (!frame_at(l->frames, i)->damaged && (!shortest || n < shortest)) shortest = n;
    }
    return (unsigned)shortest;
}

/* All that is no body from one end on, up to `most` bytes. */
static unsigned take_around(const struct learnt *l, bool back, unsigned from, unsigned most,
                            struct learnt_byte *bytes)
{
    unsigned n = 0;
    for (; n < MIN(most, LEARN_AROUND); n++) {
        struct learnt_byte *b = &bytes[n];
        unsigned at = from + n;
        enum byte_kind wide;
        if (is_constant(l, at, back, &b->value))
            b->kind = BYTE_CONSTANT;
        else if (!back && is_length(l, at, &b->value))
            b->kind = BYTE_LENGTH;
        else if (n + 1 < MIN(most, LEARN_AROUND) && is_wide(l, at, back, &wide)) {
            b[0].kind = back ? BYTE_SECOND : wide;
            b[1].kind = back ? wide : BYTE_SECOND;
            n++;
        } else if (is_number(l, at, back, 0))
            b->kind = BYTE_NUMBER;
        else
            break;
    }
    return n;
}

static void reverse(struct learnt_byte *bytes, unsigned n)
{
    for (unsigned i = 0; i < n / 2; i++) {
        struct learnt_byte b = bytes[i];
        bytes[i] = bytes[n - 1 - i];
        bytes[n - 1 - i] = b;
    }
}

/* ---- all of it ---- */

static void take_check(struct learnt *l, const struct trial *check)
{
    struct learnt_layout *y = &l->layout;
    y->check = check->field;
    y->skipped = check->skipped;
    y->of = l->frames->len;
    y->distinct = check->distinct;
    y->n_end = check->ends;
    for (unsigned i = 0; i < l->frames->len; i++) {
        struct frame *f = l->frames->pdata[i];
        size_t n;
        const guint8 *data = learn_data(f->whole, &n);
        f->damaged = !fits(check, data, n);
        y->fit += !f->damaged;
    }
    take_around(l, true, 0, y->n_end, y->end);
    reverse(y->end, y->n_end);
    if (!is_shown(check, SURE_BITS))
        learn_doubt(l,
                    "the check fits %u different frames: record more buttons or values, to be "
                    "sure that it is this one",
                    check->distinct);
}

/* What stands between head and tail is the body. */
static void take_bodies(struct learnt *l)
{
    const struct learnt_layout *y = &l->layout;
    unsigned behind = y->n_tail + y->check.bits / 8 + y->n_end;
    for (unsigned i = 0; i < l->frames->len; i++) {
        struct frame *f = l->frames->pdata[i];
        size_t n;
        learn_data(f->whole, &n);
        if (n < y->n_head + behind) f->damaged = true;
        if (f->damaged) continue;
        g_bytes_unref(f->said);
        f->said = g_bytes_new_from_bytes(f->whole, y->n_head, n - y->n_head - behind);
    }
}

/* A body needs a byte: the last ones of the head become it. */
static void leave_body(struct learnt *l, unsigned shortest)
{
    struct learnt_layout *y = &l->layout;
    unsigned behind = y->n_tail + y->check.bits / 8 + y->n_end;
    while (y->n_head && y->n_head + behind >= shortest &&
           y->head[y->n_head - 1].kind == BYTE_CONSTANT)
        y->n_head--;
}

/* Frames of one length do not show which byte counts them. */
static void doubt_length(struct learnt *l, unsigned shortest)
{
    const struct learnt_layout *y = &l->layout;
    for (unsigned i = 0; i < y->n_head; i++) {
        const struct learnt_byte *b = &y->head[i];
        if (b->kind == BYTE_LENGTH) return;
        if (b->kind != BYTE_CONSTANT ||
            (b->value != (int)shortest && b->value != (int)(shortest - i - 1)))
            continue;
        learn_doubt(l,
                    "byte %u is %02X, and may be a length: all frames have %u bytes. Record one "
                    "of another length",
                    i, (unsigned)b->value, shortest);
        return;
    }
}

static void find(struct learnt *l)
{
    struct learnt_layout *y = &l->layout;
    struct trial check = find_check(l);
    if (check.fit * 4 >= check.of * 3 && is_shown(&check, LIKELY_BITS))
        take_check(l, &check);
    else
        learn_doubt(l, "no check was found: %s",
                    l->frames->len < 3 ? "record more frames" : "damaged frames are obeyed");
    drop_wrong_lengths(l);
    unsigned shortest = shortest_of(l), behind = y->check.bits / 8 + y->n_end;
    unsigned most = shortest > behind ? shortest - behind : 0;
    y->n_head = take_around(l, false, 0, most, y->head);
    y->n_tail = take_around(l, true, behind, most - y->n_head, y->tail);
    reverse(y->tail, y->n_tail);
    for (unsigned i = 0; i < y->n_tail; i++)
        if (y->tail[i].kind == BYTE_CONSTANT && !y->check.bits) { /* more likely of the body */
            y->n_tail = 0;
            break;
        }
    leave_body(l, shortest);
    doubt_length(l, shortest);
}

/* Whether what stands around its body is so. */
static bool has_around(const struct learnt_layout *y, const struct frame *f)
{
    size_t n;
    const guint8 *data = learn_data(f->whole, &n);
    unsigned behind = y->n_tail + y->check.bits / 8 + y->n_end;
    bool ok = n > y->n_head + behind;
    for (unsigned i = 0; i < y->n_head && ok; i++) {
        const struct learnt_byte *b = &y->head[i];
        if (b->kind == BYTE_CONSTANT) ok = data[i] == b->value;
        if (b->kind == BYTE_LENGTH) ok = more_than(f, i) == b->value;
    }
    for (unsigned i = 0; i < y->n_tail && ok; i++)
        if (y->tail[i].kind == BYTE_CONSTANT) ok = data[n - behind + i] == y->tail[i].value;
    struct trial check = {y->check, y->skipped, y->n_end, 0, 0, 0};
    return ok && (!y->check.bits || fits(&check, data, n));
}

void learn_layout(struct learnt *l, const struct learnt_layout *known)
{
    if (known) {
        l->layout = *known;
        l->layout.fit = 0;
        l->layout.of = l->frames->len;
        for (unsigned i = 0; i < l->frames->len; i++) {
            struct frame *f = l->frames->pdata[i];
            f->damaged |= !has_around(known, f);
            l->layout.fit += !f->damaged;
        }
    } else {
        find(l);
    }
    take_bodies(l);
    l->layout.found = true;
}
