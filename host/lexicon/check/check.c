/* Checks a lexicon that was read without errors, and applies its `accept` statements.
 * Calls each group of checks once, in the order of the codes.
 * The checks are in the other files of this folder. */
#include "lexicon/check/checks.h"

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
    return lex_has_spellings(first) ? lex_spelling(first, 0) : first->text;
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
    check_memory(lx);
    check_paid(lx);
    check_locks(lx);
    check_contracts(lx);
    check_bounds(lx);
    check_layouts(lx);
    check_names(lx);
    accept_warnings(lx);
}
