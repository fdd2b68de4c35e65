#include "image.h"

#include <string.h>

#include "graph.h"
#include "hash.h"
#include "names.h"
#include "reader.h"
#include "rlx/config.h"
#include "rlx/drive.h"
#include "rlx/error.h"
#include "rlx/image.h"
#include "sizes.h"

/* From this many first words on they are hashed. */
#define HASH_FROM 9
#define IMAGE_MAX 65535

/* The image in the making. */
struct build {
    struct lexicon *lx;
    struct image *image;
    struct node *root;
    bool many;           /* 16-bit shapes and operands */
    bool by_group;       /* a handler's index is its word's hash group */
    GHashTable *shapes;  /* GBytes: program -> shape number + 1 */
    GArray *shape_at;    /* uint16_t: offsets */
    GHashTable *handler; /* name -> index + 1 */
};

/* ---- bytes ---- */

static void put8(GByteArray *to, unsigned value)
{
    guint8 byte = (guint8)value;
    g_byte_array_append(to, &byte, 1);
}

static void put16(GByteArray *to, unsigned value)
{
    put8(to, value & 255);
    put8(to, value >> 8 & 255);
}

static void put32(GByteArray *to, uint32_t value)
{
    put16(to, value & 0xFFFF);
    put16(to, value >> 16);
}

static void set16(GByteArray *to, unsigned at, unsigned value)
{
    to->data[at] = (guint8)value;
    to->data[at + 1] = (guint8)(value >> 8);
}

static void put_text(GByteArray *to, const char *text)
{
    g_byte_array_append(to, (const guint8 *)text, (guint)strlen(text));
    to->data[to->len - 1] |= RLX_TEXT_END;
}

/* Tables of 16-bit numbers stand at even offsets. */
static void align(GByteArray *to)
{
    if (to->len & 1) put8(to, 0);
}

static void put_all(GByteArray *to, const GByteArray *from)
{
    g_byte_array_append(to, from->data, from->len);
}

/* A new row of the listing begins here. */
static void row(struct build *b, const char *format, ...) G_GNUC_PRINTF(2, 3);
static void row(struct build *b, const char *format, ...)
{
    struct image_row r = {b->image->bytes->len, NULL};
    va_list args;
    va_start(args, format);
    r.comment = g_strdup_vprintf(format, args);
    va_end(args);
    g_array_append_val(b->image->rows, r);
}

static void need(struct build *b, unsigned bit)
{
    b->image->needs |= 1u << bit;
}

/* ---- what commands do ---- */

char *image_slot_type(const struct lexicon *lx, const struct lex_command *command,
                      const struct lex_element *slot)
{
    if (slot->kind == LEX_CHOICE) {
        char *name = lex_enum_name(lx, command, slot), *type = g_strconcat("enum ", name, NULL);
        g_free(name);
        return type;
    }
    if (slot->low >= 0 && slot->high <= UINT16_MAX)
        return g_strdup(slot->high <= UINT8_MAX ? "uint8_t" : "uint16_t");
    return g_strdup(slot->low >= INT16_MIN && slot->high <= INT16_MAX ? "int16_t" : "int32_t");
}

static char *signature_of(const struct lexicon *lx, const struct lex_command *command)
{
    GString *text = g_string_new(NULL);
    for (unsigned i = 0; i < command->elements->len; i++) {
        struct lex_element *e = command->elements->pdata[i];
        if (e->kind == LEX_WORD) continue;
        char *type = image_slot_type(lx, command, e);
        g_string_append_printf(text, "%s%s", text->len ? "," : "", type);
        g_free(type);
    }
    return g_string_free(text, FALSE);
}

static unsigned signature_index(struct build *b, const struct lex_command *command)
{
    GPtrArray *all = b->image->signatures;
    char *text = signature_of(b->lx, command);
    guint index;
    if (g_ptr_array_find_with_equal_func(all, text, g_str_equal, &index)) {
        g_free(text);
        return index;
    }
    g_ptr_array_add(all, text);
    return all->len - 1;
}

/* Commands may share a handler where it gets the same from both. */
static void check_shared(struct lexicon *lx, const struct lex_command *command,
                         const struct lex_command *first)
{
    char *mine = signature_of(lx, command), *other = signature_of(lx, first);
    if (strcmp(mine, other) != 0)
        lex_find(lx, LEX_D13, command->place, "%s() gets (%s) here, but (%s) in line %u",
                 command->effect.handler, mine, other, first->place.line);
    g_free(mine);
    g_free(other);
}

static unsigned handler_index(struct build *b, const struct lex_command *command)
{
    char *name = command->effect.handler;
    unsigned index = GPOINTER_TO_UINT(g_hash_table_lookup(b->handler, name));
    if (!index) {
        g_ptr_array_add(b->image->handlers, (void *)command);
        index = b->image->handlers->len;
        g_hash_table_insert(b->handler, name, GUINT_TO_POINTER(index));
    }
    return index - 1;
}

static unsigned operand_of(struct build *b, const struct lex_command *command)
{
    return command->effect.kind == LEX_CALL ? handler_index(b, command) : command->effect.output;
}

unsigned image_choice_value(const struct lex_element *choice, unsigned index)
{
    const char *word = choice->words->pdata[index];
    if (choice->outputs) return choice->outputs[index];
    if (!lex_is_verbs(choice)) return index;
    return !strcmp(word, "off") ? RLX_OFF : !strcmp(word, "on") ? RLX_ON : RLX_TOGGLE;
}

/* Whether a toggle's outcome goes behind the command: its last word does not say "toggle". */
static bool appends(const struct lex_command *command, unsigned given)
{
    if (command->effect.kind != LEX_SWITCH) return false;
    if (command->effect.fixed < 0) return given < lex_command_slots(command);
    if (command->effect.fixed != RLX_TOGGLE) return false;
    struct lex_element *last = command->elements->pdata[command->elements->len - 1];
    return last->kind != LEX_WORD || g_ascii_strcasecmp(last->text, "toggle") != 0;
}

static void put_push(struct build *b, GByteArray *to, int32_t value)
{
    need(b, RLX_BIT_FAMILY);
    if (value >= 0 && value <= 255) {
        put8(to, RLX_OP_PUSH);
        put8(to, (unsigned)value);
    } else if (value >= INT16_MIN && value <= INT16_MAX) {
        put8(to, RLX_OP_PUSH16);
        put16(to, (unsigned)value & 0xFFFF);
    } else {
        put8(to, RLX_OP_PUSH32);
        put32(to, (uint32_t)value);
    }
}

/* The values of the slots that were left out. */
static void put_fallbacks(struct build *b, GByteArray *to, const struct lex_command *command,
                          unsigned given)
{
    for (unsigned i = 0, slot = 0; i < command->elements->len; i++) {
        const struct lex_element *e = command->elements->pdata[i];
        if (e->kind == LEX_WORD || slot++ < given) continue;
        put_push(b, to,
                 e->kind == LEX_CHOICE ? (int32_t)image_choice_value(e, (unsigned)e->fallback)
                                       : e->fallback);
    }
}

/* operand: RLX_OPERAND_... */
static void put_end(struct build *b, GByteArray *to, const struct node *node, unsigned operand)
{
    const struct lex_command *command = node->end;
    const struct lex_effect *effect = &command->effect;
    put_fallbacks(b, to, command, node->given);
    if (effect->fixed >= 0) put_push(b, to, effect->fixed);
    if (effect->which) operand = RLX_OPERAND_VALUE;
    unsigned act = effect->kind == LEX_SWITCH  ? RLX_ACT_SWITCH
                   : effect->kind == LEX_LEVEL ? RLX_ACT_LEVEL
                                               : RLX_ACT_CALL;
    need(b, effect->kind == LEX_SWITCH  ? RLX_BIT_SWITCH
            : effect->kind == LEX_LEVEL ? RLX_BIT_LEVEL
                                        : RLX_BIT_CALL);
    put8(to, RLX_OP_END | act | operand | (appends(command, node->given) ? RLX_END_APPEND : 0));
    if (effect->kind == LEX_CALL) put8(to, signature_index(b, command));
    if (operand == RLX_OPERAND_INLINE) {
        if (b->many)
            put16(to, operand_of(b, command));
        else
            put8(to, operand_of(b, command));
    }
    b->image->slots = MAX(b->image->slots, lex_command_slots(command) + (effect->fixed >= 0));
}

/* ---- programs ---- */

static GByteArray *program(struct build *b, const struct node *node, unsigned operand);

static const struct lex_command *some_end(const struct node *node)
{
    while (!node->end)
        node = node->after_number ? node->after_number
               : node->words->len ? ((struct edge *)node->words->pdata[0])->to
                                  : ((struct edge *)node->choices->pdata[0])->to;
    return node->end;
}

/* The number of the shape with this program, which becomes one when it is new. */
static unsigned shape_of(struct build *b, GByteArray *bytes, const struct node *node)
{
    GBytes *key = g_byte_array_free_to_bytes(bytes);
    unsigned shape = GPOINTER_TO_UINT(g_hash_table_lookup(b->shapes, key));
    if (shape) {
        g_bytes_unref(key);
        return shape - 1;
    }
    gsize size;
    const guint8 *data = g_bytes_get_data(key, &size);
    uint16_t at = (uint16_t)b->image->bytes->len;
    char *text = lex_command_text(some_end(node));
    row(b, "shape %u, as in: %s", b->shape_at->len, text);
    g_free(text);
    g_array_append_val(b->shape_at, at);
    g_byte_array_append(b->image->bytes, data, (guint)size);
    g_hash_table_insert(b->shapes, key, GUINT_TO_POINTER(b->shape_at->len));
    return b->shape_at->len - 1;
}

static void put_shape(struct build *b, GByteArray *to, unsigned shape)
{
    if (b->many)
        put16(to, g_array_index(b->shape_at, uint16_t, shape));
    else
        put8(to, shape);
}

static void put_number(struct build *b, GByteArray *to, const struct lex_element *e)
{
    bool wide = e->low < INT16_MIN || e->high > INT16_MAX;
    need(b, RLX_BIT_NUMBER);
    if (wide) need(b, RLX_BIT_WIDE);
    if (e->unit) need(b, RLX_BIT_UNIT);
    put8(to, wide ? RLX_OP_NUM32 : RLX_OP_NUM16);
    put8(to, 1u + (wide ? 8u : 4u) + (unsigned)strlen(e->text) +
                 (e->unit ? (unsigned)strlen(e->unit) : 0));
    put8(to, lex_number_digits(e) | (e->unit ? RLX_NUM_UNIT : 0) | (e->glued ? RLX_NUM_GLUED : 0));
    if (wide) {
        put32(to, (uint32_t)e->low);
        put32(to, (uint32_t)e->high);
    } else {
        put16(to, (unsigned)e->low & 0xFFFF);
        put16(to, (unsigned)e->high & 0xFFFF);
    }
    if (e->unit) put_text(to, e->unit);
    put_text(to, e->text);
}

/* Whether a choice is small enough for an element of its own. */
static bool fits_choice(const struct lex_element *e)
{
    size_t size = 0;
    for (unsigned i = 0; i < e->words->len; i++) size += 1 + strlen(e->words->pdata[i]);
    return size <= 255;
}

static void put_choice(struct build *b, GByteArray *to, const struct lex_element *e)
{
    unsigned at = to->len;
    need(b, RLX_BIT_CHOICE);
    put8(to, RLX_OP_CHOICE);
    put8(to, 0);
    for (unsigned i = 0; i < e->words->len; i++) {
        put8(to, image_choice_value(e, i));
        put_text(to, e->words->pdata[i]);
    }
    to->data[at + 1] = (guint8)(to->len - at - 2);
}

/* The words possible here, those of choices with their value pushed. */
static void put_words(struct build *b, GByteArray *to, const struct node *node, unsigned operand)
{
    unsigned at = to->len;
    put8(to, RLX_OP_WORDS);
    put8(to, b->many ? 2 : 1);
    put16(to, 0);
    for (unsigned i = 0; i < node->words->len; i++) {
        struct edge *edge = node->words->pdata[i];
        put_shape(b, to, shape_of(b, program(b, edge->to, operand), edge->to));
        put_text(to, edge->text);
    }
    for (unsigned i = 0; i < node->choices->len; i++) {
        struct edge *edge = node->choices->pdata[i];
        need(b, RLX_BIT_FAMILY);
        for (unsigned k = 0; k < edge->element->words->len; k++) {
            GByteArray *pushed = g_byte_array_new(), *rest = program(b, edge->to, operand);
            put8(pushed, RLX_OP_PUSH);
            put8(pushed, image_choice_value(edge->element, k));
            put_all(pushed, rest);
            g_byte_array_free(rest, TRUE);
            put_shape(b, to, shape_of(b, pushed, edge->to));
            put_text(to, edge->element->words->pdata[k]);
        }
    }
    set16(to, at + 2, to->len - at - 4);
}

static void put_rest(struct build *b, GByteArray *to, const struct node *node, unsigned operand)
{
    GByteArray *rest = program(b, node, operand);
    put_all(to, rest);
    g_byte_array_free(rest, TRUE);
}

static GByteArray *program(struct build *b, const struct node *node, unsigned operand)
{
    GByteArray *to = g_byte_array_new();
    bool words = node->words->len || node->choices->len;
    if (node->end && !words && !node->number) {
        put_end(b, to, node, operand);
        return to;
    }
    if (node->end) {
        GByteArray *end = g_byte_array_new();
        need(b, RLX_BIT_FAMILY);
        put_end(b, end, node, operand);
        put8(to, RLX_OP_IF_END);
        put8(to, end->len);
        put_all(to, end);
        g_byte_array_free(end, TRUE);
    }
    if (node->number) {
        unsigned at = to->len;
        if (words) {
            need(b, RLX_BIT_FAMILY);
            put8(to, RLX_OP_IF_NUM);
            put16(to, 0);
        }
        put_number(b, to, node->number);
        put_rest(b, to, node->after_number, operand);
        if (!words) return to;
        set16(to, at + 1, to->len - at - 3);
    }
    struct edge *edge = node->choices->len == 1 ? node->choices->pdata[0] : NULL;
    if (edge && !node->words->len && fits_choice(edge->element)) {
        put_choice(b, to, edge->element);
        put_rest(b, to, edge->to, operand);
    } else {
        put_words(b, to, node, operand);
    }
    return to;
}

/* ---- the root ---- */

/* One first word: its entry's bytes. */
static void put_root_entry(struct build *b, GByteArray *to, const struct edge *edge,
                           bool with_operands)
{
    bool single = graph_ends(edge->to) == 1;
    unsigned operand = b->by_group               ? RLX_OPERAND_GROUP
                       : with_operands && single ? RLX_OPERAND_ENTRY
                                                 : RLX_OPERAND_INLINE;
    unsigned shape = shape_of(b, program(b, edge->to, operand), edge->to), value = 0;
    if (operand == RLX_OPERAND_ENTRY) value = operand_of(b, some_end(edge->to));
    put_shape(b, to, shape);
    if (with_operands && b->many) put16(to, value);
    if (with_operands && !b->many) put8(to, value);
    put_text(to, edge->text);
}

/* Whether entries carry operands: where more than one command is alone with its first word. */
static bool operands_pay(const struct build *b)
{
    unsigned singles = 0;
    for (unsigned i = 0; i < b->root->words->len; i++)
        singles += graph_ends(((struct edge *)b->root->words->pdata[i])->to) == 1;
    return !b->by_group && singles > 1;
}

/* The root begins here. Where a command may begin with a number, that stands before the first
 * words, which then are at an even offset again. */
static void begin_root(struct build *b, const GByteArray *number)
{
    GByteArray *to = b->image->bytes;
    align(to);
    set16(to, RLX_IMG_ROOT, to->len);
    if (!number) return;
    unsigned skip = number->len | 1;
    row(b, "a number first");
    need(b, RLX_BIT_FAMILY);
    put8(to, RLX_OP_IF_NUM);
    put16(to, skip);
    put_all(to, number);
    if (skip > number->len) put8(to, 0);
}

static void put_root_linear(struct build *b, const GByteArray *number)
{
    GByteArray *entries = g_byte_array_new();
    bool with_operands = operands_pay(b);
    for (unsigned i = 0; i < b->root->words->len; i++)
        put_root_entry(b, entries, b->root->words->pdata[i], with_operands);
    begin_root(b, number);
    row(b, "the first words");
    put8(b->image->bytes, RLX_OP_WORDS);
    put8(b->image->bytes, (1u + with_operands) * (b->many ? 2u : 1u));
    put16(b->image->bytes, entries->len);
    put_all(b->image->bytes, entries);
    g_byte_array_free(entries, TRUE);
}

/* Whether every first word is one command that calls, alone in its group. */
static bool groups_serve(const struct build *b, const struct hash_table *table)
{
    if (table->n_groups != b->root->words->len || b->root->number) return false;
    for (unsigned i = 0; i < b->root->words->len; i++) {
        struct edge *edge = b->root->words->pdata[i];
        if (graph_ends(edge->to) != 1 || some_end(edge->to)->effect.kind != LEX_CALL) return false;
    }
    return true;
}

static void put_root_hashed(struct build *b, const struct hash_table *table,
                            const GByteArray *number)
{
    unsigned n = b->root->words->len, n_groups = table->n_groups;
    bool with_operands = operands_pay(b);
    GByteArray **entry = g_new(GByteArray *, n);
    for (unsigned i = 0; i < n; i++) {
        struct edge *edge = b->root->words->pdata[i];
        put_root_entry(b, entry[i] = g_byte_array_new(), edge, with_operands);
        if (b->by_group) b->image->handlers->pdata[table->group_of[i]] = (void *)some_end(edge->to);
    }
    GByteArray *to = b->image->bytes;
    need(b, RLX_BIT_HASH);
    begin_root(b, number);
    row(b, "the first words, hashed: %u groups, %u shifts", n_groups, table->n_shifts);
    put8(to, RLX_OP_HASH);
    put8(to, (1u + with_operands) * (b->many ? 2u : 1u));
    put16(to, table->n_shifts - 1);
    put16(to, n_groups);
    row(b, "shift of each bucket");
    for (unsigned i = 0; i < table->n_shifts; i++) put16(to, table->shifts[i]);
    row(b, "entries of each group");
    unsigned at = to->len;
    for (unsigned i = 0; i <= n_groups; i++) put16(to, 0);
    for (unsigned g = 0; g < n_groups; g++) {
        set16(to, at + 2 * g, to->len);
        for (unsigned i = 0; i < n; i++) {
            if (table->group_of[i] != g) continue;
            row(b, "%s", ((struct edge *)b->root->words->pdata[i])->text);
            put_all(to, entry[i]);
            g_byte_array_free(entry[i], TRUE);
        }
    }
    set16(to, at + 2 * n_groups, to->len);
    g_free(entry);
}

static bool put_root_words(struct build *b, const GByteArray *number)
{
    unsigned n = b->root->words->len;
    struct hash_table table;
    if (n < HASH_FROM) {
        put_root_linear(b, number);
        return true;
    }
    GPtrArray *words = g_ptr_array_new();
    for (unsigned i = 0; i < n; i++)
        g_ptr_array_add(words, (char *)((struct edge *)b->root->words->pdata[i])->text);
    bool found = hash_arrange(&table, (char *const *)words->pdata, n, b->lx->shorten);
    if (found) {
        b->by_group = groups_serve(b, &table);
        if (b->by_group) g_ptr_array_set_size(b->image->handlers, (int)n);
        put_root_hashed(b, &table, number);
    } else {
        lex_find(b->lx, LEX_D17, b->lx->place, "%u first words are more than the image can hold",
                 n);
    }
    hash_clear(&table);
    g_ptr_array_free(words, TRUE);
    return found;
}

/* The program of commands that begin with a number, or NULL. */
static GByteArray *root_number(struct build *b)
{
    if (!b->root->number) return NULL;
    GByteArray *number = g_byte_array_new();
    put_number(b, number, b->root->number);
    put_rest(b, number, b->root->after_number, RLX_OPERAND_INLINE);
    return number;
}

static bool put_root(struct build *b)
{
    GByteArray *number = root_number(b);
    bool ok = true;
    if (number && !b->root->words->len) {
        begin_root(b, NULL);
        row(b, "a number first");
        put_all(b->image->bytes, number);
    } else {
        ok = put_root_words(b, number);
    }
    if (number) g_byte_array_free(number, TRUE);
    return ok;
}

/* ---- the tables around it ---- */

static void put_shape_table(struct build *b)
{
    align(b->image->bytes);
    set16(b->image->bytes, RLX_IMG_SHAPES, b->image->bytes->len);
    if (b->many) return;
    row(b, "where the shapes are");
    for (unsigned i = 0; i < b->shape_at->len; i++)
        put16(b->image->bytes, g_array_index(b->shape_at, uint16_t, i));
}

static void put_outputs(struct build *b)
{
    GByteArray *to = b->image->bytes;
    set16(to, RLX_IMG_OUTPUTS, to->len);
    for (unsigned i = 0; i < b->lx->outputs->len; i++) {
        struct lex_output *out = b->lx->outputs->pdata[i];
        need(b, out->pwm ? RLX_BIT_LEVEL : RLX_BIT_SWITCH);
        row(b, "output %u: %s, %s %u%s, safe %u%%", i, out->name, out->pwm ? "pwm" : "pin",
            out->pin, out->active_low ? " active low" : "", out->safe);
        put8(to, (out->active_low ? RLX_OUT_ACTIVE_LOW : 0) | (out->pwm ? RLX_OUT_PWM : 0));
        put8(to, out->pin);
        put8(to, out->safe);
        put32(to, out->hz);
    }
}

static void put_keys(struct build *b, const struct lex_link *link)
{
    GByteArray *to = b->image->bytes;
    row(b, "keys of %s", link->name);
    unsigned at = to->len;
    put16(to, 0);
    for (unsigned i = 0; i < link->keys->len; i++) {
        struct lex_key *key = link->keys->pdata[i];
        row(b, "%c = %s", key->key, key->text);
        put8(to, (unsigned char)key->key);
        put_text(to, key->text);
    }
    set16(to, at, to->len - at - 2);
}

static void put_links(struct build *b)
{
    GByteArray *to = b->image->bytes;
    unsigned rows = to->len, n = b->lx->links->len;
    set16(to, RLX_IMG_LINK_ROWS, rows);
    for (unsigned i = 0; i < n; i++) {
        struct lex_link *link = b->lx->links->pdata[i];
        bool keys = link->frame == LEX_FRAME_KEYS;
        need(b, keys ? RLX_BIT_KEYS : RLX_BIT_LINE);
        row(b, "link %u: %s, %s frames, replies up to %u bytes", i, link->name,
            keys ? "key" : "line", link->reply);
        put8(to, keys ? RLX_FRAME_KEYS : RLX_FRAME_LINE);
        put8(to, link->reply);
        put8(to, link->receive - 1);
        put8(to, link->transmit - 1);
        put8(to, link->longest);
        put16(to, 0);
        if (link->may_not_fit) need(b, RLX_BIT_LONG_REPLY);
    }
    for (unsigned i = 0; i < n; i++) {
        struct lex_link *link = b->lx->links->pdata[i];
        if (link->frame != LEX_FRAME_KEYS) continue;
        set16(to, rows + i * RLX_LNK_ROW + RLX_LNK_KEYS, to->len);
        put_keys(b, link);
    }
}

/* The fingerprint tells images apart: the first 32 bits of the SHA-256 (FIPS 180-4) of all bytes
 * up to the greeting, which holds it. */
static void put_greeting(struct build *b)
{
    GByteArray *to = b->image->bytes;
    if (!b->lx->silent) need(b, RLX_BIT_GREETING);
    set16(to, RLX_IMG_NEEDS, b->image->needs & 0xFFFF);
    set16(to, RLX_IMG_NEEDS + 2, b->image->needs >> 16);
    char *sum = g_compute_checksum_for_data(G_CHECKSUM_SHA256, to->data, to->len);
    b->image->fingerprint = g_strndup(sum, 8);
    char *text =
        g_strdup_printf("ready %s %u %s ", b->lx->name, b->lx->version, b->image->fingerprint);
    if (!b->lx->silent) {
        set16(to, RLX_IMG_GREETING, to->len);
        row(b, "greeting: %s", text);
        put_text(to, text);
    }
    g_free(text);
    g_free(sum);
}

bool image_can_fail(const struct lexicon *lx, const struct image *image, unsigned number)
{
    uint32_t needs = image->needs;
    switch (number) {
    case RLX_ERR_AMBIGUOUS: return lx->shorten != 0;
    case RLX_ERR_NUMBER:
    case RLX_ERR_RANGE:
    case RLX_ERR_DIGITS: return needs >> RLX_BIT_NUMBER & 1;
    case RLX_ERR_FAILED:
    case RLX_ERR_BUSY: return needs >> RLX_BIT_CALL & 1;
    case RLX_ERR_LONG: return needs >> RLX_BIT_LINE & 1;
    case RLX_TEXT_ON:
    case RLX_TEXT_OFF: return needs >> RLX_BIT_SWITCH & 1;
    default: return true;
    }
}

static void put_texts(struct build *b)
{
    static const char *const texts[RLX_TEXTS] = {
#define NAME(number, id, name, sentence) [number] = name,
        RLX_REPLY_ERRORS(NAME)
#undef NAME
            [RLX_TEXT_ALREADY] = " already",
        [RLX_TEXT_ERR] = "err ",
        [RLX_TEXT_AT] = " at ",
        [RLX_TEXT_OFF] = "off",
        [RLX_TEXT_ON] = "on",
    };
    GByteArray *to = b->image->bytes;
    set16(to, RLX_IMG_TEXTS, to->len);
    row(b, "texts of replies");
    for (unsigned i = 0; i < RLX_TEXTS; i++)
        put_text(to, image_can_fail(b->lx, b->image, i) ? texts[i] : "-");
}

static void put_header(struct build *b)
{
    static const guint8 zero[RLX_IMG_HEADER];
    struct lexicon *lx = b->lx;
    GByteArray *to = b->image->bytes;
    row(b, "header");
    g_byte_array_append(to, zero, RLX_IMG_HEADER);
    to->data[RLX_IMG_MAGIC] = 'R';
    to->data[RLX_IMG_VERSION] = RLX_IMAGE_FORMAT;
    to->data[RLX_IMG_LINKS] = (guint8)lx->links->len;
    to->data[RLX_IMG_N_OUTPUTS] = (guint8)lx->outputs->len;
    to->data[RLX_IMG_SHORTEN] = (guint8)(lx->shorten ? lx->shorten : 255);
    if (lx->any_case) need(b, RLX_BIT_ANY_CASE);
    if (lx->shorten) need(b, RLX_BIT_SHORTEN);
    if (b->many) need(b, RLX_BIT_MANY);
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
    put_header(&b);
    bool ok = put_root(&b);
    if (ok) {
        put_shape_table(&b);
        put_outputs(&b);
        put_links(&b);
        put_texts(&b);
        b.image->bytes->data[RLX_IMG_SLOTS] = (guint8)MAX(b.image->slots, 1);
        put_greeting(&b);
        set16(b.image->bytes, RLX_IMG_SIZE, b.image->bytes->len);
    }
    bool more = !many && (b.shape_at->len > 256 || (!b.by_group && b.image->handlers->len > 256));
    g_hash_table_destroy(b.shapes);
    g_hash_table_destroy(b.handler);
    g_array_free(b.shape_at, TRUE);
    if (ok && !more) return b.image;
    image_free(b.image);
    return ok ? build_with(lx, root, true) : NULL;
}

static void check_handlers(struct lexicon *lx)
{
    GHashTable *first = g_hash_table_new(g_str_hash, g_str_equal);
    for (unsigned i = 0; i < lx->commands->len; i++) {
        struct lex_command *command = lx->commands->pdata[i];
        if (command->effect.kind != LEX_CALL) continue;
        struct lex_command *other = g_hash_table_lookup(first, command->effect.handler);
        if (other)
            check_shared(lx, command, other);
        else
            g_hash_table_insert(first, command->effect.handler, command);
    }
    g_hash_table_destroy(first);
}

struct image *image_build(struct lexicon *lx)
{
    if (lexicon_has(lx, false)) return NULL;
    check_handlers(lx);
    char *greeting = g_strdup_printf("%s %u 00000000", lx->name, lx->version);
    lexicon_size_links(lx, greeting);
    g_free(greeting);
    struct node *root = graph_build(lx);
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
