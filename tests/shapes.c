/* P2, P6: what must be so with any lexicon: two devices of it, and an echo, fall silent and move
 * nothing; each frame is answered once; what expires is safe when its time is over, in whatever
 * order commands of one output come. */
#include <stdio.h>
#include <string.h>

#include "lexicon/answers.h"
#include "lexicon/check/check.h"
#include "harness.h"
#include "lines.h"
#include "rig.h"

static char *text_in_hand;

/* The next lexicon without an error; NULL: this one has some. */
static struct rig *shape_rig(void)
{
    g_free(text_in_hand);
    text_in_hand = lines_shape();
    struct lexicon *lx = lexicon_read_text("s", g_strdup(text_in_hand), strlen(text_in_hand));
    struct image *image = lexicon_has(lx, false) ? NULL : image_build(lx);
    if (image) lexicon_check(lx, image);
    struct rig *rig = image && !lexicon_has(lx, false) ? rig_of(lx) : NULL;
    image_free(image);
    if (!rig) lexicon_free(lx);
    return rig;
}

static const struct lex_link *link_of(const struct rig *rig, unsigned link)
{
    return rig->lx->links->pdata[link];
}

static void switch_on(struct rig *rig)
{
    rig->packet_ends = true;
    rig->nv_area = (uint16_t)lex_nv_area(rig->lx);
    rig->board.nv_page = rig->lx->nv_page;
    if (!CHECK_INT(rig_start(rig, 0), 0)) return;
    rig_run(rig);
    rig_forget(rig);
}

static bool in_packets(const struct rig *rig, unsigned link)
{
    return lex_comes_whole(link_of(rig, link)) || link_of(rig, link)->medium == LEX_RADIO;
}

/* What one has sent goes to the other; false: nothing was sent. */
static bool pass_on(struct rig *from, struct rig *to, unsigned link)
{
    GString *sent = from->sent[link];
    if (!sent->len) return false;
    char *all = g_memdup2(sent->str, sent->len + 1);
    gsize count = sent->len;
    g_string_truncate(sent, 0);
    for (gsize at = 0, n; at < count; at += n) {
        if (in_packets(from, link)) { /* each ended by CR LF here */
            bool report = link_of(from, link)->frame == LEX_FRAME_REPORT;
            char *end = report ? all + at + RLX_REPORT : strstr(all + at, "\r\n");
            n = end ? (gsize)(end - all) - at : count - at;
            rig_feed(to, link, all + at, MIN(n, 127));
            n += 2;
        } else {
            n = MIN(count - at, 16);
            rig_feed(to, link, all + at, n);
        }
        rig_run(to);
    }
    rig_wait(to, 60); /* a gap ends frames */
    g_free(all);
    return true;
}

/* Something on the link of one: a line, a key, rubbish, an event. */
static void stir(struct rig *rig, unsigned link)
{
    char bytes[40];
    unsigned n = 1 + lines_chance(sizeof bytes - 1);
    switch (lines_chance(4)) {
    case 0:
        for (unsigned i = 0; i < n; i++) bytes[i] = (char)lines_chance(256);
        rig_feed(rig, link, bytes, n);
        rig_feed(rig, link, "\r", 1);
        break;
    case 1: rlx_event(&rig->device, (uint8_t)lines_chance(3), (uint8_t)lines_chance(2)); break;
    case 2: rig_feed(rig, link, "AabB+-x:\r", 1 + lines_chance(9)); break;
    default: {
        char *line = lines_random(rig->lx);
        rig_talk(rig, link, line);
        g_free(line);
    }
    }
    rig_run(rig);
    rig_wait(rig, 60);
}

/* Passes on until both are silent; the bytes that are new to `to` must not move it. */
static void falls_silent(struct rig *a, struct rig *b, unsigned link)
{
    unsigned rounds = 0;
    bool any = true;
    rig_forget(b);
    if (a != b) g_string_truncate(a->pins, 0);
    unsigned calls_a = a->calls, calls_b = b->calls;
    g_string_truncate(a->pins, 0);
    while (any && rounds++ < 40) {
        any = pass_on(a, b, link);
        if (a != b) any |= pass_on(b, a, link);
    }
    CHECK(rounds < 40);
    CHECK_TEXT(b->pins->str, "");
    CHECK_INT(a->calls, calls_a);
    CHECK_INT(b->calls, calls_b);
}

/* Timers that are the lexicon's own are over first: what moves then is nobody's doing. */
static void rest(struct rig *rig)
{
    rig_wait(rig, 12000);
    rig_forget(rig);
}

static void two_and_an_echo(void)
{
    unsigned found = 0;
    lines_seed = 20;
    for (unsigned round = 0; found < 500 * test_rounds() && test_failures() < 5; round++) {
        struct rig *a = shape_rig();
        if (!a) continue;
        struct rig *b =
            rig_of(lexicon_read_text("s", g_strdup(text_in_hand), strlen(text_in_hand)));
        found++;
        for (unsigned link = 0; link < a->lx->links->len && test_failures() < 5; link++)
            for (unsigned echo = 0; echo < 2; echo++) {
                switch_on(a);
                switch_on(b);
                for (unsigned i = 0; i < 4; i++) {
                    test_context("lexicon %u, link %u%s:\n%s", round, link, echo ? ", an echo" : "",
                                 text_in_hand);
                    stir(a, link);
                    GString *sent =
                        g_string_new_len(a->sent[link]->str, (gssize)a->sent[link]->len);
                    rest(a);
                    g_string_assign(a->sent[link], "");
                    g_string_append_len(a->sent[link], sent->str, (gssize)sent->len);
                    g_string_free(sent, TRUE);
                    falls_silent(a, echo ? a : b, link);
                    if (test_failures()) break;
                }
            }
        rig_free(b);
        rig_free(a);
    }
    printf("%u lexicons\n", found);
}

/* ---- each frame is answered once ---- */

/* Whether each line that comes back over the link can be counted. */
static bool is_plain(const struct lex_link *link)
{
    bool frame = link->frame == LEX_FRAME_LINE || link->frame == LEX_FRAME_ENDED ||
                 link->frame == LEX_FRAME_GAP || link->frame == LEX_FRAME_REPORT;
    return frame && !link->layout && !link->texts->len && !link->check && !link->tags &&
           link->address < 0 && link->replies != LEX_REPLIES_SILENT && !link->one_way;
}

/* A line without the event that follows it at once, where nothing but silence ends a frame. */
static char *without_event(const char *line, size_t n)
{
    char *text = g_strndup(line, n), *event = strstr(text, "ev told");
    if (event && event != text) *event = 0;
    return text;
}

/* Behind "ev told" or "ev #12 told"; NULL: it is none. */
static const char *behind_told(const char *heard)
{
    if (!g_str_has_prefix(heard, "ev ")) return NULL;
    heard += strlen("ev ");
    if (*heard == '#') {
        heard += 1 + strspn(heard + 1, "0123456789");
        heard += strspn(heard, " ");
    }
    return g_str_has_prefix(heard, "told") ? heard + strlen("told") : NULL;
}

/* Behind events that came first: an output has just expired. */
static const char *behind_events(const char *heard)
{
    for (const char *behind; (behind = behind_told(heard));) {
        heard = behind;
        if (g_str_has_prefix(heard, " on")) heard += strlen(" on");
        if (g_str_has_prefix(heard, " off")) heard += strlen(" off");
        heard += strspn(heard, "\r\n");
    }
    return heard;
}

static unsigned answers_in(const struct lexicon *lx, const struct lex_link *link, const char *heard)
{
    unsigned n = 0;
    char **lines = g_strsplit(heard, "\n", -1);
    for (unsigned i = 0; lines[i]; i++) {
        const char *answer = behind_events(lines[i]);
        char *line = without_event(answer, strlen(answer));
        n += g_str_has_prefix(line, "ok") || g_str_has_prefix(line, "err") ||
             (line[0] == 'e' && g_ascii_isdigit(line[1])) || answer_is_of(lx, link, line);
        g_free(line);
    }
    g_strfreev(lines);
    return n;
}

/* Blanks, replies of others, echoes, and what is to be ignored. */
static bool is_no_frame(const struct rig *rig, const char *line)
{
    static const char *const words[] = {"ok", "err", "ev", "note", "ready", "AT"};
    char *text = g_strstrip(g_strdup(line));
    size_t n = strcspn(text, " ;");
    bool none = !*text || *text == '>' || strspn(text, " ;") == strlen(text);
    for (unsigned i = 0; i < G_N_ELEMENTS(words); i++)
        none |=
            n == strlen(words[i]) && (rig->lx->any_case ? !g_ascii_strncasecmp(text, words[i], n)
                                                        : !strncmp(text, words[i], n));
    none |= (*text | 0x20) == 'e' && g_ascii_isdigit(text[1]);
    g_free(text);
    return none;
}

static void answered_once(void)
{
    unsigned found = 0, frames = 0;
    lines_seed = 21;
    for (unsigned round = 0; found < 600 * test_rounds() && test_failures() < 5; round++) {
        struct rig *rig = shape_rig();
        if (!rig) continue;
        found++;
        switch_on(rig);
        for (unsigned i = 0; i < 60 && test_failures() < 5; i++) {
            unsigned link = lines_chance((unsigned)rig->lx->links->len);
            char *line = lines_random(rig->lx);
            size_t most = MIN(link_of(rig, link)->longest, 60);
            if (is_plain(link_of(rig, link)) && strlen(line) < most && !is_no_frame(rig, line)) {
                const char *heard = rig_talk(rig, link, line);
                test_context("lexicon %u, \"%s\" over link %u: %s\n%s", round, line, link, heard,
                             text_in_hand);
                CHECK_INT(answers_in(rig->lx, link_of(rig, link), heard), 1);
                frames++;
            }
            g_free(line);
        }
        rig_free(rig);
    }
    printf("%u lexicons, %u frames\n", found, frames);
    CHECK(frames > 3000);
}

/* ---- what expires ---- */

/* What is known of an output: when it has to be safe; 0: nobody knows. */
struct due {
    uint32_t ms;
    bool off; /* off, then: `for` */
};

static bool is_safe(struct rig *rig, unsigned output, bool off)
{
    const struct lex_output *out = rig->lx->outputs->pdata[output];
    const struct rlx_device *d = &rig->device;
    uint8_t i = (uint8_t)output;
    switch (out->kind) {
    case LEX_MOTOR: return !rlx_motor_percent(d, i, 0);
    case LEX_PAIR: return !rlx_motor_percent(d, i, 0) && !rlx_motor_percent(d, i, 1);
    case LEX_REVERSER: return !strstr(rlx_reverser_state(d, i), "ing");
    case LEX_SERVO: return rig->output[i].level == lex_value_scaled(out->range, out->safe_value);
    case LEX_STEPPER: /* it stands, or slows down */
        return !rlx_output_is_on(d, i) || !rig->output[i].stepper.event;
    default: return rlx_output_percent(d, i) == (off ? 0 : out->safe) && !rig->output[i].steady.act;
    }
}

/* A random command that is obeyed tells an output something: when it has to be safe from now on. */
static void note_due(struct rig *rig, struct due *due, const struct lex_command *c)
{
    const struct lex_output *out = lex_effect_output(rig->lx, &c->effect);
    if (!out || c->query) return;
    struct due *its = &due[c->effect.output];
    uint32_t expires = c->expires ? c->expires : out->expires, lasts = c->effect.lasts;
    if (lasts || expires)
        *its = (struct due){rig->now_ms + (lasts ? lasts : expires), lasts != 0};
    else if (its->off ||
             (int32_t)(its->ms - rig->now_ms) < 30) /* or it may have ended just before this */
        *its = (struct due){0};
}

/* The outputs that rest, exclude or fade are safe later, or are somebody else's business. */
static bool is_plain_output(const struct lex_output *out)
{
    return !out->interlock && !out->min_on && !out->min_off && !out->fade;
}

static void check_due(struct rig *rig, struct due *due, unsigned *ended)
{
    for (unsigned i = 0; i < rig->lx->outputs->len; i++) {
        if (!due[i].ms || (int32_t)(rig->now_ms - due[i].ms) < 0) continue;
        *ended += 1;
        if (is_plain_output(rig->lx->outputs->pdata[i]) && !CHECK(is_safe(rig, i, due[i].off)))
            test_context("output %u", i);
        due[i] = (struct due){0};
    }
}

static bool is_obeyed(const struct rig *rig, unsigned link, const char *heard)
{
    heard = behind_events(heard);
    char *line = without_event(heard, strcspn(heard, "\r\n"));
    bool obeyed = g_str_has_prefix(line, "ok") || answer_is_of(rig->lx, link_of(rig, link), line);
    g_free(line);
    return obeyed;
}

static void what_expires(void)
{
    unsigned found = 0, ended = 0;
    lines_seed = 22;
    for (unsigned round = 0; found < 500 * test_rounds() && test_failures() < 5; round++) {
        struct rig *rig = shape_rig();
        if (!rig) continue;
        struct due due[16] = {{0}};
        unsigned link = 0;
        while (link < rig->lx->links->len && !is_plain(link_of(rig, link))) link++;
        if (link == rig->lx->links->len || rig->lx->routines->len) {
            rig_free(rig);
            continue;
        }
        found++;
        switch_on(rig);
        for (unsigned i = 0; i < 120 && test_failures() < 5; i++) {
            const struct lex_command *c =
                rig->lx->commands->pdata[lines_chance(rig->lx->commands->len)];
            char *text = lex_command_longest(c, false);
            int32_t values[15];
            unsigned given;
            rig_wait(rig, lines_chance(3) ? lines_chance(400) : lines_chance(2500));
            test_context("lexicon %u, before \"%s\":\n%s", round, text, text_in_hand);
            check_due(rig, due, &ended);
            bool its = lex_command_taking(rig->lx, text, values, &given) == c;
            if (its && is_obeyed(rig, link, rig_talk(rig, link, text))) note_due(rig, due, c);
            g_free(text);
        }
        rig_free(rig);
    }
    printf("%u lexicons, %u ends\n", found, ended);
    CHECK(ended > 2000);
}

static const struct test_case cases[] = {
    {"P2: two devices, and an echo, fall silent", two_and_an_echo},
    {"P2: each frame is answered once", answered_once},
    {"P6: what expires ends", what_expires},
};
TEST_MAIN(cases)
