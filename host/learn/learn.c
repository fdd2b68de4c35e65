/* Learns a sender from a recording: frames, what stands around them, buttons and sliders.
 * Each step works on what the one before it left, and says what is not sure.
 * It writes nothing: report.c and propose.c do. */
#include "learn/learn.h"

#include <string.h>

#include "learn/learn_parts.h"
#include "lexicon/layout/layout.h"

#define OTHERS_SHOWN 3u

void learn_doubt(struct learnt *l, const char *format, ...)
{
    va_list args;
    va_start(args, format);
    g_ptr_array_add(l->doubts, g_strdup_vprintf(format, args));
    va_end(args);
}

char *learn_text(GBytes *bytes)
{
    size_t n;
    const char *data = g_bytes_get_data(bytes, &n);
    return g_strndup(data ? data : "", n);
}

static char *hex_of(GBytes *bytes)
{
    size_t n;
    const guint8 *data = g_bytes_get_data(bytes, &n);
    return layout_hex(data, n);
}

char *learn_shown(const struct learnt *l, GBytes *bytes)
{
    size_t n;
    if (l->binary) return hex_of(bytes);
    const char *data = g_bytes_get_data(bytes, &n);
    char *visible = lex_visible(data, n), **parts = g_strsplit(visible, "\"", -1);
    char *quoted = g_strjoinv("\\\"", parts), *shown = g_strdup_printf("\"%s\"", quoted);
    g_free(quoted);
    g_strfreev(parts);
    g_free(visible);
    return shown;
}

char *learn_slides(const struct learnt *l, const struct learnt_slider *s)
{
    if (s->keys) return g_strdup_printf("\"%c\" to \"%c\"", s->low, s->high);
    if (!l->binary) {
        char *before = learn_text(s->before), *after = learn_text(s->after);
        char *text =
            g_strdup_printf("\"%s{%d..%d step %d}%s\"", before, s->low, s->high, s->step, after);
        g_free(before);
        g_free(after);
        return text;
    }
    char *before = hex_of(s->before), *after = hex_of(s->after);
    char *top = s->top_bits ? g_strdup_printf("u%u %u, ", s->top_bits, s->top) : g_strdup("");
    char *text =
        g_strdup_printf("%s [%s%c%u%s %d..%d] %s", before, top, s->is_signed ? 'i' : 'u', s->bits,
                        s->bits + s->top_bits == 8 ? ""
                        : s->little                ? " little"
                                                   : " big",
                        s->low, s->high, after);
    g_free(top);
    g_free(before);
    g_free(after);
    return g_strstrip(text);
}

/* Whether most of the frames can be read. */
static bool is_binary(const struct learnt *l)
{
    unsigned texts = 0;
    if (l->framing.frame == LEX_FRAME_STUFFED || l->framing.frame == LEX_FRAME_COBS) return true;
    for (unsigned i = 0; i < l->frames->len; i++) {
        size_t n, k = 0;
        const guint8 *data = g_bytes_get_data(((struct frame *)l->frames->pdata[i])->whole, &n);
        while (k < n && data[k] >= ' ' && data[k] <= '~') k++;
        texts += k == n;
    }
    return texts * 2 < l->frames->len;
}

/* Bytes that cannot be in a text are damage. */
static void drop_unreadable(struct learnt *l)
{
    for (unsigned i = 0; i < l->frames->len; i++) {
        struct frame *f = l->frames->pdata[i];
        size_t n;
        const guint8 *data = g_bytes_get_data(f->whole, &n);
        for (size_t k = 0; k < n; k++) f->damaged |= data[k] < ' ' || data[k] > '~';
    }
}

static void doubt_framing(struct learnt *l)
{
    const struct learnt_framing *f = &l->framing;
    if (!f->found)
        learn_doubt(l, "nothing shows where a frame ends: no silence and no byte between them");
    else if (f->of < 3)
        learn_doubt(l, "%u frame%s: record more, to be sure how they end", f->of,
                    f->of == 1 ? " was heard" : "s were heard");
    if (f->found && f->frame == LEX_FRAME_GAP && !l->binary && l->frames->len > 1)
        learn_doubt(l, "nothing but a silence ends a frame: has the sender a setting for a line "
                       "end?");
    if (l->recording->noise * 50 > l->recording->bytes->len)
        learn_doubt(l, "%u bytes came damaged: is the baud rate right?", l->recording->noise);
}

/* ---- what none of it is ---- */

static bool is_of_button(const struct learnt *l, GBytes *said)
{
    bool found = l->idle && g_bytes_equal(l->idle, said);
    for (unsigned i = 0; i < l->buttons->len && !found; i++) {
        const struct learnt_button *b = l->buttons->pdata[i];
        for (unsigned p = 0; p < PHASES; p++)
            found |= b->phase[p].bytes && g_bytes_equal(b->phase[p].bytes, said);
    }
    return found;
}

/* What stands around the number is right: the number itself may be damaged. */
static bool is_of_slider(const struct learnt *l, GBytes *said)
{
    size_t n, before, after;
    const char *data = g_bytes_get_data(said, &n);
    bool found = false;
    for (unsigned i = 0; i < l->sliders->len; i++) {
        const struct learnt_slider *s = l->sliders->pdata[i];
        const char *b = g_bytes_get_data(s->before, &before);
        const char *a = g_bytes_get_data(s->after, &after);
        found |= n > before + after && (!before || !memcmp(data, b, before)) &&
                 (!after || !memcmp(data + n - after, a, after));
    }
    return found;
}

/* Frames that came whole and are nothing that was learnt: bytes of them were lost, or somebody used
 * what was not recorded. */
static void doubt_others(struct learnt *l)
{
    GHashTable *seen = g_hash_table_new(g_bytes_hash, g_bytes_equal);
    GString *some = g_string_new(NULL);
    for (unsigned i = 0; i < l->frames->len; i++) {
        const struct frame *f = l->frames->pdata[i];
        if (f->damaged || is_of_button(l, f->said) || is_of_slider(l, f->said)) continue;
        l->others++;
        if (!g_hash_table_add(seen, f->said) || g_hash_table_size(seen) > OTHERS_SHOWN) continue;
        char *shown = learn_shown(l, f->said);
        g_string_append_printf(some, "%s%s", some->len ? ", " : "", shown);
        g_free(shown);
    }
    if (l->others)
        learn_doubt(l, "%u frame%s nothing of this: %s%s", l->others,
                    l->others == 1 ? " is" : "s are", some->str,
                    g_hash_table_size(seen) > OTHERS_SHOWN ? ", ..." : "");
    g_string_free(some, TRUE);
    g_hash_table_unref(seen);
}

static void stick_free(void *stick)
{
    g_free(((struct learnt_stick *)stick)->name);
    g_free(stick);
}

struct learnt *learn(const struct recording *r, const struct learnt *known)
{
    struct learnt *l = g_new0(struct learnt, 1);
    l->recording = r;
    l->doubts = g_ptr_array_new_with_free_func(g_free);
    l->buttons = g_ptr_array_new();
    l->sliders = g_ptr_array_new();
    l->sticks = g_ptr_array_new_with_free_func(stick_free);
    l->envelope = (struct learnt_envelope){-1, -1, false, false, 0, 0};
    if (r->bytes->len)
        l->span_us = g_array_index(r->bytes, struct heard, r->bytes->len - 1).at_us -
                     g_array_index(r->bytes, struct heard, 0).at_us;
    learn_framing(l, known ? &known->framing : NULL);
    l->binary = known ? known->binary : is_binary(l);
    doubt_framing(l);
    if (l->binary) {
        learn_layout(l, known ? &known->layout : NULL);
    } else {
        drop_unreadable(l);
        learn_envelope(l, known ? &known->envelope : NULL);
    }
    uint64_t every_us = 0;
    bool stream = learn_is_stream(l, &every_us);
    if (!stream || !learn_sticks(l, every_us)) {
        learn_gestures(l);
        doubt_others(l);
    }
    if (stream && !l->channels.found)
        learn_doubt(l,
                    "a frame comes every %.3g ms, whether the sender is used or not: if it is a "
                    "radio control, move one stick or switch at a time",
                    (double)every_us / 1000);
    for (unsigned i = 0; i < l->frames->len; i++)
        l->damaged += ((struct frame *)l->frames->pdata[i])->damaged;
    return l;
}

static void button_free(struct learnt_button *b)
{
    for (unsigned i = 0; i < PHASES; i++)
        if (b->phase[i].bytes) g_bytes_unref(b->phase[i].bytes);
    g_free(b->name);
    g_free(b);
}

void learnt_slider_free(void *slider)
{
    struct learnt_slider *s = slider;
    if (s->before) g_bytes_unref(s->before);
    if (s->after) g_bytes_unref(s->after);
    if (s->missing) g_array_free(s->missing, TRUE);
    g_free(s->name);
    g_free(s);
}

void learnt_free(struct learnt *l)
{
    if (!l) return;
    for (unsigned i = 0; i < l->buttons->len; i++) button_free(l->buttons->pdata[i]);
    for (unsigned i = 0; i < l->sliders->len; i++) learnt_slider_free(l->sliders->pdata[i]);
    g_ptr_array_free(l->buttons, TRUE);
    g_ptr_array_free(l->sliders, TRUE);
    g_ptr_array_free(l->sticks, TRUE);
    g_ptr_array_free(l->frames, TRUE);
    g_ptr_array_free(l->doubts, TRUE);
    if (l->idle) g_bytes_unref(l->idle);
    g_free(l);
}
