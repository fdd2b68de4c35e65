/* Reads what stands in many statements: times, pins, frequencies, attributes.
 * Each has its unit; a bare number is a fault.
 * It knows no statement. */
#include <string.h>

#include "lexicon/read/reader.h"

bool statement_time(struct statement *st, const char *what, uint32_t low, uint32_t high,
                    uint32_t *ms)
{
    struct lex_element any = {.kind = LEX_NUMBER, .form = LEX_TIME, .high = G_MAXINT32};
    struct token *token = statement_peek(st);
    int32_t value;
    bool unit = token->kind == TOKEN_WORD && *token->text &&
                !g_ascii_isdigit(token->text[strlen(token->text) - 1]);
    if (unit && lex_value_said(&any, token->text, &value) && (uint32_t)value >= low &&
        (uint32_t)value <= high) {
        st->next++;
        *ms = (uint32_t)value;
        return true;
    }
    char *from = lex_value_text(&any, (int32_t)low), *to = lex_value_text(&any, (int32_t)high);
    lex_fault(st->lx, token->place, "expected %s, a time of %s..%s with its unit, like 500ms or 2s",
              what, from, to);
    g_free(from);
    g_free(to);
    return false;
}

bool statement_hertz(struct statement *st, uint32_t *hz)
{
    struct token *token = statement_peek(st);
    guint64 number = 0;
    char *unit = NULL;
    if (token->kind == TOKEN_WORD && g_ascii_isdigit(token->text[0]))
        number = g_ascii_strtoull(token->text, &unit, 10);
    guint64 scale = !unit ? 0 : !strcmp(unit, "Hz") ? 1 : !strcmp(unit, "kHz") ? 1000 : 0;
    if (!scale || number < 1 || number > 1000000 / scale) {
        lex_fault(st->lx, token->place,
                  "expected a frequency of 1Hz..1000kHz with its unit, like 1kHz");
        return false;
    }
    st->next++;
    *hz = (uint32_t)(number * scale);
    return true;
}

void lex_format_text(const struct lex_format *format, char text[LEX_FORMAT_TEXT])
{
    text[0] = (char)('0' + format->data);
    text[1] = "NEO"[format->parity];
    text[2] = (char)('0' + format->stop);
    g_strlcpy(text + 3, format->inverted ? " inverted" : "", LEX_FORMAT_TEXT - 3);
}

bool lex_format_read(const char *text, struct lex_format *format)
{
    static const char parities[] = "NEO";
    const char *parity = *text && text[1] ? strchr(parities, g_ascii_toupper(text[1])) : NULL;
    bool ok = parity && (text[0] == '7' || text[0] == '8') && (text[2] == '1' || text[2] == '2');
    bool inverted = ok && !strcmp(text + 3, " inverted");
    if (!ok || (text[3] && !inverted)) return false;
    *format = (struct lex_format){(uint8_t)(text[0] - '0'), (uint8_t)(text[2] - '0'),
                                  (enum lex_parity)(parity - parities), inverted};
    return true;
}

bool statement_format(struct statement *st, struct lex_format *format)
{
    struct token *token = statement_take(st);
    if (token->kind != TOKEN_WORD || !lex_format_read(token->text, format)) {
        lex_fault(st->lx, token->place,
                  "expected data bits, parity and stop bits, like 8N1, 7E1 or 8O2");
        return false;
    }
    format->inverted = statement_take_word(st, "inverted");
    return true;
}

/* 12, or a port's letter and its pin: B5 is 16 * 1 + 5. */
bool statement_pin(struct statement *st, unsigned *pin)
{
    struct token *token = statement_peek(st);
    guint64 number;
    const char *text = token->kind == TOKEN_WORD ? token->text : "";
    bool named = *text >= 'A' && *text <= 'P';
    if (named ? g_ascii_string_to_unsigned(text + 1, 10, 0, 15, &number, NULL)
              : g_ascii_string_to_unsigned(text, 10, 0, 255, &number, NULL)) {
        st->next++;
        *pin = (unsigned)number + (named ? (unsigned)(*text - 'A') * 16 : 0);
        return true;
    }
    lex_fault(st->lx, token->place, "expected a pin, a whole number 0..255 or a name A0..P15");
    return false;
}

bool statement_one_of(struct statement *st, const char *what, const char *const *words,
                      unsigned *index)
{
    struct token *token = statement_peek(st);
    for (*index = 0; words[*index]; ++*index)
        if (statement_take_word(st, words[*index])) return true;
    char *near = lex_did_you_mean(token->text ? token->text : "", words);
    char *all = g_strjoinv(", ", (char **)words), *last = strrchr(all, ',');
    GString *list = g_string_new(all);
    if (last) {
        g_string_erase(list, last - all, 1);
        g_string_insert(list, last - all, " or");
    }
    lex_fault(st->lx, token->place, "expected %s: %s%s", what, list->str, near);
    g_string_free(list, TRUE);
    g_free(all);
    g_free(near);
    return false;
}

bool statement_names(struct statement *st, const char *what, GPtrArray *names)
{
    do {
        char *name = statement_name(st, what);
        if (!name) return false;
        g_ptr_array_add(names, name);
    } while (statement_take_word(st, ","));
    return true;
}

/* Those that this kind may have. */
static char **attribute_words(const struct attribute *known, unsigned kind)
{
    GPtrArray *words = g_ptr_array_new();
    for (; known->word; known++)
        if (known->kinds != ATTRIBUTE_UNLISTED && (!known->kinds || known->kinds >> kind & 1))
            g_ptr_array_add(words, g_strdup(known->word));
    g_ptr_array_add(words, NULL);
    return (char **)g_ptr_array_free(words, FALSE);
}

bool statement_any_kind(const struct attribute *known, const char *word)
{
    while (known->word && strcmp(known->word, word) != 0) known++;
    return known->word != NULL;
}

/* The word that it has become; NULL: it never was another. */
static const char *renamed(const char *word)
{
    static const struct {
        const char *was, *is;
    } words[] = {{"settle", "debounce"}, {"least", "min"},  {"lost", "loss"},
                 {"twice", "duplicate"}, {"late", "delay"}, {"gone", "out of range"}};
    for (unsigned i = 0; i < G_N_ELEMENTS(words); i++)
        if (!strcmp(words[i].was, word)) return words[i].is;
    return NULL;
}

static bool has_first_word(char **words, const char *text)
{
    char *first = text ? g_strndup(text, strcspn(text, " ")) : NULL;
    bool has = first && g_strv_contains((const char *const *)words, first);
    g_free(first);
    return has;
}

static void unknown_attribute(struct statement *st, const struct attribute *known, unsigned kind,
                              attribute_elsewhere elsewhere, const char *what)
{
    struct token *token = statement_peek(st);
    const char *word = token->kind == TOKEN_WORD ? token->text : "";
    char **words = attribute_words(known, kind), *all = g_strjoinv(", ", words);
    char *near = lex_did_you_mean(word, (const char *const *)words);
    bool frame = false;
    for (unsigned i = 0; i < LEX_FRAMES; i++) frame |= !strcmp(lex_frames[i], word);
    if (token->kind == TOKEN_FROM)
        lex_fault(st->lx, token->place,
                  "'<=' and what it comes from stand right behind the %s's name and words", what);
    else if (frame && g_strv_contains((const char *const *)words, "frame"))
        lex_fault(st->lx, token->place, "'%s' is a framing: write 'frame %s'", word, word);
    else if (has_first_word(words, renamed(word)))
        lex_fault(st->lx, token->place, "'%s' is now '%s'", word, renamed(word));
    else if (elsewhere(known, word))
        lex_fault(st->lx, token->place, "a %s has no '%s'; it may have %s", what, word, all);
    else
        lex_fault(st->lx, token->place, "expected %s or a \"title\"%s", all, near);
    g_free(near);
    g_free(all);
    g_strfreev(words);
}

bool statement_attributes(struct statement *st, const struct attribute *known, unsigned kind,
                          attribute_elsewhere elsewhere, const char *what, void *target)
{
    while (statement_peek(st)->kind != TOKEN_END && statement_peek(st)->kind != TOKEN_STRING) {
        const struct attribute *a = known;
        for (; a->word; a++)
            if ((!a->kinds || a->kinds >> kind & 1) && statement_take_word(st, a->word)) break;
        if (!a->word) {
            unknown_attribute(st, known, kind, elsewhere, what);
            return false;
        }
        if (!a->read(st, target)) return false;
    }
    return true;
}
