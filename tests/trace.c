/* Prints all that a device does on random lines and rubbish: trace LEXICON. Built with every
 * feature, with those of one lexicon only, and with its tables as constants; all must print the
 * same. */
#include <stdio.h>
#include <string.h>

#include "lines.h"
#include "rig.h"

/* As many bytes as fit a ring, of any value. */
static void rubbish(char *bytes, size_t count)
{
    static const char likely[] = "\r\n \x00\x7F";
    for (size_t i = 0; i < count; i++)
        bytes[i] = lines_chance(8) ? (char)lines_chance(256) : likely[lines_chance(5)];
}

static void print(struct rig *rig, unsigned link)
{
    for (gsize i = 0; i < rig->sent[link]->len; i++) {
        unsigned char c = (unsigned char)rig->sent[link]->str[i];
        if (c == '\n' || (c >= ' ' && c <= '~')) putchar(c);
    }
    fputs(rig->pins->str, stdout);
    printf("called %u\n", rig->calls);
    g_string_truncate(rig->sent[link], 0);
    g_string_truncate(rig->pins, 0);
}

int main(int argc, char **argv)
{
    char bytes[60];
    if (argc != 2) return 2;
    struct rig *rig = rig_new(argv[1]);
#if RLX_HAS_SETTINGS
    rig->nv_area = (uint16_t)lex_nv_area(rig->lx);
    rig->board.nv_page = rig->lx->nv_page;
#endif
    if (rig_start(rig, UINT32_MAX - 1000) != 0) {
#if !RLX_FIXED
        printf("refused, lacks:");
#define TELL(id, name) \
    if (rig->device.lacks[RLX_BIT_##id / 32] >> RLX_BIT_##id % 32 & 1) printf(" %s,", name);
        RLX_FEATURES(TELL)
#undef TELL
#endif
        rig_free(rig);
        return 1;
    }
    rig_run(rig);
    for (unsigned i = 0; i < 4000; i++) {
        unsigned link = lines_chance((unsigned)rig->lx->links->len);
        print(rig, link);
        rig->returns = (int)lines_chance(4) ? 0 : -(int)lines_chance(20);
        if (lines_chance(8)) {
            char *line = lines_said(rig->lx);
            printf("%s\n", line);
            rig_feed(rig, link, line, strlen(line));
            rig_feed(rig, link, "\r", 1);
            g_free(line);
        } else {
            rubbish(bytes, sizeof bytes);
            rig_feed(rig, link, bytes, lines_chance(sizeof bytes));
            if (!lines_chance(3)) rlx_link_fault(&rig->link[link]);
        }
        rig_run(rig);
    }
    rig_free(rig);
    return 0;
}
