/* Golden conversations as bytes for a chip's program: rom_script LEXICON FILE... writes those of
 * this lexicon whose link has lines, keys or bytes after a silence, as initialisers: 'C' and the
 * link, with 128 where it has bytes, which no line end ends; then for each line its kind, its
 * length and its bytes; 0 at the end. tests/chip/golden.c reads them. */
#include <stdio.h>
#include <stdlib.h>
#include <string.h>

#include "lexicon/model.h"
#include "script.h"

static void put_bytes(const char *bytes, size_t count)
{
    if (count > 255) exit(2);
    printf("%zu,", count);
    for (size_t i = 0; i < count; i++) printf("%u,", (unsigned char)bytes[i]);
    putchar('\n');
}

/* What happens beside what is said: 'U' and 'D', a link comes up or goes down; 'E', an event of the
 * firmware and its word; 'K', a key; 'R', it starts anew. Others are nothing that the program could
 * do. */
static void put_happening(const struct lexicon *lx, const char *text)
{
    char **words = g_strsplit(text, " ", 3);
    bool up = !strcmp(words[0], "up");
    guint number = 0, word = 0;
    if (!strcmp(text, "reset")) printf("'R',0,\n");
    if (words[1] && words[2] && !strcmp(words[0], "key") &&
        g_ptr_array_find(lx->settings, lexicon_setting(lx, words[1]), &number)) {
        printf("'K',%zu,%u,", strlen(words[2]) + 1, number);
        for (const char *p = words[2]; *p; p++) printf("%d,", *p);
        putchar('\n');
    }
    if (!strcmp(words[0], "key") || !strcmp(words[0], "reset")) {
        g_strfreev(words);
        return;
    }
    const struct lex_event *event = lexicon_event(lx, words[0]);
    if (words[1] && (up || !strcmp(words[0], "down")) &&
        g_ptr_array_find(lx->links, lexicon_link(lx, words[1]), &number)) {
        printf("'%c',1,%u,\n", up ? 'U' : 'D', number);
    } else if (event && g_ptr_array_find(lx->events, event, &number) &&
               (!words[1] || g_ptr_array_find_with_equal_func(event->what->words, words[1],
                                                              g_str_equal, &word))) {
        printf("'E',2,%u,%u,\n", number, word);
    } else {
        fprintf(stderr, "no program does this: %s\n", text);
        exit(2);
    }
    g_strfreev(words);
}

static void put_script(const struct lexicon *lx, const struct script *script)
{
    const struct lex_link *link = lx->links->pdata[script->link];
    printf("'C',%u,\n", script->link | (link->layout ? 128 : 0));
    for (unsigned i = 0; i < script->lines->len; i++) {
        const struct script_line *line = &g_array_index(script->lines, struct script_line, i);
        if (line->kind == '!') {
            put_happening(lx, line->text->str);
            continue;
        }
        printf("'%c',", line->kind);
        put_bytes(line->text->str, line->text->len);
    }
}

int main(int argc, char **argv)
{
    struct lexicon *lx = argc > 2 ? lexicon_read(argv[1], NULL) : NULL;
    unsigned n = 0;
    if (!lx) return 2;
    char *wanted = realpath(argv[1], NULL);
    for (int f = 2; f < argc; f++) {
        GPtrArray *scripts = script_read(argv[f]);
        for (unsigned i = 0; i < scripts->len; i++) {
            struct script *script = scripts->pdata[i];
            const struct lex_link *link = lx->links->pdata[script->link];
            char *its = realpath(script->lexicon, NULL);
            bool plain = link->frame == LEX_FRAME_LINE || link->frame == LEX_FRAME_KEYS ||
                         (link->layout && link->frame == LEX_FRAME_GAP);
            if (its && !strcmp(its, wanted) && plain) put_script(lx, script), n++;
            free(its);
        }
    }
    puts("0");
    free(wanted);
    return n ? 0 : 1;
}
