/* Prints what a lexicon takes on a chip: flash, RAM, and time on its links, before anything is
 * compiled. Says what would make it fit, where limits are given. The estimate is made in
 * host/weigh. */
#include "weigh/weigh.h"

#include <jansson.h>
#include <stdlib.h>
#include <string.h>

#include "lexicon/layout/layout.h"
#include "rlx_cli.h"

#define MOST_SHOWN 12u /* parts that take most */
#define WITHIN     10  /* percent: test weigh */

static const struct {
    const char *id, *name;
} chips[] = {
#define CHIP(id, name, by) {#id, name},
    WEIGH_CHIPS(CHIP)
#undef CHIP
};
#define CHIP(id, name, by) "|" #id
static const char choice[] = WEIGH_CHIPS(CHIP); /* behind its first byte */
#undef CHIP

static struct {
    char *chip;
    gint64 flash, ram;
    gboolean json;
} asked;

/* ---- parts ---- */

/* A feature or built-in word that the lexicon has, and what it takes. */
struct part {
    const char *name;
    char *called;
    enum weigh_fact fact;
    struct weigh takes;
};

static void clear_part(void *p)
{
    g_free(((struct part *)p)->called);
}

static int by_flash(const void *a, const void *b)
{
    double x = ((const struct part *)a)->takes.flash, y = ((const struct part *)b)->takes.flash;
    return x < y ? 1 : x > y ? -1 : 0;
}

static void add_part(GArray *parts, enum weigh_chip chip, const double *facts, enum weigh_fact fact,
                     const char *format, const char *name)
{
    struct weigh takes = weigh_without(chip, facts, fact);
    if (facts[fact] <= 0 || takes.flash < 1) return;
    struct part part = {weigh_fact_name(fact), g_strdup_printf(format, name), fact, takes};
    g_array_append_val(parts, part);
}

/* What can be left out, what takes most first. */
static GArray *parts_of(enum weigh_chip chip, const double *facts)
{
    GArray *parts = g_array_new(FALSE, FALSE, sizeof(struct part));
    g_array_set_clear_func(parts, clear_part);
#define PART(id, name) add_part(parts, chip, facts, WEIGH_HAS_##id, "%s", name);
    RLX_FEATURES(PART)
#undef PART
#define PART(id, word, spoken, sentence) \
    add_part(parts, chip, facts, WEIGH_WORD_##id, "built-in %s", word);
    RLX_BUILT_INS(PART)
#undef PART
    g_array_sort(parts, by_flash);
    return parts;
}

/* ---- fitting ---- */

static bool fits(struct weigh is)
{
    return (!asked.flash || is.flash <= (double)asked.flash) &&
           (!asked.ram || is.ram <= (double)asked.ram);
}

/* A part that a lexicon can hardly do without is no advice. */
static bool can_go(enum weigh_fact fact)
{
    static const enum weigh_fact stay[] = {WEIGH_HAS_LINE,   WEIGH_HAS_CHOICE, WEIGH_HAS_NUMBER,
                                           WEIGH_HAS_CALL,   WEIGH_HAS_SWITCH, WEIGH_HAS_LEVEL,
                                           WEIGH_HAS_HASH,   WEIGH_HAS_FAMILY, WEIGH_HAS_WORDS,
                                           WEIGH_HAS_KEYS,   WEIGH_HAS_ACTS,   WEIGH_HAS_LONG_REPLY,
                                           WEIGH_HAS_PACKET, WEIGH_HAS_ERRORS, WEIGH_HAS_MESSAGE};
    for (unsigned i = 0; i < G_N_ELEMENTS(stay); i++)
        if (stay[i] == fact) return false;
    return true;
}

/* What it would take without one thing more after another, until it fits or nothing is left. */
static void advise(enum weigh_chip chip, const double *facts)
{
    double less[WEIGH_FACTS];
    memcpy(less, facts, sizeof less);
    puts("\nWhat would make it fit:");
    for (struct weigh now = weigh_estimate(chip, less); !fits(now);) {
        GArray *parts = parts_of(chip, less);
        const struct part *best = NULL;
        bool for_ram = !asked.flash || now.flash <= (double)asked.flash;
        for (unsigned i = 0; i < parts->len; i++) {
            const struct part *part = &g_array_index(parts, struct part, i);
            if (!can_go(part->fact)) continue;
            if (!best || (for_ram && part->takes.ram > best->takes.ram)) best = part;
        }
        if (best) {
            less[best->fact] = 0;
            if (best->fact == WEIGH_HAS_SMS) less[WEIGH_MODEMS] = 0;
            struct weigh then = weigh_estimate(chip, less);
            printf("  without %-46s flash %6.0f B, RAM %5.0f B\n", best->called, then.flash,
                   then.ram);
            now = then;
        }
        bool none = !best;
        g_array_free(parts, TRUE);
        if (none) {
            puts("  nothing more can be left out: a larger chip, or fewer commands");
            return;
        }
    }
}

/* ---- links ---- */

/* Bits of a byte on its line, and so bytes a second; 0: it has no speed. */
static double bytes_a_second(const struct lex_link *link)
{
    return link->baud ? (double)link->baud / lex_format_bits(&link->format) : 0;
}

/* The longest command that can be sent on it, in bytes with its end. */
static unsigned longest_command(const struct lexicon *lx)
{
    unsigned most = 0;
    for (unsigned i = 0; i < lx->commands->len; i++) {
        char *text = lex_command_longest(lx->commands->pdata[i], true);
        most = MAX(most, (unsigned)strlen(text) + 1);
        g_free(text);
    }
    return most;
}

static json_t *link_json(const struct lexicon *lx, const struct lex_link *link)
{
    unsigned answer = link->layout ? layout_most(link, true) : link->reply;
    json_t *one = json_pack("{s:s, s:s, s:i, s:i, s:i}", "link", link->name, "medium",
                            lex_media[link->medium], "buffers",
                            (int)(link->receive + link->transmit + link->longest), "longest_answer",
                            (int)answer, "longest_event", (int)link->event);
    double rate = bytes_a_second(link);
    if (rate > 0) {
        unsigned command = link->layout ? layout_most(link, false) : longest_command(lx);
        json_object_set_new(one, "bytes_a_second", json_real(rate));
        json_object_set_new(one, "answer_ms", json_real(answer / rate * 1000));
        json_object_set_new(one, "event_ms", json_real(link->event / rate * 1000));
        json_object_set_new(one, "commands_a_second",
                            json_real(rate / MAX(command, MAX(answer, 1))));
        json_object_set_new(one, "poll_within_ms", json_real(link->receive / rate * 1000));
    }
    if (link->medium == LEX_SMS)
        json_object_set_new(one, "messages_an_answer", json_integer((answer + 159) / 160));
    return one;
}

static double real_of(const json_t *of, const char *name)
{
    return json_number_value(json_object_get(of, name));
}

static void print_links(const json_t *links)
{
    puts("\nLinks                     RAM  longest answer          commands      poll within");
    for (size_t i = 0; i < json_array_size(links); i++) {
        const json_t *one = json_array_get(links, i);
        printf("  %-12s %-8s %5.0f B %5.0f B", json_string_value(json_object_get(one, "link")),
               json_string_value(json_object_get(one, "medium")), real_of(one, "buffers"),
               real_of(one, "longest_answer"));
        if (json_object_get(one, "answer_ms"))
            printf(" %7.1f ms %8.0f a second %8.1f ms", real_of(one, "answer_ms"),
                   real_of(one, "commands_a_second"), real_of(one, "poll_within_ms"));
        if (json_object_get(one, "messages_an_answer"))
            printf("   %.0f message%s an answer", real_of(one, "messages_an_answer"),
                   real_of(one, "messages_an_answer") > 1 ? "s" : "");
        putchar('\n');
    }
}

/* ---- all of it ---- */

static json_t *chip_json(enum weigh_chip chip, const double *facts)
{
    struct weigh is = weigh_estimate(chip, facts);
    GArray *parts = parts_of(chip, facts);
    json_t *all = json_array();
    for (unsigned i = 0; i < parts->len; i++) {
        const struct part *part = &g_array_index(parts, struct part, i);
        json_array_append_new(all, json_pack("{s:s, s:s, s:i, s:i}", "fact", part->name, "part",
                                             part->called, "flash", (int)part->takes.flash, "ram",
                                             (int)part->takes.ram));
    }
    g_array_free(parts, TRUE);
    return json_pack("{s:s, s:i, s:i, s:b, s:o}", "chip", chips[chip].id, "flash", (int)is.flash,
                     "ram", (int)is.ram, "fits", fits(is), "parts", all);
}

/* A line of its own for each: what it takes, and a bar beside the limit or the largest. */
static void print_bar(double bytes, double of)
{
    enum { WIDTH = 30 };
    unsigned filled = of > 0 ? (unsigned)MIN(bytes / of * WIDTH + 0.5, WIDTH) : 0;
    for (unsigned i = 0; i < filled; i++) putchar('#');
    for (unsigned i = filled; i < WIDTH; i++) putchar('.');
}

static void print_chip(enum weigh_chip chip, const double *facts, double most)
{
    struct weigh is = weigh_estimate(chip, facts);
    printf("  %-10s %6.0f B %6.0f B  ", chips[chip].name, is.flash, is.ram);
    print_bar(is.flash, asked.flash ? (double)asked.flash : most);
    if (asked.flash || asked.ram)
        printf("  %s", fits(is)                                        ? "fits"
                       : asked.flash && is.flash > (double)asked.flash ? "flash: does not fit"
                                                                       : "RAM: does not fit");
    putchar('\n');
}

static void print_parts(enum weigh_chip chip, const double *facts)
{
    GArray *parts = parts_of(chip, facts);
    double most = parts->len ? g_array_index(parts, struct part, 0).takes.flash : 0;
    printf("\nWhat takes most flash (%s); parts share code, so that together they are less\n",
           chips[chip].name);
    for (unsigned i = 0; i < parts->len && i < MOST_SHOWN; i++) {
        const struct part *part = &g_array_index(parts, struct part, i);
        printf("  %-54s %6.0f B  ", part->called, part->takes.flash);
        print_bar(part->takes.flash, most);
        putchar('\n');
    }
    printf("  %-54s %6.0f B\n", "tables", facts[WEIGH_IMAGE]);
    g_array_free(parts, TRUE);
}

/* ---- the memory ---- */

/* The setting whose changes fill it soonest; NULL: there is none. */
static const struct lex_setting *fills_soonest(const struct lexicon *lx)
{
    const struct lex_setting *soonest = NULL;
    for (unsigned i = 0; i < lx->settings->len; i++) {
        const struct lex_setting *setting = lx->settings->pdata[i];
        if (!soonest || lex_nv_changes(lx, setting) < lex_nv_changes(lx, soonest))
            soonest = setting;
    }
    return soonest;
}

static json_t *memory_json(const struct lexicon *lx)
{
    const struct lex_setting *soonest = fills_soonest(lx);
    if (!soonest && !lex_keeps_tags(lx)) return NULL;
    json_t *all = json_pack("{s:i, s:i, s:i, s:f}", "half_bytes", (int)lex_nv_area(lx), "endurance",
                            (int)lex_nv_endurance(lx), "erases_a_day", (int)lx->nv_erases, "years",
                            lex_nv_years(lx));
    if (soonest)
        json_object_update_new(all, json_pack("{s:s, s:i}", "setting", soonest->name,
                                              "changes_between_erases",
                                              (int)lex_nv_changes(lx, soonest)));
    for (unsigned i = 0; i < lx->links->len; i++) {
        const struct lex_link *link = lx->links->pdata[i];
        if (!link->tags_kept) continue;
        if (!json_object_get(all, "commands_between_erases"))
            json_object_set_new(all, "commands_between_erases", json_object());
        json_object_set_new(json_object_get(all, "commands_between_erases"), link->name,
                            json_integer(lex_nv_commands(lx, link)));
    }
    return all;
}

static void print_memory(const struct lexicon *lx)
{
    const struct lex_setting *soonest = fills_soonest(lx);
    if (!soonest && !lex_keeps_tags(lx)) return;
    printf("\nNon-volatile memory: two halves of %u bytes, of which a page lasts for %u erases%s\n",
           lex_nv_area(lx), lex_nv_endurance(lx), lx->nv_endurance ? "" : " (assumed)");
    if (soonest)
        printf("  %u changes of '%s' between two erases, %.0f before a page is worn out\n",
               lex_nv_changes(lx, soonest), soonest->name,
               lex_nv_outlasts(lx, lex_nv_changes(lx, soonest)));
    for (unsigned i = 0; i < lx->links->len; i++) {
        const struct lex_link *link = lx->links->pdata[i];
        if (link->tags_kept)
            printf(
                "  %u recorded commands over '%s' between two erases, %.0f before a page is worn "
                "out\n",
                lex_nv_commands(lx, link), link->name,
                lex_nv_outlasts(lx, lex_nv_commands(lx, link)));
    }
    if (lx->nv_erases)
        printf("  at most %u erase%s a day: %.1f years\n", lx->nv_erases,
               lx->nv_erases > 1 ? "s" : "", lex_nv_years(lx));
}

static int weigh_all(const struct lexicon *lx, const double *facts, unsigned first, unsigned last)
{
    json_t *links = json_array(), *all = json_array();
    bool fit = true;
    double most = 0;
    for (unsigned i = 0; i < lx->links->len; i++)
        json_array_append_new(links, link_json(lx, lx->links->pdata[i]));
    for (unsigned i = first; i <= last; i++) {
        struct weigh is = weigh_estimate(i, facts);
        fit = fit && fits(is);
        most = MAX(most, is.flash);
    }
    if (asked.json) {
        json_t *every = json_object();
        for (unsigned i = first; i <= last; i++) json_array_append_new(all, chip_json(i, facts));
        for (unsigned i = 0; i < WEIGH_FACTS; i++)
            json_object_set_new(every, weigh_fact_name(i), json_real(facts[i]));
        json_t *report = json_pack("{s:s, s:i, s:i, s:O, s:O, s:o}", "lexicon", lx->name, "version",
                                   (int)lx->version, "within_percent", WITHIN, "chips", all,
                                   "links", links, "facts", every);
        json_t *memory = memory_json(lx);
        if (memory) json_object_set_new(report, "memory", memory);
        json_dumpf(report, stdout, JSON_INDENT(2) | JSON_REAL_PRECISION(6));
        putchar('\n');
        json_decref(report);
    } else {
        printf("%s %u, within %d %%: tables, library and state; your firmware, port and stack come "
               "to it\n\n  chip        flash      RAM\n",
               lx->name, lx->version, WITHIN);
        for (unsigned i = first; i <= last; i++) print_chip(i, facts, most);
        print_parts(first, facts);
        print_links(links);
        print_memory(lx);
        if (!fit) advise(first, facts);
    }
    json_decref(all);
    json_decref(links);
    return fit ? 0 : 1;
}

int verb_weigh(int argc, char **argv)
{
    const GOptionEntry entries[] = {
        {"chip", 'c', 0, G_OPTION_ARG_STRING, &asked.chip, "only this chip (default: all)",
         choice + 1},
        {"flash", 0, 0, G_OPTION_ARG_INT64, &asked.flash, "bytes of flash that there are", "N"},
        {"ram", 0, 0, G_OPTION_ARG_INT64, &asked.ram, "bytes of RAM that there are", "N"},
        {"json", 0, 0, G_OPTION_ARG_NONE, &asked.json, "for a program", NULL},
        {0}};
    double facts[WEIGH_FACTS];
    struct image *image;
    int code;
    if (!cli_options(
            &argc, &argv, entries, "LEXICON",
            "Estimates what a lexicon takes on a chip, before anything is compiled: flash and RAM, "
            "what takes\nmost of it, and how fast its links can be. With --flash or --ram it says "
            "whether it fits, and what\nwould make it fit; exit code 1 where it does not. The "
            "table behind it was made with compilers,\nsee docs/weigh.md.\n\n"
            "Example:\n  rlx weigh --chip avr --flash 32768 --ram 2048 "
            "examples/nursery/nursery.lexicon\n",
            1))
        return 2;
    if (asked.chip && !cli_choice("--chip", choice + 1, asked.chip)) return 2;
    if (asked.flash < 0 || asked.ram < 0 || asked.flash > INT32_MAX || asked.ram > INT32_MAX) {
        fprintf(stderr, "%s: --flash and --ram take bytes, 1..%d\n", g_get_prgname(), INT32_MAX);
        return 2;
    }
    struct lexicon *lx = cli_sound_lexicon(argv[1], &image, &code);
    if (!lx) return code;
    unsigned first = 0, last = WEIGH_N_CHIPS - 1;
    for (unsigned i = 0; asked.chip && i < WEIGH_N_CHIPS; i++)
        if (!strcmp(chips[i].id, asked.chip)) first = last = i;
    weigh_facts(lx, image, facts);
    code = weigh_all(lx, facts, first, last);
    image_free(image);
    lexicon_free(lx);
    return code;
}
