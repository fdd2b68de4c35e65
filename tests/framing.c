/* P1, P2: every framing. Every short string against a plain model of the framing; two devices wired
 * to each other, and one that hears its own echo, fall silent. */
#include <stdio.h>
#include <string.h>

#include "harness.h"
#include "lines.h"
#include "rig.h"

/* ---- a plain model: bytes to the texts of whole frames ---- */

struct model {
    enum lex_frame frame;
    const struct lex_link *link;
    GPtrArray *frames; /* char *: the text of each; NULL: a frame that is refused */
    GString *now;
};

static void push(struct model *m, const char *text)
{
    g_ptr_array_add(m->frames, g_strdup(text));
}

/* What a code stands for, with its digits; NULL: it is none. *half: it begins one. */
static char *code_text(const struct lex_link *link, const char *said, bool *half)
{
    *half = false;
    for (unsigned i = 0; i < link->keys->len; i++) {
        const struct lex_key *key = link->keys->pdata[i];
        char *pattern = g_strdup(key->code), *text;
        size_t n = strlen(said);
        for (size_t k = 0; pattern[k] && k < n; k++)
            if (pattern[k] == '#' && g_ascii_isdigit(said[k])) pattern[k] = said[k];
        bool whole = !strcmp(pattern, said), begins = g_str_has_prefix(pattern, said);
        g_free(pattern);
        *half = *half || begins;
        if (!whole) continue;
        text = g_strdup(key->text);
        for (char *p = text, *d = (char *)said; *p; p++) {
            if (*p != '#') continue;
            while (!g_ascii_isdigit(*d)) d++;
            *p = *d++;
        }
        return text;
    }
    return NULL;
}

static void model_code(struct model *m, char c)
{
    bool half;
    if (c == '\r' || c == '\n') return;
    g_string_append_c(m->now, c);
    char *text = code_text(m->link, m->now->str, &half);
    if (!text && half) return;
    if (!text && m->now->len > 1) { /* what cannot go on begins anew */
        push(m, NULL);
        g_string_truncate(m->now, 0);
        model_code(m, c);
        return;
    }
    g_ptr_array_add(m->frames, text);
    g_string_truncate(m->now, 0);
}

static void end_frame(struct model *m)
{
    char *text = g_strdup(m->now->str);
    for (size_t n = strlen(text); m->frame == LEX_FRAME_FIXED && n; n--) {
        char c = text[n - 1];
        if (c != m->link->pad && c != ' ' && c != '\r' && c != '\n') break;
        text[n - 1] = 0;
    }
    push(m, text);
    g_free(text);
    g_string_truncate(m->now, 0);
}

static void model_byte(struct model *m, char c)
{
    bool line_end = c == '\r' || c == '\n';
    switch (m->frame) {
    case LEX_FRAME_CODES: model_code(m, c); break;
    case LEX_FRAME_FIXED:
        g_string_append_c(m->now, c);
        if (m->now->len == m->link->length) end_frame(m);
        break;
    case LEX_FRAME_ENDED:
        if (c == m->link->end && m->now->len)
            end_frame(m);
        else if (!line_end && c != m->link->end)
            g_string_append_c(m->now, c);
        break;
    default:
        if (!line_end) g_string_append_c(m->now, c);
    }
}

/* A silence behind all of it. */
static void model_silence(struct model *m)
{
    if (!m->now->len) return;
    if (m->frame == LEX_FRAME_GAP || m->frame == LEX_FRAME_FIXED)
        end_frame(m);
    else
        push(m, NULL);
    g_string_truncate(m->now, 0);
}

/* ---- what a line link says to the same texts ---- */

/* What the commands of these texts do at the pins, by a link with lines; and how many were obeyed.
 */
static void obey(struct rig *lines, const GPtrArray *texts)
{
    g_string_truncate(lines->pins, 0);
    for (unsigned i = 0; i < texts->len; i++) {
        if (!texts->pdata[i]) continue;
        char *line = g_strconcat(texts->pdata[i], "\r", NULL);
        rig_say(lines, 0, line);
        g_free(line);
    }
}

static struct rig *start(const char *file)
{
    struct rig *rig = rig_new(file);
    CHECK_INT(rig_start(rig, 0), 0);
    rig_run(rig);
    return rig;
}

static void nth_string(char *text, unsigned n, const char *alphabet)
{
    unsigned base = (unsigned)strlen(alphabet), length = 0;
    for (; n; n = (n - 1) / base) text[length++] = alphabet[(n - 1) % base];
    text[length] = 0;
    g_strreverse(text);
}

/* The link's frames, whole and byte by byte, against the model's texts on a line. */
static void compare(struct rig *rig, struct rig *lines, unsigned number, const char *text)
{
    const struct lex_link *link = rig->lx->links->pdata[number];
    struct model m = {link->frame, link, g_ptr_array_new_with_free_func(g_free),
                      g_string_new(NULL)};
    for (const char *p = text; *p; p++) model_byte(&m, *p);
    model_silence(&m);
    obey(lines, m.frames);
    for (unsigned apart = 0; apart < 2; apart++) {
        CHECK_INT(rig_start(rig, 0), 0);
        g_string_truncate(rig->pins, 0);
        for (const char *p = text; *p; p += apart ? 1 : strlen(p)) {
            rig_feed(rig, number, p, apart ? 1 : strlen(p));
            rig_run(rig);
        }
        rig_wait(rig, 200);
        test_context("'%s' on %s, %s", text, link->name, apart ? "byte by byte" : "whole");
        CHECK_TEXT(rig->pins->str, lines->pins->str);
    }
    g_ptr_array_free(m.frames, TRUE);
    g_string_free(m.now, TRUE);
}

/* Strings over few letters, so that many of them are commands. */
static void every_short_string(void)
{
    static const char *const alphabets[] = {"pq!7\r.", "PT0G5\r", "pq7 \r.", "pq7. x"};
    struct rig *rig = start(LEXICONS "/framings_small.lexicon");
    struct rig *lines = start(LEXICONS "/framings_small_line.lexicon");
    unsigned acted = 0;
    for (unsigned number = 0; number < 4; number++) {
        unsigned base = (unsigned)strlen(alphabets[number]), count = 0;
        for (unsigned i = 0, all = base; i < 5; i++, all *= base) count += all;
        for (unsigned n = 1; n <= count && test_failures() < 5; n++) {
            char text[16];
            nth_string(text, n, alphabets[number]);
            CHECK_INT(rig_start(lines, 0), 0);
            compare(rig, lines, number, text);
            acted += lines->pins->len != 0;
        }
    }
    printf("%u strings moved an output\n", acted);
    CHECK(acted > 1000);
    rig_free(rig);
    rig_free(lines);
}

/* ---- loops ---- */

/* Carries what each sent to the other, until both are silent. Returns how often. */
static unsigned carry(struct rig *a, struct rig *b, unsigned link)
{
    unsigned times = 0;
    for (; times < 20 && (a->sent[link]->len || b->sent[link]->len); times++) {
        GString *from_a = g_string_new_len(a->sent[link]->str, (gssize)a->sent[link]->len);
        GString *from_b = g_string_new_len(b->sent[link]->str, (gssize)b->sent[link]->len);
        g_string_truncate(a->sent[link], 0);
        g_string_truncate(b->sent[link], 0);
        rig_feed(b, link, from_a->str, from_a->len);
        if (a != b) rig_feed(a, link, from_b->str, from_b->len);
        rig_wait(a, 300);
        if (a != b) rig_wait(b, 300);
        g_string_free(from_a, TRUE);
        g_string_free(from_b, TRUE);
    }
    return times;
}

static void fall_silent(const char *file, const char *const *starts)
{
    struct rig *a = start(file), *b = start(file);
    for (unsigned link = 0; link < a->lx->links->len && test_failures() < 5; link++) {
        for (unsigned i = 0; starts[i]; i++) {
            for (unsigned echo = 0; echo < 2; echo++) {
                CHECK_INT(rig_start(a, 0), 0);
                CHECK_INT(rig_start(b, 0), 0);
                rig_run(a);
                rig_run(b);
                g_string_truncate(a->sent[link], 0); /* the greetings have been heard */
                g_string_truncate(b->sent[link], 0);
                rig_feed(a, link, starts[i], strlen(starts[i]));
                rig_wait(a, 300);
                unsigned times = carry(a, echo ? a : b, link);
                test_context("%s, link %u, '%s', %s: %u times", file, link, starts[i],
                             echo ? "echo" : "two devices", times);
                CHECK(times <= 2);
                CHECK(!a->sent[link]->len && !b->sent[link]->len);
            }
        }
    }
    rig_free(a);
    rig_free(b);
}

static void devices_fall_silent(void)
{
    static const char *const starts[] = {
        "pump on\r",     "pump on!",      "bogus\r", "PP",          "x",        "G1x",
        "pump off.....", "\x07\r",        "#5 x\r",  "#999 pump\r", "a*@@@@\r", "@3/1 #1 x",
        "e4 pump\r",     "ready x 1 2\r", "",        ":\x07\r",     NULL};
    fall_silent(LEXICONS "/framings.lexicon", starts);
    fall_silent(LEXICONS "/radio.lexicon", starts);
    fall_silent(LEXICONS "/loops.lexicon", starts);
}

static const struct test_case cases[] = {
    {"P1: every short string on every framing", every_short_string},
    {"P2: two devices, or an echo, fall silent", devices_fall_silent},
};
TEST_MAIN(cases)
