/* Writes a lexicon for a sender that was learnt: its link, commands for what it says, its handset.
 * Texts that begin alike become one command; bytes become rows of a layout.
 * What each command does is left to functions: whoever knows the board puts outputs there. */
#include <string.h>

#include "lexicon/layout/layout.h"
#include "learn/learn_parts.h"
#include "rlx/image.h"

struct writing {
    struct learnt *l;
    GString *out;
    struct commands *commands;
    bool coded; /* its texts are no commands: each is a code for one */
};

#define LINK    "wire"
#define HANDSET "remote"

/* ---- the link ---- */

static char *quoted_character(char c)
{
    if (c == '"' || c == '\\') return g_strdup_printf("\"\\%c\"", c);
    if (c >= ' ' && c <= '~') return g_strdup_printf("\"%c\"", c);
    return g_strdup_printf("\"\\x%02X\"", (unsigned char)c);
}

static unsigned silence_ms(const struct learnt *l)
{
    return (unsigned)CLAMP(l->framing.silence_us / 1000, 1, 60000);
}

static bool is_keyed(const struct writing *w)
{
    return w->l->framing.frame == LEX_FRAME_KEYS;
}

/* Whether what it sends is no text of a command, which stands for one that is called by the button.
 */
static bool has_own_words(const struct writing *w)
{
    return w->l->binary || w->coded || is_keyed(w);
}

static void put_frame(const struct writing *w)
{
    const struct learnt *l = w->l;
    const struct learnt_framing *f = &l->framing;
    char *character = quoted_character(f->character);
    bool wired = l->recording->medium != LEX_RADIO && l->recording->medium != LEX_REPORT;
    if (w->coded)
        g_string_append_printf(w->out, "  frame codes within %ums", MAX(silence_ms(l), 10));
    else if (f->frame == LEX_FRAME_GAP)
        g_string_append_printf(w->out, "  frame gap %ums", silence_ms(l));
    else if (f->frame == LEX_FRAME_ENDED)
        g_string_append_printf(w->out, "  frame ended %s", character);
    else if (f->frame == LEX_FRAME_FIXED && wired)
        g_string_append_printf(w->out, "  frame fixed %u pad %s  gap %ums", f->length, character,
                               silence_ms(l));
    else if (f->frame == LEX_FRAME_FIXED)
        g_string_append_printf(w->out, "  frame fixed %u pad %s", f->length, character);
    else if (f->frame != LEX_FRAME_PACKET && f->frame != LEX_FRAME_REPORT)
        g_string_append_printf(w->out, "  frame %s", lex_frames[f->frame]);
    g_free(character);
}

static const char *link_of(const struct learnt *l)
{
    return l->recording->link ? l->recording->link : LINK;
}

static void put_link(struct writing *w)
{
    const struct learnt *l = w->l;
    const struct recording *r = l->recording;
    char format[LEX_FORMAT_TEXT];
    size_t longest = 64;
    lex_format_text(&r->format, format);
    for (unsigned i = 0; i < l->frames->len; i++)
        longest = MAX(longest, g_bytes_get_size(((struct frame *)l->frames->pdata[i])->whole));
    g_string_append_printf(w->out, "link %s %s", link_of(l), lex_media[r->medium]);
    if (r->medium == LEX_RADIO) g_string_append_printf(w->out, " payload %zu", MIN(longest, 255));
    if (r->baud) g_string_append_printf(w->out, " %u", r->baud);
    if (!r->baud && r->medium < LEX_RADIO) g_string_append(w->out, " 9600");
    if (r->baud && strcmp(format, "8N1") != 0)
        g_string_append_printf(w->out, "  format %s", format);
    put_frame(w);
    if (l->envelope.address >= 0) {
        g_string_append_printf(w->out, "  address %d", l->envelope.address);
        if (l->envelope.source >= 0)
            g_string_append_printf(w->out, " senders %d", MAX(l->envelope.source, 1));
    }
    if (l->envelope.check) g_string_append(w->out, "  check required");
    if (l->envelope.tags) g_string_append(w->out, "  tags required");
}

/* ---- bytes ---- */

/* The text of our own for bytes or keys: the value of a slider, the first button that sends them.
 * Owned by the caller. */
static char *own_text(const struct learnt *l, GBytes *is)
{
    for (unsigned i = 0; l->binary && i < l->sliders->len; i++) {
        const struct learnt_slider *s = l->sliders->pdata[i];
        int32_t value;
        if (learn_slid(s, is, &value)) return g_strdup_printf("%s %d", s->name, value);
    }
    for (unsigned i = 0; i < l->buttons->len; i++) {
        const struct learnt_button *b = l->buttons->pdata[i];
        for (unsigned p = 0; p < PHASES; p++)
            if (b->phase[p].bytes && g_bytes_equal(b->phase[p].bytes, is))
                return g_strdup_printf("%s %s", b->name, learn_phases[p]);
    }
    return g_strdup("idle");
}

static void put_bytes(GString *out, GBytes *bytes)
{
    size_t n;
    const guint8 *data = g_bytes_get_data(bytes, &n);
    for (size_t i = 0; i < n; i++) g_string_append_printf(out, "  u8 0x%02X", data[i]);
}

static void put_around(struct writing *w, const struct learnt_byte *bytes, unsigned n, bool head)
{
    const struct learnt_layout *y = &w->l->layout;
    int body = (int)(y->n_head + y->n_tail + y->n_end + y->check.bits / 8);
    for (unsigned i = 0; i < n; i++) {
        const struct learnt_byte *b = &bytes[i];
        if (head && i && i == y->skipped) g_string_append(w->out, "  checked");
        if (b->kind == BYTE_SECOND) continue;
        if (b->kind == BYTE_NUMBER) {
            g_string_append(w->out, "  u8 number");
        } else if (b->kind == BYTE_BIG || b->kind == BYTE_LITTLE) {
            g_string_append_printf(w->out, "  u16%s number", b->kind == BYTE_BIG ? "" : " little");
        } else if (b->kind == BYTE_LENGTH) {
            g_string_append_printf(w->out, "  u8 length%s",
                                   b->value == 0      ? " of all"
                                   : b->value == body ? " of body"
                                                      : "");
            if (b->value && b->value != body && b->value != (int)i + 1)
                learn_doubt(w->l,
                            "the length counts the frame less %d bytes, which a layout "
                            "cannot say",
                            b->value);
        } else {
            g_string_append_printf(w->out, "  u8 0x%02X", (unsigned)b->value);
        }
    }
    if (head && y->skipped && y->skipped == n && y->check.bits)
        g_string_append(w->out, "  checked");
}

static void put_check(GString *out, const struct lex_field *check)
{
    static const char *const sums[] = {"", " inverted", " negated"};
    if (!check->bits) return;
    g_string_append_printf(out, "  u%u%s", check->bits, check->little ? " little" : "");
    if (check->what == RLX_FLD_XOR)
        g_string_append(out, " xor");
    else if (check->what == RLX_FLD_SUM)
        g_string_append_printf(out, " sum%s", sums[check->sum]);
    else
        g_string_append_printf(out, " crc%u %s", check->bits, check->crc->word);
}

static void put_layout(struct writing *w)
{
    struct learnt *l = w->l;
    const struct learnt_layout *y = &l->layout;
    g_string_append_printf(w->out, "layout %s frame", link_of(l));
    put_around(w, y->head, y->n_head, true);
    g_string_append(w->out, "  body");
    put_around(w, y->tail, y->n_tail, false);
    put_check(w->out, &y->check);
    put_around(w, y->end, y->n_end, false);
    g_string_append_c(w->out, '\n');
    if (y->check.bits && y->skipped > y->n_head)
        learn_doubt(l,
                    "the check begins behind %u bytes, within what differs: a layout cannot say "
                    "that",
                    y->skipped);
}

static void put_row(struct writing *w, const char *text, GBytes *is)
{
    char *own = own_text(w->l, is);
    if (!strcmp(own, text)) { /* else they are another row's already */
        g_string_append_printf(w->out, "layout %s \"%s\"", link_of(w->l), text);
        put_bytes(w->out, is);
        g_string_append_c(w->out, '\n');
    }
    g_free(own);
}

static void put_rows(struct writing *w)
{
    const struct learnt *l = w->l;
    for (unsigned i = 0; i < l->buttons->len; i++) {
        const struct learnt_button *b = l->buttons->pdata[i];
        for (unsigned p = 0; p < PHASES; p++) {
            char *text = g_strdup_printf("%s %s", b->name, learn_phases[p]);
            if (b->phase[p].bytes) put_row(w, text, b->phase[p].bytes);
            g_free(text);
        }
    }
    for (unsigned i = 0; i < l->sliders->len; i++) {
        const struct learnt_slider *s = l->sliders->pdata[i];
        g_string_append_printf(w->out, "layout %s \"%s {value}\"", link_of(l), s->name);
        put_bytes(w->out, s->before);
        if (s->top_bits) g_string_append_printf(w->out, "  u%u %u", s->top_bits, s->top);
        g_string_append_printf(w->out, "  %c%u%s value", s->is_signed ? 'i' : 'u', s->bits,
                               s->little ? " little" : "");
        put_bytes(w->out, s->after);
        g_string_append_c(w->out, '\n');
    }
    if (l->idle) put_row(w, "idle", l->idle);
}

/* ---- what the handset says ---- */

/* The text of a command for what was heard: itself, or of bytes and keys one of our own. Owned by
 * the caller. */
static char *command_text(const struct writing *w, GBytes *is)
{
    return has_own_words(w) ? own_text(w->l, is) : learn_text(is);
}

/* How many digits each of its values has; 0: not the same. */
static unsigned digits_of(const struct learnt_slider *s)
{
    unsigned digits = 1;
    for (int32_t high = s->high; high >= 10; high /= 10) digits++;
    for (int32_t low = MAX(s->low, 0), n = 1; n < (int32_t)digits; n++, low /= 10)
        if (low < 10) return 0;
    return s->low < 0 ? 0 : digits;
}

static void add_slider(struct writing *w, const struct learnt_slider *s)
{
    bool own = w->l->binary || s->keys || w->coded;
    int32_t low = s->keys ? 0 : s->low, high = s->keys ? s->high - s->low : s->high;
    if (w->coded && !s->keys) { /* any digits may stand in a code */
        low = 0;
        high = 9;
        for (unsigned n = 1; n < digits_of(s); n++) high = high * 10 + 9;
    }
    char *before = learn_text(s->before), *after = learn_text(s->after);
    char *text = own ? g_strdup_printf("%s {%d..%d}", s->name, low, high)
                     : g_strdup_printf("%s{%d..%d}%s", before, low, high, after);
    commands_add(w->commands, text, true);
    g_free(text);
    g_free(before);
    g_free(after);
}

static void add_said(struct writing *w, GBytes *is)
{
    char *text = is ? command_text(w, is) : NULL;
    if (text) commands_add(w->commands, text, false);
    g_free(text);
}

static void add_texts(struct writing *w)
{
    const struct learnt *l = w->l;
    w->commands = commands_new();
    for (unsigned i = 0; i < l->buttons->len; i++)
        for (unsigned p = 0; p < PHASES; p++)
            add_said(w, ((struct learnt_button *)l->buttons->pdata[i])->phase[p].bytes);
    for (unsigned i = 0; i < l->sliders->len; i++) add_slider(w, l->sliders->pdata[i]);
    add_said(w, l->idle);
}

static void put_key(struct writing *w, GBytes *is)
{
    char *said = learn_text(is), *key = learn_shown(w->l, is), *text = command_text(w, is);
    if (w->coded && strchr(said, '#'))
        learn_doubt(w->l,
                    "%s has a #, which stands for a digit in a code: let the firmware read "
                    "this link (frame raw)",
                    key);
    else
        g_string_append_printf(w->out, "  %s = \"%s\"", key, text);
    g_free(text);
    g_free(key);
    g_free(said);
}

/* The steps of a slider: characters in a row, or a code with digits. */
static void put_steps(struct writing *w, const struct learnt_slider *s)
{
    if (s->keys) {
        g_string_append(w->out, "  ");
        for (int32_t c = s->low; c <= s->high; c++) g_string_append_c(w->out, (char)c);
        g_string_append_printf(w->out, " = \"%s {0..%d step 1}\"", s->name, s->high - s->low);
        return;
    }
    unsigned digits = digits_of(s);
    char *before = learn_text(s->before), *after = learn_text(s->after);
    char *places = g_strnfill(digits, '#');
    if (digits)
        g_string_append_printf(w->out, "  \"%s%s%s\" = \"%s %s\"", before, places, after, s->name,
                               places);
    else
        learn_doubt(w->l, "%s: its values have not the same count of digits, which a code needs",
                    s->name);
    g_free(places);
    g_free(before);
    g_free(after);
}

/* Each character or code that was heard, and what it stands for. */
static void put_keys(struct writing *w)
{
    const struct learnt *l = w->l;
    GHashTable *done = g_hash_table_new(g_bytes_hash, g_bytes_equal);
    for (unsigned i = 0; i < l->buttons->len; i++)
        for (unsigned p = 0; p < PHASES; p++) {
            GBytes *is = ((struct learnt_button *)l->buttons->pdata[i])->phase[p].bytes;
            if (is && g_hash_table_add(done, is)) put_key(w, is);
        }
    if (l->idle && g_hash_table_add(done, l->idle)) put_key(w, l->idle);
    for (unsigned i = 0; i < l->sliders->len; i++) put_steps(w, l->sliders->pdata[i]);
    g_hash_table_unref(done);
}

static void put_button(struct writing *w, const struct learnt_button *b)
{
    const struct learnt *l = w->l;
    g_string_append_printf(w->out, "button %s", b->name);
    for (unsigned p = 0; p < PHASES; p++) {
        GBytes *is = b->phase[p].bytes;
        if (!is) continue;
        char *text = l->binary ? command_text(w, is) : NULL;
        char *shown = text ? g_strdup_printf("\"%s\"", text) : learn_shown(l, is);
        g_string_append_printf(w->out, "  %s %s", learn_phases[p], shown);
        g_free(shown);
        g_free(text);
    }
    if (b->copies > 1) g_string_append_printf(w->out, "   # each %u times", b->copies);
    g_string_append_c(w->out, '\n');
}

/* One whose steps a handset cannot say is a remark. */
static void put_slider(struct writing *w, const struct learnt_slider *s)
{
    bool digits = s->keys && s->low >= '0' && s->high <= '9';
    bool coded = s->keys ? !digits : w->coded && !digits_of(s);
    char *slides = digits ? g_strdup_printf("\"{%d..%d step 1}\"", s->low - '0', s->high - '0')
                   : w->l->binary ? g_strdup_printf("\"%s {%d..%d step %d}\"", s->name, s->low,
                                                    s->high, s->step)
                                  : learn_slides(w->l, s);
    g_string_append_printf(w->out, "%sslider %s  %s\n", coded ? "# " : "", s->name, slides);
    g_free(slides);
}

static void put_handset(struct writing *w)
{
    const struct learnt *l = w->l;
    const struct recording *r = l->recording;
    g_string_append_printf(w->out, "handset %s on %s", r->handset ? r->handset : HANDSET,
                           link_of(l));
    if (l->repeat_ms)
        g_string_append_printf(w->out, "  repeat %ums", CLAMP(l->repeat_ms, 10, 60000));
    if (l->idle) {
        char *text = l->binary ? command_text(w, l->idle) : NULL;
        char *shown = text ? g_strdup_printf("\"%s\"", text) : learn_shown(l, l->idle);
        g_string_append_printf(w->out, "  idle %s", shown);
        g_free(shown);
        g_free(text);
    }
    g_string_append_c(w->out, '\n');
    for (unsigned i = 0; i < l->buttons->len; i++) put_button(w, l->buttons->pdata[i]);
    for (unsigned i = 0; i < l->sliders->len; i++) put_slider(w, l->sliders->pdata[i]);
}

static void put_odd(struct writing *w)
{
    if (w->coded) return;
    for (unsigned i = 0; i < w->commands->odd->len; i++) {
        char *visible = lex_visible(w->commands->odd->pdata[i], strlen(w->commands->odd->pdata[i]));
        g_string_append_printf(w->out, "# no text of a command: %s\n", visible);
        learn_doubt(w->l,
                    "\"%s\" is no text that a command can have: let the firmware read this "
                    "link (frame raw)",
                    visible);
        g_free(visible);
    }
}

/* ---- channels ---- */

/* A stick whose rest is at one end has values from 0 on. */
static bool is_throttle(const struct learnt_stick *s)
{
    unsigned range = s->high - s->low;
    return (s->rest - s->low) * 10 < range || (s->high - s->rest) * 10 < range;
}

static void put_unused(GString *out, unsigned bits)
{
    for (; bits > 32; bits -= 32) g_string_append(out, "  u32 unused");
    if (bits) g_string_append_printf(out, "  u%u unused", bits);
}

/* The zones of a switch, each up to a quarter of the way from its own value to the other. */
static void put_switch(struct writing *w, const struct learnt_stick *s)
{
    unsigned most = (1u << w->l->channels.each) - 1, on = s->on, off = s->rest;
    unsigned quarter = (on > off ? on - off : off - on) / 4;
    const char *link = link_of(w->l);
    if (on > off) {
        g_string_append_printf(w->out, "layout %s \"%s on\"  channel %u %u..%u\n", link, s->name,
                               s->channel + 1, on - quarter, most);
        g_string_append_printf(w->out, "layout %s \"%s off\"  channel %u 0..%u\n", link, s->name,
                               s->channel + 1, off + quarter);
    } else {
        g_string_append_printf(w->out, "layout %s \"%s on\"  channel %u 0..%u\n", link, s->name,
                               s->channel + 1, on + quarter);
        g_string_append_printf(w->out, "layout %s \"%s off\"  channel %u %u..%u\n", link, s->name,
                               s->channel + 1, off - quarter, most);
    }
}

static void put_channels(struct writing *w)
{
    const struct learnt *l = w->l;
    const struct learnt_channels *c = &l->channels;
    for (unsigned i = 0; i < l->sticks->len; i++) {
        const struct learnt_stick *s = l->sticks->pdata[i];
        if (s->moved && s->is_switch)
            g_string_append_printf(w->out, "command %s {on|off}  => %s()\n", s->name, s->name);
        else if (s->moved)
            g_string_append_printf(w->out, "command %s {value %d..100%%}  => %s()\n", s->name,
                                   is_throttle(s) ? 0 : -100, s->name);
    }
    put_link(w);
    g_string_append_printf(w->out, "  lost after 500ms\nlayout %s frame", link_of(l));
    put_around(w, l->layout.head, MIN(c->mark, l->layout.n_head), false);
    for (unsigned i = l->layout.n_head; i < c->mark; i++) g_string_append(w->out, "  u8 unused");
    g_string_append_printf(w->out, "  channels %u u%u%s", c->count, c->each, c->lsb ? " lsb" : "");
    put_unused(w->out, c->rest);
    put_check(w->out, &l->layout.check);
    put_around(w, l->layout.end, l->layout.n_end, false);
    unsigned every = (unsigned)((c->every_us + 500) / 1000);
    if (every && every <= 160) g_string_append_printf(w->out, "  every %ums", every);
    g_string_append_c(w->out, '\n');
    for (unsigned i = 0; i < l->sticks->len; i++) {
        const struct learnt_stick *s = l->sticks->pdata[i];
        bool turned = is_throttle(s) && (s->high - s->rest) * 10 < s->high - s->low;
        if (s->moved && s->is_switch)
            put_switch(w, s);
        else if (s->moved)
            g_string_append_printf(w->out, "layout %s \"%s {value}\"  channel %u value %u..%u\n",
                                   link_of(l), s->name, s->channel + 1, turned ? s->high : s->low,
                                   turned ? s->low : s->high);
    }
}

/* Codes end by themselves: a silence is none of theirs, and they pass over line ends. */
static bool is_codeable(const struct learnt *l)
{
    return !l->binary && (l->framing.frame == LEX_FRAME_GAP || l->framing.frame == LEX_FRAME_LINE);
}

char *learnt_lexicon(struct learnt *l)
{
    struct writing w = {.l = l, .out = g_string_new("lexicon learnt 1\n")};
    if (l->channels.found) {
        put_channels(&w);
        return g_string_free(w.out, FALSE);
    }
    add_texts(&w);
    w.coded = w.commands->odd->len && is_codeable(l);
    if (w.coded) { /* the same texts are codes now */
        commands_free(w.commands);
        add_texts(&w);
    }
    commands_put(w.commands, l, w.out);
    put_link(&w);
    if (is_keyed(&w) || w.coded) put_keys(&w);
    g_string_append_c(w.out, '\n');
    if (l->binary) put_layout(&w);
    if (l->binary) put_rows(&w);
    put_odd(&w);
    put_handset(&w);
    commands_free(w.commands);
    return g_string_free(w.out, FALSE);
}
