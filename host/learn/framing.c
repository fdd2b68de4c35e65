/* Finds how the frames of a recording end, and cuts it into them.
 * A silence that stands out comes first; then what stands at the end of what is between silences.
 * It does not look into the frames. */
#include <math.h>
#include <string.h>

#include "learn/learn_parts.h"

#define LEAST_US   UINT64_C(300) /* a shorter silence ends nothing */
#define USUAL_BAUD 9600          /* where it is not known */
#define CLEARLY    3             /* times longer than the longest one within a frame */

/* Nine of ten, and at least one. */
static bool is_most(unsigned fit, unsigned of)
{
    return fit && fit * 10 >= of * 9 - MIN(of, 9);
}

/* ---- silences ---- */

int learn_compare_us(const void *a, const void *b)
{
    uint64_t x = *(const uint64_t *)a, y = *(const uint64_t *)b;
    return x < y ? -1 : x > y;
}

static uint64_t least_silence(const struct recording *r)
{
    unsigned baud = r->baud ? r->baud : USUAL_BAUD;
    uint64_t byte_us = lex_format_bits(&r->format) * UINT64_C(1000000) / baud;
    return MAX(MAX(LEAST_US, r->clock_us), 3 * byte_us);
}

/* Each byte stands alone, and none of them ends a line. */
static bool is_single(const GArray *gaps, uint64_t least, unsigned line_ends)
{
    unsigned within = 0;
    for (unsigned i = 1; i < gaps->len; i++) within += g_array_index(gaps, uint64_t, i) <= least;
    return gaps->len > 1 && within * 10 < gaps->len && line_ends * 20 < gaps->len;
}

/* The silence that ends a frame: between two that are clearly different in length, where the
 * lengths of all are most apart. 0: none. */
static uint64_t silence_of(const struct recording *r)
{
    const struct heard *all = (const struct heard *)r->bytes->data;
    GArray *gaps = g_array_new(FALSE, FALSE, sizeof(uint64_t));
    uint64_t least = least_silence(r), found = 0;
    double most = CLEARLY;
    unsigned line_ends = 0;
    g_array_append_val(gaps, least);
    for (unsigned i = 1; i < r->bytes->len; i++) {
        uint64_t gap = MAX(all[i].at_us - all[i - 1].at_us, least);
        g_array_append_val(gaps, gap);
        line_ends += all[i].byte == '\r' || all[i].byte == '\n';
    }
    g_array_sort(gaps, learn_compare_us);
    bool single = is_single(gaps, least, line_ends);
    if (single) found = least;
    for (unsigned i = 1; i < gaps->len && !single; i++) {
        double low = (double)g_array_index(gaps, uint64_t, i - 1);
        double high = (double)g_array_index(gaps, uint64_t, i);
        if (high / low <= most) continue;
        most = high / low;
        found = (uint64_t)sqrt(low * high);
    }
    g_array_free(gaps, TRUE);
    return found;
}

/* ---- frames ---- */

struct cutter {
    struct learnt *l;
    GByteArray *bytes; /* of the frame that goes on */
    uint64_t from_us, to_us;
};

static void frame_free(void *p)
{
    struct frame *f = p;
    g_bytes_unref(f->whole);
    g_bytes_unref(f->said);
    g_free(f);
}

static void cut(struct cutter *c, bool damaged)
{
    if (!c->bytes->len) return;
    struct frame *f = g_new0(struct frame, 1);
    *f = (struct frame){c->from_us, c->to_us, g_bytes_new(c->bytes->data, c->bytes->len),
                        NULL,       damaged,  false};
    f->said = g_bytes_ref(f->whole);
    g_ptr_array_add(c->l->frames, f);
    g_byte_array_set_size(c->bytes, 0);
}

static void grow(struct cutter *c, const struct heard *one)
{
    if (!c->bytes->len) c->from_us = one->at_us;
    c->to_us = one->at_us;
    g_byte_array_append(c->bytes, &one->byte, 1);
}

/* Ends at silences and packets, and at each byte of `ends`, which is dropped. What a silence ends
 * is then damaged. */
static void cut_all(struct learnt *l, const char *ends, size_t n_ends, bool each)
{
    const bool packets = l->framing.frame != LEX_FRAME_REPORT; /* a line goes on in the next one */
    const struct recording *r = l->recording;
    const struct heard *all = (const struct heard *)r->bytes->data;
    const uint64_t silence = l->framing.silence_us;
    struct cutter c = {l, g_byte_array_new(), 0, 0};
    g_ptr_array_set_size(l->frames, 0);
    for (unsigned i = 0; i < r->bytes->len; i++) {
        bool is_end = memchr(ends, all[i].byte, n_ends) != NULL;
        bool quiet = i && silence && all[i].at_us - all[i - 1].at_us > silence;
        if (quiet || (packets && all[i].packet)) cut(&c, n_ends && !each && !all[i].packet);
        if (is_end)
            cut(&c, false);
        else
            grow(&c, &all[i]);
        if (each) cut(&c, false);
    }
    cut(&c, n_ends && !each);
    g_byte_array_free(c.bytes, TRUE);
}

/* ---- what stands at the end ---- */

/* The last byte of most frames; how many have it. */
static unsigned last_of(const struct learnt *l, guint8 *byte)
{
    unsigned counts[256] = {0}, best = 0;
    for (unsigned i = 0; i < l->frames->len; i++) {
        size_t n;
        const guint8 *data = learn_data(frame_at(l->frames, i)->whole, &n);
        counts[data[n - 1]]++;
    }
    for (unsigned b = 1; b < 256; b++)
        if (counts[b] > counts[best]) best = b;
    *byte = (guint8)best;
    return counts[best];
}

unsigned learn_common_length(const GPtrArray *frames, unsigned *length)
{
    unsigned counts[256] = {0}, best = 0;
    for (unsigned i = 0; i < frames->len; i++)
        counts[MIN(g_bytes_get_size(frame_at(frames, i)->said), 255)]++;
    for (unsigned n = 1; n < 255; n++)
        if (counts[n] > counts[best]) best = n;
    *length = best;
    return counts[best];
}

/* How many bytes at the end are this one. */
static size_t run_of(GBytes *bytes, guint8 pad)
{
    size_t n, run = 0;
    const guint8 *data = learn_data(bytes, &n);
    while (run < n && data[n - 1 - run] == pad) run++;
    return run;
}

/* Frames of one length, filled up with one character: the fills have two lengths or more. */
static bool is_fixed(struct learnt *l)
{
    unsigned length, fit = learn_common_length(l->frames, &length), filled = 0;
    size_t longest = 0, shortest = SIZE_MAX;
    guint8 pad;
    last_of(l, &pad);
    if (length < 3 || fit * 2 < l->frames->len) return false;
    for (unsigned i = 0; i < l->frames->len; i++) {
        GBytes *whole = frame_at(l->frames, i)->whole;
        if (g_bytes_get_size(whole) > length) return false;
        if (g_bytes_get_size(whole) < length) continue; /* bytes of it were lost */
        size_t run = run_of(whole, pad);
        filled += run >= 2;
        longest = MAX(longest, run);
        shortest = MIN(shortest, run);
        size_t n;
        const guint8 *data = learn_data(whole, &n);
        for (size_t k = 0; k < n - run; k++)
            if (data[k] < ' ' || data[k] > '~') return false;
    }
    if (filled * 2 < fit || (longest == shortest && longest < 3)) return false;
    l->framing.frame = LEX_FRAME_FIXED;
    l->framing.character = (char)pad;
    l->framing.length = length;
    return true;
}

/* By RFC 1662: 0x7D before a byte whose bit 5 is then changed. NULL: no such bytes. */
static GBytes *unstuffed(GBytes *bytes)
{
    size_t n;
    const guint8 *data = learn_data(bytes, &n);
    GByteArray *out = g_byte_array_new();
    for (size_t i = 0; i < n; i++) {
        bool escape = data[i] == 0x7D;
        if (escape && ++i == n) break;
        guint8 byte = escape ? data[i] ^ 0x20 : data[i];
        g_byte_array_append(out, &byte, 1);
    }
    if (n && data[n - 1] == 0x7D) g_byte_array_set_size(out, 0);
    if (out->len) return g_byte_array_free_to_bytes(out);
    g_byte_array_free(out, TRUE);
    return NULL;
}

/* Consistent overhead byte stuffing, without the zero at its end. NULL: no such bytes. */
static GBytes *uncobbed(GBytes *bytes)
{
    size_t n;
    const guint8 *data = learn_data(bytes, &n);
    GByteArray *out = g_byte_array_new();
    bool ok = true;
    for (size_t i = 0; i < n && ok;) {
        size_t code = data[i++];
        ok = code && i + code - 1 <= n;
        if (!ok) break;
        g_byte_array_append(out, data + i, (guint)code - 1);
        i += code - 1;
        if (code < 255 && i < n) g_byte_array_append(out, (const guint8 *)"", 1);
    }
    if (ok && out->len) return g_byte_array_free_to_bytes(out);
    g_byte_array_free(out, TRUE);
    return NULL;
}

/* Each frame taken out of its bytes; how many could be. */
static unsigned unwrap(struct learnt *l, GBytes *(*out)(GBytes *bytes), bool keep)
{
    unsigned fit = 0;
    for (unsigned i = 0; i < l->frames->len; i++) {
        struct frame *f = l->frames->pdata[i];
        GBytes *inside = out(f->whole);
        fit += inside != NULL;
        if (keep && !inside) f->damaged = true;
        if (keep && inside) {
            g_bytes_unref(f->whole);
            g_bytes_unref(f->said);
            f->whole = g_bytes_ref(inside);
            f->said = g_bytes_ref(inside);
        }
        if (inside) g_bytes_unref(inside);
    }
    return fit;
}

/* Frames that begin and end with this byte, or only end. */
static unsigned framed_by(const struct learnt *l, guint8 byte, bool begin)
{
    unsigned fit = 0;
    for (unsigned i = 0; i < l->frames->len; i++) {
        size_t n;
        const guint8 *data = learn_data(frame_at(l->frames, i)->whole, &n);
        fit += n > 2 && (!begin || data[0] == byte) && data[n - 1] == byte;
    }
    return fit;
}

static bool is_stuffed(struct learnt *l)
{
    unsigned of = l->frames->len;
    if (!is_most(framed_by(l, 0x7E, true), of)) return false;
    l->framing.frame = LEX_FRAME_STUFFED;
    return true;
}

static bool is_cobs(struct learnt *l)
{
    if (!is_most(framed_by(l, 0, false), l->frames->len)) return false;
    cut_all(l, "", 1, false);
    unsigned fit = unwrap(l, uncobbed, false);
    bool ok = fit * 10 >= l->frames->len * 7; /* a lost byte anywhere makes it none */
    cut_all(l, "", 0, false);
    if (ok) l->framing.frame = LEX_FRAME_COBS;
    return ok;
}

static unsigned count_whole(const struct learnt *l)
{
    unsigned n = 0;
    for (unsigned i = 0; i < l->frames->len; i++) n += !frame_at(l->frames, i)->damaged;
    return n;
}

/* What the bytes of the recording are. */
struct tally {
    unsigned texts, ends, cr, lf, both; /* both: a CR before a LF */
};

/* `end`: what ends a frame, perhaps. */
static struct tally tally(const struct recording *r, guint8 end)
{
    const struct heard *all = (const struct heard *)r->bytes->data;
    struct tally n = {0};
    for (unsigned i = 0; i < r->bytes->len; i++) {
        guint8 byte = all[i].byte;
        n.texts += byte >= ' ' && byte <= '~';
        n.ends += byte == end;
        n.cr += byte == '\r';
        n.lf += byte == '\n';
        n.both += i && byte == '\n' && all[i - 1].byte == '\r';
    }
    return n;
}

/* Of fifty bytes one may be damaged. */
static bool is_text(const struct recording *r, unsigned texts)
{
    return texts * 50 >= r->bytes->len * 49;
}

/* Lines of text. Who types them, or reads them in pieces, has silences within them: then it takes a
 * line end to end one. */
static bool is_line(struct learnt *l)
{
    struct tally n = tally(l->recording, '\n');
    unsigned lines = MAX(n.cr, n.lf), quiet = 0;
    if (!is_text(l->recording, n.texts + n.cr + n.lf) || lines * 2 < l->frames->len) return false;
    for (unsigned i = 0; i < l->frames->len; i++) {
        size_t count;
        const guint8 *data = learn_data(frame_at(l->frames, i)->whole, &count);
        quiet += data[count - 1] == '\r' || data[count - 1] == '\n';
    }
    l->framing.end = n.both * 2 > lines ? LEX_END_CRLF : n.cr > n.lf ? LEX_END_CR : LEX_END_LF;
    l->framing.frame = LEX_FRAME_LINE;
    if (!is_most(quiet, l->frames->len)) l->framing.silence_us = 0;
    return true;
}

/* Texts with one and the same character behind each. */
static bool is_ended(struct learnt *l)
{
    guint8 last;
    unsigned fit = last_of(l, &last), of = l->frames->len;
    struct tally n = tally(l->recording, last);
    bool seen = last >= ' ' && last <= '~';
    if (!is_most(fit, of) || last == ' ') return false;
    if (!is_text(l->recording, n.texts + (seen ? 0 : n.ends)) || last >= 0x80) return false;
    if (g_ascii_isalnum(last)) {
        if (of > 2 && fit == of)
            learn_doubt(l,
                        "each frame ends with '%c': if that is no part of the text, write frame "
                        "ended \"%c\"",
                        last, last);
        return false;
    }
    l->framing.character = (char)last;
    l->framing.frame = LEX_FRAME_ENDED;
    return true;
}

static bool is_keys(struct learnt *l)
{
    unsigned length, fit = learn_common_length(l->frames, &length);
    if (length != 1 || !is_most(fit, l->frames->len)) return false;
    l->framing.frame = LEX_FRAME_KEYS;
    return true;
}

/* ---- all of it ---- */

/* Takes off what fills frames of one length. */
static void take_off_fill(struct learnt *l)
{
    for (unsigned i = 0; i < l->frames->len; i++) {
        struct frame *f = l->frames->pdata[i];
        size_t n = g_bytes_get_size(f->whole);
        size_t left = n - run_of(f->whole, (guint8)l->framing.character);
        f->damaged = n != l->framing.length || !left;
        GBytes *said = g_bytes_new_from_bytes(f->whole, 0, left);
        g_bytes_unref(f->whole);
        g_bytes_unref(f->said);
        f->whole = said;
        f->said = g_bytes_ref(said);
    }
}

/* By the framing that was found. */
static void cut_frames(struct learnt *l)
{
    struct learnt_framing *f = &l->framing;
    if (f->frame == LEX_FRAME_REPORT)
        cut_all(l, "\r\n", 3, false); /* zeros fill the rest */
    else if (f->frame == LEX_FRAME_LINE || f->frame == LEX_FRAME_KEYS)
        cut_all(l, "\r\n", 2, f->frame == LEX_FRAME_KEYS);
    else if (f->frame == LEX_FRAME_ENDED)
        cut_all(l, &f->character, 1, false);
    else if (f->frame == LEX_FRAME_STUFFED)
        cut_all(l, "\x7E", 1, false);
    else
        cut_all(l, "", f->frame == LEX_FRAME_COBS, false);
    if (f->frame == LEX_FRAME_STUFFED) unwrap(l, unstuffed, true);
    if (f->frame == LEX_FRAME_COBS) unwrap(l, uncobbed, true);
    if (f->frame == LEX_FRAME_FIXED) take_off_fill(l);
    f->fit = count_whole(l);
    f->of = l->frames->len;
}

void learn_framing(struct learnt *l, const struct learnt_framing *known)
{
    const enum lex_medium medium = l->recording->medium;
    struct learnt_framing *f = &l->framing;
    l->frames = g_ptr_array_new_with_free_func(frame_free);
    if (known) {
        *f = *known;
    } else {
        bool packets = medium == LEX_RADIO || medium == LEX_REPORT;
        f->frame = medium == LEX_REPORT ? LEX_FRAME_REPORT
                   : packets            ? LEX_FRAME_PACKET
                                        : LEX_FRAME_GAP;
        f->silence_us = packets ? 0 : silence_of(l->recording);
        cut_all(l, "", 0, false);
        if (medium == LEX_RADIO) is_fixed(l);
        f->found = packets || is_line(l) || is_keys(l) || is_stuffed(l) || is_cobs(l) ||
                   is_fixed(l) || is_ended(l) || f->silence_us;
    }
    cut_frames(l);
}
