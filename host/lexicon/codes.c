/* The codes of all faults that a lexicon can have, with their severity and title.
 * Made from the list in codes.h.
 * It finds no fault. */
#include "lexicon/codes.h"

#include <glib.h>

const struct lex_code_info lex_codes[LEX_N_CODES] = {
#define INFO(code, severity, title, text) {#code, title, text, SEVERITY_##severity},
    LEX_CODES(INFO)
#undef INFO
};

int lex_code_named(const char *name)
{
    for (int i = 0; i < LEX_N_CODES; i++)
        if (!g_ascii_strcasecmp(lex_codes[i].code, name)) return i;
    return -1;
}
