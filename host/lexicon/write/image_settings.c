/* The image's settings, and their values where nobody has changed them.
 * A sum over their layout identifies it.
 * It keeps nothing: the chip does. */
#include <string.h>

#include "lexicon/write/build.h"
#include "lexicon/read/reader.h"
#include "lexicon/slot.h"
#include "rlx/sms.h"

unsigned build_setting(const struct build *b, const char *name)
{
    guint index = 0;
    g_ptr_array_find(b->lx->settings, lexicon_setting(b->lx, name), &index);
    return index;
}

/* What a text is at first, where it stands. */
static uint32_t put_text(struct build *b, const struct lex_setting *setting)
{
    GByteArray *to = b->image->bytes;
    uint32_t at = to->len;
    build_row(b, "the text that %s is at first", setting->name);
    build_put8(to, (unsigned)strlen(setting->value));
    for (const char *p = setting->value; *p; p++) build_put8(to, (guint8)*p);
    return at;
}

static void put_row(struct build *b, const struct lex_setting *setting, unsigned row)
{
    GByteArray *to = b->image->bytes;
    const struct lex_element *slot = setting->slot;
    uint32_t value = slot->kind == LEX_TEXT ? put_text(b, setting)
                                            : (uint32_t)image_said_value(slot, setting->standard);
    build_set16(to, row + RLX_SET_VALUE, value & 0xFFFF);
    build_set16(to, row + RLX_SET_VALUE + 2, value >> 16);
    build_set16(to, row + RLX_SET_SLOT, to->len);
    build_row(b, "what %s can be", setting->name);
    lex_slot_of(slot)->put(b, to, slot);
    bool hidden = lexicon_is_code(b->lx, setting);
    build_set16(to, row + RLX_SET_AT, b->image->setting_texts | (hidden ? RLX_SET_HIDDEN : 0u));
    if (slot->kind == LEX_TEXT) b->image->setting_texts += 1 + (unsigned)slot->high;
}

/* The same in each version of a lexicon that has the same settings in the same order. */
static uint32_t layout_of(const struct lexicon *lx)
{
    GString *all = g_string_new(NULL);
    for (unsigned i = 0; i < lx->settings->len; i++) {
        const struct lex_setting *setting = lx->settings->pdata[i];
        char *slot = lex_element_text(setting->slot);
        g_string_append_printf(all, "%s %s\n", setting->name, slot);
        g_free(slot);
    }
    unsigned records = lex_n_settings(lx) - lx->settings->len - (lex_kept_bytes(lx) > 0);
    if (records) g_string_append_printf(all, "%u\n", records);
    char *sum = g_compute_checksum_for_string(G_CHECKSUM_SHA256, all->str, -1);
    sum[8] = 0;
    uint32_t layout = (uint32_t)g_ascii_strtoull(sum, NULL, 16);
    g_free(sum);
    g_string_free(all, TRUE);
    return layout;
}

unsigned image_own_record(const struct lexicon *lx)
{
    return lex_n_settings(lx) - 1 - (lex_kept_bytes(lx) > 0);
}

unsigned image_record_of(const struct lexicon *lx, const struct lex_link *link)
{
    unsigned n = lx->settings->len;
    for (unsigned i = 0; lx->links->pdata[i] != link; i++)
        n += lex_record_bytes(lx->links->pdata[i]) > 0;
    return n;
}

/* A record that the library keeps: a text that no command stores. */
static void put_record(struct build *b, unsigned row, const char *what, unsigned most,
                       const char *name)
{
    GByteArray *to = b->image->bytes;
    build_need(b, RLX_BIT_TEXT);
    build_row(b, "a record of %s, empty at first", what);
    build_set16(to, row + RLX_SET_VALUE, to->len);
    build_put8(to, 0);
    build_set16(to, row + RLX_SET_SLOT, to->len);
    build_put8(to, RLX_OP_TEXT);
    build_put8(to, 0);
    build_put8(to, most);
    build_put_text(to, name);
    build_set16(to, row + RLX_SET_AT, b->image->setting_texts);
    b->image->setting_texts += 1 + most;
}

/* Of what is pending of kept events: its name tells these events and links from others. */
static void put_kept(struct build *b, unsigned row)
{
    GString *all = g_string_new(NULL);
    for (unsigned i = 0; i < b->lx->links->len; i++)
        g_string_append_printf(all, "%s\n", ((struct lex_link *)b->lx->links->pdata[i])->name);
    for (unsigned i = 0; i < b->lx->events->len; i++) {
        const struct lex_event *event = b->lx->events->pdata[i];
        char *what = event->kept && event->what ? lex_element_text(event->what) : NULL;
        if (event->kept) g_string_append_printf(all, "%s %s\n", event->name, what ? what : "");
        g_free(what);
    }
    char *sum = g_compute_checksum_for_string(G_CHECKSUM_SHA256, all->str, -1);
    sum[RLX_KEPT_HEAD] = 0;
    put_record(b, row, "what is pending", lex_kept_bytes(b->lx), sum);
    g_free(sum);
    g_string_free(all, TRUE);
}

/* Behind the rows: how the memory is spared. */
static void put_wear(struct build *b)
{
    const struct lexicon *lx = b->lx;
    GByteArray *to = b->image->bytes;
    unsigned records = 0, rests = 0;
    if (!lex_spares_memory(lx)) return;
    build_need(b, RLX_BIT_WEAR);
    build_row(b, "how the memory is spared");
    for (unsigned i = lx->settings->len; i < lex_n_settings(lx); i++) records |= 1u << i;
    build_put32(to, lex_nv_between(lx));
    build_put32(to, records);
    unsigned count = to->len;
    build_put8(to, 0);
    for (unsigned i = 0; i < lx->settings->len; i++) {
        unsigned ms = ((struct lex_setting *)lx->settings->pdata[i])->saved_every;
        if (!ms) continue;
        build_put8(to, i);
        build_put32(to, ms);
        rests++;
    }
    to->data[count] = (guint8)rests;
    b->image->rests = rests;
}

void build_put_settings(struct build *b)
{
    GByteArray *to = b->image->bytes;
    unsigned n = lex_n_settings(b->lx);
    if (!n) return;
    build_need(b, RLX_BIT_SETTINGS);
    build_set16(to, RLX_IMG_SETTINGS, to->len);
    build_row(b, "the settings");
    build_put8(to, n);
    build_put32(to, layout_of(b->lx));
    unsigned rows = to->len;
    for (unsigned i = 0; i < n * RLX_SET_ROW; i++) build_put8(to, 0);
    put_wear(b);
    for (unsigned i = 0; i < n; i++)
        if (i < b->lx->settings->len)
            put_row(b, b->lx->settings->pdata[i], rows + i * RLX_SET_ROW);
        else if (i == n - 1 && lex_kept_bytes(b->lx))
            put_kept(b, rows + i * RLX_SET_ROW);
        else if (lex_has_seals(b->lx) && i == image_own_record(b->lx))
            put_record(b, rows + i * RLX_SET_ROW, "numbers of sessions", LEX_OWN_NUMBERS, "-");
    for (unsigned i = 0, row = b->lx->settings->len; i < b->lx->links->len; i++) {
        const struct lex_link *link = b->lx->links->pdata[i];
        if (lex_record_bytes(link))
            put_record(b, rows + row++ * RLX_SET_ROW, link->tags_kept ? "commands" : "messages",
                       lex_record_bytes(link), "-");
    }
    if (!lex_guess_bytes(b->lx)) return;
    unsigned row = image_own_record(b->lx) - lex_has_seals(b->lx);
    to->data[RLX_IMG_GUESSES] = (guint8)(row + 1);
    put_record(b, rows + row * RLX_SET_ROW, "wrong codes", lex_guess_bytes(b->lx), "-");
}
