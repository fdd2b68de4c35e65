/* Every fault of a link that a world file knows: it stands in the docs, a drill tries it, and at
 * its strongest it changes what happens. */
#include <string.h>

#include "drill/suites/suite.h"
#include "harness.h"
#include "world/boards/bench.h"
#include "world/boards/world_file.h"

static struct lexicon *lx;
static struct image *image;

static void on_sight(void *user, const struct sight *sight)
{
    g_string_append_printf(user, "%" G_GUINT64_FORMAT " %d %d %d %u %.*s\n",
                           sight->board->bench->world->now_us, sight->kind, (int)sight->air,
                           sight->event.kind, sight->event.value, (int)sight->count,
                           sight->text ? sight->text : "");
}

/* All that happens on a bench of this world while a link is spoken over. Owned by the caller. */
static char *happens(const char *statement, const struct lex_link *link)
{
    char *text = g_strdup_printf("seed 3\n%s\n", statement);
    struct world_file *world = world_file_text("w", g_strdup(text), strlen(text), lx);
    struct bench_options options = {.world = world, .seed = 1};
    GString *all = g_string_new(NULL);
    test_context("%s", text);
    CHECK(!lexicon_has(world->read, false));
    struct bench *bench = bench_new(lx, image, &options, NULL);
    bench_watch(bench, on_sight, all);
    bench_start(bench);
    bool slow = link->medium == LEX_SMS;
    bench_pass(bench, slow ? 60000000 : 1000000);
    for (unsigned i = 0; i < (slow ? 12 : 60); i++) {
        const char *say = i % 2 ? "pump off" : "pump on";
        struct end *end = bench_end(bench, link->name);
        if (slow) bench_write_as(end, "+15550142");
        bench_say(end, say, strlen(say));
        bench_pass(bench, slow ? 30000000 : 60000);
    }
    bench_free(bench);
    world_file_free(world);
    g_free(text);
    return g_string_free(all, FALSE);
}

static void each_changes_something(void)
{
    unsigned tried = 0;
    for (unsigned l = 0; l < lx->links->len; l++) {
        const struct lex_link *link = lx->links->pdata[l];
        char *one;
        for (unsigned n = 0; (one = faults_statement(n, 0, link)); n++) {
            for (unsigned k = 1; *one; k++) {
                char *stronger = faults_statement(n, k, link);
                if (!stronger) break;
                g_free(one);
                one = stronger;
            }
            if (*one) {
                char *over = faults_statement(n, FAULTS_OVER, link);
                char *with = happens(one, link), *without = happens(over, link);
                test_context("%s, beside %s", one, over);
                CHECK(strcmp(without, with) != 0);
                tried++;
                g_free(without);
                g_free(with);
                g_free(over);
            }
            g_free(one);
        }
    }
    printf("%u faults of links\n", tried);
    CHECK(tried >= 30);
}

/* What a drill tries elsewhere, or does not: another setting than the lexicon's, or one device. */
static const char *const not_tried[] = {"baud", "format", "echo", "payload", "pause", "buffer",
                                        "half", "with",   "duty", "sends",   NULL};

static void each_is_described_and_tried(void)
{
    char *docs = NULL;
    GString *drilled = g_string_new(NULL);
    CHECK(g_file_get_contents(DOCS "/world.md", &docs, NULL, NULL));
    for (unsigned l = 0; l < lx->links->len; l++) {
        char *one;
        for (unsigned n = 0, k = 1; k; n++)
            for (k = 0; (one = faults_statement(n, k, lx->links->pdata[l])); k++) {
                g_string_append_printf(drilled, " %s ", one);
                g_free(one);
            }
    }
    static const char *const wrong[] = {"cable bench zzz", "cable band zzz", "modem far zzz",
                                        "reports usb zzz", "air skiff zzz",  "sms shore zzz"};
    unsigned words_seen = 0;
    for (unsigned i = 0; i < G_N_ELEMENTS(wrong); i++) {
        struct world_file *world = world_file_text("w", g_strdup(wrong[i]), strlen(wrong[i]), lx);
        const struct lex_fault *fault = world->read->faults->pdata[0];
        const char *from = fault->text + strlen("expected ");
        char *list = g_strndup(from, (gsize)(strstr(from, " or a ") - from));
        char **words = g_strsplit(list, ", ", -1);
        for (char **w = words; *w; w++, words_seen++) {
            char *described = g_strconcat("`", *w, NULL), *said = g_strconcat(" ", *w, " ", NULL);
            test_context("%s: %s", wrong[i], *w);
            CHECK(strstr(docs, described) != NULL);
            CHECK((strstr(drilled->str, said) != NULL) != g_strv_contains(not_tried, *w));
            g_free(described);
            g_free(said);
        }
        g_strfreev(words);
        g_free(list);
        world_file_free(world);
    }
    CHECK(words_seen > 40);
    g_string_free(drilled, TRUE);
    g_free(docs);
}

static const struct test_case cases[] = {
    {"each changes something", each_changes_something},
    {"each is described, and tried by a drill", each_is_described_and_tried},
};

int main(int argc, char **argv)
{
    lx = lexicon_read(EVERYWHERE, NULL);
    image = image_build(lx);
    int code = test_main(argc, argv, cases, G_N_ELEMENTS(cases));
    image_free(image);
    lexicon_free(lx);
    return code;
}
