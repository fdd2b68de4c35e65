/* Checks that the non-volatile memory holds what is kept.
 * How much that is stands in facts.c.
 * Without `memory` the areas are as large as they need to be. */
#include "lexicon/check/checks.h"
#include "rlx/def/knobs.h"

void check_memory(struct lexicon *lx)
{
    unsigned needs = lex_nv_needs(lx), area = lex_nv_area(lx), page = lx->nv_page;
    if (needs > RLX_MOST_NV_AREA_BYTES) {
        check_find(lx, LEX_D49, page ? lx->nv_place : lx->place, "memory", NULL,
                   "what is kept needs an area of %u bytes; one has at most %d", needs,
                   RLX_MOST_NV_AREA_BYTES);
        return;
    }
    if (area >= needs) return;
    struct lex_fault *fault =
        check_find(lx, LEX_D49, lx->nv_place, "memory", NULL,
                   "half of the memory is %u bytes; what is kept needs %u", area, needs);
    unsigned pages = (needs + page - 1) / page;
    if (pages * page <= RLX_MOST_NV_AREA_BYTES)
        fault->advice = g_strdup_printf("memory %u pages of %u bytes", 2 * pages, page);
}
