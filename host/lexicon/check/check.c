#include "checks.h"

#include <string.h>

struct lex_fault *check_find(struct lexicon *lx, enum lex_code code, struct lex_place place,
                             const char *subject, char *witness, const char *format, ...)
{
    va_list args;
    va_start(args, format);
    char *text = g_strdup_vprintf(format, args);
    va_end(args);
    struct lex_fault *fault = lex_find(lx, code, place, "%s", text);
    fault->subject = g_strdup(subject);
    fault->witness = witness;
    g_free(text);
    return fault;
}

const char *check_subject(const struct lex_command *command)
{
    const struct lex_element *first = command->elements->pdata[0];
    return first->text;
}

bool check_tells(const struct lex_command *command, unsigned output)
{
    const struct lex_effect *effect = &command->effect;
    const struct lex_element *which = effect->which;
    if (effect->kind == LEX_CALL || effect->kind == LEX_RUN || effect->kind == LEX_STORE)
        return false;
    for (unsigned k = 0; which && k < which->words->len; k++)
        if (which->outputs[k] == output) return true;
    return !which && effect->output == output;
}

bool check_may_say(const struct lex_link *link, const struct lex_command *command)
{
    const struct lex_element *first = command->elements->pdata[0];
    if (!link->only->len) return true;
    for (unsigned i = 0; i < link->only->len; i++)
        for (unsigned k = 0; first->kind == LEX_WORD && k < lex_spellings(first); k++)
            if (!g_ascii_strcasecmp(link->only->pdata[i], lex_spelling(first, k))) return true;
    return false;
}

unsigned check_envelope(const struct lex_link *link)
{
    return (link->address >= 0 ? (unsigned)strlen("@254/31 ") : 0) +
           (link->tags ? (unsigned)strlen("#32767 ") : 0) +
           (link->seal ? (unsigned)strlen("!65535.0123456789ABCDEF ") : 0) +
           (link->check ? (unsigned)strlen("*ABCD") : 0);
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
    if (!lx->name || lexicon_misread(lx)) return; /* what follows could only confuse */
    check_pins(lx);
    check_outputs(lx);
    check_motion(lx);
    check_links(lx);
    if (image) check_lengths(lx);
    check_senders(lx);
    check_names(lx);
    accept_warnings(lx);
}
