/* Groups: outputs that are on or off, set by one command.
 * What a kind of output has of its own, for kind.h.
 * It has no wires: its outputs have them. */
#include "kinds/shared.h"

#include <string.h>

/* What is on or off, each once, and all of them may be on. */
static void check_member(struct lexicon *lx, const struct lex_output *group,
                         const struct token *token)
{
    int index = lexicon_output_index(lx, token->text);
    if (index < 0) {
        char *near = lex_did_you_mean_output(lx, token->text);
        lex_fault(lx, token->place, "there is no output '%s' above%s", token->text, near);
        g_free(near);
        return;
    }
    const struct lex_output *out = lx->outputs->pdata[index];
    if (!lex_kind_of(out)->switches)
        lex_fault(lx, token->place, "a group is of relays, leds and buzzers; '%s' is a %s",
                  out->name, lex_output_kinds[out->kind]);
    for (unsigned i = 0; i < group->members->len; i++) {
        int other = lexicon_output_index(lx, group->members->pdata[i]);
        if (other == index)
            lex_fault(lx, token->place, "'%s' is in the group already", out->name);
        else if (other >= 0 && out->interlock &&
                 !g_strcmp0(out->interlock,
                            ((struct lex_output *)lx->outputs->pdata[other])->interlock))
            lex_fault(lx, token->place,
                      "'%s' and '%s' are never on together: their interlock is '%s'",
                      (char *)group->members->pdata[i], out->name, out->interlock);
    }
}

/* of a, b, c */
static bool read_first(struct statement *st, struct lex_output *out)
{
    if (!statement_take_word(st, "of")) {
        lex_fault(st->lx, statement_peek(st)->place,
                  "expected 'of' and the outputs of the group, like: of red, green");
        return false;
    }
    while (statement_peek(st)->kind == TOKEN_WORD) {
        struct token *token = statement_peek(st);
        size_t length = strlen(token->text);
        if (length > 1 && token->text[length - 1] == ',') token->text[length - 1] = 0;
        check_member(st->lx, out, token);
        g_ptr_array_add(out->members, g_strdup(token->text));
        st->next++;
    }
    if (!out->members->len || out->members->len > 15)
        lex_fault(st->lx, out->place, "a group has 1 to 15 outputs");
    return true;
}

static bool read_safe(struct statement *st, struct lex_output *out)
{
    (void)st, (void)out;
    return false; /* its outputs have theirs */
}

static void check(struct lexicon *lx, const struct lex_output *out)
{
    (void)lx, (void)out;
}

static unsigned wires(const struct lex_output *out, struct lex_wire *all)
{
    (void)out, (void)all;
    return 0;
}

/* The outputs of a group. */
static bool put(struct build *b, const struct lex_output *out)
{
    build_need(b, RLX_BIT_GROUPS);
    build_row(b, "the outputs of %s", out->name);
    build_put8(b->image->bytes, out->members->len);
    for (unsigned i = 0; i < out->members->len; i++)
        build_put8(b->image->bytes, (unsigned)lexicon_output_index(b->lx, out->members->pdata[i]));
    return true;
}

static char *wiring(const struct lex_output *out)
{
    GString *text = g_string_new(NULL);
    for (unsigned i = 0; i < out->members->len; i++)
        g_string_append_printf(text, "%s%s", i ? ", " : "", (char *)out->members->pdata[i]);
    return g_string_free(text, FALSE);
}

static char *safe_text(const struct lex_output *out)
{
    (void)out;
    return g_strdup("");
}

static char *state(const struct lex_driven *driven, const struct lex_output *out)
{
    return kind_level_state(driven, out);
}

static const char *is_at(const struct lex_driven *driven, const struct lex_output *out)
{
    (void)driven, (void)out;
    return "";
}

static const char *const *classes(const struct lex_output *out)
{
    static const char *const none[] = {NULL};
    (void)out;
    return none;
}

static bool is_safe(const struct lex_driven *driven, const struct lex_output *out)
{
    (void)driven, (void)out;
    return true;
}

static unsigned from_safe(const struct lex_output *out, enum lex_wire_is is, unsigned value)
{
    (void)out, (void)is, (void)value;
    return 0;
}

static char *state_at(const struct lex_output *out, unsigned percent)
{
    (void)out, (void)percent;
    return NULL;
}

static const struct attribute attributes[] = {{NULL, NULL, 0}};

const struct lex_kind lex_kind_group = {.values = 1,
                                        .need = RLX_BIT_GROUPS,
                                        .slot = "{on|off|toggle}",
                                        .verb = "on",
                                        .attributes = attributes,
                                        .read_first = read_first,
                                        .read_safe = read_safe,
                                        .check = check,
                                        .slots = kind_slots_switch,
                                        .wires = wires,
                                        .put = put,
                                        .wiring = wiring,
                                        .safe_text = safe_text,
                                        KIND_SEEN()};
