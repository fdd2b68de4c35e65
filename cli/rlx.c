/* The tool: finds the verb and calls it; each verb has a file of its own.
 * Reads a lexicon once for all verbs, with its faults on standard error.
 * No verb is done here. */
#include "rlx_cli.h"

#include "drill/report/made.h"
#include "options/describe.h"
#include "endpoint/live.h"
#include "lexicon/check/check.h"
#include "lexicon/read/reader.h"
#include "lexicon/write/cells.h"
#include "rlx/image.h"

#include <errno.h>
#include <glib/gstdio.h>
#include <stdio.h>
#include <string.h>

static const struct {
    const char *name, *what;
    int (*run)(int argc, char **argv);
} verbs[] = {
#define VERB(name, what) {#name, what, verb_##name},
    CLI_VERBS(VERB)
#undef VERB
};

static int usage(FILE *to)
{
    fputs("usage: rlx VERB ...   (more: rlx VERB --help)\n\n", to);
    for (size_t i = 0; i < G_N_ELEMENTS(verbs); i++)
        fprintf(to, "  %-8s %s\n", verbs[i].name, verbs[i].what);
    fputs("\n  help     the options of a verb: rlx help drill\n", to);
    fputs("\nexit code: 0 fine, 1 something was found, 2 could not run\n", to);
    return to == stdout ? 0 : 2;
}

/* What could not be written is an error, whatever the verb found. */
static int flushed(int code)
{
    bool ok = !ferror(stdout);
    if (fflush(stdout) != 0 || !ok) {
        fprintf(stderr, "%s: the output cannot be written: %s\n", g_get_prgname(),
                g_strerror(errno));
        return 2;
    }
    return code;
}

static int version(void)
{
    printf("%s, table format %d\n", made_tool(), RLX_IMAGE_FORMAT);
    return 0;
}

/* rlx help --write DIR: each verb is asked for its options. */
static int write_descriptions(int argc, char **argv)
{
    struct describe_verb described[G_N_ELEMENTS(verbs)];
    char program[32], *none[] = {program, NULL};
    GError *error = NULL;
    if (argc != 4) {
        fputs("rlx help: expected --write DIR\n", stderr);
        return 2;
    }
    for (size_t i = 0; i < G_N_ELEMENTS(verbs); i++) {
        described[i] = (struct describe_verb){verbs[i].name, verbs[i].what,
                                              g_array_new(FALSE, FALSE, sizeof(struct cli_usage))};
        cli_options_collect(described[i].usages);
        g_snprintf(program, sizeof program, "rlx %s", verbs[i].name);
        g_set_prgname(program);
        verbs[i].run(1, none);
    }
    cli_options_collect(NULL);
    g_set_prgname("rlx help");
    bool ok = describe_write(argv[3], described, G_N_ELEMENTS(verbs), made_version(), &error);
    if (!ok) fprintf(stderr, "rlx help: %s\n", error->message);
    g_clear_error(&error);
    for (size_t i = 0; i < G_N_ELEMENTS(verbs); i++) {
        g_array_free(g_array_index(described[i].usages, struct cli_usage, 0).entries, TRUE);
        g_array_free(described[i].usages, TRUE);
    }
    return ok ? 0 : 2;
}

/* "; did you mean 'drill'?", or "". Owned by the caller. */
static char *meant(const char *verb)
{
    const char *names[G_N_ELEMENTS(verbs) + 1] = {NULL};
    for (size_t i = 0; i < G_N_ELEMENTS(verbs); i++) names[i] = verbs[i].name;
    return lex_did_you_mean(verb, names);
}

int main(int argc, char **argv)
{
    if (argc < 2) return usage(stderr);
    const char *first = argv[1];
    bool asks = !strcmp(first, "--help") || !strcmp(first, "-h") || !strcmp(first, "help");
    if (asks && (argc == 2 || *first == '-')) return flushed(usage(stdout));
    if (!strcmp(first, "--version") || !strcmp(first, "-V")) return flushed(version());
    if (!strcmp(first, "help") && argc > 2 && !strcmp(argv[2], "--write"))
        return write_descriptions(argc, argv);
    table_columns(cli_columns());
    char help[] = "--help", *of_verb[] = {argv[0], argv[argc > 2 ? 2 : 1], help, NULL};
    if (asks) argv = of_verb, argc = 3;
    for (size_t i = 0; i < G_N_ELEMENTS(verbs); i++)
        if (!strcmp(argv[1], verbs[i].name)) {
            char name[32];
            g_snprintf(name, sizeof name, "rlx %s", verbs[i].name);
            g_set_prgname(name);
            argv[1] = name;
            return flushed(verbs[i].run(argc - 1, argv + 1));
        }
    char *near = meant(argv[1]);
    fprintf(stderr, "rlx: there is no verb '%s'%s\n", argv[1], near);
    g_free(near);
    return usage(stderr);
}

bool cli_can_write(const char *option, const char *file, const char *const *inputs, unsigned count)
{
    GStatBuf to, from;
    if (!file) return true;
    if (!strcmp(file, "-")) return true;
    if (g_stat(file, &to) != 0 || !S_ISREG(to.st_mode)) return true;
    for (unsigned i = 0; i < count; i++) {
        if (!inputs[i] || g_stat(inputs[i], &from) != 0) continue;
        if (from.st_dev != to.st_dev || from.st_ino != to.st_ino) continue;
        fprintf(stderr, "%s: %s %s would write over %s, which is read\n", g_get_prgname(), option,
                file, inputs[i]);
        return false;
    }
    return true;
}

bool cli_with(const char *option, bool given, const char *needs, const char *value)
{
    if (!given || value) return true;
    fprintf(stderr, "%s: %s needs %s\n", g_get_prgname(), option, needs);
    return false;
}

bool cli_is_file(const char *option, const char *file, const char *why)
{
    if (!file || strcmp(file, "-") != 0) return true;
    fprintf(stderr, "%s: %s - cannot be: %s\n", g_get_prgname(), option, why);
    return false;
}

bool cli_time(const char *option, const char *text, uint64_t *us)
{
    char *unit;
    double value = g_ascii_strtod(text, &unit);
    static const struct {
        const char *unit;
        double us;
    } units[] = {{"", 1e6}, {"s", 1e6}, {"ms", 1e3}, {"us", 1}, {"min", 6e7}, {"h", 3.6e9}};
    for (unsigned i = 0; unit != text && value >= 0 && i < G_N_ELEMENTS(units); i++) {
        if (strcmp(unit, units[i].unit) != 0) continue;
        if (value * units[i].us > (double)CLI_TIME_MOST_US) break;
        *us = (uint64_t)(value * units[i].us);
        return true;
    }
    fprintf(stderr, "%s: %s takes a time like 2.5s, 300ms or 2min, up to 27777h, not '%s'\n",
            g_get_prgname(), option, text);
    return false;
}

struct lexicon *cli_lexicon(const char *file, struct image **image, int *code)
{
    GError *error = NULL;
    struct lexicon *lx = lexicon_read(file, &error);
    *image = NULL;
    *code = 2;
    if (!lx) {
        fprintf(stderr, "%s: %s\n", g_get_prgname(), error->message);
        g_clear_error(&error);
        return NULL;
    }
    *image = image_build(lx);
    lexicon_check(lx, *image);
    *code = lexicon_has(lx, false) ? 1 : 0;
    return lx;
}

struct lexicon *cli_sound_lexicon(const char *file, struct image **image, int *code)
{
    struct lexicon *lx = cli_lexicon(file, image, code);
    if (lx && *code) {
        char *text = lexicon_faults_text(lx, CLI_FAULTS);
        cli_print(stderr, text);
        g_free(text);
        image_free(*image);
        lexicon_free(lx);
        return NULL;
    }
    return lx;
}

struct lexicon *cli_runnable_lexicon(const char *file, struct image **image, int *code)
{
    struct lexicon *lx = cli_sound_lexicon(file, image, code);
    if (!lx) return NULL;
    GPtrArray *missing = image_not_run(lx);
    for (unsigned i = 0; i < missing->len; i++)
        fprintf(stderr, "%s: not supported yet: %s\n", file, (char *)missing->pdata[i]);
    if (missing->len) {
        image_free(*image);
        lexicon_free(lx);
        lx = NULL;
        *code = 2;
    }
    g_ptr_array_free(missing, TRUE);
    return lx;
}

bool cli_world(const char *name, struct lexicon *lx, struct world_file **file)
{
    GError *error = NULL;
    *file = world_file_read(name, lx, &error);
    if (!*file) {
        fprintf(stderr, "%s: %s\n", g_get_prgname(), error->message);
        g_clear_error(&error);
        return false;
    }
    if (!lexicon_has((*file)->read, false)) return true;
    char *text = lexicon_faults_text((*file)->read, 20);
    cli_print(stderr, text);
    g_free(text);
    world_file_free(*file);
    return false;
}

bool cli_paced(double speed, gint64 seed)
{
    bool paced = speed >= LIVE_SPEED_LEAST && speed <= LIVE_SPEED_MOST;
    if (!paced)
        fprintf(stderr, "%s: --speed takes %g..%.0f\n", g_get_prgname(), LIVE_SPEED_LEAST,
                LIVE_SPEED_MOST);
    else if (seed < 1 || seed > UINT32_MAX)
        fprintf(stderr, "%s: --seed takes 1..%u\n", g_get_prgname(), UINT32_MAX);
    return paced && seed >= 1 && seed <= UINT32_MAX;
}
