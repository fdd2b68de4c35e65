/* Checks the layouts of links: that no two commands have the same bytes, that no answer is a
 * command, and that damage is noticed.
 * Widths and ranges of fields are held against slots in read/read_layout.c. */
#include "lexicon/check/checks.h"

#include <string.h>

#include "lexicon/layout/layout.h"
#include "rlx/image.h"

/* ---- two commands ---- */

/* The bits of a row that are constant, and those that must be 1; the others are any. */
static void put_constants(const struct lex_packed *row, GByteArray *known, GByteArray *set)
{
    unsigned at = 0, bytes = layout_bits(row->fields) / 8;
    g_byte_array_set_size(known, bytes);
    g_byte_array_set_size(set, bytes);
    for (unsigned i = 0; i < bytes; i++) known->data[i] = set->data[i] = 0;
    for (unsigned i = 0; i < row->fields->len; i++) {
        const struct lex_field *field = row->fields->pdata[i];
        for (unsigned k = 0; k < field->bits; k++, at++) {
            unsigned bit = field->little ? k / 8 * 8 + 7 - k % 8 : field->bits - 1 - k;
            guint8 mask = (guint8)(0x80u >> at % 8);
            if (field->what != RLX_FLD_CONSTANT) continue;
            known->data[at / 8] |= mask;
            if (field->constant >> bit & 1) set->data[at / 8] |= mask;
        }
    }
}

/* Bytes that are both rows; NULL: there are none. Owned by the caller. */
static char *same_bytes(const struct lex_packed *a, const struct lex_packed *b)
{
    GByteArray *known[2], *set[2];
    char *witness = NULL;
    for (unsigned i = 0; i < 2; i++) {
        known[i] = g_byte_array_new();
        set[i] = g_byte_array_new();
        put_constants(i ? b : a, known[i], set[i]);
    }
    bool same = known[0]->len == known[1]->len;
    for (unsigned i = 0; same && i < known[0]->len; i++) {
        same = !((set[0]->data[i] ^ set[1]->data[i]) & known[0]->data[i] & known[1]->data[i]);
        set[0]->data[i] |= set[1]->data[i];
    }
    if (same) witness = layout_hex(set[0]->data, set[0]->len);
    for (unsigned i = 0; i < 2; i++) {
        g_byte_array_free(known[i], TRUE);
        g_byte_array_free(set[i], TRUE);
    }
    return witness;
}

static void check_rows(struct lexicon *lx, const struct lex_link *link, bool events)
{
    const GPtrArray *rows = link->layout->rows;
    for (unsigned i = 0; i < rows->len; i++) {
        const struct lex_packed *b = rows->pdata[i];
        for (unsigned k = 0; k < i; k++) {
            const struct lex_packed *a = rows->pdata[k];
            if (a->event != events || b->event != events) continue;
            char *witness = same_bytes(a, b);
            if (!witness) continue;
            check_find(lx, LEX_D55, b->place, link->name, witness,
                       "\"%s\" and \"%s\" in line %u can have the same bytes between what stands "
                       "around them: %s",
                       b->text, a->text, a->place.line, *witness ? witness : "none");
        }
    }
}

/* ---- channels ---- */

/* Whether the first two of their channels that are one choose or move both; where, in words. */
static char *both_at(const struct lex_packed *a, const struct lex_packed *b, char **witness)
{
    for (unsigned i = 0; i < a->fields->len; i++)
        for (unsigned k = 0; k < b->fields->len; k++) {
            const struct lex_field *one = a->fields->pdata[i], *other = b->fields->pdata[k];
            bool zones = one->what == RLX_FLD_ZONE && other->what == RLX_FLD_ZONE;
            int32_t at = MAX(one->from, other->from);
            if (one->channel != other->channel || (zones && at > MIN(one->to, other->to))) continue;
            *witness = g_strdup_printf("channel %u %d", one->channel, zones ? at : other->from);
            return zones ? g_strdup_printf("chosen by channel %u at %d", one->channel, at)
                         : g_strdup_printf("moved by channel %u", one->channel);
        }
    return NULL;
}

/* Two commands of one stick, or of one place of a switch. */
static void check_channels(struct lexicon *lx, const struct lex_link *link)
{
    const GPtrArray *rows = link->layout->rows;
    for (unsigned i = 0; i < rows->len; i++) {
        const struct lex_packed *b = rows->pdata[i];
        for (unsigned k = 0; k < i; k++) {
            const struct lex_packed *a = rows->pdata[k];
            char *witness = NULL, *how = a->event || b->event ? NULL : both_at(a, b, &witness);
            if (how)
                check_find(lx, LEX_D55, b->place, link->name, witness,
                           "\"%s\" and \"%s\" in line %u are both %s", b->text, a->text,
                           a->place.line, how);
            g_free(how);
        }
    }
}

/* ---- answers ---- */

#define RESULTS_TRIED 64u
#define NUMBERS_TRIED 256u

/* Whether what the device sends is one of its commands, or a frame of none, which is answered. */
static bool check_sent(struct lexicon *lx, const struct lex_link *link, struct lex_place place,
                       const struct lex_packed *row, unsigned result, unsigned number)
{
    GByteArray *bytes = layout_answer(link, row ? row->text : NULL, result, number);
    char *text = bytes ? layout_command(link, bytes->data, bytes->len) : NULL;
    bool answers = link->layout->answer->len, is = text && (*text || answers);
    if (is) {
        char *hex = layout_hex(bytes->data, bytes->len),
             *as = g_strdup_printf("the command \"%s\"", text);
        check_find(lx, LEX_D56, place, link->name, *text ? g_strdup(text) : NULL,
                   "the %s \"%s\" is %s on '%s': %s",
                   !row         ? "answer"
                   : row->event ? "event"
                                : "answer to",
                   row      ? row->text
                   : result ? "err"
                            : "ok",
                   *text ? as : "a frame, which is answered as unknown,", link->name, hex);
        g_free(hex);
        g_free(as);
    }
    if (bytes) g_byte_array_free(bytes, TRUE);
    g_free(text);
    return is;
}

static void check_answers(struct lexicon *lx, const struct lex_link *link)
{
    const struct lex_layout *layout = link->layout;
    struct lex_place place = layout->place;
    if (layout->answer->len) place = ((struct lex_field *)layout->answer->pdata[0])->place;
    bool found = !layout->answer->len;
    for (unsigned number = 0; number < NUMBERS_TRIED && !found; number++)
        for (unsigned result = 0; result < RESULTS_TRIED && !found; result++)
            found = check_sent(lx, link, place, NULL, result, number);
    for (unsigned i = 0; i < layout->rows->len; i++) {
        const struct lex_packed *row = layout->rows->pdata[i];
        if (row->event || row->answers->len) check_sent(lx, link, row->place, row, 0, 0);
    }
}

/* ---- damage ---- */

/* A byte of the frame is lost, and what is left is another command. Owned by the caller. */
static char *after_loss(const struct lex_link *link, const char *text, unsigned *lost)
{
    GByteArray *bytes = layout_frame(link, text, 0);
    char *other = NULL;
    for (*lost = 0; bytes && *lost < bytes->len && !other; ++*lost) {
        guint8 byte = bytes->data[*lost];
        g_byte_array_remove_index(bytes, *lost);
        other = layout_command(link, bytes->data, bytes->len);
        if (other && !*other) g_clear_pointer(&other, g_free);
        g_byte_array_set_size(bytes, bytes->len + 1);
        memmove(bytes->data + *lost + 1, bytes->data + *lost, bytes->len - 1 - *lost);
        bytes->data[*lost] = byte;
    }
    if (bytes) g_byte_array_free(bytes, TRUE);
    return other;
}

static void check_losses(struct lexicon *lx, const struct lex_link *link)
{
    const GPtrArray *rows = link->layout->rows;
    for (unsigned i = 0; i < rows->len; i++) {
        const struct lex_packed *row = rows->pdata[i];
        char *text = row->event ? NULL : layout_example(link, row);
        unsigned lost = 0;
        char *other = text ? after_loss(link, text, &lost) : NULL;
        if (other)
            check_find(lx, LEX_D57, row->place, link->name, g_strdup(text),
                       "\"%s\" on '%s' is \"%s\" when its byte %u is lost", text, link->name, other,
                       lost)
                ->advice = g_strdup("u16 little crc16 modbus");
        bool found = other;
        g_free(text);
        g_free(other);
        if (found) return;
    }
}

static void check_damage(struct lexicon *lx, const struct lex_link *link)
{
    unsigned bits = layout_check_bits(link);
    bool air = link->medium == LEX_RADIO || link->medium == LEX_MODEM;
    char *found = layout_check_text(link);
    struct lex_fault *fault = NULL;
    if (!bits) check_losses(lx, link);
    if (air && !layout_finds_bursts(link))
        fault = check_find(lx, LEX_D57, link->layout->place, link->name, NULL, "'%s': %s",
                           link->name, found);
    if (fault) fault->advice = g_strdup("u16 little crc16 modbus");
    g_free(found);
}

void check_layouts(struct lexicon *lx)
{
    for (unsigned i = 0; i < lx->links->len; i++) {
        const struct lex_link *link = lx->links->pdata[i];
        if (!link->layout || lex_is_raw(link)) continue;
        if (link->layout->channels)
            check_channels(lx, link);
        else
            check_rows(lx, link, false);
        check_rows(lx, link, true);
        check_answers(lx, link);
        check_damage(lx, link);
    }
}
