/* Non-volatile memory: how much of it a lexicon needs, and how soon it wears out.
 * It counts in records, as src/core/settings.c writes them.
 * How often a page can be erased the chip's datasheet says. */
#include "lexicon/model.h"
#include "rlx/image.h"

#define HEADER 16u

/* Bytes of the record of a text or number with this many bytes. */
static unsigned record_bytes(unsigned count)
{
    return (count + 4 + 7) / 8 * 8;
}

static unsigned setting_bytes(const struct lex_setting *setting)
{
    return record_bytes(setting->slot->kind == LEX_TEXT ? (unsigned)setting->slot->high : 4);
}

/* Bytes of all that is kept, each once; or what an area needs so that changes have room, too: a
 * message takes two records, and so does an event or a command that must not be done twice. */
static unsigned all_bytes(const struct lexicon *lx, bool changes)
{
    unsigned sum = HEADER, often = changes ? 12 : 1, seldom = changes ? 4 : 1;
    for (unsigned i = 0; i < lx->settings->len; i++)
        sum += (changes ? 2 : 1) * setting_bytes(lx->settings->pdata[i]);
    for (unsigned i = 0; i < lx->links->len; i++) {
        unsigned bytes = lex_record_bytes(lx->links->pdata[i]);
        if (bytes) sum += often * record_bytes(bytes);
    }
    if (lex_has_seals(lx)) sum += seldom * record_bytes(LEX_OWN_NUMBERS);
    if (lex_guess_bytes(lx)) sum += seldom * record_bytes(lex_guess_bytes(lx));
    if (lex_kept_bytes(lx)) sum += often * record_bytes(lex_kept_bytes(lx));
    return sum;
}

unsigned lex_nv_needs(const struct lexicon *lx)
{
    return all_bytes(lx, true);
}

unsigned lex_nv_area(const struct lexicon *lx)
{
    unsigned area = 256;
    if (lx->nv_pages) return lx->nv_pages / 2 * lx->nv_page;
    while (area < lex_nv_needs(lx)) area *= 2;
    return area;
}

/* How many records of this size fit between two erases. */
static unsigned changes_of(const struct lexicon *lx, unsigned bytes)
{
    return (lex_nv_area(lx) - all_bytes(lx, false)) / bytes + 1;
}

unsigned lex_nv_changes(const struct lexicon *lx, const struct lex_setting *setting)
{
    return changes_of(lx, setting_bytes(setting));
}

unsigned lex_nv_commands(const struct lexicon *lx, const struct lex_link *link)
{
    return changes_of(lx, record_bytes(lex_record_bytes(link))) / 2;
}

unsigned lex_nv_endurance(const struct lexicon *lx)
{
    return lx->nv_endurance ? lx->nv_endurance : 10000;
}

unsigned lex_nv_between(const struct lexicon *lx)
{
    return lx->nv_erases ? RLX_WEAR_DAY / lx->nv_erases : 0;
}

double lex_nv_outlasts(const struct lexicon *lx, unsigned changes)
{
    return 2.0 * lex_nv_endurance(lx) * changes;
}

double lex_nv_years(const struct lexicon *lx)
{
    return lx->nv_erases ? 2.0 * lex_nv_endurance(lx) / lx->nv_erases / 365.25 : 0;
}

bool lex_spares_memory(const struct lexicon *lx)
{
    for (unsigned i = 0; i < lx->settings->len; i++)
        if (((struct lex_setting *)lx->settings->pdata[i])->saved_every) return true;
    return lx->nv_endurance || lx->nv_erases;
}
