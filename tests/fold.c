/* Folding: what is known is decided, what the compiler knows stays. Random sources are given to the
 * compiler's preprocessor as they are and folded, with the compiler's names set and not: the same
 * comes out. */
#include <gio/gio.h>
#include <glib/gstdio.h>
#include <string.h>

#include "bundle/fold.h"
#include "bundle/value.h"
#include "harness.h"

static const char *const files[][2] = {
    {"a.h", "#ifndef A_H\n#define A_H\n#include <stdint.h>\nint a;\n#endif\n"},
    {"deep/b.h", "#include \"c.h\"\n#include <stdint.h>\nint b;\n"},
    {"deep/c.h", "int c;\n"},
    {NULL, NULL}};

struct given {
    const char *text; /* of "it.c" */
};

static const char *source(void *user, const char *path)
{
    const struct given *given = user;
    if (!strcmp(path, "it.c")) return given->text;
    for (unsigned i = 0; files[i][0]; i++)
        if (!strcmp(path, files[i][0])) return files[i][1];
    return NULL;
}

/* Owned by the caller. */
static char *folded(const char *text)
{
    struct given given = {text};
    struct fold *fold = fold_new(source, &given);
    GString *out = g_string_new(NULL);
    fold_define(fold, "RLX_YES", "1");
    fold_define(fold, "RLX_SIX", "(2 * RLX_THREE)");
    fold_define(fold, "RLX_THREE", "3");
    fold_file(fold, "it.c", out);
    fold_free(fold);
    const char *mark = "\n/* ======== it.c ======== */\n\n";
    if (g_str_has_prefix(out->str, mark)) g_string_erase(out, 0, (gssize)strlen(mark));
    return g_string_free(out, FALSE);
}

static void becomes(const char *text, const char *wanted)
{
    char *got = folded(text);
    test_context("%s", text);
    CHECK_TEXT(got, wanted);
    g_free(got);
}

static void conditions(void)
{
    becomes("#if RLX_YES\nyes\n#else\nno\n#endif\n", "yes\n");
    becomes("#if RLX_NO\nno\n#elif RLX_YES\nyes\n#else\nno\n#endif\n", "yes\n");
    becomes("#ifdef RLX_NO\nno\n#endif\n#ifndef RLX_NO\nyes\n#endif\n", "yes\n");
    becomes("#ifdef __AVR__\na\n#else\nb\n#endif\n", "#ifdef __AVR__\na\n#else\nb\n#endif\n");
    becomes("#if RLX_YES && defined(__AVR__)\na\n#endif\n",
            "#if RLX_YES && defined(__AVR__)\na\n#endif\n");
    becomes("#if RLX_NO && defined(__AVR__)\na\n#endif\nb\n", "b\n");
    becomes("#if RLX_YES || defined(__AVR__)\na\n#endif\n", "a\n");
    /* an open branch behind one that is not compiled, and one that is behind an open one */
    becomes("#if RLX_NO\nno\n#elif X\na\n#else\nb\n#endif\n", "#if X\na\n#else\nb\n#endif\n");
    becomes("#if X\na\n#elif RLX_YES\nb\n#elif Y\nc\n#endif\n", "#if X\na\n#else\nb\n#endif\n");
    becomes("#if X\na\n#elif RLX_NO\nb\n#elif Y\nc\n#endif\n", "#if X\na\n#elif Y\nc\n#endif\n");
    /* what is within what is not compiled does not count */
    becomes("#if RLX_NO\n#if X\na\n#else\nb\n#endif\n#define RLX_NEW 1\n#endif\n"
            "#if RLX_NEW\nc\n#endif\n",
            "");
}

static void macros(void)
{
    becomes("#define RLX_NEW 1\n#if RLX_NEW\na\n#endif\n", "#define RLX_NEW 1\na\n");
    becomes("#undef RLX_YES\n#if RLX_YES\na\n#endif\n", "#undef RLX_YES\n");
    /* the compiler decides what is defined in its own branch */
    becomes("#ifdef X\n#define RLX_NEW 1\n#endif\n#ifdef RLX_NEW\na\n#endif\n",
            "#ifdef X\n#define RLX_NEW 1\n#endif\n#ifdef RLX_NEW\na\n#endif\n");
    becomes("#define RLX_OF(x) (x)\n#if RLX_OF(1)\na\n#endif\n#ifdef RLX_OF\nb\n#endif\n",
            "#define RLX_OF(x) (x)\n#if RLX_OF(1)\na\n#endif\nb\n");
    becomes("#define RLX_LONG \\\n    (RLX_SIX > \\\n     5)\n#if RLX_LONG\na\n#endif\n",
            "#define RLX_LONG \\\n    (RLX_SIX > \\\n     5)\na\n");
    becomes("/* a comment\n#if RLX_NO\n over lines */\na\n",
            "/* a comment\n#if RLX_NO\n over lines */\na\n");
    becomes("char q = '\"'; /* not\n#if RLX_NO\n */ b\n",
            "char q = '\"'; /* not\n#if RLX_NO\n */ b\n");
}

static void includes(void)
{
    becomes("#include \"a.h\"\n#include \"a.h\"\n#include <stdint.h>\n",
            "#include <stdint.h>\nint a;\n");
    becomes("#include \"deep/b.h\"\n", "int c;\n#include <stdint.h>\nint b;\n");
    becomes("#include \"nobody.h\"\nx\n", "#include \"nobody.h\"\nx\n");
    becomes("#define RLX_FILE \"a.h\"\n#include RLX_FILE\n",
            "#define RLX_FILE \"a.h\"\n#include <stdint.h>\nint a;\n");
    becomes("#ifdef X\n#include <stdint.h>\n#endif\n#include <stdint.h>\n",
            "#ifdef X\n#include <stdint.h>\n#endif\n#include <stdint.h>\n");
}

static void values(void)
{
    static const struct {
        const char *text;
        long long is;
        bool known;
    } all[] = {{"1 + 2 * 3", 7, true},
               {"(1 + 2) * 3", 9, true},
               {"7 / 2 % 2", 1, true},
               {"1 << 4 >> 2", 4, true},
               {"6 & 3 | 8 ^ 1", 11, true},
               {"!0 && ~0", 1, true},
               {"2 > 1 == 1", 1, true},
               {"1 ? 5 : X", 5, true},
               {"0x10u - 020UL", 0, true},
               {"RLX_SIX == 6", 1, true},
               {"RLX_NONE", 0, true},
               {"X", 0, false},
               {"X || 1", 1, true},
               {"X && 0", 0, true},
               {"X && 1", 0, false},
               {"1 / 0", 0, false},
               {"defined RLX_SIX", 1, true},
               {"defined(X)", 0, false},
               {"RLX_ROUND", 0, false},
               {"3 != 3 || -1 < 0", 1, true},
               {"", 0, false},
               {"1 +", 0, false},
               {"1 2", 0, false}};
    GHashTable *macros = g_hash_table_new(g_str_hash, g_str_equal);
    g_hash_table_insert(macros, "RLX_SIX", "(3 + 3)");
    g_hash_table_insert(macros, "RLX_ROUND", "RLX_ROUND");
    for (unsigned i = 0; i < G_N_ELEMENTS(all); i++) {
        struct value value = value_of(macros, all[i].text);
        test_context("%s", all[i].text);
        CHECK_INT(value.known, all[i].known);
        if (all[i].known) CHECK_INT(value.is, all[i].is);
    }
    g_hash_table_destroy(macros);
}

/* ---- random sources ---- */

static GRand *random_;

static unsigned below(unsigned n)
{
    return (unsigned)g_rand_int_range(random_, 0, (gint32)n);
}

static void put_expression(GString *out, unsigned depth)
{
    static const char *const names[] = {"RLX_YES", "RLX_SIX", "RLX_NO",     "X",         "Y",
                                        "0",       "1",       "defined(X)", "RLX_THREE", "!Y"};
    static const char *const operators[] = {"&&", "||", "==", "+", "-", "*", "<", ">=", "&", "|"};
    if (!depth || below(3) == 0) {
        g_string_append(out, names[below(G_N_ELEMENTS(names))]);
        return;
    }
    g_string_append(out, below(2) ? "(" : "!(");
    put_expression(out, depth - 1);
    g_string_append_printf(out, " %s ", operators[below(G_N_ELEMENTS(operators))]);
    put_expression(out, depth - 1);
    g_string_append_c(out, ')');
}

static void put_lines(GString *out, unsigned depth)
{
    for (unsigned n = below(4); n--;) {
        unsigned what = depth ? below(6) : below(3);
        if (what == 0) g_string_append_printf(out, "word%u\n", below(1000));
        if (what == 1) g_string_append_printf(out, "#undef RLX_%s\n", below(2) ? "NO" : "YES");
        if (what == 2) g_string_append_printf(out, "#undef RLX_NO\n#define RLX_NO %u\n", below(2));
        if (what < 3) continue;
        g_string_append(out, "#if ");
        put_expression(out, 3);
        g_string_append_c(out, '\n');
        put_lines(out, depth - 1);
        for (unsigned more = below(3); more--;) {
            g_string_append(out, "#elif ");
            put_expression(out, 2);
            g_string_append_c(out, '\n');
            put_lines(out, depth - 1);
        }
        if (below(2)) {
            g_string_append(out, "#else\n");
            put_lines(out, depth - 1);
        }
        g_string_append(out, "#endif\n");
    }
}

/* What the compiler's preprocessor makes of it. Owned by the caller. */
static char *preprocessed(const char *folder, const char *text, unsigned set)
{
    char *path = g_build_filename(folder, "it.c", NULL), *out = NULL;
    g_file_set_contents(path, text, -1, NULL);
    const char *const command[] = {"cc",
                                   "-E",
                                   "-P",
                                   "-DRLX_YES=1",
                                   "-DRLX_SIX=(2*RLX_THREE)",
                                   "-DRLX_THREE=3",
                                   set & 1 ? "-DX=1" : "-DZ",
                                   set & 2 ? "-DY=2" : "-DZ",
                                   path,
                                   NULL};
    gint status = 1;
    CHECK(g_spawn_sync(NULL, (char **)command, NULL,
                       G_SPAWN_SEARCH_PATH | G_SPAWN_STDERR_TO_DEV_NULL, NULL, NULL, &out, NULL,
                       &status, NULL));
    CHECK_INT(status, 0);
    g_free(path);
    return out;
}

static void random_sources(void)
{
    char *folder = g_dir_make_tmp("rlx-fold-XXXXXX", NULL);
    for (unsigned i = 0; i < 40 * test_rounds(); i++) {
        random_ = g_rand_new_with_seed(i);
        GString *text = g_string_new(NULL);
        while (text->len < 300) put_lines(text, 3);
        char *less = folded(text->str);
        unsigned set = below(4);
        char *wanted = preprocessed(folder, text->str, set), *got = preprocessed(folder, less, set);
        test_context("seed %u, X and Y set: %u\n%s----\n%s", i, set, text->str, less);
        CHECK_TEXT(got, wanted);
        g_free(wanted), g_free(got), g_free(less);
        g_string_free(text, TRUE);
        g_rand_free(random_);
    }
    char *it = g_build_filename(folder, "it.c", NULL);
    g_remove(it);
    g_rmdir(folder);
    g_free(it);
    g_free(folder);
}

static const struct test_case cases[] = {
    {"conditions", conditions},
    {"macros", macros},
    {"includes", includes},
    {"values", values},
    {"random sources", random_sources},
};

TEST_MAIN(cases)
