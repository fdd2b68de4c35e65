/* P1, P10: an independent reading of the rules, word by word over the list of commands, against the
 * parser with its tables: on random lexicons and random lines they must agree on what is accepted,
 * and on every letter of the reply. */
#include <stdio.h>
#include <string.h>

#include "harness.h"
#include "lexicon/slot.h"
#include "lines.h"
#include "rig.h"

/* ---- the oracle ---- */

struct said {
    GString *reply;
    const struct lex_command *command;
    int64_t value[16];
    unsigned n_values, n_said; /* with those left out, without them */
};

struct oracle {
    const struct lexicon *lx;
    GPtrArray *variants; /* struct lex_command *: each command in all the lengths it has */
    struct said last;    /* what was understood of the last line */
    int level[256];      /* of outputs, in percent */
};

static void variant_free(void *p)
{
    g_ptr_array_free(((struct lex_command *)p)->elements, TRUE);
    g_free(p);
}

/* Adds the command with and without each word and slot that may be left out; `left` tells which
 * are. */
static void add_variants(GPtrArray *all, const struct lex_command *command)
{
    unsigned n = command->elements->len;
    for (unsigned left = 0; left < 1u << n; left++) {
        struct lex_command *variant = g_memdup2(command, sizeof *command);
        bool ok = true, cut = false;
        variant->elements = g_ptr_array_new();
        for (unsigned i = 0; i < n; i++) {
            struct lex_element *e = command->elements->pdata[i];
            bool out = left >> i & 1;
            ok = ok && (!out || e->filler || e->optional) && !(cut && !out);
            cut = cut || (out && e->optional);
            if (!out) g_ptr_array_add(variant->elements, e);
        }
        if (ok)
            g_ptr_array_add(all, variant);
        else
            variant_free(variant);
    }
}

static void oracle_init(struct oracle *o, const struct lexicon *lx)
{
    *o = (struct oracle){.lx = lx, .variants = g_ptr_array_new_with_free_func(variant_free)};
    for (unsigned i = 0; i < lx->commands->len; i++)
        add_variants(o->variants, lx->commands->pdata[i]);
    for (unsigned i = 0; i < lx->outputs->len; i++)
        o->level[i] = (int)((struct lex_output *)lx->outputs->pdata[i])->safe;
}

static bool same_word(const struct lexicon *lx, const char *a, const char *b, size_t count)
{
    return lx->any_case ? !g_ascii_strncasecmp(a, b, count) : !strncmp(a, b, count);
}

static const struct lex_element *element_of(const struct lex_command *c, unsigned i)
{
    return i < c->elements->len ? c->elements->pdata[i] : NULL;
}

/* Adds to `all` the words this element can be. */
static void add_words(GPtrArray *all, const struct lex_element *e)
{
    if (!e || e->kind == LEX_NUMBER) return;
    unsigned n = e->words ? e->words->len : 1;
    for (unsigned i = 0; i < n; i++) {
        char *word = e->words ? e->words->pdata[i] : e->text;
        if (!g_ptr_array_find_with_equal_func(all, word, g_str_equal, NULL))
            g_ptr_array_add(all, word);
    }
}

/* The word that `token` means among those possible here, or NULL. */
static const char *meant(const struct lexicon *lx, GPtrArray *possible, const char *token)
{
    const char *found = NULL;
    unsigned cut = 0;
    size_t n = strlen(token);
    for (unsigned i = 0; i < possible->len; i++) {
        const char *word = possible->pdata[i];
        if (strlen(word) == n && same_word(lx, word, token, n)) return word;
        if (lx->shorten && n >= lx->shorten && n < strlen(word) && same_word(lx, word, token, n)) {
            found = word;
            cut++;
        }
    }
    return cut == 1 ? found : NULL;
}

/* The groups of a match of the whole text; NULL: it is none. */
static char **groups(const char *text, const char *pattern)
{
    GRegex *regex =
        g_regex_new(pattern, G_REGEX_CASELESS | G_REGEX_ANCHORED | G_REGEX_RAW, 0, NULL);
    GMatchInfo *match = NULL;
    char **all = NULL;
    if (g_regex_match(regex, text, 0, &match)) all = g_match_info_fetch_all(match);
    g_match_info_free(match);
    g_regex_unref(regex);
    return all;
}

/* How the element's numbers look, in three groups: what stands before the point, behind it, and
 * what follows. */
static const char *number_pattern(const struct lex_element *e)
{
    return e->form == LEX_HEX        ? "(-?0x[0-9a-f]+)()(.*)$"
           : e->form == LEX_FRACTION ? "(-?[0-9]+)(?:\\.([0-9]+))?(.*)$"
                                     : "(-?[0-9]+)()(.*)$";
}

static int64_t time_of(const struct lexicon *lx, const struct lex_element *e, const char *unit)
{
    static const struct {
        const char *name;
        int64_t ms;
    } units[] = {{"ms", 1}, {"s", 1000}, {"min", 60000}, {"h", 3600000}};
    for (unsigned i = 0; i < G_N_ELEMENTS(units); i++)
        if (*unit ? strlen(unit) == strlen(units[i].name) &&
                        same_word(lx, unit, units[i].name, strlen(unit))
                  : e->bare == i)
            return units[i].ms;
    return 0;
}

static bool read_number(const struct lexicon *lx, const struct lex_element *e, const char *token,
                        int64_t *value)
{
    char **g = groups(token, number_pattern(e));
    if (!g) return false;
    bool hex = e->form == LEX_HEX, ok = true, minus = *g[1] == '-';
    size_t digits = strlen(g[1]) - minus - (hex ? 2 : 0), behind = strlen(g[2]);
    int64_t sum = digits > 11 ? INT64_MAX / 10000000
                              : g_ascii_strtoll(g[1] + minus + 2 * hex, NULL, hex ? 16 : 10);
    ok = behind <= e->decimals && digits <= lex_number_digits(e);
    for (size_t i = 0; ok && i < e->decimals; i++)
        sum = sum * 10 + (i < behind ? g[2][i] - '0' : 0);
    if (e->form == LEX_TIME) {
        sum *= time_of(lx, e, g[3]);
        ok = ok && time_of(lx, e, g[3]);
    } else if (*g[3] && !(e->unit && strlen(g[3]) == strlen(e->unit) &&
                          same_word(lx, g[3], e->unit, strlen(e->unit)))) {
        ok = false;
    }
    if ((!*g[3] && e->glued) || (minus && !sum)) ok = false;
    *value = minus ? -sum : sum;
    g_strfreev(g);
    return ok && *value >= e->low && *value <= e->high;
}

/* ---- slots that have their place for themselves ---- */

static bool said_set(const struct lexicon *lx, const struct lex_element *e, const char *token,
                     struct said *said)
{
    char **parts = g_strsplit(token, "+", -1);
    unsigned bits = 0;
    bool ok = *parts != NULL, none = strlen(token) == 4 && same_word(lx, token, "none", 4);
    for (unsigned i = 0; !none && ok && parts[i]; i++) {
        ok = false;
        for (unsigned k = 0; k < e->words->len; k++) {
            const char *word = e->words->pdata[k];
            if (strlen(word) != strlen(parts[i]) || !same_word(lx, word, parts[i], strlen(word)))
                continue;
            bits |= 1u << k;
            ok = true;
        }
    }
    const char *separator = " ";
    for (unsigned k = 0; ok && k < e->words->len; k++) {
        if (!(bits >> k & 1)) continue;
        g_string_append_printf(said->reply, "%s%s", separator, (char *)e->words->pdata[k]);
        separator = "+";
    }
    if (none) g_string_append(said->reply, " none");
    said->value[said->n_values++] = bits;
    g_strfreev(parts);
    return ok || none;
}

static bool said_list(const struct lexicon *lx, const struct lex_element *e, const char *token,
                      struct said *said)
{
    char **parts = g_strsplit(token, ",", -1);
    unsigned count = g_strv_length(parts), at = said->n_values++;
    bool ok = count >= 1 && count <= e->most;
    for (unsigned i = 0; ok && i < count; i++) {
        int64_t value;
        ok = read_number(lx, e, parts[i], &value);
        if (!ok) break;
        char *text = lex_value_text(e, (int32_t)value);
        g_string_append_printf(said->reply, "%s%s%s", i ? "," : " ", text, e->glued ? e->unit : "");
        said->value[said->n_values++] = value;
        g_free(text);
    }
    said->value[at] = count;
    while (ok && said->n_values <= at + e->most) said->value[said->n_values++] = INT64_MIN;
    g_strfreev(parts);
    return ok;
}

static bool said_text(const struct lex_element *e, const char *token, struct said *said)
{
    size_t n = strlen(token), quotes = e->rest ? 0 : 2;
    g_string_append_printf(said->reply, " %s", token);
    said->value[said->n_values++] = INT64_MIN; /* where and how long: not compared */
    if (quotes && (n < 2 || *token != '"' || strchr(token + 1, '"') != token + n - 1)) return false;
    return n - quotes >= (size_t)e->low && n - quotes <= (size_t)e->high;
}

static bool is_alone(const struct lex_element *e)
{
    return e->kind == LEX_SET || e->kind == LEX_LIST || e->kind == LEX_TEXT;
}

/* Where the place is a set's, a list's or a text's: *fits tells whether the token is one. */
static const struct lex_element *alone(const struct lexicon *lx, GPtrArray *commands, unsigned i,
                                       const char *token, struct said *said, bool *fits)
{
    for (unsigned k = 0; k < commands->len; k++) {
        const struct lex_element *e = element_of(commands->pdata[k], i);
        if (!e || !is_alone(e)) continue;
        *fits = e->kind == LEX_SET    ? said_set(lx, e, token, said)
                : e->kind == LEX_LIST ? said_list(lx, e, token, said)
                                      : said_text(e, token, said);
        return e;
    }
    return NULL;
}

/* Whether the token begins like this number: with a digit, or with the word before it and then
 * one. */
static bool begins_number(const struct lexicon *lx, const struct lex_element *e, const char *token)
{
    size_t before = e->prefix ? strlen(e->prefix) : 0;
    if (e->kind != LEX_NUMBER || strlen(token) <= before) return false;
    if (before && !same_word(lx, e->prefix, token, before)) return false;
    return g_ascii_isdigit(token[before]) || token[before] == '-';
}

/* Keeps the commands that can go on with this token, and tells it to the reply. */
static GPtrArray *narrow(const struct lexicon *lx, GPtrArray *commands, unsigned i,
                         const char *token, struct said *said)
{
    GPtrArray *left = g_ptr_array_new(), *possible = g_ptr_array_new();
    const struct lex_element *number = NULL;
    bool own = false;
    const struct lex_element *only = alone(lx, commands, i, token, said, &own);
    for (unsigned k = 0; k < commands->len; k++) {
        const struct lex_element *e = element_of(commands->pdata[k], i);
        /* a plain number before one that touches a word */
        if (e && begins_number(lx, e, token) && (!number || !e->prefix)) number = e;
        if (e && !is_alone(e)) add_words(possible, e);
    }
    const char *word = number || only ? NULL : meant(lx, possible, token);
    size_t before = number && number->prefix ? strlen(number->prefix) : 0;
    int64_t value = 0;
    if (number && !read_number(lx, number, token + before, &value)) number = NULL, word = "";
    for (unsigned k = 0; k < commands->len; k++) {
        const struct lex_element *e = element_of(commands->pdata[k], i);
        guint index = 0;
        bool fits;
        if (!e) continue;
        if (only)
            fits = own && e->kind == only->kind;
        else if (number)
            fits = e->kind == LEX_NUMBER && !g_strcmp0(e->prefix, number->prefix);
        else if (!word || e->kind == LEX_NUMBER || is_alone(e))
            fits = false;
        else
            fits = !e->words
                       ? !strcmp(e->text, word)
                       : g_ptr_array_find_with_equal_func(e->words, word, g_str_equal, &index);
        if (!fits) continue;
        if (e->kind == LEX_CHOICE) value = image_choice_value(e, index);
        if (left->len) {
            /* told already */
        } else if (e->kind == LEX_NUMBER && e->scaled) { /* the nearest, halves up from the first */
            double part = (double)(value - e->low) / ((double)e->high - e->low);
            double far = part * (e->to_high > e->to_low ? (double)e->to_high - e->to_low
                                                        : (double)e->to_low - e->to_high);
            int64_t whole = (int64_t)(far + 0.5 + 1e-9);
            said->value[said->n_values++] =
                e->to_high > e->to_low ? e->to_low + whole : e->to_low - whole;
        } else if (e->kind != LEX_WORD && !only) {
            said->value[said->n_values++] = value;
        }
        if (!left->len && number) {
            char *text = lex_value_text(e, (int32_t)value);
            g_string_append_printf(said->reply, " %s%s%s", e->prefix ? e->prefix : "", text,
                                   e->glued ? e->unit : "");
            g_free(text);
        }
        g_ptr_array_add(left, commands->pdata[k]);
    }
    if (word && *word) g_string_append_printf(said->reply, " %s", word);
    g_ptr_array_free(possible, TRUE);
    g_ptr_array_free(commands, TRUE);
    return left;
}

/* Whether what comes next is a text to the end of the line. */
static bool wants_rest(GPtrArray *commands, unsigned i)
{
    for (unsigned k = 0; k < commands->len; k++) {
        const struct lex_element *e = element_of(commands->pdata[k], i);
        if (e && e->kind == LEX_TEXT && e->rest) return true;
    }
    return false;
}

static bool wants_text(GPtrArray *commands, unsigned i)
{
    for (unsigned k = 0; k < commands->len; k++) {
        const struct lex_element *e = element_of(commands->pdata[k], i);
        if (e && e->kind == LEX_TEXT) return true;
    }
    return false;
}

/* What comes next, cut off the line: a word, a text in quotes, or all. Owned by the caller. */
static char *next_token(const char **line, GPtrArray *commands, unsigned i)
{
    const char *from = *line + strspn(*line, " "), *to = from + strcspn(from, " ");
    if (wants_rest(commands, i)) {
        to = from + strlen(from);
        while (to > from && to[-1] == ' ') to--;
    } else if (*from == '"' && wants_text(commands, i) && strchr(from + 1, '"')) {
        to = strchr(from + 1, '"') + 1;
        to += strcspn(to, " ");
    }
    *line = to;
    return to > from ? g_strndup(from, (gsize)(to - from)) : NULL;
}

/* How many slots the values said are: a list has several. */
static unsigned said_slots(const struct said *said)
{
    unsigned slots = 0;
    for (unsigned k = 0; k < said->command->elements->len; k++)
        slots += ((struct lex_element *)said->command->elements->pdata[k])->kind != LEX_WORD;
    return slots;
}

/* The values of the slots that were left out. */
static void add_left_out(struct said *said, const struct lexicon *lx)
{
    for (unsigned i = 0; i < lx->commands->len; i++) {
        const struct lex_command *command = lx->commands->pdata[i];
        if (command->place.line != said->command->place.line) continue;
        for (unsigned k = 0, slot = 0; k < command->elements->len; k++) {
            const struct lex_element *e = command->elements->pdata[k];
            if (e->kind == LEX_WORD || slot++ < said_slots(said)) continue;
            said->value[said->n_values++] =
                e->kind == LEX_NUMBER ? (int64_t)lex_value_scaled(e, e->fallback)
                                      : (int64_t)image_choice_value(e, (unsigned)e->fallback);
        }
    }
}

/* What the outputs do, and what that adds to the reply. */
static void apply(struct oracle *o, struct said *said)
{
    const struct lex_effect *effect = &said->command->effect;
    unsigned first = effect->which != NULL;
    int *level = &o->level[first ? said->value[0] : effect->output], before = *level;
    said->n_said = said->n_values;
    add_left_out(said, o->lx);
    if (effect->kind == LEX_CALL) return;
    int64_t told = effect->fixed >= 0 ? effect->fixed : said->value[first];
    if (effect->kind == LEX_LEVEL)
        *level = (int)told;
    else
        *level = told == RLX_TOGGLE ? (before ? 0 : 100) : told == RLX_ON ? 100 : 0;
    if (effect->kind == LEX_SWITCH && told == RLX_TOGGLE) {
        char *last = strrchr(said->reply->str, ' ');
        if (said->n_said + (effect->fixed >= 0) > first && !strcmp(last, " toggle"))
            g_string_truncate(said->reply, (gsize)(last - said->reply->str));
        g_string_append(said->reply, *level ? " on" : " off");
    }
    if (*level == before) g_string_append(said->reply, " already");
}

/* NULL: not accepted. */
static char *oracle_say(struct oracle *o, const char *line, size_t *longest)
{
    struct said said = {.reply = g_string_new("ok")};
    GPtrArray *commands = g_ptr_array_new();
    char *token, *trimmed = g_strstrip(g_strdup(line));
    unsigned n = 0;
    for (unsigned i = 0; i < o->lx->numbers->len; i++) {
        const struct lex_number *number = o->lx->numbers->pdata[i];
        if (!strcmp(number->said, trimmed)) line = number->text;
    }
    g_free(trimmed);
    for (unsigned i = 0; i < o->variants->len; i++)
        g_ptr_array_add(commands, o->variants->pdata[i]);
    while ((token = next_token(&line, commands, n))) {
        commands = narrow(o->lx, commands, n++, token, &said);
        g_free(token);
    }
    for (unsigned i = 0; i < commands->len; i++) {
        const struct lex_command *c = commands->pdata[i];
        if (n && c->elements->len == n) said.command = c;
    }
    *longest = said.reply->len;
    if (said.command) apply(o, &said);
    *longest = MAX(*longest, said.reply->len);
    o->last = said;
    g_ptr_array_free(commands, TRUE);
    char *reply = g_string_free(said.reply, !said.command);
    return said.command ? reply : NULL;
}

/* ---- the comparison ---- */

static void agree(struct rig *rig, unsigned lines, unsigned *accepted)
{
    struct oracle o;
    oracle_init(&o, rig->lx);
    const struct lex_link *link = rig->lx->links->pdata[0];
    CHECK_INT(rig_start(rig, 0), 0);
    rig_run(rig);
    for (unsigned i = 0; i < lines; i++) {
        char *line = lines_random(rig->lx), *said = g_strconcat(line, "\r", NULL);
        size_t longest; /* before the act, or after it */
        char *wanted = oracle_say(&o, line, &longest);
        g_string_truncate(rig->pins, 0);
        const char *got = rig_say(rig, 0, said);
        test_context("line '%s', seed %u", line, lines_seed);
        CHECK(link->may_not_fit || strlen(got) <= link->reply); /* the room that was reserved */
        if (wanted) {
            bool fits = longest + 2 <= link->transmit; /* else it is cut */
            char *reply = g_strconcat(fits ? wanted : "ok", "\r\n", NULL);
            CHECK_TEXT(got, reply);
            if (o.last.command->effect.kind == LEX_CALL)
                for (unsigned k = 0; k < o.last.n_values; k++)
                    if (o.last.value[k] != INT64_MIN) CHECK_INT(rig->value[k], o.last.value[k]);
            g_free(reply);
            ++*accepted;
        } else {
            CHECK(!*got || (g_str_has_prefix(got, "err ") && g_str_has_suffix(got, "\r\n")));
            CHECK(strlen(got) <= link->transmit);
            CHECK_TEXT(rig->pins->str, "");
        }
        g_free(wanted);
        g_free(said);
        g_free(line);
    }
    g_ptr_array_free(o.variants, TRUE);
}

static unsigned kinds_of(const struct lexicon *lx)
{
    unsigned kinds = 0;
    for (unsigned i = 0; i < lx->commands->len; i++) {
        const GPtrArray *all = ((struct lex_command *)lx->commands->pdata[i])->elements;
        for (unsigned k = 0; k < all->len; k++)
            kinds |= 1u << ((struct lex_element *)all->pdata[k])->kind;
    }
    return kinds;
}

static void random_lexicons(void)
{
    char *folder = g_dir_make_tmp("rlx-oracle-XXXXXX", NULL);
    char *path = g_build_filename(folder, "random.lexicon", NULL);
    unsigned sound = 0, accepted = 0, lines = 0, kinds = 0;
    lines_seed = 1;
    for (unsigned i = 0; i < 2000 && test_failures() < 5; i++) {
        char *text = lines_lexicon();
        g_file_set_contents(path, text, -1, NULL);
        struct lexicon *lx = lexicon_read(path, NULL);
        struct image *image = image_build(lx);
        CHECK((image != NULL) == !lx->faults->len);
        image_free(image);
        if (image) {
            unsigned before = test_failures();
            struct rig *rig = rig_new(path);
            agree(rig, 200, &accepted);
            if (test_failures() != before) printf("in this lexicon:\n%s", text);
            rig_free(rig);
            kinds |= kinds_of(lx);
            sound++;
            lines += 200;
        }
        lexicon_free(lx);
        g_free(text);
    }
    test_context("%u sound lexicons, %u lines, %u accepted", sound, lines, accepted);
    CHECK(sound >= 500);
    CHECK_INT(kinds, (1 << LEX_ELEMENT_KINDS) - 1);
    CHECK(accepted > lines / 10 * 3 && accepted < lines / 10 * 7);
    remove(path);
    remove(folder);
    g_free(path);
    g_free(folder);
}

/* The nth string over the alphabet, counted through all lengths. */
static void nth_string(char *text, unsigned n)
{
    static const char alphabet[] = "abON 5-1%";
    unsigned base = sizeof alphabet - 1, length = 0;
    for (; n; n = (n - 1) / base) text[length++] = alphabet[(n - 1) % base];
    text[length] = 0;
    g_strreverse(text);
}

/* Every string of up to six characters of a small alphabet. */
static void every_short_string(void)
{
    struct rig *rig = rig_new(LEXICONS "/small.lexicon");
    struct oracle o;
    oracle_init(&o, rig->lx);
    unsigned accepted = 0, count = 9 + 81 + 729 + 6561 + 59049 + 531441;
    char text[16], said[20];
    CHECK_INT(rig_start(rig, 0), 0);
    rig_run(rig);
    for (unsigned n = 1; n <= count && test_failures() < 5; n++) {
        nth_string(text, n);
        g_snprintf(said, sizeof said, "%s\r", text);
        size_t longest;
        char *wanted = oracle_say(&o, text, &longest);
        g_string_truncate(rig->pins, 0);
        const char *got = rig_say(rig, 0, said);
        test_context("'%s'", text);
        if (wanted) {
            gsize length = strlen(wanted);
            CHECK(!strncmp(got, wanted, length) && !strcmp(got + length, "\r\n"));
            accepted++;
        } else {
            CHECK(!*got || g_str_has_prefix(got, "err "));
            CHECK(!*rig->pins->str);
        }
        g_free(wanted);
    }
    test_context("%u of %u accepted", accepted, count);
    CHECK(accepted > 100 && accepted < count / 20);
    printf("every short string: %u of %u accepted\n", accepted, count);
    rig_free(rig);
}

static void our_lexicons(void)
{
    static const char *const files[] = {EXAMPLES "/tide_tank/tidetank.lexicon",
                                        LEXICONS "/families.lexicon", LEXICONS "/numbers.lexicon",
                                        LEXICONS "/many.lexicon", LEXICONS "/slots.lexicon"};
    for (unsigned i = 0; i < G_N_ELEMENTS(files); i++) {
        struct rig *rig = rig_new(files[i]);
        unsigned accepted = 0;
        lines_seed = i + 1;
        agree(rig, 10000, &accepted);
        test_context("%s: %u accepted", files[i], accepted);
        CHECK(accepted > 2000 && accepted < 8000);
        rig_free(rig);
    }
}

static const struct test_case cases[] = {
    {"P1, P10: the lexicons of the examples and tests", our_lexicons},
    {"P1, P10: random lexicons", random_lexicons},
    {"P1, P5: every short string", every_short_string},
};
TEST_MAIN(cases)
