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
    bool line, over; /* behind a lead; the rest of a report is nothing */
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
    bool counted = m->frame == LEX_FRAME_FIXED || m->frame == LEX_FRAME_PACKET ||
                   m->frame == LEX_FRAME_MESSAGE;
    for (size_t n = strlen(text); counted && n; n--) {
        char c = text[n - 1];
        if ((m->frame != LEX_FRAME_FIXED || c != m->link->pad) && c != ' ' && c != '\r' &&
            c != '\n')
            break;
        text[n - 1] = 0;
    }
    push(m, counted && strpbrk(text, "\r\n") ? NULL : text); /* a control byte within it */
    g_free(text);
    g_string_truncate(m->now, 0);
}

/* Up to its end, as it stands then. */
static void model_line(struct model *m, char c)
{
    if (m->link->people && (c == '\b' || c == 0x7F)) {
        if (m->now->len) g_string_truncate(m->now, m->now->len - 1);
    } else if (m->link->people && c == 0x15) {
        g_string_truncate(m->now, 0);
    } else if (c != '\r' && c != '\n') {
        g_string_append_c(m->now, c);
    } else {
        if (m->now->len) end_frame(m);
        m->line = false;
    }
}

static void model_key(struct model *m, char c)
{
    if (m->line) {
        model_line(m, c);
    } else if (c == m->link->lead) {
        m->line = true;
    } else {
        for (unsigned i = 0; i < m->link->keys->len; i++) {
            const struct lex_key *key = m->link->keys->pdata[i];
            if (key->key == c) push(m, key->text);
        }
    }
}

static void model_byte(struct model *m, char c)
{
    bool line_end = c == '\r' || c == '\n';
    switch (m->frame) {
    case LEX_FRAME_PACKET:
    case LEX_FRAME_MESSAGE: g_string_append_c(m->now, c); break;
    case LEX_FRAME_LINE: model_line(m, c); break;
    case LEX_FRAME_KEYS: model_key(m, c); break;
    case LEX_FRAME_REPORT:
        if (m->over) break;
        if (m->now->len || c == '0') m->over = line_end || c == '0';
        if (!line_end && c != '0') g_string_append_c(m->now, c);
        if (m->over && m->now->len) end_frame(m);
        break;
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
    case LEX_FRAME_GAP:
    case LEX_FRAME_STUFFED: /* frames of bytes: tests/layout.c */
    case LEX_FRAME_COBS:
    case LEX_FRAME_RAW: /* no frames: tests/raw_bytes.c */
    case LEX_FRAMES:
        if (!line_end) g_string_append_c(m->now, c);
    }
}

/* What came at once is over: a packet, a report. */
static void model_end(struct model *m)
{
    m->over = false;
    if (m->frame == LEX_FRAME_PACKET || m->frame == LEX_FRAME_MESSAGE) end_frame(m);
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

/* A 0 of a report stands as '0' in the strings. */
static void feed(struct rig *rig, unsigned number, const char *bytes, size_t count)
{
    const struct lex_link *link = rig->lx->links->pdata[number];
    uint8_t report[16];
    if (link->frame != LEX_FRAME_REPORT) {
        rig_feed(rig, number, bytes, count);
        return;
    }
    for (size_t i = 0; i < count; i++) report[i] = bytes[i] == '0' ? 0 : (uint8_t)bytes[i];
    CHECK(rlx_link_feed_report(&rig->link[number], report, (uint8_t)count));
}

/* The link's frames, so many bytes at once, against the model's texts on a line. */
static void compare(struct rig *rig, struct rig *lines, unsigned number, const char *text,
                    size_t at_once)
{
    const struct lex_link *link = rig->lx->links->pdata[number];
    struct model m = {link->frame,       false, false, link, g_ptr_array_new_with_free_func(g_free),
                      g_string_new(NULL)};
    CHECK_INT(rig_start(rig, 0), 0);
    CHECK_INT(rig_start(lines, 0), 0);
    g_string_truncate(rig->pins, 0);
    for (size_t n, left = strlen(text); left; text += n, left -= n) {
        n = MIN(left, at_once);
        for (size_t i = 0; i < n; i++) model_byte(&m, text[i]);
        model_end(&m);
        feed(rig, number, text, n);
        rig_run(rig);
    }
    model_silence(&m);
    rig_wait(rig, 200);
    obey(lines, m.frames);
    CHECK_TEXT(rig->pins->str, lines->pins->str);
    g_ptr_array_free(m.frames, TRUE);
    g_string_free(m.now, TRUE);
}

/* Strings over few letters, so that many of them are commands; whole, byte by byte, and by two. */
static unsigned every_string_on(const char *lexicon, unsigned number, const char *alphabet,
                                unsigned *framings)
{
    char *file = g_strdup_printf("%s/%s.lexicon", LEXICONS, lexicon);
    struct rig *rig = start(file), *lines = start(LEXICONS "/framings_small_line.lexicon");
    unsigned base = (unsigned)strlen(alphabet), count = 0, acted = 0;
    *framings |= 1u << ((const struct lex_link *)rig->lx->links->pdata[number])->frame;
    for (unsigned i = 0, all = base; i < 5; i++, all *= base) count += all;
    for (unsigned n = 1; n <= count && test_failures() < 5; n++) {
        char text[16];
        nth_string(text, n, alphabet);
        for (size_t at_once = 1; at_once < 4; at_once++) {
            test_context("'%s' on link %u of %s, %zu at once", text, number, lexicon, at_once);
            compare(rig, lines, number, text, at_once == 3 ? strlen(text) : at_once);
            acted += lines->pins->len != 0;
        }
    }
    rig_free(rig);
    rig_free(lines);
    g_free(file);
    return acted;
}

static void every_short_string(void)
{
    static const struct {
        const char *lexicon;
        unsigned link;
        const char *alphabet;
    } links[] = {
        {"framings_small", 0, "pq!7\r."},     {"framings_small", 1, "PT0G5\r"},
        {"framings_small", 2, "pq7 \r."},     {"framings_small", 3, "pq7. x"},
        {"framings_other", 0, "pq7\r\b\x15"}, {"framings_other", 1, "pq7\r0 "},
        {"framings_other", 2, "pq7\r x"},     {"framings_other", 3, "pq7\n x"},
        {"framings_keys", 0, "PGq:\rp"},      {"framings_keys", 1, "pq7\r\n "},
        {"framings_keys", 2, "pq7\r\n "},
    };
    unsigned framings = 0;
    for (unsigned i = 0; i < G_N_ELEMENTS(links); i++) {
        unsigned acted =
            every_string_on(links[i].lexicon, links[i].link, links[i].alphabet, &framings);
        printf("%s, link %u: %u moved an output\n", links[i].lexicon, links[i].link, acted);
        CHECK(acted > 1000);
    }
    /* each of them that text has */
    unsigned bytes = 1u << LEX_FRAME_STUFFED | 1u << LEX_FRAME_COBS | 1u << LEX_FRAME_RAW;
    CHECK_INT(framings, ((1u << LEX_FRAMES) - 1) & ~bytes);
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
    static const char *const starts[] = {"pump on\r",
                                         "pump on!",
                                         "bogus\r",
                                         "PP",
                                         "x",
                                         "G1x",
                                         "pump off.....",
                                         "\x07\r",
                                         "#5 x\r",
                                         "#999 pump\r",
                                         "a*@@@@\r",
                                         "@3/1 #1 x",
                                         "e4 pump\r",
                                         "ready x 1 2\r",
                                         "",
                                         ":\x07\r",
                                         "e",
                                         "not",
                                         "xxxx\r\n",
                                         "p",
                                         "stats\r",
                                         "help\r",
                                         "got 1\r",
                                         "bye\r",
                                         NULL};
    fall_silent(LEXICONS "/framings.lexicon", starts);
    fall_silent(LEXICONS "/radio.lexicon", starts);
    fall_silent(LEXICONS "/loops.lexicon", starts);
    fall_silent(LEXICONS "/framings_other.lexicon", starts);
    fall_silent(LEXICONS "/framings_keys.lexicon", starts);
    fall_silent(LEXICONS "/crowded.lexicon", starts);
    fall_silent(LEXICONS "/events.lexicon", starts);
}

static const struct test_case cases[] = {
    {"P1: every short string on every framing", every_short_string},
    {"P2: two devices, or an echo, fall silent", devices_fall_silent},
};
TEST_MAIN(cases)
