/* Golden conversations as bytes for a chip's program: rom_script LEXICON FILE... writes those of
 * this lexicon whose link has lines or keys, as initialisers: 'C' and the link, then for each line
 * its kind, its length and its bytes; 0 at the end. tests/chip/golden.c reads them. */
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

static void put_script(const struct script *script)
{
    printf("'C',%u,\n", script->link);
    for (unsigned i = 0; i < script->lines->len; i++) {
        const struct script_line *line = &g_array_index(script->lines, struct script_line, i);
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
            bool plain = link->frame == LEX_FRAME_LINE || link->frame == LEX_FRAME_KEYS;
            if (its && !strcmp(its, wanted) && plain) put_script(script), n++;
            free(its);
        }
    }
    puts("0");
    free(wanted);
    return n ? 0 : 1;
}
