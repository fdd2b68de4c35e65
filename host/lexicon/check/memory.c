/* Checks that the non-volatile memory holds what is kept.
 * How much that is stands in facts.c.
 * Without `memory` the areas are as large as they need to be. */
#include "lexicon/check/checks.h"

void check_memory(struct lexicon *lx)
{
    unsigned needs = lex_nv_needs(lx), area = lex_nv_area(lx);
    if (!lx->nv_pages || area >= needs) return;
    unsigned pages = (needs + lx->nv_page - 1) / lx->nv_page;
    struct lex_fault *fault =
        check_find(lx, LEX_D49, lx->nv_place, "memory", NULL,
                   "half of the memory is %u bytes; what is kept needs %u", area, needs);
    fault->advice = g_strdup_printf("memory %u pages of %u bytes", 2 * pages, lx->nv_page);
}
