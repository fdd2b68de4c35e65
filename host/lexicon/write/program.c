/* Commands as programs of the image: elements that read words and slots up to an end.
 * Programs that are alike are written once.
 * First words are in root.c. */
#include <string.h>

#include "lexicon/write/build.h"
#include "lexicon/kind.h"
#include "lexicon/names.h"
#include "lexicon/read/reader.h"
#include "lexicon/slot.h"
#include "rlx/drive.h"

/* ---- what commands do ---- */

char *build_signature(const struct lexicon *lx, const struct lex_command *command)
{
    GString *text = g_string_new(NULL);
    const GPtrArray *elements = lex_arguments(command);
    for (unsigned i = 0; i < elements->len; i++) {
        struct lex_element *e = elements->pdata[i];
        if (e->kind == LEX_WORD) continue;
        char *type = lex_slot_of(e)->type(lx, command, e);
        g_string_append_printf(text, "%s%s%s", text->len ? "," : "", type,
                               lex_is_told(command, e) ? " *" : "");
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
    for (unsigned i = 0; choice->verbs && i < LEX_VERBS; i++)
        if (!g_strcmp0(lex_verbs[i].word, word)) return i;
    if (choice->kind == LEX_SET) return 1u << index;
    if (!lex_is_verbs(choice)) return index;
    return !strcmp(word, "off") ? RLX_OFF : !strcmp(word, "on") ? RLX_ON : RLX_TOGGLE;
}

/* Whether a toggle's outcome goes behind the command: its last word is not "toggle". */
static bool appends(const struct lex_command *command, unsigned given)
{
    if (command->effect.kind != LEX_SWITCH || !command->elements->len) return false;
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
        build_need(b, RLX_BIT_WIDE);
        build_put8(to, RLX_OP_PUSH32);
        build_put32(to, (uint32_t)value);
    }
}

int32_t image_said_value(const struct lex_element *e, int32_t said)
{
    const struct lex_slot *slot = lex_slot_of(e);
    return slot->value ? slot->value(e, said) : 0;
}

/* Which settings narrow a number's bounds. */
static void put_bound(struct build *b, GByteArray *to, const struct lex_element *e)
{
    build_need(b, RLX_BIT_BOUNDS);
    build_put8(to, e->from ? build_setting(b, e->from) : RLX_NUM_FIXED);
    build_put8(to, e->upto ? build_setting(b, e->upto) : RLX_NUM_FIXED);
}

/* The values of slots that are not read: of all where they are known, else of those that were left
 * out. */
static void put_values(struct build *b, GByteArray *to, const struct lex_command *command,
                       unsigned given, const int32_t *values)
{
    for (unsigned i = 0, slot = 0; i < command->elements->len; i++) {
        const struct lex_element *e = command->elements->pdata[i];
        if (e->kind == LEX_WORD) continue;
        if (slot >= given)
            put_push(b, to, image_said_value(e, e->fallback));
        else if (values)
            put_push(b, to, image_said_value(e, values[slot]));
        if (values && lex_is_bound(e)) {
            build_put8(to, RLX_OP_WITHIN);
            put_bound(b, to, e);
            build_put32(to, (uint32_t)values[slot]);
        }
        slot++;
    }
}

/* How long it lasts: by the command, or by the output. A slot that names the output must do with
 * that of the command. */
static void put_lasts(struct build *b, GByteArray *to, const struct lex_command *command)
{
    const struct lex_effect *effect = &command->effect;
    uint32_t lasts = effect->lasts ? effect->lasts : command->expires;
    const char *by = effect->lasts ? effect->lasts_by : command->expires_by;
    const struct lex_output *out = lex_effect_output(b->lx, effect);
    if (!out) return;
    if (!lasts && !effect->which) lasts = out->expires, by = out->expires_by;
    for (unsigned i = 0; !effect->lasts && !command->expires && i < out->members->len; i++) {
        int member = lexicon_output_index(b->lx, out->members->pdata[i]);
        uint32_t expires = ((struct lex_output *)b->lx->outputs->pdata[member])->expires;
        if (expires && (!lasts || expires < lasts)) lasts = expires; /* the shortest of a group's */
    }
    if (!lasts) return;
    build_need(b, RLX_BIT_EXPIRY);
    build_need(b, RLX_BIT_FAMILY);
    if (by) {
        build_need(b, RLX_BIT_SET_TIMES);
        build_need(b, RLX_BIT_WIDE);
        lasts = RLX_LASTS_SET | build_setting(b, by);
    }
    build_put8(to, RLX_OP_LASTS);
    build_put32(to, effect->lasts ? lasts | RLX_LASTS_OFF : lasts);
}

/* The values of an answer: an element for each of them. */
static void put_tellings(struct build *b, GByteArray *to, const GPtrArray *told)
{
    for (unsigned i = 0; i < told->len; i++)
        lex_slot_of(told->pdata[i])->put(b, to, told->pdata[i]);
    build_put8(to, RLX_OP_END);
}

/* A level that stands in the lexicon is signed there. */
static bool is_signed(const struct build *b, const struct lex_effect *effect)
{
    const struct lex_output *out = lex_effect_output(b->lx, effect);
    return out && lex_kind_of(out)->levels == LEX_LEVELS_SIGNED;
}

/* Of what has a range of its own in what that becomes. */
static int32_t fixed_level(const struct build *b, const struct lex_effect *effect)
{
    const struct lex_output *out = lex_effect_output(b->lx, effect);
    if (out && lex_kind_of(out)->levels == LEX_LEVELS_OWN)
        return lex_value_scaled(out->range, effect->argument);
    return is_signed(b, effect) ? effect->argument : effect->fixed;
}

static unsigned verb_need(const struct build *b, const struct lex_effect *effect)
{
    const struct lex_output *out = b->lx->outputs->pdata[effect->output];
    if (lex_kind_of(out)->need) return lex_kind_of(out)->need;
    bool pulse = effect->verb && effect->verb - lex_verbs == RLX_PULSE;
    return pulse ? RLX_BIT_EXPIRY : RLX_BIT_ACTS;
}

/* Of a verb; a way is steps in the image. */
static int32_t fixed_argument(const struct build *b, const struct lex_effect *effect)
{
    const struct lex_output *out = b->lx->outputs->pdata[effect->output];
    if (!effect->argument_fixed) return lex_behinds[effect->verb->behind].normal;
    if (effect->verb->behind != RLX_BEHIND_STEPS) return effect->argument;
    return lex_value_scaled(out->range, out->range->low + effect->argument) - out->range->to_low;
}

/* The argument, if no slot has it, and the verb. */
static void put_verb(struct build *b, GByteArray *to, const struct lex_command *command)
{
    const struct lex_effect *effect = &command->effect;
    unsigned slots = lex_command_slots(command) - (effect->which != NULL);
    build_need(b, RLX_BIT_SWITCH);
    if (!effect->verb) { /* the slot has it */
        if (lex_effect_output(b->lx, effect)->members->len) put_push(b, to, RLX_MASK);
        return;
    }
    if (effect->verb->behind == RLX_BEHIND_PATTERN) build_need(b, RLX_BIT_PATTERNS);
    if (!slots) put_push(b, to, fixed_argument(b, effect));
    put_push(b, to, (int32_t)(effect->verb - lex_verbs));
}

void build_put_end(struct build *b, GByteArray *to, const struct lex_command *command,
                   unsigned given, const int32_t *said, unsigned operand)
{
    const struct lex_effect *effect = &command->effect;
    const bool tells = command->told && !said;
    if (command->says && !said) { /* a step of a routine answers nothing */
        build_put8(to, RLX_OP_SAYS);
        build_put16(to, build_says(b, command, given));
    }
    build_put_guarded(b, to, command);
    put_lasts(b, to, command);
    put_values(b, to, command, given, said);
    if (effect->kind == LEX_VERB)
        put_verb(b, to, command);
    else if (effect->fixed >= 0)
        put_push(b, to, fixed_level(b, effect));
    if (effect->which) operand = RLX_OPERAND_VALUE;
    bool verb = effect->kind == LEX_VERB || effect->kind == LEX_RUN || effect->kind == LEX_STORE;
    if (effect->kind == LEX_STORE) put_push(b, to, RLX_STORE);
    unsigned act = verb                         ? RLX_ACT_VERB
                   : effect->kind == LEX_SWITCH ? RLX_ACT_SWITCH
                   : effect->kind == LEX_LEVEL  ? RLX_ACT_LEVEL
                                                : RLX_ACT_CALL;
    build_need(b, effect->kind == LEX_VERB     ? verb_need(b, effect)
                  : effect->kind == LEX_RUN    ? RLX_BIT_ROUTINES
                  : effect->kind == LEX_STORE  ? RLX_BIT_SETTINGS
                  : effect->kind == LEX_SWITCH ? RLX_BIT_SWITCH
                  : effect->kind == LEX_LEVEL  ? RLX_BIT_LEVEL
                                               : RLX_BIT_CALL);
    build_put8(to, RLX_OP_END | act | operand | (appends(command, given) ? RLX_END_APPEND : 0) |
                       (tells ? RLX_END_TELLS : 0) |
                       (tells && !command->query ? RLX_END_APPEND : 0) |
                       (command->newest ? RLX_END_NEWEST : 0));
    b->image->operands |= 1u << operand / RLX_OPERAND_ENTRY;
    if (command->newest) build_need(b, RLX_BIT_NEWEST);
    if (tells) build_need(b, RLX_BIT_QUERY);
    if (tells && (!command->query || command->query->of->len)) build_need(b, RLX_BIT_ANSWERS);
    if (effect->kind == LEX_CALL) build_put8(to, signature_index(b, command));
    if (operand == RLX_OPERAND_INLINE) {
        if (b->many)
            build_put16(to, build_operand(b, command));
        else
            build_put8(to, build_operand(b, command));
    }
    unsigned values =
        effect->kind == LEX_VERB || effect->kind == LEX_STORE ? 2u : effect->fixed >= 0;
    const GPtrArray *slots = lex_arguments(command);
    for (unsigned i = 0; i < slots->len; i++) values += lex_slot_values(slots->pdata[i]);
    if (tells) put_tellings(b, to, command->told);
    b->image->slots = MAX(b->image->slots, values);
}

/* ---- programs ---- */

GByteArray *build_program(struct build *b, const struct node *node, unsigned operand);

const struct lex_command *build_some_end(const struct node *node)
{
    while (!node->end) node = graph_next(node, 0);
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

/* What a number becomes: where it is scaled, or for an output with its own range. */
static bool becomes(const struct lex_element *e, int32_t *low, int32_t *high)
{
    *low = e->own ? e->own_low : e->to_low;
    *high = e->own ? e->own_high : e->to_high;
    return e->own || e->scaled;
}

static bool is_wide(const struct lex_element *e)
{
    int32_t low = 0, high = 0;
    if (!becomes(e, &low, &high)) low = high = 0;
    return MIN(e->low, MIN(low, high)) < INT16_MIN || MAX(e->high, MAX(low, high)) > INT16_MAX;
}

static void put_value(GByteArray *to, bool wide, int32_t value)
{
    if (wide)
        build_put32(to, (uint32_t)value);
    else
        build_put16(to, (unsigned)value & 0xFFFF);
}

static void put_form(struct build *b, GByteArray *to, const struct lex_element *e, bool wide)
{
    unsigned form = e->form == LEX_HEX    ? RLX_FORM_HEX
                    : e->form == LEX_TIME ? RLX_FORM_TIME | e->bare
                                          : e->decimals;
    build_need(b, RLX_BIT_FORM);
    int32_t low, high;
    bool scaled = becomes(e, &low, &high);
    build_put8(to, form | (scaled ? RLX_FORM_SCALE : 0));
    if (!scaled) return;
    put_value(to, wide, low);
    put_value(to, wide, high);
}

void build_put_number(struct build *b, GByteArray *to, const struct lex_element *e)
{
    bool formed = e->form != LEX_WHOLE || e->scaled || e->own,
         wide = is_wide(e) || e->form == LEX_TIME;
    build_need(b, RLX_BIT_NUMBER);
    if (wide) build_need(b, RLX_BIT_WIDE);
    if (e->unit) build_need(b, RLX_BIT_UNIT);
    build_put8(to, wide ? RLX_OP_NUM32 : RLX_OP_NUM16);
    unsigned at = to->len;
    build_put8(to, 0);
    build_put8(to, lex_number_digits(e) | (e->unit ? RLX_NUM_UNIT : 0) |
                       (e->glued ? RLX_NUM_GLUED : 0) | (formed ? RLX_NUM_FORM : 0) |
                       (lex_is_bound(e) ? RLX_NUM_BOUND : 0));
    put_value(to, wide, e->low);
    put_value(to, wide, e->high);
    if (formed) put_form(b, to, e, wide);
    if (lex_is_bound(e)) put_bound(b, to, e);
    if (e->unit) build_put_text(to, e->unit);
    if (build_names_errors(b)) build_put_text(to, e->text);
    to->data[at] = (guint8)(to->len - at - 1);
}

/* Whether a choice is small enough for an element of its own. */
static bool fits_choice(const struct lex_element *e)
{
    size_t size = 0;
    for (unsigned i = 0; i < e->words->len; i++) size += 1 + strlen(e->words->pdata[i]);
    return size <= 255;
}

/* The words possible here, those of choices with their value pushed. */
static void put_words(struct build *b, GByteArray *to, const struct node *node, unsigned operand)
{
    unsigned at = to->len;
    build_need(b, RLX_BIT_WORDS);
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

/* The numbers possible here, each to be skipped where it is not what comes. Returns where the last
 * of their skips stands, or 0. */
unsigned build_put_numbers(struct build *b, GByteArray *to, const struct node *node,
                           unsigned operand)
{
    unsigned at = 0;
    if (node->number) {
        build_need(b, RLX_BIT_FAMILY);
        build_put8(to, RLX_OP_IF_NUM);
        at = to->len;
        build_put16(to, 0);
        build_put_number(b, to, node->number);
        build_put_rest(b, to, node->after_number, operand);
        build_set16(to, at, to->len - at - 2);
    }
    for (unsigned i = 0; i < node->glued->len; i++) {
        struct edge *edge = node->glued->pdata[i];
        build_need(b, RLX_BIT_GLUE);
        build_put8(to, RLX_OP_IF_GLUE);
        at = to->len;
        build_put16(to, 0);
        build_put_text(to, edge->text);
        build_put_number(b, to, edge->element);
        build_put_rest(b, to, edge->to, operand);
        build_set16(to, at, to->len - at - 2);
    }
    return at;
}

GByteArray *build_program(struct build *b, const struct node *node, unsigned operand)
{
    GByteArray *to = g_byte_array_new();
    bool words = node->words->len || node->choices->len;
    if (node->end && !graph_next(node, 0)) {
        build_put_end(b, to, node->end, node->given, NULL, operand);
        return to;
    }
    if (node->end) {
        GByteArray *end = g_byte_array_new();
        build_need(b, RLX_BIT_FAMILY);
        build_put_end(b, end, node->end, node->given, NULL, operand);
        build_put8(to, RLX_OP_IF_END);
        build_put8(to, end->len);
        build_put_all(to, end);
        g_byte_array_free(end, TRUE);
    }
    if (node->slot) {
        lex_slot_of(node->slot)->put(b, to, node->slot);
        build_put_rest(b, to, node->after_slot, operand);
        return to;
    }
    if (node->number && !words && !node->glued->len) {
        build_put_number(b, to, node->number);
        build_put_rest(b, to, node->after_number, operand);
        return to;
    }
    build_put_numbers(b, to, node, operand);
    struct edge *edge = node->choices->len == 1 ? node->choices->pdata[0] : NULL;
    if (edge && !node->words->len && fits_choice(edge->element)) {
        lex_slot_of(edge->element)->put(b, to, edge->element);
        build_put_rest(b, to, edge->to, operand);
    } else {
        put_words(b, to, node, operand);
    }
    return to;
}
