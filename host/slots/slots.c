/* What the kinds of slots share: lists of words, numbers within bounds.
 * Each is used by two kinds or more.
 * What only one needs is in its file. */
#include "slots/slots.h"

#include <string.h>

/* ---- words ---- */

bool slot_word_is(const struct lexicon *lx, const char *word, const char *said)
{
    return lx->any_case ? !g_ascii_strcasecmp(word, said) : !strcmp(word, said);
}

char *slot_joined(const struct lex_element *e, const char *between)
{
    GString *all = g_string_new(NULL);
    for (unsigned i = 0; i < e->words->len; i++)
        g_string_append_printf(all, "%s%s", i ? between : "", (char *)e->words->pdata[i]);
    return g_string_free(all, FALSE);
}

char *slot_longest_word(const struct lex_element *e, bool units)
{
    const char *longest = e->kind == LEX_WORD ? e->text : "";
    (void)units;
    for (unsigned i = 0; e->words && i < e->words->len; i++)
        if (strlen(e->words->pdata[i]) > strlen(longest)) longest = e->words->pdata[i];
    return g_strdup(longest);
}

bool slot_says_word(const struct lexicon *lx, const struct lex_element *e, const char *text,
                    int32_t *value)
{
    for (unsigned i = 0; i < lex_spellings(e); i++) {
        *value = (int32_t)i;
        if (slot_word_is(lx, lex_spelling(e, i), text)) return true;
    }
    return false;
}

unsigned slot_wanted_words(const struct lex_element *e)
{
    size_t sum = 0;
    for (unsigned i = 0; i < lex_spellings(e); i++) sum += strlen(lex_spelling(e, i)) + 1;
    return (unsigned)sum;
}

/* ---- numbers ---- */

char *slot_note_number(const struct lex_element *e)
{
    static const char *const parts[] = {"", "tenths", "hundredths", "thousandths"};
    const char *unit = e->scaled ? "" : e->form == LEX_TIME ? "ms" : e->unit ? e->unit : "";
    int32_t low = e->scaled ? e->to_low : e->low, high = e->scaled ? e->to_high : e->high;
    unsigned decimals = e->scaled ? 0 : e->decimals;
    GString *note = g_string_new(NULL);
    if (e->form == LEX_HEX && !e->scaled)
        g_string_append_printf(note, "0x%02X..0x%02X", (unsigned)low, (unsigned)high);
    else
        g_string_append_printf(note, "%d..%d", low, high);
    if (decimals && decimals < G_N_ELEMENTS(parts))
        g_string_append_printf(note, " %s%s", parts[decimals], *unit ? " of" : "");
    else if (decimals)
        g_string_append_printf(note, " of 10^-%u", decimals);
    if (*unit) g_string_append_printf(note, " %s", unit);
    return g_string_free(note, FALSE);
}

/* A time's longest: the number of its bound in a smaller unit, or unit names. */
static char *longest_number(const struct lex_element *e)
{
    char *low = lex_value_text(e, e->low), *high = lex_value_text(e, e->high);
    unsigned digits = lex_number_digits(e) + (e->decimals ? 1 + e->decimals : 0) + (e->low < 0) +
                      (e->form == LEX_HEX    ? 2
                       : e->form == LEX_TIME ? 3
                                             : 0);
    char *longest = strlen(low) > strlen(high) ? low : high;
    if (e->form != LEX_WHOLE && strlen(longest) < digits) {
        char *padded = g_strnfill(digits, '9');
        g_free(low);
        g_free(high);
        return padded;
    }
    g_free(longest == low ? high : low);
    return longest;
}

char *slot_longest_numbers(const struct lex_element *e, unsigned count, bool units)
{
    const char *unit = e->unit && (units || e->glued) ? e->unit : "";
    char *number = longest_number(e);
    GString *out = g_string_new(e->prefix);
    for (unsigned i = 0; i < count; i++)
        g_string_append_printf(out, "%s%s%s", i ? "," : "", number, unit);
    g_free(number);
    return g_string_free(out, FALSE);
}

char *slot_holds_range(const struct lex_element *e)
{
    char *range = lex_range_text(e);
    GString *out = g_string_new(range);
    if (e->unit && !e->glued) g_string_append(out, e->unit);
    if (e->from) g_string_append_printf(out, " from %s", e->from);
    if (e->upto) g_string_append_printf(out, " up to %s", e->upto);
    if (e->scaled) g_string_append_printf(out, " as %d..%d", e->to_low, e->to_high);
    g_free(range);
    return g_string_free(out, FALSE);
}

bool slot_says_number(const struct lexicon *lx, const struct lex_element *e, const char *text,
                      int32_t *value)
{
    size_t length = strlen(text), unit = e->unit ? strlen(e->unit) : 0;
    const char *behind = text + (length > unit ? length - unit : 0);
    if (unit && !g_ascii_strcasecmp(behind, e->unit) && !slot_word_is(lx, e->unit, behind))
        return false;
    return lex_value_said(e, text, value);
}

unsigned slot_wanted_range(const struct lex_element *e)
{
    char *range = lex_range_text(e);
    size_t sum = strlen(range) + strlen(e->prefix ? e->prefix : e->text) + 2;
    if (e->glued) sum += strlen(e->unit);
    g_free(range);
    return (unsigned)sum;
}
