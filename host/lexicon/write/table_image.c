/* Makes the table image: the bytes that the library reads, and the features that they need.
 * Header first, then the parts, each at its offset in the header.
 * Links and pins are in files of their own. */
#include "lexicon/write/table_image.h"

#include <string.h>

#include "lexicon/write/build.h"
#include "lexicon/check/checks.h"
#include "lexicon/read/reader.h"
#include "rlx/error.h"
#include "lexicon/write/sizes.h"

#define IMAGE_MAX 65535

/* ---- bytes ---- */

void build_put8(GByteArray *to, unsigned value)
{
    guint8 byte = (guint8)value;
    g_byte_array_append(to, &byte, 1);
}

void build_put16(GByteArray *to, unsigned value)
{
    build_put8(to, value & 255);
    build_put8(to, value >> 8 & 255);
}

void build_put32(GByteArray *to, uint32_t value)
{
    build_put16(to, value & 0xFFFF);
    build_put16(to, value >> 16);
}

void build_set16(GByteArray *to, unsigned at, unsigned value)
{
    to->data[at] = (guint8)value;
    to->data[at + 1] = (guint8)(value >> 8);
}

void build_put_text(GByteArray *to, const char *text)
{
    g_byte_array_append(to, (const guint8 *)text, (guint)strlen(text));
    to->data[to->len - 1] |= RLX_TEXT_END;
}

/* Tables of 16-bit numbers stand at even offsets. */
void build_align(GByteArray *to)
{
    if (to->len & 1) build_put8(to, 0);
}

void build_put_all(GByteArray *to, const GByteArray *from)
{
    g_byte_array_append(to, from->data, from->len);
}

/* A new row of the listing begins here. */
void build_row(struct build *b, const char *format, ...) G_GNUC_PRINTF(2, 3);
void build_row(struct build *b, const char *format, ...)
{
    struct image_row r = {b->image->bytes->len, NULL};
    va_list args;
    va_start(args, format);
    r.comment = g_strdup_vprintf(format, args);
    va_end(args);
    g_array_append_val(b->image->rows, r);
}

void build_need(struct build *b, unsigned bit)
{
    b->image->needs[bit / 32] |= UINT32_C(1) << bit % 32;
}

/* ---- the tables around it ---- */

static void put_shape_table(struct build *b)
{
    build_align(b->image->bytes);
    build_set16(b->image->bytes, RLX_IMG_SHAPES, b->image->bytes->len);
    if (b->many) return;
    build_row(b, "where the shapes are");
    for (unsigned i = 0; i < b->shape_at->len; i++)
        build_put16(b->image->bytes, g_array_index(b->shape_at, uint16_t, i));
}

/* Numbers that stand for commands. */
static void put_numbered(struct build *b)
{
    GByteArray *to = b->image->bytes;
    if (!b->lx->numbers->len) return;
    build_need(b, RLX_BIT_NUMBERED);
    build_set16(to, RLX_IMG_NUMBERED, to->len);
    build_row(b, "commands by number");
    unsigned at = to->len;
    build_put16(to, 0);
    for (unsigned i = 0; i < b->lx->numbers->len; i++) {
        const struct lex_number *number = b->lx->numbers->pdata[i];
        build_row(b, "%s = %s", number->said, number->text);
        build_put_text(to, number->said);
        build_put_text(to, number->text);
    }
    build_set16(to, at, to->len - at - 2);
}

/* The commands as the lexicon writes them, and what is asked. */
static void put_help(struct build *b)
{
    GByteArray *to = b->image->bytes;
    if (!(b->lx->built_in & RLX_BUILT_IN_HELP)) return;
    build_set16(to, RLX_IMG_HELP, to->len);
    build_row(b, "patterns for help");
    unsigned at = build_begin_list(to);
    for (unsigned i = 0; i < b->lx->commands->len; i++) {
        char *text = lex_command_text(b->lx->commands->pdata[i]);
        build_put_text(to, text);
        g_free(text);
    }
    for (unsigned i = 0; i < b->lx->queries->len; i++) {
        char *text = lex_command_text(((struct lex_query *)b->lx->queries->pdata[i])->asked);
        build_put_text(to, text);
        g_free(text);
    }
    build_end_list(to, at);
}

static void put_link_names(struct build *b)
{
    GByteArray *to = b->image->bytes;
    if (!(b->lx->built_in & (RLX_BUILT_IN_HEARD | RLX_BUILT_IN_LOG))) return;
    build_set16(to, RLX_IMG_LINK_NAMES, to->len);
    build_row(b, "names of the links");
    for (unsigned i = 0; i < b->lx->links->len; i++) {
        char *name = lex_spelt(b->lx, ((struct lex_link *)b->lx->links->pdata[i])->name);
        build_put_text(to, name);
        g_free(name);
    }
}

/* The fingerprint identifies an image: the first 32 bits of the SHA-256 (FIPS 180-4) of all bytes
 * up to the greeting, which holds it. */
static void put_greeting(struct build *b)
{
    GByteArray *to = b->image->bytes;
    if (!b->lx->silent) build_need(b, RLX_BIT_GREETING);
    if (b->lx->connects) build_need(b, RLX_BIT_GREETS);
    for (unsigned i = 0; i < 2 * RLX_FEATURE_WORDS; i++)
        build_set16(to, RLX_IMG_NEEDS + 2 * i, b->image->needs[i / 2] >> 16 * (i % 2) & 0xFFFF);
    char *sum = g_compute_checksum_for_data(G_CHECKSUM_SHA256, to->data, to->len);
    b->image->fingerprint = g_strndup(sum, 8);
    char *text =
        g_strdup_printf("ready %s %u %s ", b->lx->name, b->lx->version, b->image->fingerprint);
    if (!b->lx->silent || b->lx->built_in & RLX_BUILT_IN_ABOUT) {
        build_set16(to, RLX_IMG_GREETING, to->len);
        build_row(b, "greeting: %s", text);
        build_put_text(to, text);
    }
    g_free(text);
    g_free(sum);
}

bool image_needs(const struct image *image, unsigned bit)
{
    return image->needs[bit / 32] >> bit % 32 & 1;
}

bool image_can_fail(const struct lexicon *lx, const struct image *image, unsigned number)
{
    switch ((enum rlx_error)number) {
    case RLX_ERR_AMBIGUOUS: return lx->shorten != 0;
    case RLX_ERR_NUMBER:
    case RLX_ERR_RANGE:
    case RLX_ERR_DIGITS:
        return image_needs(image, RLX_BIT_NUMBER) ||
               (number == RLX_ERR_RANGE && image_needs(image, RLX_BIT_TEXT));
    case RLX_ERR_TEXT: return image_needs(image, RLX_BIT_TEXT);
    case RLX_ERR_FAILED:
        return image_needs(image, RLX_BIT_CALL) || image_needs(image, RLX_BIT_STEPPERS) ||
               image_needs(image, RLX_BIT_KEPT_TAGS);
    case RLX_ERR_BUSY:
        return image_needs(image, RLX_BIT_CALL) ||
               (image_needs(image, RLX_BIT_KEPT_TAGS) && lx->nv_erases);
    case RLX_ERR_LONG:
        return image_needs(image, RLX_BIT_LINE) || image_needs(image, RLX_BIT_MARKED) ||
               image_needs(image, RLX_BIT_TIMED) || image_needs(image, RLX_BIT_PACKET) ||
               image_needs(image, RLX_BIT_REPORT) || image_needs(image, RLX_BIT_MESSAGE);
    case RLX_ERR_HALF:
        return image_needs(image, RLX_BIT_CODES) || image_needs(image, RLX_BIT_TIMED) ||
               image_needs(image, RLX_BIT_REPORT);
    case RLX_ERR_CHECK: return image_needs(image, RLX_BIT_CHECK);
    case RLX_ERR_TAG:
    case RLX_ERR_OLD: return image_needs(image, RLX_BIT_TAGS);
    case RLX_ERR_DENIED:
        return image_needs(image, RLX_BIT_LIMITED) || image_needs(image, RLX_BIT_SEAL) ||
               image_needs(image, RLX_BIT_CODED);
    case RLX_ERR_HALTED: return lx->built_in & RLX_BUILT_IN_HALT;
    case RLX_ERR_YIELDS: return image_needs(image, RLX_BIT_YIELDS);
    case RLX_ERR_BLOCKED:
        return image_needs(image, RLX_BIT_PERMITS) || image_needs(image, RLX_BIT_GUARDS);
    case RLX_ERR_SEAL: return image_needs(image, RLX_BIT_SEAL);
    case RLX_ERR_REST: return image_needs(image, RLX_BIT_CHANNELS);
    case RLX_ERR_LATE:
    case RLX_ERR_ALPHABET: return image_needs(image, RLX_BIT_SMS);
    case RLX_ERR_UNSURE:
        return image_needs(image, RLX_BIT_SMS) || image_needs(image, RLX_BIT_KEPT_TAGS);
    case RLX_OK:
    case RLX_ERR_UNKNOWN:
    case RLX_ERR_CHOICE:
    case RLX_ERR_MISSING:
    case RLX_ERR_EXTRA:
    case RLX_ERR_BYTE:
    case RLX_ERR_LOST:
    case RLX_ERR_REPLIES: break;
    case RLX_ERR_VERSION:
    case RLX_ERR_IMAGE:
    case RLX_ERR_BUILD:
    case RLX_ERR_BUFFER: return false; /* never in a reply */
    }
    return true;
}

/* Whether a reply can have this text: without error names only few have one. */
static bool is_sent(const struct build *b, unsigned text)
{
    if (text == RLX_TEXT_ALREADY) return true;
    if (text == RLX_TEXT_ON || text == RLX_TEXT_OFF) return image_needs(b->image, RLX_BIT_SWITCH);
    if (!image_needs(b->image, RLX_BIT_ERRORS)) return false;
    return text < RLX_TEXT_ERRORS || image_can_fail(b->lx, b->image, text - RLX_TEXT_ERRORS + 1);
}

static void put_texts(struct build *b)
{
    static const char *const texts[RLX_TEXTS] = {
#define NAME(number, id, name, sentence) [(number)-1 + RLX_TEXT_ERRORS] = (name),
        RLX_REPLY_ERRORS(NAME)
#undef NAME
            [RLX_TEXT_ALREADY] = " already",
        [RLX_TEXT_ERR] = "err ",
        [RLX_TEXT_AT] = " at ",
        [RLX_TEXT_OFF] = "off",
        [RLX_TEXT_ON] = "on",
    };
    GByteArray *to = b->image->bytes;
    build_set16(to, RLX_IMG_TEXTS, to->len);
    build_row(b, "texts of replies");
    unsigned n = RLX_TEXTS, reasons = b->lx->reasons->len;
    bool all = reasons || image_needs(b->image, RLX_BIT_SMS);
    while (n > 1 && !is_sent(b, n - 1) && !all) n--;
    for (unsigned i = 0; i < n; i++) build_put_text(to, is_sent(b, i) ? texts[i] : "-");
    for (unsigned i = 0; i < reasons; i++) build_put_text(to, b->lx->reasons->pdata[i]);
    if (!reasons) return;
    build_need(b, RLX_BIT_REASONS);
    to->data[RLX_IMG_REASONS] = (guint8)reasons;
}

/* The outputs' names, where they can be asked by name. */
static void put_names(struct build *b)
{
    GByteArray *to = b->image->bytes;
    if (!(b->lx->built_in & RLX_BUILT_IN_STATE)) return;
    build_set16(to, RLX_IMG_NAMES, to->len);
    build_row(b, "names of the outputs, inputs, routines, settings and modems");
    for (unsigned i = 0; i < b->lx->outputs->len; i++) {
        char *name = lex_spelt(b->lx, ((struct lex_output *)b->lx->outputs->pdata[i])->name);
        build_put_text(to, name);
        g_free(name);
    }
    for (unsigned i = 0; i < b->lx->inputs->len; i++) {
        char *name = lex_spelt(b->lx, ((struct lex_input *)b->lx->inputs->pdata[i])->name);
        build_put_text(to, name);
        g_free(name);
    }
    for (unsigned i = 0; i < b->lx->routines->len; i++) {
        char *name = lex_spelt(b->lx, ((struct lex_routine *)b->lx->routines->pdata[i])->name);
        build_put_text(to, name);
        g_free(name);
    }
    for (unsigned i = 0; i < b->lx->settings->len; i++) {
        char *name = lex_spelt(b->lx, ((struct lex_setting *)b->lx->settings->pdata[i])->name);
        build_put_text(to, name);
        g_free(name);
    }
    for (unsigned i = 0; i < b->lx->links->len; i++) {
        const struct lex_link *link = b->lx->links->pdata[i];
        char *name = lex_drives_modem(link) ? lex_spelt(b->lx, link->name) : NULL;
        if (name) build_put_text(to, name);
        g_free(name);
    }
}

static void put_header(struct build *b)
{
    static const guint8 zero[RLX_IMG_HEADER];
    struct lexicon *lx = b->lx;
    GByteArray *to = b->image->bytes;
    build_row(b, "header");
    g_byte_array_append(to, zero, RLX_IMG_HEADER);
    to->data[RLX_IMG_MAGIC] = 'R';
    to->data[RLX_IMG_VERSION] = RLX_IMAGE_FORMAT;
    to->data[RLX_IMG_LINKS] = (guint8)lx->links->len;
    to->data[RLX_IMG_N_OUTPUTS] = (guint8)lx->outputs->len;
    to->data[RLX_IMG_SHORTEN] = (guint8)(lx->shorten ? lx->shorten : 255);
    build_set16(to, RLX_IMG_BUILT_IN, lx->built_in);
    if (lx->built_in & (RLX_BUILT_IN_HALT | RLX_BUILT_IN_STATE) && lx->outputs->len)
        build_need(b, RLX_BIT_SWITCH); /* what makes outputs safe, and knows them */
    if (lx->any_case) build_need(b, RLX_BIT_ANY_CASE);
    if (lx->shorten) build_need(b, RLX_BIT_SHORTEN);
    if (b->many) build_need(b, RLX_BIT_MANY);
    if (build_names_errors(b)) build_need(b, RLX_BIT_ERRORS);
}

static struct image *image_new(void)
{
    struct image *image = g_new0(struct image, 1);
    image->bytes = g_byte_array_new();
    image->rows = g_array_new(FALSE, TRUE, sizeof(struct image_row));
    image->handlers = g_ptr_array_new();
    image->signatures = g_ptr_array_new_with_free_func(g_free);
    return image;
}

void image_free(struct image *image)
{
    if (!image) return;
    for (unsigned i = 0; i < image->rows->len; i++)
        g_free(g_array_index(image->rows, struct image_row, i).comment);
    g_array_free(image->rows, TRUE);
    g_byte_array_free(image->bytes, TRUE);
    g_ptr_array_free(image->handlers, TRUE);
    g_ptr_array_free(image->signatures, TRUE);
    g_free(image->fingerprint);
    g_free(image);
}

static struct image *build_with(struct lexicon *lx, struct node *root, bool many)
{
    struct build b = {.lx = lx, .image = image_new(), .root = root, .many = many};
    b.shapes =
        g_hash_table_new_full(g_bytes_hash, g_bytes_equal, (GDestroyNotify)g_bytes_unref, NULL);
    b.shape_at = g_array_new(FALSE, FALSE, sizeof(uint16_t));
    b.handler = g_hash_table_new(g_str_hash, g_str_equal);
    b.says = g_hash_table_new_full(g_str_hash, g_str_equal, g_free, NULL);
    b.guards = g_hash_table_new(NULL, NULL);
    put_header(&b);
    build_put_says(&b);
    build_put_guards(&b);
    bool ok = build_put_root(&b);
    if (ok) {
        put_shape_table(&b);
        build_put_outputs(&b);
        build_put_events(&b);
        build_put_inputs(&b);
        build_put_permits(&b);
        build_put_acts(&b);
        build_put_routines(&b);
        build_put_patterns(&b);
        build_put_settings(&b);
        build_put_links(&b);
        put_help(&b);
        put_link_names(&b);
        put_numbered(&b);
        put_names(&b);
        put_texts(&b);
        b.image->bytes->data[RLX_IMG_SLOTS] = (guint8)MAX(b.image->slots, 1);
        put_greeting(&b);
        build_set16(b.image->bytes, RLX_IMG_SIZE, b.image->bytes->len);
    }
    bool more = !many && (b.shape_at->len > 256 || (!b.by_group && b.image->handlers->len > 256));
    g_hash_table_destroy(b.shapes);
    g_hash_table_destroy(b.handler);
    g_hash_table_destroy(b.says);
    g_hash_table_destroy(b.guards);
    g_array_free(b.shape_at, TRUE);
    if (ok && !more) return b.image;
    image_free(b.image);
    return ok ? build_with(lx, root, true) : NULL;
}

/* Commands may share a handler where it gets the same from both. */
static void check_shared(struct lexicon *lx, const struct lex_command *command,
                         const struct lex_command *first)
{
    char *mine = build_signature(lx, command), *other = build_signature(lx, first);
    if (strcmp(mine, other) != 0)
        lex_find(lx, LEX_D13, command->place, "%s() gets (%s) here, but (%s) in line %u",
                 command->effect.handler, mine, other, first->place.line);
    g_free(mine);
    g_free(other);
}

static void check_handlers(struct lexicon *lx)
{
    GHashTable *first = g_hash_table_new(g_str_hash, g_str_equal);
    for (unsigned i = 0; i < lx->queries->len;
         i++) { /* one with that of a command is a fault of names */
        struct lex_query *query = lx->queries->pdata[i];
        struct lex_command *other =
            g_hash_table_lookup(first, query->handler ? query->handler : "");
        if (other && query->asked)
            check_shared(lx, query->asked, other);
        else if (query->asked)
            g_hash_table_insert(first, query->handler, query->asked);
    }
    g_hash_table_remove_all(first);
    GPtrArray *callers = lex_callers(lx);
    for (unsigned i = 0; i < callers->len; i++) {
        struct lex_command *command = callers->pdata[i];
        struct lex_command *other = g_hash_table_lookup(first, command->effect.handler);
        if (other)
            check_shared(lx, command, other);
        else
            g_hash_table_insert(first, command->effect.handler, command);
    }
    g_ptr_array_free(callers, TRUE);
    g_hash_table_destroy(first);
}

/* Commands that cannot be distinguished are reported with the text that shows it, instead of the
 * place where the tables could not be made. */
static void explain_clashes(struct lexicon *lx, unsigned from)
{
    unsigned to = lx->faults->len;
    if (to == from || !lexicon_find_ambiguous(lx)) return;
    for (unsigned i = to; i-- > from;) {
        const struct lex_fault *clash = lx->faults->pdata[i];
        bool explained = false;
        for (unsigned k = to; k < lx->faults->len; k++)
            explained |=
                ((struct lex_fault *)lx->faults->pdata[k])->place.line == clash->place.line;
        if (!explained) continue;
        g_ptr_array_remove_index(lx->faults, i);
        to--;
    }
}

struct image *image_build(struct lexicon *lx)
{
    if (!lx->name || lexicon_misread(lx)) return NULL;
    check_handlers(lx);
    char *greeting = g_strdup_printf("%s %u 00000000", lx->name, lx->version);
    lexicon_size_links(lx, greeting);
    g_free(greeting);
    unsigned faults = lx->faults->len;
    struct node *root = graph_build(lx);
    explain_clashes(lx, faults);
    struct image *image = lexicon_has(lx, false) ? NULL : build_with(lx, root, false);
    graph_free(root);
    if (image && image->bytes->len > IMAGE_MAX) {
        lex_find(lx, LEX_D17, lx->place, "the image has %u bytes; %d is the most",
                 image->bytes->len, IMAGE_MAX);
        image_free(image);
        return NULL;
    }
    return image;
}
