/* Makes the two files of a bundle, and those of a port beside them.
 * The library's sources are in the tool itself; what a lexicon does not need is folded away.
 * Files are written by host/lexicon/write. */
#include "bundle/bundle.h"

#include <string.h>

#include "bundle/fold.h"
#include "bundle/sources.h"
#include "lexicon/write/emit.h"

static const struct {
    const char *port, *sources[4], *script;
} ports[] = {{"sim", {"ports/sim/board.c", "ports/sim/process.c", NULL}, NULL},
             {"cortex_m0",
              {"ports/cortex_m0/board.c", "ports/cortex_m0/start.c", "ports/common/memory.c", NULL},
              "ports/cortex_m0/nrf51.ld"},
             {"cortex_m3",
              {"ports/cortex_m3/board.c", "ports/cortex_m3/start.c", "ports/common/memory.c", NULL},
              "ports/cortex_m3/lm3s6965.ld"},
             {"riscv",
              {"ports/riscv/board.c", "ports/riscv/start.c", "ports/common/memory.c", NULL},
              "ports/riscv/virt.ld"},
             {"avr", {"ports/avr/board.c", NULL}, NULL}};

/* ---- sources ---- */

/* One configuration needs no number in its names. */
static const char no_hash[] = "#define RLX_CONFIGURED(name) name##_one\n";

/* The functions of the port that are called, in the order of their names, with this between two.
 * Owned by the caller. */
static char *port_functions(const char *text, const char *between)
{
    GTree *names = g_tree_new_full((GCompareDataFunc)(void (*)(void))strcmp, NULL, g_free, NULL);
    for (const char *at = text; (at = strstr(at, "rlx_port_"));) {
        gsize n = 0;
        while (g_ascii_isalnum(at[n]) || at[n] == '_') n++;
        if (at[n] == '(') {
            char *name = g_strndup(at, n);
            g_tree_insert(names, name, name);
        }
        at += n;
    }
    GString *all = g_string_new(NULL);
    for (GTreeNode *node = g_tree_node_first(names); node; node = g_tree_node_next(node))
        g_string_append_printf(all, "%s%s()", all->len ? between : "",
                               (const char *)g_tree_node_key(node));
    g_tree_destroy(names);
    return g_string_free(all, FALSE);
}

struct bundle {
    const struct lexicon *lx;
    GHashTable *sources; /* char *: char *, by path */
    struct fold *fold;
    GPtrArray *names, *texts; /* char *: the files */
    char *called;             /* of the port */
};

static void add_file(struct bundle *b, char *name, char *text)
{
    g_ptr_array_add(b->names, name);
    g_ptr_array_add(b->texts, text);
}

static void begin(struct bundle *b, const struct image *image)
{
    static const char *const suffixes[] = {".h", ".c", "_config.h"};
    b->sources = bundle_sources();
    b->fold = fold_new(bundle_source, b->sources);
    for (unsigned i = 0; i < G_N_ELEMENTS(suffixes); i++)
        g_hash_table_insert(b->sources, g_strconcat(b->lx->name, suffixes[i], NULL),
                            lexicon_emitted(b->lx, image, i));
    g_hash_table_insert(b->sources, g_strdup("rlx/def/hash.h"), g_strdup(no_hash));
    char *config = g_strdup_printf("\"%s_config.h\"", b->lx->name);
    fold_define(b->fold, "RLX_CONFIG", config);
    fold_define(b->fold, "RLX_UNITY", "");
    g_free(config);
}

static void end(struct bundle *b)
{
    fold_free(b->fold);
    g_hash_table_destroy(b->sources);
    g_ptr_array_free(b->names, TRUE);
    g_ptr_array_free(b->texts, TRUE);
    g_free(b->called);
}

/* C99's initialisers and literals, and enums that are numbers, are no fault there. */
static const char in_cpp[] = "#ifdef __cplusplus /* it is C that a compiler of C++ takes, too */\n"
                             "#pragma GCC diagnostic ignored \"-Wpragmas\"\n"
                             "#pragma GCC diagnostic ignored \"-Wpedantic\"\n"
                             "#pragma GCC diagnostic ignored \"-Wc++20-extensions\"\n"
                             "#pragma GCC diagnostic ignored \"-Wshadow\"\n"
                             "#pragma GCC diagnostic ignored \"-Wextra\"\n"
                             "#pragma GCC diagnostic ignored \"-Wmissing-field-initializers\"\n"
                             "#endif\n\n";

static void add_library(struct bundle *b)
{
    const char *name = b->lx->name;
    char *header = g_strconcat(name, ".h", NULL), *tables = g_strconcat(name, ".c", NULL);
    char *made = lexicon_made_by(b->lx, false);
    GString *h = g_string_new(NULL), *c = g_string_new(NULL);
    fold_file(b->fold, header, h);
    fold_file(b->fold, "rlx/port.h", h);
    fold_file(b->fold, "src/rlx.c", c);
    fold_file(b->fold, tables, c);
    bundle_drop_uncalled(c);
    char *functions = port_functions(c->str, ",\n *     "), *inside = bundle_tidied(h->str),
         *code = bundle_tidied(c->str);
    add_file(
        b, g_strdup(header),
        g_strdup_printf(
            "%s\n/* All that a firmware includes: %s's own calls, those of the library, and the "
            "port. */\n#ifndef RLX_BUNDLE_%s\n#define RLX_BUNDLE_%s\n\n%s\n#endif\n",
            made, name, name, name, inside));
    add_file(
        b, g_strdup(tables),
        g_strdup_printf(
            "%s\n/* %s's tables and all of the library that they need; there is nothing else to "
            "compile:\n *     cc -std=c11 -Os -c %s.c\n * The firmware has the handlers of %s.h, "
            "and a port with\n *     %s */\n#include \"%s.h\"\n\n%s%s",
            made, name, name, name, functions, name, in_cpp, code));
    b->called = port_functions(c->str, ", ");
    g_free(functions), g_free(inside), g_free(code), g_free(made);
    g_string_free(h, TRUE);
    g_string_free(c, TRUE);
    g_free(header), g_free(tables);
}

/* False: there is no such port. */
static bool add_port(struct bundle *b, const char *port)
{
    unsigned i = 0;
    while (i < G_N_ELEMENTS(ports) && strcmp(ports[i].port, port) != 0) i++;
    if (i == G_N_ELEMENTS(ports)) return false;
    char *made = lexicon_made_by(b->lx, false);
    GString *board = g_string_new(NULL), *c = g_string_new(NULL);
    fold_file(b->fold, "ports/board.h", board);
    for (unsigned k = 0; ports[i].sources[k]; k++) fold_file(b->fold, ports[i].sources[k], c);
    char *code = bundle_tidied(c->str), *inside = bundle_tidied(board->str);
    add_file(b, g_strdup("board.h"),
             g_strdup_printf(
                 "%s\n#ifndef RLX_BUNDLE_BOARD\n#define RLX_BUNDLE_BOARD\n\n#include \"%s.h\"\n\n%s"
                 "\n#endif\n",
                 made, b->lx->name, inside));
    add_file(
        b, g_strdup_printf("port_%s.c", port),
        g_strdup_printf("%s\n#define _DEFAULT_SOURCE\n#include \"board.h\"\n\n%s", made, code));
    if (ports[i].script)
        add_file(b, g_path_get_basename(ports[i].script),
                 g_strdup_printf("%s\n%s", made, bundle_source(b->sources, ports[i].script)));
    g_free(code), g_free(inside), g_free(made);
    g_string_free(board, TRUE);
    g_string_free(c, TRUE);
    return true;
}

char *bundle_port_functions(const struct lexicon *lx, const struct image *image)
{
    struct bundle b = {.lx = lx,
                       .names = g_ptr_array_new_with_free_func(g_free),
                       .texts = g_ptr_array_new_with_free_func(g_free)};
    begin(&b, image);
    add_library(&b);
    char *called = g_steal_pointer(&b.called);
    end(&b);
    return called;
}

bool bundle_write(const struct lexicon *lx, const struct image *image, const char *directory,
                  const char *port, GError **error)
{
    struct bundle b = {.lx = lx,
                       .names = g_ptr_array_new_with_free_func(g_free),
                       .texts = g_ptr_array_new_with_free_func(g_free)};
    begin(&b, image);
    add_library(&b);
    bool ok = !port || add_port(&b, port);
    if (ok)
        ok = emit_write(directory, (char *const *)b.names->pdata, (char *const *)b.texts->pdata,
                        b.names->len, error);
    else
        g_set_error(error, G_FILE_ERROR, G_FILE_ERROR_INVAL, "there is no port '%s'", port);
    end(&b);
    return ok;
}
