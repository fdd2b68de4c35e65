/* Checks a lexicon and prints its faults, for people or as JSON.
 * Each fault has its code, place, witness and advice from the checker.
 * It finds no fault itself. */
#include <jansson.h>
#include <stdio.h>
#include <string.h>

#include "rlx_cli.h"

static const char *const severities[] = {"error", "warning", "note"};

static json_t *text_or_null(const char *text)
{
    return text ? json_string(text) : json_null();
}

static void print_json(const struct lexicon *lx)
{
    json_t *faults = json_array();
    for (unsigned i = 0; i < lx->faults->len; i++) {
        const struct lex_fault *fault = lx->faults->pdata[i];
        const struct lex_code_info *info = &lex_codes[fault->code];
        json_array_append_new(
            faults,
            json_pack("{s:s, s:s, s:s, s:i, s:i, s:i, s:s, s:o, s:o, s:o, s:o}", "code", info->code,
                      "severity", severities[info->severity], "file",
                      lex_source_file(lx, fault->place.file), "line", (int)fault->place.line,
                      "column", (int)fault->place.column + 1, "length", (int)fault->place.length,
                      "message", fault->text, "advice", text_or_null(fault->advice), "subject",
                      text_or_null(fault->subject), "accepted", text_or_null(fault->reason),
                      "witness", text_or_null(fault->witness)));
    }
    json_t *all = json_pack("{s:s, s:o}", "file", lx->file, "faults", faults);
    json_dumpf(all, stdout, JSON_INDENT(2));
    putchar('\n');
    json_decref(all);
}

/* In lines as wide as the terminal. */
static void print_wrapped(const char *text)
{
    size_t column = 0;
    while (*text) {
        size_t word = strcspn(text, " ");
        bool fits = column + 1 + word <= cli_columns();
        if (column) putchar(fits ? ' ' : '\n');
        printf("%.*s", (int)word, text);
        column = column && fits ? column + 1 + word : word;
        text += word + strspn(text + word, " ");
    }
    putchar('\n');
}

/* One code, or all of them as the page docs/checks.md. */
static int explain(const char *name)
{
    if (g_str_equal(name, "all")) {
        puts("# What rlx check finds\n\nMade by `rlx check --explain all`.");
        for (int i = 0; i < LEX_N_CODES; i++)
            printf("\n## %s (%s): %s\n\n%s\n", lex_codes[i].code, severities[lex_codes[i].severity],
                   lex_codes[i].title, lex_codes[i].text);
        return 0;
    }
    int code = lex_code_named(name);
    if (code < 0) {
        fprintf(stderr, "%s: there is no code '%s'; --explain all explains all codes\n",
                g_get_prgname(), name);
        return 2;
    }
    printf("%s (%s): %s\n\n", lex_codes[code].code, severities[lex_codes[code].severity],
           lex_codes[code].title);
    print_wrapped(lex_codes[code].text);
    return 0;
}

static void print_count(unsigned n, const char *what, const char *behind)
{
    printf("%u %s%s%s", n, what, n == 1 ? "" : "s", behind);
}

static void print_sound(const struct lexicon *lx, const struct image *image)
{
    unsigned warnings = 0;
    for (unsigned i = 0; i < lx->faults->len; i++)
        warnings += !((struct lex_fault *)lx->faults->pdata[i])->reason;
    GPtrArray *missing = image_not_run(lx);
    printf("%s: %s %u %s", lx->file, lx->name, lx->version, warnings ? "has " : "");
    if (warnings)
        print_count(warnings, "warning", ": ");
    else
        printf("is sound: ");
    unsigned commands = 0; /* beside those that start and end routines */
    for (unsigned i = 0; i < lx->commands->len; i++)
        commands += !((struct lex_command *)lx->commands->pdata[i])->made;
    print_count(commands, "command", ", ");
    print_count(lx->outputs->len, "output", ", ");
    if (lx->inputs->len) print_count(lx->inputs->len, "input", ", ");
    print_count(lx->links->len, "link", "; ");
    if (!missing->len)
        printf("image %u bytes, fingerprint %s\n", image->bytes->len, image->fingerprint);
    else
        printf("not run by the library yet: %u of its lines\n", missing->len);
    g_ptr_array_free(missing, TRUE);
}

int verb_check(int argc, char **argv)
{
    gboolean json = FALSE;
    g_autofree char *code_name = NULL;
    const GOptionEntry entries[] = {
        {"json", 0, 0, G_OPTION_ARG_NONE, &json, "print the faults as JSON", NULL},
        {"explain", 0, 0, G_OPTION_ARG_STRING, &code_name, "explain a code (all: each)", "CODE"},
        {0}};
    struct image *image;
    int code;
    if (!cli_options(
            &argc, &argv, entries, "LEXICON | --explain CODE",
            "Tells each fault with its code, its place and what to do about it. Exit code 1 "
            "where there\nis an error, or a warning that the lexicon does not accept.\n\n"
            "Examples:\n  rlx check examples/tide_tank/tidetank.lexicon\n"
            "  rlx check --explain D05\n",
            -1))
        return 2;
    if (code_name && argc == 1) return explain(code_name);
    if (code_name || argc != 2) {
        fprintf(stderr, "%s: expected LEXICON or --explain CODE\n", g_get_prgname());
        return 2;
    }
    struct lexicon *lx = cli_lexicon(argv[1], &image, &code);
    if (!lx) return code;
    char *text = lexicon_faults_text(lx, CLI_FAULTS);
    if (json) {
        print_json(lx);
    } else {
        cli_print(stdout, text);
        if (!code) print_sound(lx, image);
    }
    if (lexicon_has(lx, true)) code = 1;
    g_free(text);
    image_free(image);
    lexicon_free(lx);
    return code;
}
