/* Checks ranges whose ends are settings: that they cannot become empty, and that what the lexicon
 * itself sends is within them.
 * What such a range is stands in read/by_setting.c. */
#include "lexicon/check/checks.h"

#include <string.h>

static const struct lex_setting *setting_of(const struct lexicon *lx, const char *name)
{
    const struct lex_setting *setting = name ? lexicon_setting(lx, name) : NULL;
    return setting && setting->slot ? setting : NULL;
}

/* Whether the two settings are each other's bounds, so that they never cross. */
static bool are_ordered(const struct lex_setting *low, const struct lex_setting *high)
{
    return !g_strcmp0(low->slot->upto, high->name) && !g_strcmp0(high->slot->from, low->name);
}

/* "low 400; high 0": with these nothing is left. */
static void check_empty(struct lexicon *lx, const struct lex_command *command,
                        const struct lex_element *e)
{
    const struct lex_setting *from = setting_of(lx, e->from), *upto = setting_of(lx, e->upto);
    int32_t low = from ? MAX(e->low, from->slot->high) : e->low,
            high = upto ? MIN(e->high, upto->slot->low) : e->high;
    if (low <= high || (from && upto && are_ordered(from, upto))) return;
    /* a bound of itself: what it has been is within */
    if (command->effect.kind == LEX_STORE &&
        ((from && !g_strcmp0(from->slot->upto, check_subject(command))) ||
         (upto && !g_strcmp0(upto->slot->from, check_subject(command)))))
        return;
    char *least = from ? lex_value_text(from->slot, from->slot->high) : NULL,
         *most = upto ? lex_value_text(upto->slot, upto->slot->low) : NULL;
    char *witness = g_strdup_printf("%s%s%s%s%s%s%s", from ? from->name : "", from ? " " : "",
                                    from ? least : "", from && upto ? "; " : "",
                                    upto ? upto->name : "", upto ? " " : "", upto ? most : "");
    struct lex_fault *fault = check_find(lx, LEX_D53, e->place, check_subject(command), witness,
                                         "after \"%s\" no value of '%s' is left that '%s' takes",
                                         witness, e->text, check_subject(command));
    if (from && upto) {
        char *range = lex_range_text(from->slot);
        fault->advice = g_strdup_printf(
            "setting %s {%s %s%s up to %s}, and %s from %s", from->name, from->slot->text, range,
            from->slot->unit ? from->slot->unit : "", upto->name, upto->name, from->name);
        g_free(range);
    }
    g_free(least);
    g_free(most);
}

static void check_said(struct lexicon *lx, struct lex_place place, const char *name,
                       const char *text)
{
    const struct lex_element *e = text ? lex_beyond_now(lx, text) : NULL;
    int32_t low, high;
    if (!e) return;
    lex_bounds_now(lx, e, &low, &high);
    char *least = lex_value_text(e, low), *most = lex_value_text(e, high);
    check_find(lx, LEX_D54, place, name, g_strdup(text),
               "'%s' sends \"%s\", and while nobody has changed the setting only %s..%s is taken",
               name, text, least, most);
    g_free(least);
    g_free(most);
}

static void check_fixed_texts(struct lexicon *lx)
{
    for (unsigned i = 0; i < lx->routines->len; i++) {
        const struct lex_routine *routine = lx->routines->pdata[i];
        for (unsigned k = 0; k < routine->steps->len; k++) {
            const struct lex_step *step = routine->steps->pdata[k];
            check_said(lx, step->place, routine->name, step->text);
        }
    }
    for (unsigned i = 0; i < lx->numbers->len; i++) {
        const struct lex_number *number = lx->numbers->pdata[i];
        check_said(lx, number->place, number->said, number->text);
    }
    for (unsigned i = 0; i < lx->links->len; i++) {
        const struct lex_link *link = lx->links->pdata[i];
        for (unsigned k = 0; k < link->keys->len; k++) {
            const struct lex_key *key = link->keys->pdata[k];
            check_said(lx, key->place, link->name, key->text);
        }
    }
    for (unsigned i = 0; i < lx->handsets->len; i++) {
        const struct lex_handset *handset = lx->handsets->pdata[i];
        check_said(lx, handset->place, handset->name, handset->idle);
        for (unsigned k = 0; k < handset->buttons->len; k++) {
            const struct lex_button *button = handset->buttons->pdata[k];
            check_said(lx, button->place, button->name, button->press);
            check_said(lx, button->place, button->name, button->held);
            check_said(lx, button->place, button->name, button->release);
        }
    }
}

void check_bounds(struct lexicon *lx)
{
    for (unsigned i = 0; i < lx->commands->len; i++) {
        const struct lex_command *command = lx->commands->pdata[i];
        for (unsigned k = 0; k < command->elements->len; k++) {
            const struct lex_element *e = command->elements->pdata[k];
            if (lex_is_bound(e)) check_empty(lx, command, e);
        }
    }
    check_fixed_texts(lx);
}
