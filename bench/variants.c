/* variants N FOLDER: writes a command set of N commands as a lexicon (exact, any, short)
 * and as the three parsers a developer would write by hand (chain.c, table.c, switch.c), all with
 * the same replies; and lines to say to them (corpus.h, corpus.txt).
 *
 * The set is of the shapes that field firmware has: half of it switched (on|off|toggle), three in
 * twenty moved (open|close|stop), the rest set to a number in one of five ranges. Words are made up
 * of 3 to 8 letters from a fixed seed. */
#include <glib.h>
#include <stdio.h>
#include <stdlib.h>
#include <string.h>

enum kind { SWITCHED, MOVED, NUMBER };
static const int range[5][2] = {{0, 100}, {-100, 100}, {0, 180}, {0, 255}, {1, 16}};

struct command {
    char word[9];
    enum kind kind;
    int low, high;
};

static struct command *all;
static unsigned count;
static const char *folder;

static guint32 seed;
static unsigned chance(unsigned n)
{
    seed = seed * 1664525u + 1013904223u;
    return (unsigned)(((guint64)seed * n) >> 32);
}

static void make_word(char *word)
{
    static const char c[] = "bcdfghjklmnprstvwz", v[] = "aeiou", m[] = "nrsl";
    unsigned length = 3 + chance(6), n = 0;
    gboolean consonant = chance(5) != 0;
    while (n < length) {
        word[n++] = consonant ? c[chance(sizeof c - 1)] : v[chance(sizeof v - 1)];
        if (!consonant && n < length && !chance(7)) word[n++] = m[chance(4)];
        consonant = !consonant;
    }
    word[n] = 0;
}

static void make_commands(void)
{
    GHashTable *seen = g_hash_table_new(g_str_hash, g_str_equal);
    for (unsigned i = 0; i < 6; i++) {
        static const char *const taken[] = {"on", "off", "toggle", "open", "close", "stop"};
        g_hash_table_add(seen, (void *)taken[i]);
    }
    seed = 1000 + count;
    for (unsigned i = 0; i < count; i++) {
        struct command *c = &all[i];
        unsigned x = i % 20;
        do make_word(c->word); /* no shortened one may be how replies begin */
        while (g_hash_table_contains(seen, c->word) || !strncmp(c->word, "note", 4) ||
               !strncmp(c->word, "err", 3) || !strncmp(c->word, "rea", 3));
        g_hash_table_add(seen, c->word);
        c->kind = x % 2 == 0 && x != 8 ? SWITCHED : x == 3 || x == 8 || x == 13 ? MOVED : NUMBER;
        c->low = range[i / 2 % 5][0];
        c->high = range[i / 2 % 5][1];
    }
    g_hash_table_destroy(seen);
}

static FILE *create(const char *name)
{
    char *path = g_build_filename(folder, name, NULL);
    FILE *f = fopen(path, "w");
    if (!f) {
        perror(path);
        exit(2);
    }
    g_free(path);
    return f;
}

/* `link`: what stands behind its link. */
static void write_lexicon(const char *name, const char *letters, const char *link)
{
    FILE *f = create(name);
    fprintf(f, "lexicon bench 1\nletters %s\ngreeting off\n", letters);
    for (unsigned i = 0; i < count; i++) {
        struct command *c = &all[i];
        fprintf(f, "command %s ", c->word);
        if (c->kind == NUMBER)
            fprintf(f, "{n %d..%d}", c->low, c->high);
        else
            fprintf(f, c->kind == SWITCHED ? "{on|off|toggle}" : "{open|close|stop}");
        fprintf(f, " => h_%s()\n", c->word);
    }
    fprintf(f, "link bench serial 115200 frame line receive 64 transmit 64 longest 32%s\n", link);
    fclose(f);
}

/* A handler gets the struct of the emitted code, or nothing of the kind: the same to the machine.
 */
static void write_handlers(void)
{
    FILE *f = create("handlers.c");
    fprintf(f, "#ifdef HAND\n#include \"hand.h\"\n#else\n#include \"bench.h\"\n#endif\n"
               "volatile int sink;\n");
    for (unsigned i = 0; i < count; i++) {
        struct command *c = &all[i];
        const char *ours = c->kind == SWITCHED ? "enum rlx_verb v"
                           : c->kind == MOVED  ? "enum bench_open_close_stop v"
                           : c->low < 0        ? "int16_t v"
                                               : "uint8_t v";
        fprintf(f,
                "#ifdef HAND\nint h_%s(int16_t v)\n#else\nint bench_h_%s(struct bench *bench, %s)\n"
                "#endif\n{\n#ifndef HAND\n    (void)bench;\n#endif\n    sink = (int)v;\n"
                "    return 0;\n}\n",
                c->word, c->word, ours);
    }
    fclose(f);
    f = create("handlers.h");
    for (unsigned i = 0; i < count; i++) fprintf(f, "int h_%s(int16_t v);\n", all[i].word);
    fclose(f);
}

static void write_chain(void)
{
    FILE *f = create("chain.c");
    fprintf(f, "#include \"chain.h\"\n\nvoid hand_exec(char *line)\n{\n    BEGIN();\n");
    for (unsigned i = 0; i < count; i++) {
        struct command *c = &all[i];
        fprintf(f, "    %sif (strcmp(word, \"%s\") == 0) ", i ? "else " : "", c->word);
        if (c->kind == NUMBER)
            fprintf(f, "NUMBER(%d, %d, h_%s);\n", c->low, c->high, c->word);
        else
            fprintf(f, "%s(h_%s);\n", c->kind == SWITCHED ? "SWITCHED" : "MOVED", c->word);
    }
    fprintf(f, "    else UNKNOWN();\n}\n");
    fclose(f);
}

static int by_word(const void *a, const void *b)
{
    return strcmp(((const struct command *)a)->word, ((const struct command *)b)->word);
}

static void write_table(void)
{
    struct command *sorted = g_memdup2(all, count * sizeof *all);
    FILE *f = create("table.c");
    qsort(sorted, count, sizeof *sorted, by_word);
    fprintf(f, "#define COUNT %u\n#include \"table.h\"\n\nconst ROM struct row rows[COUNT] = {\n",
            count);
    for (unsigned i = 0; i < count; i++) {
        struct command *c = &sorted[i];
        fprintf(f, "    {h_%s, %d, %d, %d, \"%s\"},\n", c->word, c->kind == NUMBER ? c->low : 0,
                c->kind == NUMBER ? c->high : 0, (int)c->kind, c->word);
    }
    fprintf(f, "};\n");
    fclose(f);
    g_free(sorted);
}

/* switch (p[k]) over the words that agree up to there, down to three of them. */
static void write_switch_on(FILE *f, struct command *sorted, unsigned n, unsigned k)
{
    if (n <= 3) {
        for (unsigned i = 0; i < n; i++) {
            struct command *c = &sorted[i];
            if (c->kind == NUMBER)
                fprintf(f, "    NUMBER(%u, \"%s\", %d, %d, h_%s);\n", k, c->word + k, c->low,
                        c->high, c->word);
            else
                fprintf(f, "    %s(%u, \"%s\", h_%s);\n",
                        c->kind == SWITCHED ? "SWITCHED" : "MOVED", k, c->word + k, c->word);
        }
        return;
    }
    fprintf(f, "    switch (word[%u]) {\n", k);
    for (unsigned from = 0, to; from < n; from = to) {
        char c = sorted[from].word[k];
        for (to = from; to < n && sorted[to].word[k] == c; to++) {}
        if (c)
            fprintf(f, "    case '%c':\n", c);
        else
            fprintf(f, "    case ' ': case 0:\n");
        write_switch_on(f, sorted + from, to - from, c ? k + 1 : k);
        fprintf(f, "    break;\n");
    }
    fprintf(f, "    }\n");
}

static void write_switch(void)
{
    struct command *sorted = g_memdup2(all, count * sizeof *all);
    FILE *f = create("switch.c");
    qsort(sorted, count, sizeof *sorted, by_word);
    fprintf(f, "#include \"switch.h\"\n\nvoid hand_exec(char *line)\n{\n    BEGIN();\n");
    write_switch_on(f, sorted, count, 0);
    fprintf(f, "    UNKNOWN();\n}\n");
    fclose(f);
    g_free(sorted);
}

static void say(FILE *f, const struct command *c)
{
    static const char *const verbs[][3] = {{"on", "off", "toggle"}, {"open", "close", "stop"}};
    if (c->kind == NUMBER)
        fprintf(f, "%s %d", c->word, c->low + (int)chance((unsigned)(c->high - c->low + 1)));
    else
        fprintf(f, "%s %s", c->word, verbs[c->kind == MOVED][chance(3)]);
}

/* Good lines, as the figures want them; and bad.txt, by which the variants are compared. */
static void write_corpus(void)
{
    static const char *const bad[] = {"%s",
                                      "%s maybe",
                                      "%s on now",
                                      "%s 99999",
                                      "%s 4x",
                                      "%s -0",
                                      "%s 00000",
                                      "zz%s on",
                                      "%s --5",
                                      "  %s   toggle  ",
                                      "ok %s",
                                      "%s 12345678901234567890",
                                      "%s -77",
                                      "%s x y",
                                      "%s\t",
                                      "e4",
                                      "%s on                                  ",
                                      "e4x",
                                      "",
                                      "   "};
    FILE *f = create("corpus.txt"), *h = create("corpus.h"), *b = create("bad.txt");
    guint32 start = seed;
    for (unsigned i = 0; i < 2000; i++) {
        say(f, &all[chance(count)]);
        fputc('\n', f);
    }
    seed = start;
    fprintf(h, "#define CORPUS_LINES 60\nstatic const ROM char corpus[] =\n");
    for (unsigned i = 0; i < 60; i++) {
        fprintf(h, "    \"");
        say(h, &all[chance(count)]);
        fprintf(h, "\\r\"\n");
    }
    fprintf(h, "    \"\";\n");
    for (unsigned i = 0; i < 2000; i++) {
        char line[64];
        if (chance(2)) {
            say(b, &all[chance(count)]);
        } else {
            g_snprintf(line, sizeof line, bad[chance(G_N_ELEMENTS(bad))], all[chance(count)].word);
            fputs(line, b);
        }
        fputc('\n', b);
    }
    fclose(f);
    fclose(h);
    fclose(b);
}

int main(int argc, char **argv)
{
    if (argc != 3 || (count = (unsigned)atoi(argv[1])) < 1) {
        fprintf(stderr, "usage: variants N FOLDER\n");
        return 2;
    }
    folder = argv[2];
    all = g_new0(struct command, count);
    make_commands();
    write_lexicon("exact.lexicon", "exact", "");
    write_lexicon("short.lexicon", "exact", " replies short");
    write_lexicon("any.lexicon", "any-case shorten 3", "");
    write_handlers();
    write_chain();
    write_table();
    write_switch();
    write_corpus();
    g_free(all);
    return 0;
}
