#include "check.h"

#include <string.h>

#include "names.h"
#include "reader.h"
#include "sizes.h"

/* ---- pins and outputs ---- */

static void check_pins(struct lexicon *lx)
{
    for (unsigned i = 0; i < lx->outputs->len; i++) {
        const struct lex_output *out = lx->outputs->pdata[i];
        for (unsigned k = 0; k < i; k++) {
            const struct lex_output *other = lx->outputs->pdata[k];
            if (other->pwm != out->pwm || other->pin != out->pin) continue;
            struct lex_fault *fault =
                lex_find(lx, out->pwm ? LEX_D07 : LEX_D06, out->place,
                         "'%s' and '%s' (line %u) are both on %s %u", out->name, other->name,
                         other->place.line, out->pwm ? "PWM channel" : "pin", out->pin);
            fault->subject = g_strdup(out->name);
        }
    }
}

static bool reached(const struct lexicon *lx, unsigned output)
{
    for (unsigned i = 0; i < lx->commands->len; i++) {
        const struct lex_effect *effect = &((struct lex_command *)lx->commands->pdata[i])->effect;
        const struct lex_element *which = effect->which;
        if (effect->kind != LEX_CALL && !which && effect->output == output) return true;
        for (unsigned k = 0; which && k < which->words->len; k++)
            if (which->outputs[k] == output) return true;
    }
    return false;
}

static void check_outputs(struct lexicon *lx)
{
    for (unsigned i = 0; i < lx->outputs->len; i++) {
        const struct lex_output *out = lx->outputs->pdata[i];
        if (!reached(lx, i)) {
            struct lex_fault *fault =
                lex_find(lx, LEX_D05, out->place,
                         "no command reaches '%s': it is %s from power-up and stays so", out->name,
                         out->safe ? "on" : "off");
            fault->subject = g_strdup(out->name);
            fault->advice = g_strdup_printf(out->pwm ? "command %s {level 0..100%%} => %s"
                                                     : "command %s {on|off} => %s",
                                            out->name, out->name);
        }
        if (out->kind == LEX_RELAY && !out->safe_told) {
            struct lex_fault *fault = lex_find(
                lx, LEX_D08, out->place,
                "nobody said what the relay '%s' is from power-up on; it will be off (pin %u %s)",
                out->name, out->pin, out->active_low ? "high" : "low");
            fault->subject = g_strdup(out->name);
            fault->advice = g_strdup("safe off");
        }
    }
}

/* ---- what links can say and carry ---- */

static bool only_keys(const struct lexicon *lx)
{
    for (unsigned i = 0; i < lx->links->len; i++)
        if (((struct lex_link *)lx->links->pdata[i])->frame != LEX_FRAME_KEYS) return false;
    return true;
}

static bool has_key(const struct lexicon *lx, const struct lex_command *command)
{
    for (unsigned i = 0; i < lx->links->len; i++) {
        const struct lex_link *link = lx->links->pdata[i];
        for (unsigned k = 0; k < link->keys->len; k++)
            if (lex_command_says(lx, command, ((struct lex_key *)link->keys->pdata[k])->text))
                return true;
    }
    return false;
}

static void check_sayable(struct lexicon *lx)
{
    for (unsigned i = 0; only_keys(lx) && i < lx->commands->len; i++) {
        const struct lex_command *command = lx->commands->pdata[i];
        if (has_key(lx, command)) continue;
        char *text = lex_command_text(command);
        struct lex_fault *fault = lex_find(lx, LEX_D12, command->place,
                                           "all links take keys, and none stands for '%s'", text);
        fault->subject = g_strdup(((struct lex_element *)command->elements->pdata[0])->text);
        g_free(text);
    }
}

static void check_line(struct lexicon *lx, const struct lex_link *link,
                       const struct lex_command *command)
{
    char *text = lex_command_longest(command, true);
    size_t length = strlen(text);
    if (link->frame == LEX_FRAME_LINE && length > link->longest) {
        struct lex_fault *fault = lex_find(lx, LEX_D10, command->place,
                                           "\"%s\" has %zu bytes, but a line of '%s' takes %u",
                                           text, length, link->name, link->longest);
        fault->advice = g_strdup_printf("longest %zu", length);
    }
    g_free(text);
}

static void check_reply(struct lexicon *lx, const struct lex_link *link,
                        const struct lex_command *command)
{
    char *text = lex_command_longest(command, false);
    size_t length = strlen("ok ") + strlen(text) + strlen(" already\r\n");
    if (length > link->transmit) {
        struct lex_fault *fault = lex_find(
            lx, LEX_D11, command->place,
            "\"ok %s already\" takes %zu bytes with its line end, but the transmit ring of "
            "'%s' has %u; it is cut to \"ok\"",
            text, length, link->name, link->transmit);
        fault->subject = g_strdup(((struct lex_element *)command->elements->pdata[0])->text);
    }
    g_free(text);
}

static void check_lengths(struct lexicon *lx)
{
    for (unsigned i = 0; i < lx->links->len; i++) {
        for (unsigned k = 0; k < lx->commands->len; k++) {
            check_line(lx, lx->links->pdata[i], lx->commands->pdata[k]);
            check_reply(lx, lx->links->pdata[i], lx->commands->pdata[k]);
        }
    }
}

/* ---- names in C ---- */

static const char *const keywords[] = {
    "alignas",  "alignof",  "and",      "asm",      "auto",     "bool",    "break",     "case",
    "catch",    "char",     "class",    "const",    "continue", "default", "delete",    "do",
    "double",   "else",     "enum",     "explicit", "export",   "extern",  "false",     "float",
    "for",      "friend",   "goto",     "if",       "inline",   "int",     "long",      "mutable",
    "new",      "noexcept", "not",      "operator", "or",       "private", "protected", "public",
    "register", "restrict", "return",   "short",    "signed",   "sizeof",  "static",    "struct",
    "switch",   "template", "this",     "throw",    "true",     "try",     "typedef",   "typeid",
    "typename", "union",    "unsigned", "using",    "virtual",  "void",    "volatile",  "while",
    "xor",      "main",     NULL};

struct names {
    struct lexicon *lx;
    GHashTable *taken; /* identifier -> what has it */
};

/* One identifier of the emitted C and what it is for. */
static void claim(struct names *names, struct lex_place place, char *identifier, char *what)
{
    const char *other = g_hash_table_lookup(names->taken, identifier);
    if (g_strv_contains(keywords, identifier))
        lex_find(names->lx, LEX_D09, place, "%s becomes '%s', a word of C or C++", what,
                 identifier);
    else if (other)
        lex_find(names->lx, LEX_D09, place, "%s and %s both become '%s' in C", other, what,
                 identifier);
    g_hash_table_insert(names->taken, identifier, what);
}

static void claim_upper(struct names *names, struct lex_place place, const char *kind,
                        const char *name)
{
    char *upper = lex_identifier(name, true), *prefix = lex_identifier(names->lx->name, true);
    claim(names, place, g_strdup_printf("%s_%s_%s", prefix, kind, upper),
          g_strdup_printf("the %s '%s'", g_str_equal(kind, "LINK") ? "link" : "output", name));
    g_free(upper);
    g_free(prefix);
}

/* A handler's arguments, beside the device itself. */
static void claim_arguments(struct lexicon *lx, const struct lex_command *command)
{
    struct names names = {lx, g_hash_table_new_full(g_str_hash, g_str_equal, g_free, g_free)};
    g_hash_table_insert(names.taken, g_strdup(lx->name), g_strdup("the device itself"));
    for (unsigned i = 0; i < command->elements->len; i++) {
        const struct lex_element *e = command->elements->pdata[i];
        if (e->kind == LEX_WORD) continue;
        claim(&names, e->place, lex_argument_name(command, e),
              g_strdup_printf("the slot '%s'", e->text ? e->text : "choice"));
    }
    g_hash_table_destroy(names.taken);
}

static void check_names(struct lexicon *lx)
{
    struct names names = {lx, g_hash_table_new_full(g_str_hash, g_str_equal, g_free, g_free)};
    claim(&names, lx->place, g_strdup(lx->name), g_strdup("the lexicon's name"));
    claim(&names, lx->place, g_strdup_printf("%s_init", lx->name),
          g_strdup("the start of the device"));
    for (unsigned i = 0; i < lx->outputs->len; i++) {
        const struct lex_output *out = lx->outputs->pdata[i];
        claim_upper(&names, out->place, "OUTPUT", out->name);
    }
    for (unsigned i = 0; i < lx->links->len; i++) {
        const struct lex_link *link = lx->links->pdata[i];
        claim_upper(&names, link->place, "LINK", link->name);
    }
    for (unsigned i = 0; i < lx->commands->len; i++) {
        const struct lex_command *command = lx->commands->pdata[i];
        if (command->effect.kind != LEX_CALL) continue;
        char *name = g_strdup_printf("%s_%s", lx->name, command->effect.handler);
        const char *before = g_hash_table_lookup(names.taken, name);
        if (!before || !g_str_has_prefix(before, "the handler"))
            claim(&names, command->place, g_strdup(name),
                  g_strdup_printf("the handler '%s()'", command->effect.handler));
        g_free(name);
        claim_arguments(lx, command);
    }
    g_hash_table_destroy(names.taken);
}

/* ---- accepted warnings ---- */

static void accept_warnings(struct lexicon *lx)
{
    for (unsigned i = 0; i < lx->accepts->len; i++) {
        struct lex_accept *accept = lx->accepts->pdata[i];
        for (unsigned k = 0; k < lx->faults->len; k++) {
            struct lex_fault *fault = lx->faults->pdata[k];
            if (fault->code != accept->code || g_strcmp0(fault->subject, accept->subject) != 0)
                continue;
            g_free(fault->reason);
            fault->reason = g_strdup(accept->reason);
            accept->used = true;
        }
        if (!accept->used)
            lex_find(lx, LEX_D16, accept->place, "there is no warning %s about '%s'",
                     lex_codes[accept->code].code, accept->subject);
    }
}

void lexicon_check(struct lexicon *lx, const struct image *image)
{
    if (!lx->name || lexicon_has(lx, false)) return; /* what follows could only confuse */
    check_pins(lx);
    check_outputs(lx);
    check_sayable(lx);
    if (image) check_lengths(lx);
    check_names(lx);
    accept_warnings(lx);
}
