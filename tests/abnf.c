/* The exported grammar against the parser. A small reader of ABNF (RFC 5234: rules, alternatives,
 * repetition, options, strings, %s strings of RFC 7405, %x values and ranges) draws texts, which
 * must all be accepted, and recognises changed texts, which must be accepted exactly when the
 * grammar says so. */
#include "lexicon/write/abnf.h"

#include <stdio.h>
#include <stdlib.h>
#include <string.h>

#include "harness.h"
#include "lexicon/envelope.h"
#include "lexicon/write/worked.h"
#include "lines.h"
#include "rig.h"

enum kind { EITHER, SEQUENCE, REPEAT, STRING, RANGE, RULE };

struct part {
    enum kind kind;
    GPtrArray *parts;   /* of EITHER and SEQUENCE; the one of REPEAT */
    unsigned low, high; /* of REPEAT; values of RANGE */
    char *text;         /* of STRING; name of RULE */
    bool exact;         /* case counts */
};

struct grammar {
    GHashTable *rules; /* name -> struct part * */
    const char *at;    /* while reading */
};

/* ---- reading ---- */

static void part_free(void *p)
{
    struct part *part = p;
    g_ptr_array_free(part->parts, TRUE);
    g_free(part->text);
    g_free(part);
}

static struct part *part_new(enum kind kind)
{
    struct part *part = g_new0(struct part, 1);
    part->kind = kind;
    part->parts = g_ptr_array_new_with_free_func(part_free);
    return part;
}

static void blanks(struct grammar *g)
{
    while (*g->at == ' ' || (*g->at == '\n' && g->at[1] == ' ')) g->at++;
}

static struct part *read_either(struct grammar *g);

static struct part *read_string(struct grammar *g, bool exact)
{
    struct part *part = part_new(STRING);
    const char *end = strchr(++g->at, '"');
    part->exact = exact;
    part->text = g_strndup(g->at, (gsize)(end - g->at));
    g->at = end + 1;
    return part;
}

static struct part *read_group(struct grammar *g, char close)
{
    g->at++;
    struct part *part = read_either(g);
    blanks(g);
    CHECK_INT(*g->at, close);
    g->at++;
    return part;
}

static struct part *read_element(struct grammar *g)
{
    struct part *part;
    if (*g->at == '(') return read_group(g, ')');
    if (*g->at == '[') {
        part = part_new(REPEAT);
        part->high = 1;
        g_ptr_array_add(part->parts, read_group(g, ']'));
        return part;
    }
    if (*g->at == '"') return read_string(g, false);
    if (!strncmp(g->at, "%s", 2)) {
        g->at += 2;
        return read_string(g, true);
    }
    if (!strncmp(g->at, "%x", 2)) {
        char *end;
        part = part_new(RANGE);
        part->low = part->high = (unsigned)strtoul(g->at + 2, &end, 16);
        if (*end == '-') part->high = (unsigned)strtoul(end + 1, &end, 16);
        g->at = end;
        return part;
    }
    part = part_new(RULE);
    size_t length =
        strspn(g->at, "abcdefghijklmnopqrstuvwxyzABCDEFGHIJKLMNOPQRSTUVWXYZ0123456789-");
    CHECK(length > 0);
    part->text = g_strndup(g->at, length);
    g->at += length;
    return part;
}

/* 1*SP, *2"0", 4(...): at least, at most, so often; no more than 12 where nothing is said. */
static struct part *read_repetition(struct grammar *g)
{
    char *star;
    unsigned least = (unsigned)strtoul(g->at, &star, 10), most;
    if (*star != '*' && star == g->at) return read_element(g);
    if (*star != '*') {
        struct part *exact = part_new(REPEAT);
        g->at = star;
        exact->low = exact->high = least;
        g_ptr_array_add(exact->parts, read_element(g));
        return exact;
    }
    most = (unsigned)strtoul(star + 1, (char **)&g->at, 10);
    struct part *part = part_new(REPEAT);
    part->low = least;
    part->high = g->at == star + 1 ? 12 : most;
    g_ptr_array_add(part->parts, read_element(g));
    return part;
}

static struct part *read_sequence(struct grammar *g)
{
    struct part *part = part_new(SEQUENCE);
    for (blanks(g); *g->at && !strchr("/)]\n", *g->at); blanks(g))
        g_ptr_array_add(part->parts, read_repetition(g));
    return part;
}

static struct part *read_either(struct grammar *g)
{
    struct part *part = part_new(EITHER);
    for (;;) {
        g_ptr_array_add(part->parts, read_sequence(g));
        if (*g->at != '/') return part;
        g->at++;
    }
}

static struct grammar grammar_read(const char *text)
{
    struct grammar g = {g_hash_table_new_full(g_str_hash, g_str_equal, g_free, part_free), text};
    while (*g.at) {
        if (*g.at == ';' || *g.at == '\n') {
            g.at += strcspn(g.at, "\n") + (*g.at == ';');
            if (*g.at == '\n') g.at++;
            continue;
        }
        const char *equals = strstr(g.at, " = ");
        char *name = g_strndup(g.at, (gsize)(equals - g.at));
        g.at = equals + 3;
        g_hash_table_insert(g.rules, name, read_either(&g));
    }
    return g;
}

/* ---- recognising: from a set of places in the text to the set after it ---- */

typedef uint64_t places;

static places after(struct grammar *g, const struct part *part, const char *text, places from);

static places after_string(const struct part *part, const char *text, places from)
{
    size_t n = strlen(part->text), length = strlen(text);
    places to = 0;
    for (size_t i = 0; i + n <= length; i++) {
        bool same = part->exact ? !strncmp(text + i, part->text, n)
                                : !g_ascii_strncasecmp(text + i, part->text, n);
        if (from >> i & 1 && same) to |= UINT64_C(1) << (i + n);
    }
    return to;
}

static places after_range(const struct part *part, const char *text, places from)
{
    places to = 0;
    for (size_t i = 0; text[i]; i++)
        if (from >> i & 1 && (unsigned char)text[i] >= part->low &&
            (unsigned char)text[i] <= part->high)
            to |= UINT64_C(1) << (i + 1);
    return to;
}

static places after(struct grammar *g, const struct part *part, const char *text, places from)
{
    places to = 0;
    if (!from) return 0;
    switch (part->kind) {
    case EITHER:
        for (unsigned i = 0; i < part->parts->len; i++)
            to |= after(g, part->parts->pdata[i], text, from);
        return to;
    case SEQUENCE:
        for (unsigned i = 0; i < part->parts->len; i++)
            from = after(g, part->parts->pdata[i], text, from);
        return from;
    case REPEAT:
        for (unsigned n = 0; n <= part->high && from; n++) {
            if (n >= part->low) to |= from;
            from = after(g, part->parts->pdata[0], text, from);
        }
        return to;
    case STRING: return after_string(part, text, from);
    case RANGE: return after_range(part, text, from);
    case RULE: return after(g, g_hash_table_lookup(g->rules, part->text), text, from);
    }
    return 0;
}

static bool recognised_as(struct grammar *g, const char *rule, const char *text)
{
    size_t length = strlen(text);
    const struct part *part = g_hash_table_lookup(g->rules, rule);
    CHECK(part);
    if (length > 60 || !part) return false;
    places end = after(g, part, text, 1);
    return end >> length & 1;
}

static bool recognised(struct grammar *g, const char *text)
{
    return recognised_as(g, "line", text);
}

/* ---- drawing ---- */

static void draw(struct grammar *g, const struct part *part, GString *out)
{
    switch (part->kind) {
    case EITHER: draw(g, part->parts->pdata[lines_chance(part->parts->len)], out); break;
    case SEQUENCE:
        for (unsigned i = 0; i < part->parts->len; i++) draw(g, part->parts->pdata[i], out);
        break;
    case REPEAT: {
        unsigned most = MIN(part->high, part->low + 2);
        for (unsigned n = part->low + lines_chance(most - part->low + 1); n; n--)
            draw(g, part->parts->pdata[0], out);
        break;
    }
    case STRING:
        for (const char *p = part->text; *p; p++)
            g_string_append_c(out, part->exact || lines_chance(4) ? *p : g_ascii_toupper(*p));
        break;
    case RANGE:
        g_string_append_c(out, (char)(part->low + lines_chance(part->high - part->low + 1)));
        break;
    case RULE: draw(g, g_hash_table_lookup(g->rules, part->text), out); break;
    }
}

/* ---- the comparison ---- */

static bool accepted(struct rig *rig, const char *text)
{
    char *line = g_strconcat(text, "\r", NULL);
    bool ok = g_str_has_prefix(rig_say(rig, 0, line), "ok");
    g_free(line);
    return ok;
}

/* ---- changes, by classes ---- */

enum change { BLANKS, CASE, CUT, DIGIT, LETTER, WORD, CHANGES };
static const char *const change_names[] = {"blanks", "case", "cut", "digit", "letter", "word"};

/* The place of a character that the test likes, or a random one where there is none. */
static gsize place_of(const GString *text, int (*likes)(int))
{
    unsigned count = 0;
    gsize found = lines_chance((unsigned)text->len);
    for (gsize i = 0; i < text->len; i++)
        if (likes((unsigned char)text->str[i]) && !lines_chance(++count)) found = i;
    return found;
}

static int is_blank(int c)
{
    return c == ' ';
}

static int is_digit(int c)
{
    return g_ascii_isdigit((char)c);
}

static int is_letter(int c)
{
    return g_ascii_isalpha((char)c);
}

static void change_word(GString *text)
{
    static const char *const words[] = {" on", " 5", " now", " x", " off", " 1"};
    if (lines_chance(2))
        g_string_append(text, words[lines_chance(G_N_ELEMENTS(words))]);
    else
        g_string_truncate(text, place_of(text, is_blank));
}

static void change(GString *text, enum change kind)
{
    static const char letters[] = "abelmnopstxzABLO-%.+,\"";
    char digit = (char)('0' + lines_chance(10));
    gsize at;
    switch (kind) {
    case BLANKS:
        at = lines_chance(2) ? place_of(text, is_blank) : lines_chance((unsigned)text->len);
        if (lines_chance(2))
            g_string_insert_c(text, (gssize)at, ' ');
        else
            g_string_erase(text, (gssize)at, 1);
        break;
    case CASE:
        at = place_of(text, is_letter);
        text->str[at] = (char)(text->str[at] ^ (is_letter((unsigned char)text->str[at]) ? 32 : 0));
        break;
    case CUT: g_string_erase(text, (gssize)lines_chance((unsigned)text->len), 1); break;
    case DIGIT:
        at = place_of(text, is_digit);
        if (lines_chance(2))
            g_string_insert_c(text, (gssize)at, digit);
        else
            text->str[at] = digit;
        break;
    case LETTER: /* another letter, or the same as a capital */
        at = place_of(text, is_letter);
        text->str[at] =
            lines_chance(2) ? letters[lines_chance(22)] : g_ascii_toupper(text->str[at]);
        break;
    default: change_word(text);
    }
}

/* Changes of which about half are still good: drawn anew, up to some times, until the grammar's
 * verdict is the one that a coin asks for. Where a kind of change does no harm (capitals where
 * letters are any-case), a letter is changed too. */
static bool changed(struct grammar *g, const GString *from, enum change kind, GString *to)
{
    bool want = lines_chance(2), good = !want;
    for (unsigned i = 0; i < 40 && good != want; i++) {
        g_string_assign(to, from->str);
        change(to, kind);
        if (i >= 20 && !want) change(to, LETTER);
        good = recognised(g, to->str);
    }
    return good;
}

struct tally {
    unsigned good, all;
};

static void compare(const char *file, unsigned texts, struct tally *tally)
{
    struct rig *rig = rig_new(file);
    char *text = lexicon_abnf(rig->lx);
    struct grammar g = grammar_read(text);
    const struct lex_link *link = rig->lx->links->pdata[0];
    GString *line = g_string_new(NULL), *other = g_string_new(NULL);
    CHECK_INT(rig_start(rig, 0), 0);
    rig_run(rig);
    for (unsigned i = 0; i < texts && test_failures() < 5; i++) {
        enum change kind = i % CHANGES;
        unsigned tries = 30; /* for one with a digit, where digits are to be changed */
        do {
            g_string_truncate(line, 0);
            draw(&g, g_hash_table_lookup(g.rules, "line"), line);
        } while (line->len > MIN(link->longest, 58) ||
                 (kind == DIGIT && tries-- && !strpbrk(line->str, "0123456789")));
        test_context("%s: '%s'", file, line->str);
        CHECK(accepted(rig, line->str));
        bool good = changed(&g, line, kind, other);
        test_context("%s: changed to '%s'", file, other->str);
        if (other->len <= MIN(link->longest, 60)) {
            CHECK_INT(accepted(rig, other->str), good);
            tally[kind].good += good;
            tally[kind].all++;
        }
    }
    g_string_free(line, TRUE);
    g_string_free(other, TRUE);
    g_hash_table_destroy(g.rules);
    g_free(text);
    rig_free(rig);
}

/* RLX_TIMES=10 makes it ten times as many. */
static void grammar_and_parser_agree(void)
{
    static const char *const files[] = {EXAMPLES "/tide_tank/tidetank.lexicon",
                                        LEXICONS "/families.lexicon",
                                        LEXICONS "/numbers.lexicon",
                                        LEXICONS "/small.lexicon",
                                        LEXICONS "/many.lexicon",
                                        LEXICONS "/slots.lexicon",
                                        LEXICONS "/asked.lexicon",
                                        LEXICONS "/expiry.lexicon"};
    struct tally tally[CHANGES] = {{0}};
    const char *times = g_getenv("RLX_TIMES");
    unsigned texts = 17000 * (times ? (unsigned)atoi(times) : 1);
    for (unsigned i = 0; i < G_N_ELEMENTS(files); i++) compare(files[i], texts, tally);
    for (unsigned i = 0; i < CHANGES; i++) {
        unsigned share = tally[i].good * 100 / MAX(tally[i].all, 1);
        test_context("%s: %u of %u", change_names[i], tally[i].good, tally[i].all);
        printf("%-6s %u changed texts, %u %% of them good\n", change_names[i], tally[i].all, share);
        CHECK(share >= 30 && share <= 70);
    }
}

/* All numbers around the range, in all widths, against the range's grammar. */
static void ranges_are_exact(void)
{
    static const struct {
        const char *slot;
        int low, high;
    } cases[] = {{"{0..9}", 0, 9},        {"{0..100}", 0, 100},   {"{5..250}", 5, 250},
                 {"{1..16}", 1, 16},      {"{99..101}", 99, 101}, {"{-50..-10}", -50, -10},
                 {"{-100..7}", -100, 7},  {"{0..0}", 0, 0},       {"{123..456}", 123, 456},
                 {"{-9..1000}", -9, 1000}};
    char *folder = g_dir_make_tmp("rlx-abnf-XXXXXX", NULL);
    char *path = g_build_filename(folder, "it.lexicon", NULL);
    for (unsigned i = 0; i < G_N_ELEMENTS(cases); i++) {
        char *text = g_strdup_printf("lexicon x 1\ncommand n %s => n()\nlink l serial 9600 frame "
                                     "line\n",
                                     cases[i].slot);
        g_file_set_contents(path, text, -1, NULL);
        struct lexicon *lx = lexicon_read(path, NULL);
        char *abnf = lexicon_abnf(lx);
        struct grammar g = grammar_read(abnf);
        for (int n = -1200; n <= 1200; n++) {
            char said[16];
            g_snprintf(said, sizeof said, "n %d", n);
            test_context("%s in %s", said, cases[i].slot);
            CHECK_INT(recognised(&g, said), n >= cases[i].low && n <= cases[i].high);
        }
        CHECK(!recognised(&g, "n -0") && !recognised(&g, "n 00000") && !recognised(&g, "n "));
        g_hash_table_destroy(g.rules);
        g_free(abnf);
        g_free(text);
        lexicon_free(lx);
    }
    remove(path);
    remove(folder);
    g_free(path);
    g_free(folder);
}

/* Frames of every link, as the card works them out; with a byte changed they are none, or another
 * one. */
static void frames_are_frames(void)
{
    static const char *const files[] = {LEXICONS "/framings.lexicon",
                                        LEXICONS "/framings_other.lexicon",
                                        LEXICONS "/radio.lexicon", LEXICONS "/events.lexicon"};
    unsigned frames = 0;
    for (unsigned i = 0; i < G_N_ELEMENTS(files); i++) {
        struct lexicon *lx = lexicon_read(files[i], NULL);
        char *abnf = lexicon_abnf(lx);
        struct grammar g = grammar_read(abnf);
        for (unsigned k = 0; k < lx->links->len; k++) {
            struct lex_link link = *(struct lex_link *)lx->links->pdata[k];
            struct worked worked;
            if (!worked_example(lx, &link, &worked)) continue;
            char *rule = g_strconcat("frame-", link.name, NULL);
            if (link.check) link.check = LEX_DEMAND_REQUIRED;
            char *frame = lex_is_keyed(&link)
                              ? g_strdup(worked.frame->str)
                              : envelope_around(&link, RLX_TAG_OPENS, worked.command);
            test_context("%s of %s", frame, rule);
            CHECK(recognised_as(&g, rule, frame));
            frame[0] = '\\';
            CHECK(!recognised_as(&g, rule, frame));
            frames++;
            g_free(frame), g_free(rule);
            worked_clear(&worked);
        }
        g_hash_table_destroy(g.rules);
        g_free(abnf);
        lexicon_free(lx);
    }
    CHECK_INT(frames, 15);
}

static const struct test_case cases[] = {
    {"frames are frames", frames_are_frames},
    {"ranges are exact", ranges_are_exact},
    {"grammar and parser agree", grammar_and_parser_agree},
};
TEST_MAIN(cases)
