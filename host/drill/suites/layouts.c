/* The suite of binary frames: of each command's frame every beginning, every single bit changed, a
 * byte more, and two frames without what stands between them; of channels, that nothing moves
 * before it was at rest.
 * What each must do follows from the layout alone; whole frames are in the suite of texts. */
#include <string.h>

#include "drill/suites/suite.h"
#include "lexicon/framing.h"
#include "lexicon/layout/layout.h"
#include "lexicon/layout/sticks.h"

/* Whether something stands around the bytes of a frame, and sets the next one apart. */
static bool around(const struct lex_link *link)
{
    return link->frame == LEX_FRAME_STUFFED || link->frame == LEX_FRAME_COBS;
}

/* What is owed for bytes up to their end; false: they are a command, which says nothing of damage.
 */
static bool owed_of(const struct lex_link *link, const GByteArray *bytes, enum owed *owed)
{
    GByteArray *frame = g_byte_array_new();
    g_byte_array_append(frame, bytes->data, bytes->len);
    char *text = layout_unwrap(link, frame) ? layout_command(link, frame->data, frame->len) : NULL;
    bool unknown = text && !*text, command = text && *text;
    *owed = unknown && link->replies != LEX_REPLIES_SILENT && !link->one_way ? OWED_ERR : OWED_NONE;
    g_free(text);
    g_byte_array_free(frame, TRUE);
    return !command;
}

/* Sends the bytes, with what ends them where something does. */
static struct move *say(GArray *moves, unsigned number, const struct lex_link *link,
                        const GByteArray *bytes)
{
    GString *text = g_string_new(NULL);
    for (unsigned i = 0; i < bytes->len; i++)
        g_string_append_printf(text, "%s0x%02X", i ? " " : "", bytes->data[i]);
    if (around(link)) g_string_append(text, link->frame == LEX_FRAME_STUFFED ? " 0x7E" : " 0x00");
    struct move *move = moves_add(moves, MOVE_SAY, number, text->str);
    g_string_free(text, TRUE);
    return move;
}

static void say_damaged(GArray *moves, unsigned number, const struct lex_link *link,
                        const GByteArray *bytes)
{
    enum owed owed;
    bool ends = false; /* a byte became what ends a frame */
    for (unsigned i = 0; around(link) && i < bytes->len; i++)
        ends |= bytes->data[i] == (link->frame == LEX_FRAME_STUFFED ? 0x7E : 0);
    if (ends || !bytes->len || !owed_of(link, bytes, &owed)) return;
    say(moves, number, link, bytes)->owed = owed;
}

/* The bytes between what stands around them. Owned by the caller. */
static GByteArray *frame_of(const struct lex_link *link, const char *text)
{
    GByteArray *bytes = layout_encode(link, text, 0);
    if (around(link)) g_byte_array_set_size(bytes, bytes->len - 1);
    if (link->frame == LEX_FRAME_STUFFED) g_byte_array_remove_index(bytes, 0);
    return bytes;
}

/* The whole frame comes last: nothing that it does goes on while damage is judged. */
static void damage(const struct drill *drill, const struct drill_job *job, GArray *moves,
                   const struct drill_case *test)
{
    const struct lex_link *link = drill_link(drill, job->link);
    GByteArray *bytes = frame_of(link, test->text);
    const guint all = bytes->len;
    const guint8 more = 0x55;
    for (guint bit = 0; bit < all * 8; bit++) {
        bytes->data[bit / 8] ^= (guint8)(1u << bit % 8);
        say_damaged(moves, job->link, link, bytes);
        bytes->data[bit / 8] ^= (guint8)(1u << bit % 8);
    }
    g_byte_array_append(bytes, &more, 1);
    say_damaged(moves, job->link, link, bytes);
    g_byte_array_set_size(bytes, all);
    if (!around(link)) { /* one silence for two */
        guint8 *once = g_memdup2(bytes->data, all);
        g_byte_array_append(bytes, once, all);
        say_damaged(moves, job->link, link, bytes);
        g_free(once);
        g_byte_array_set_size(bytes, all);
    }
    for (guint n = all; --n;) {
        g_byte_array_set_size(bytes, n);
        say_damaged(moves, job->link, link, bytes);
    }
    drill_say(drill, moves, job->link, test);
    g_byte_array_free(bytes, TRUE);
}

static void damaged(const struct drill *drill, const struct drill_job *job, struct yield *yield)
{
    const struct lex_link *link = drill_link(drill, job->link);
    for (unsigned i = 0; i < drill->cases->len; i++) {
        const struct drill_case *test = drill->cases->pdata[i];
        if (!test->of || !test->valid || test->why != CASE_PLAIN) continue;
        if (!layout_asks(link, test->text)) continue;
        GArray *moves = moves_new();
        damage(drill, job, moves, test);
        struct conversation c = {
            .job = job, .row = "damaged frames", .moves = moves, .seed = drill->options->seed};
        yield_conversation(yield, drill, &c);
        g_array_free(moves, TRUE);
    }
}

/* A transmitter comes on with the stick where the command wants it, or the switch in its zone: that
 * moves nothing. Then it is at rest, and the same place is obeyed. */
static void at_rest_first(const struct drill *drill, const struct drill_job *job,
                          struct yield *yield)
{
    const struct lex_link *link = drill_link(drill, job->link);
    struct sticks sticks;
    sticks_rest(link, &sticks);
    for (unsigned i = 0; i < drill->cases->len; i++) {
        const struct drill_case *test = drill->cases->pdata[i];
        if (!test->of || !test->valid || !layout_asks(link, test->text)) continue;
        GArray *moves = moves_new();
        GByteArray *there = sticks_say(link, test->text), *rest = sticks_frame(link, &sticks);
        say(moves, job->link, link, there)->owed = OWED_NONE;
        say(moves, job->link, link, there)->owed = OWED_NONE;
        say(moves, job->link, link, rest)->owed = OWED_NONE;
        drill_say(drill, moves, job->link, test);
        struct conversation c = {
            .job = job, .row = "at rest first", .moves = moves, .seed = drill->options->seed};
        yield_conversation(yield, drill, &c);
        g_byte_array_free(there, TRUE);
        g_byte_array_free(rest, TRUE);
        g_array_free(moves, TRUE);
    }
}

void layouts_jobs(struct drill *drill, unsigned link)
{
    const struct lex_link *of = drill_link(drill, link);
    if (of->layout)
        drill_job_add(drill, "layouts", link, 0, damaged, "damaged frames over %s", of->name);
    if (of->layout && of->layout->channels)
        drill_job_add(drill, "layouts", link, 1, at_rest_first, "at rest first over %s", of->name);
}
