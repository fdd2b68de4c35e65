/* The suite of what people type: line editing and its echo, and unassigned keys.
 * Each case is one line or key, typed byte by byte.
 * It is for links for people and for keys only. */
#include "drill/suites/typing.h"

#include <string.h>

#define TEXTS 6u

static void type(GArray *moves, unsigned link, const char *bytes, enum owed owed)
{
    struct move *move = moves_add(moves, MOVE_TYPE, link, bytes);
    move->owed = owed;
    move->frames = owed == OWED_NONE ? 0 : 1;
    move->busy = true;
}

static void typed(GArray *moves, unsigned link, enum owed owed, const char *format, ...)
    G_GNUC_PRINTF(4, 5);
static void typed(GArray *moves, unsigned link, enum owed owed, const char *format, ...)
{
    va_list args;
    va_start(args, format);
    char *bytes = g_strdup_vprintf(format, args);
    va_end(args);
    type(moves, link, bytes, owed);
    g_free(bytes);
}

/* ---- people ---- */

/* Words that begin like somebody's reply and are none: they are echoed, and refused. */
static const char *const near_replies[] = {"okay",  "o",   "errs",   "er",   "evx", "e x", "ex",
                                           "notex", "not", "readyx", "read", "E9x", "e19x"};

/* Backspace and delete take a letter back, Ctrl-U the line. */
static void corrected(GArray *moves, unsigned link, const char *text, enum owed owed)
{
    int length = (int)strlen(text);
    typed(moves, link, owed, "%sx\b\r", text);
    typed(moves, link, owed, "%.*szz\x7f\x7f%s\r", length - 1, text, text + length - 1);
    typed(moves, link, owed, "zz zz\x15%s\n", text);
    typed(moves, link, owed, "ab\b\b\b\b%s\r\n", text);
    typed(moves, link, owed, "\b\x7f\x15%s\r", text);
    typed(moves, link, owed, "> %s\x15%s\r", text, text);
    typed(moves, link, OWED_ERR, "%s\b\x01\r", text);
    typed(moves, link, OWED_NONE, "> %s\r", text); /* so an echo looks */
    typed(moves, link, OWED_NONE, "%s\x15\r", text);
}

void typing_people(const struct drill *drill, const struct drill_job *job, struct yield *yield,
                   const GPtrArray *plain)
{
    const struct lex_link *link = drill_link(drill, job->link);
    GArray *moves = moves_new();
    bool silent = link->one_way || link->replies == LEX_REPLIES_SILENT;
    for (unsigned i = 0; link->people && !silent && i < MIN(plain->len, TEXTS); i++)
        corrected(moves, job->link, ((const struct drill_case *)plain->pdata[i])->text, OWED_OK);
    if (moves->len) {
        char *xs = g_strnfill(link->longest + 20, 'x');
        typed(moves, job->link, OWED_ERR, "%s\r", xs);
        typed(moves, job->link, OWED_ERR, "%s\b\b\r", xs);
        g_free(xs);
        for (unsigned i = 0; i < G_N_ELEMENTS(near_replies); i++)
            typed(moves, job->link, OWED_ERR, "%s\r", near_replies[i]);
        corrected(moves, job->link, ((const struct drill_case *)plain->pdata[0])->text, OWED_OK);
    }
    struct conversation c = {
        .job = job, .row = "line editing", .moves = moves, .seed = drill->options->seed};
    yield_conversation(yield, drill, &c);
    g_array_free(moves, TRUE);
}

/* ---- keypads ---- */

static bool is_key(const struct lex_link *link, int byte)
{
    for (unsigned i = 0; i < link->keys->len; i++)
        if (((const struct lex_key *)link->keys->pdata[i])->code[0] == byte) return true;
    return byte == link->lead || byte == '<' || byte == '\r' || byte == '\n';
}

void typing_keys(const struct drill *drill, const struct drill_job *job, struct yield *yield)
{
    const struct lex_link *link = drill_link(drill, job->link);
    bool silent = link->one_way || link->replies == LEX_REPLIES_SILENT;
    GArray *moves = moves_new();
    for (int byte = 1; byte < 256; byte++)
        if (!is_key(link, byte)) typed(moves, job->link, silent ? OWED_NONE : OWED_ERR, "%c", byte);
    struct conversation c = {
        .job = job, .row = "unassigned keys", .moves = moves, .seed = drill->options->seed};
    if (!link->texts->len)
        yield_conversation(yield, drill, &c); /* what others send is passed over */
    g_array_free(moves, TRUE);
}
