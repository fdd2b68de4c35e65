/* Plays golden conversations on the public API: each line whole, byte by byte, and cut at every
 * pair of places, with the clock at 0 and just below 2^32 ms. */
#include <stdio.h>
#include <stdlib.h>
#include <string.h>

#include "harness.h"
#include "rig.h"
#include "script.h"

static const char *file;

/* Says one line with a poll at each cut. */
static void say_cut(struct rig *rig, unsigned link, const GString *text, size_t a, size_t b)
{
    rig_feed(rig, link, text->str, a);
    rig_run(rig);
    rig_feed(rig, link, text->str + a, b - a);
    rig_run(rig);
    rig_feed(rig, link, text->str + b, text->len - b);
    rig_run(rig);
}

static void say_bytes(struct rig *rig, unsigned link, const GString *text)
{
    for (size_t i = 0; i < text->len; i++) {
        rig_feed(rig, link, text->str + i, 1);
        rig_run(rig);
    }
}

/* Replies stand on a line each, whatever ends them on the link. */
static void tidy(struct rig *rig, unsigned number, size_t from)
{
    const struct lex_link *link = rig->lx->links->pdata[number];
    GString *sent = rig->sent[number];
    bool ended = link->frame == LEX_FRAME_ENDED, fixed = link->frame == LEX_FRAME_FIXED;
    if (sent->len == from || link->frame < LEX_FRAME_ENDED || lex_comes_whole(link)) return;
    if (ended && sent->str[sent->len - 1] == link->end) g_string_truncate(sent, sent->len - 1);
    while (fixed && sent->str[sent->len - 1] == link->pad) g_string_truncate(sent, sent->len - 1);
    g_string_append(sent, "\r\n");
}

/* The unused bytes of reports. */
static void drop_zeros(GString *sent)
{
    size_t n = 0;
    for (size_t i = 0; i < sent->len; i++)
        if (sent->str[i]) sent->str[n++] = sent->str[i];
    g_string_truncate(sent, n);
}

struct want {
    GString *replies, *pins;
};

/* Plays it all, line number `cut` split (all of them byte by byte where b is SIZE_MAX). */
static bool play(struct rig *rig, const struct script *script, const struct want *want,
                 uint32_t start, unsigned cut, size_t a, size_t b)
{
    char *replies;
    const struct lex_link *link = rig->lx->links->pdata[script->link];
    bool packets = lex_comes_whole(link);
    rig->asked = false;
    CHECK_INT(rig_start(rig, start), 0);
    rig_run(rig);
    for (unsigned i = 0; i < script->lines->len; i++) {
        struct script_line *line = &g_array_index(script->lines, struct script_line, i);
        size_t before = rig->sent[script->link]->len;
        if (strchr("~!?", line->kind)) {
            char *does = g_strdup_printf("%c %s", line->kind, line->text->str);
            rig_do(rig, does);
            g_free(does);
        } else if (line->kind != '>')
            continue;
        else if (b == SIZE_MAX && !packets)
            say_bytes(rig, script->link, line->text);
        else if (i == cut)
            say_cut(rig, script->link, line->text, a, b);
        else
            say_cut(rig, script->link, line->text, 0, 0);
        tidy(rig, script->link, before);
    }
    drop_zeros(rig->sent[script->link]);
    g_string_replace(rig->sent[script->link], "\r\n", "\n", 0);
    replies = rig->sent[script->link]->str;
    if (*replies == 'r' || g_str_has_prefix(replies, "<r")) /* the greeting has its own test */
        replies = strchr(replies, '\n') + 1;
    return CHECK_TEXT(replies, want->replies->str) && CHECK_TEXT(rig->pins->str, want->pins->str);
}

static void play_cuts(struct rig *rig, const struct script *script, const struct want *want,
                      uint32_t start)
{
    for (unsigned i = 0; i < script->lines->len; i++) {
        struct script_line *line = &g_array_index(script->lines, struct script_line, i);
        const struct lex_link *link = rig->lx->links->pdata[script->link];
        if (line->kind != '>' || lex_comes_whole(link)) continue;
        for (size_t a = 0; a <= line->text->len; a++)
            for (size_t b = a; b <= line->text->len; b++) {
                test_context("%s: '%s' cut at %zu and %zu", script->title, line->text->str, a, b);
                if (!play(rig, script, want, start, i, a, b)) return;
            }
    }
}

static void play_all(void)
{
    GPtrArray *scripts = script_read(file);
    for (unsigned i = 0; i < scripts->len; i++) {
        struct script *script = scripts->pdata[i];
        struct rig *rig = rig_new(script->lexicon);
        const struct lex_link *link = rig->lx->links->pdata[script->link];
        rig->packet_ends = link->frame == LEX_FRAME_PACKET || link->frame == LEX_FRAME_MESSAGE;
        struct want want = {script_expected(script, '<'), script_expected(script, '=')};
        for (int late = 0; late < 2; late++) {
            uint32_t start = late ? UINT32_MAX - 2 : 0;
            test_context("%s: whole", script->title);
            if (!play(rig, script, &want, start, UINT_MAX, 0, 0)) continue;
            test_context("%s: byte by byte", script->title);
            play(rig, script, &want, start, 0, 0, SIZE_MAX);
            play_cuts(rig, script, &want, start);
        }
        rig_free(rig);
    }
}

int main(int argc, char **argv)
{
    static const struct test_case cases[] = {{"golden conversations", play_all}};
    if (argc != 2) return 2;
    file = argv[1];
    return test_main(1, argv, cases, 1);
}
