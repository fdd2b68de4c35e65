#include <string.h>

#include "build.h"
#include "names.h"
#include "reader.h"
#include "rlx/drive.h"

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

char *build_signature(const struct lexicon *lx, const struct lex_command *command)
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
    char *text = build_signature(b->lx, command);
    guint index;
    if (g_ptr_array_find_with_equal_func(all, text, g_str_equal, &index)) {
        g_free(text);
        return index;
    }
    g_ptr_array_add(all, text);
    return all->len - 1;
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

unsigned build_operand(struct build *b, const struct lex_command *command)
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
    build_need(b, RLX_BIT_FAMILY);
    if (value >= 0 && value <= 255) {
        build_put8(to, RLX_OP_PUSH);
        build_put8(to, (unsigned)value);
    } else if (value >= INT16_MIN && value <= INT16_MAX) {
        build_put8(to, RLX_OP_PUSH16);
        build_put16(to, (unsigned)value & 0xFFFF);
    } else {
        build_put8(to, RLX_OP_PUSH32);
        build_put32(to, (uint32_t)value);
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
    build_need(b, effect->kind == LEX_SWITCH  ? RLX_BIT_SWITCH
                  : effect->kind == LEX_LEVEL ? RLX_BIT_LEVEL
                                              : RLX_BIT_CALL);
    build_put8(to,
               RLX_OP_END | act | operand | (appends(command, node->given) ? RLX_END_APPEND : 0));
    if (effect->kind == LEX_CALL) build_put8(to, signature_index(b, command));
    if (operand == RLX_OPERAND_INLINE) {
        if (b->many)
            build_put16(to, build_operand(b, command));
        else
            build_put8(to, build_operand(b, command));
    }
    b->image->slots = MAX(b->image->slots, lex_command_slots(command) + (effect->fixed >= 0));
}

/* ---- programs ---- */

GByteArray *build_program(struct build *b, const struct node *node, unsigned operand);

const struct lex_command *build_some_end(const struct node *node)
{
    while (!node->end)
        node = node->after_number ? node->after_number
               : node->words->len ? ((struct edge *)node->words->pdata[0])->to
                                  : ((struct edge *)node->choices->pdata[0])->to;
    return node->end;
}

/* The number of the shape with this program, which becomes one when it is new. */
unsigned build_shape(struct build *b, GByteArray *bytes, const struct node *node)
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
    char *text = lex_command_text(build_some_end(node));
    build_row(b, "shape %u, as in: %s", b->shape_at->len, text);
    g_free(text);
    g_array_append_val(b->shape_at, at);
    g_byte_array_append(b->image->bytes, data, (guint)size);
    g_hash_table_insert(b->shapes, key, GUINT_TO_POINTER(b->shape_at->len));
    return b->shape_at->len - 1;
}

void build_put_shape(struct build *b, GByteArray *to, unsigned shape)
{
    if (b->many)
        build_put16(to, g_array_index(b->shape_at, uint16_t, shape));
    else
        build_put8(to, shape);
}

void build_put_number(struct build *b, GByteArray *to, const struct lex_element *e)
{
    bool wide = e->low < INT16_MIN || e->high > INT16_MAX;
    build_need(b, RLX_BIT_NUMBER);
    if (wide) build_need(b, RLX_BIT_WIDE);
    if (e->unit) build_need(b, RLX_BIT_UNIT);
    build_put8(to, wide ? RLX_OP_NUM32 : RLX_OP_NUM16);
    build_put8(to, 1u + (wide ? 8u : 4u) + (unsigned)strlen(e->text) +
                       (e->unit ? (unsigned)strlen(e->unit) : 0));
    build_put8(to, lex_number_digits(e) | (e->unit ? RLX_NUM_UNIT : 0) |
                       (e->glued ? RLX_NUM_GLUED : 0));
    if (wide) {
        build_put32(to, (uint32_t)e->low);
        build_put32(to, (uint32_t)e->high);
    } else {
        build_put16(to, (unsigned)e->low & 0xFFFF);
        build_put16(to, (unsigned)e->high & 0xFFFF);
    }
    if (e->unit) build_put_text(to, e->unit);
    build_put_text(to, e->text);
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
    build_need(b, RLX_BIT_CHOICE);
    build_put8(to, RLX_OP_CHOICE);
    build_put8(to, 0);
    for (unsigned i = 0; i < e->words->len; i++) {
        build_put8(to, image_choice_value(e, i));
        build_put_text(to, e->words->pdata[i]);
    }
    to->data[at + 1] = (guint8)(to->len - at - 2);
}

/* The words possible here, those of choices with their value pushed. */
static void put_words(struct build *b, GByteArray *to, const struct node *node, unsigned operand)
{
    unsigned at = to->len;
    build_put8(to, RLX_OP_WORDS);
    build_put8(to, b->many ? 2 : 1);
    build_put16(to, 0);
    for (unsigned i = 0; i < node->words->len; i++) {
        struct edge *edge = node->words->pdata[i];
        build_put_shape(b, to, build_shape(b, build_program(b, edge->to, operand), edge->to));
        build_put_text(to, edge->text);
    }
    for (unsigned i = 0; i < node->choices->len; i++) {
        struct edge *edge = node->choices->pdata[i];
        GByteArray *rest = build_program(b, edge->to, operand); /* once: it may hold choices too */
        build_need(b, RLX_BIT_FAMILY);
        for (unsigned k = 0; k < edge->element->words->len; k++) {
            GByteArray *pushed = g_byte_array_new();
            build_put8(pushed, RLX_OP_PUSH);
            build_put8(pushed, image_choice_value(edge->element, k));
            build_put_all(pushed, rest);
            build_put_shape(b, to, build_shape(b, pushed, edge->to));
            build_put_text(to, edge->element->words->pdata[k]);
        }
        g_byte_array_free(rest, TRUE);
    }
    build_set16(to, at + 2, to->len - at - 4);
}

void build_put_rest(struct build *b, GByteArray *to, const struct node *node, unsigned operand)
{
    GByteArray *rest = build_program(b, node, operand);
    build_put_all(to, rest);
    g_byte_array_free(rest, TRUE);
}

GByteArray *build_program(struct build *b, const struct node *node, unsigned operand)
{
    GByteArray *to = g_byte_array_new();
    bool words = node->words->len || node->choices->len;
    if (node->end && !words && !node->number) {
        put_end(b, to, node, operand);
        return to;
    }
    if (node->end) {
        GByteArray *end = g_byte_array_new();
        build_need(b, RLX_BIT_FAMILY);
        put_end(b, end, node, operand);
        build_put8(to, RLX_OP_IF_END);
        build_put8(to, end->len);
        build_put_all(to, end);
        g_byte_array_free(end, TRUE);
    }
    if (node->number) {
        unsigned at = to->len;
        if (words) {
            build_need(b, RLX_BIT_FAMILY);
            build_put8(to, RLX_OP_IF_NUM);
            build_put16(to, 0);
        }
        build_put_number(b, to, node->number);
        build_put_rest(b, to, node->after_number, operand);
        if (!words) return to;
        build_set16(to, at + 1, to->len - at - 3);
    }
    struct edge *edge = node->choices->len == 1 ? node->choices->pdata[0] : NULL;
    if (edge && !node->words->len && fits_choice(edge->element)) {
        put_choice(b, to, edge->element);
        build_put_rest(b, to, edge->to, operand);
    } else {
        put_words(b, to, node, operand);
    }
    return to;
}
