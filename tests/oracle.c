/* P1, P10: an independent reading of the rules, word by word over the list of commands, against the
 * parser with its tables: on random lexicons and random lines they must agree on what is accepted,
 * and on every letter of the reply. */
#include <stdio.h>
#include <string.h>

#include "harness.h"
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

static bool read_number(const struct lexicon *lx, const struct lex_element *e, const char *token,
                        int64_t *value)
{
    bool minus = *token == '-';
    const char *p = token + minus, *digits = p;
    int64_t sum = 0;
    char low[16], high[16];
    for (; g_ascii_isdigit(*p); p++) sum = sum > 100000000000 ? sum : sum * 10 + (*p - '0');
    size_t n = (size_t)(p - digits);
    snprintf(low, sizeof low, "%d", e->low);
    snprintf(high, sizeof high, "%d", e->high);
    size_t wide = MAX(strlen(low + (*low == '-')), strlen(high + (*high == '-')));
    if (!n || n > wide || (minus && !sum)) return false;
    if (*p && !(e->unit && strlen(p) == strlen(e->unit) && same_word(lx, p, e->unit, strlen(p))))
        return false;
    if (!*p && e->glued) return false;
    *value = minus ? -sum : sum;
    return *value >= e->low && *value <= e->high;
}

/* Keeps the commands that can go on with this token, and tells it to the reply. */
static GPtrArray *narrow(const struct lexicon *lx, GPtrArray *commands, unsigned i,
                         const char *token, struct said *said)
{
    GPtrArray *left = g_ptr_array_new(), *possible = g_ptr_array_new();
    bool number = false;
    for (unsigned k = 0; k < commands->len; k++) {
        const struct lex_element *e = element_of(commands->pdata[k], i);
        number |= e && e->kind == LEX_NUMBER && (g_ascii_isdigit(*token) || *token == '-');
        add_words(possible, e);
    }
    const char *word = number ? NULL : meant(lx, possible, token), *unit = NULL;
    int64_t value = 0;
    for (unsigned k = 0; k < commands->len; k++) {
        const struct lex_element *e = element_of(commands->pdata[k], i);
        if (!e || (number != (e->kind == LEX_NUMBER))) continue;
        guint index = 0;
        bool fits = number  ? read_number(lx, e, token, &value)
                    : !word ? false
                    : !e->words
                        ? !strcmp(e->text, word)
                        : g_ptr_array_find_with_equal_func(e->words, word, g_str_equal, &index);
        if (!fits) continue;
        if (e->kind == LEX_CHOICE) value = image_choice_value(e, index);
        if (e->glued) unit = e->unit;
        if (!left->len && e->kind != LEX_WORD) said->value[said->n_values++] = value;
        g_ptr_array_add(left, commands->pdata[k]);
    }
    if (number)
        g_string_append_printf(said->reply, " %d%s", (int)value, unit ? unit : "");
    else if (word)
        g_string_append_printf(said->reply, " %s", word);
    g_ptr_array_free(possible, TRUE);
    g_ptr_array_free(commands, TRUE);
    return left;
}

/* The values of the slots that were left out. */
static void add_left_out(struct said *said, const struct lexicon *lx)
{
    for (unsigned i = 0; i < lx->commands->len; i++) {
        const struct lex_command *command = lx->commands->pdata[i];
        if (command->place.line != said->command->place.line) continue;
        for (unsigned k = 0, slot = 0; k < command->elements->len; k++) {
            const struct lex_element *e = command->elements->pdata[k];
            if (e->kind == LEX_WORD || slot++ < said->n_said) continue;
            said->value[said->n_values++] =
                e->kind == LEX_NUMBER ? (int64_t)e->fallback
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
    char **tokens = g_strsplit(line, " ", -1);
    unsigned n = 0;
    for (unsigned i = 0; i < o->variants->len; i++)
        g_ptr_array_add(commands, o->variants->pdata[i]);
    for (char **token = tokens; *token; token++)
        if (**token) commands = narrow(o->lx, commands, n++, *token, &said);
    for (unsigned i = 0; i < commands->len; i++) {
        const struct lex_command *c = commands->pdata[i];
        if (n && c->elements->len == n) said.command = c;
    }
    *longest = said.reply->len;
    if (said.command) apply(o, &said);
    *longest = MAX(*longest, said.reply->len);
    o->last = said;
    g_strfreev(tokens);
    g_ptr_array_free(commands, TRUE);
    char *reply = g_string_free(said.reply, !said.command);
    return said.command ? reply : NULL;
}

/* ---- random lexicons ---- */

static const char *const words[] = {"a",   "ab",   "abc", "abcd", "b",      "ba",  "bab",
                                    "Abe", "lamp", "la",  "lamb", "stop",   "sto", "stopall",
                                    "on",  "off",  "x-1", "z_z",  "toggle", "o.n"};

static void random_slot(GString *text)
{
    static const char *const slots[] = {
        "{0..9}",          "{n -5..5}",  "{n 10..300mm}", "{n -70000..99999}", "{on|off}",
        "{on|off|toggle}", "{a|ab|abc}", "{k x|stop|z}",  "{1..1%}",           "{n 0..400}mm"};
    g_string_append_printf(text, " %s", slots[lines_chance(G_N_ELEMENTS(slots))]);
}

/* A word, a filler, or a word with two spellings. */
static void random_words(GString *text)
{
    const char *a = words[lines_chance(G_N_ELEMENTS(words))];
    const char *b = words[lines_chance(G_N_ELEMENTS(words))];
    switch (lines_chance(4)) {
    case 0: g_string_append_printf(text, " (%s)", a); break;
    case 1: g_string_append_printf(text, " %s|%s", a, b); break;
    default: g_string_append_printf(text, " %s", a);
    }
}

static char *random_lexicon(void)
{
    GString *text = g_string_new("lexicon random 1\n");
    unsigned n = 1 + lines_chance(lines_chance(3) ? 6 : 24);
    g_string_append_printf(text, "letters %s", lines_chance(2) ? "any-case" : "exact");
    if (lines_chance(2)) g_string_append_printf(text, " shorten %u", 1 + lines_chance(4));
    g_string_append(text,
                    "\noutput p relay pin 1\noutput q led pwm 2 at 1kHz active low safe 30%\n");
    g_string_append_printf(text, "link bench serial 9600 frame line longest 200%s\n",
                           lines_chance(4)   ? ""
                           : lines_chance(2) ? " transmit 16"
                                             : " transmit 32");
    for (unsigned i = 0; i < n; i++) {
        if (lines_chance(8))
            g_string_append_printf(text, "command %s", words[lines_chance(G_N_ELEMENTS(words))]);
        else
            g_string_append(text, lines_chance(2) ? "command {0..400}mm" : "command {-5..5}");
        switch (lines_chance(7)) {
        case 3:
            g_string_append(text, lines_chance(2) ? " {k p|q} {on|off|toggle = toggle} => k\n"
                                                  : " {k q|p} => k toggle\n");
            break;
        case 0:
            g_string_append_printf(text, " {on|off|toggle%s} => q\n",
                                   lines_chance(2) ? "" : " = toggle");
            break;
        case 1:
            g_string_append_printf(text, " {level 0..100%%%s} => q\n",
                                   lines_chance(2) ? "" : " = 70%");
            break;
        case 2:
            g_string_append_printf(text, " => %s\n", lines_chance(2) ? "p toggle" : "q 40%");
            break;
        default:
            for (unsigned k = lines_chance(4); k; k--) {
                if (lines_chance(2))
                    random_slot(text);
                else
                    random_words(text);
            }
            if (!lines_chance(3)) g_string_append(text, " {-9..40000 = 30000}");
            if (!lines_chance(4)) g_string_append(text, " {x|y|z = y}");
            g_string_append_printf(text, " => f%u()\n", i);
        }
    }
    return g_string_free(text, FALSE);
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
                    CHECK_INT(rig->value[k], o.last.value[k]);
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

static void random_lexicons(void)
{
    char *folder = g_dir_make_tmp("rlx-oracle-XXXXXX", NULL);
    char *path = g_build_filename(folder, "random.lexicon", NULL);
    unsigned sound = 0, accepted = 0, lines = 0;
    lines_seed = 1;
    for (unsigned i = 0; i < 2000 && test_failures() < 5; i++) {
        char *text = random_lexicon();
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
            sound++;
            lines += 200;
        }
        lexicon_free(lx);
        g_free(text);
    }
    test_context("%u sound lexicons, %u lines, %u accepted", sound, lines, accepted);
    CHECK(sound >= 500);
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
                                        LEXICONS "/many.lexicon"};
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
