/* The line editor (libedit) beside the live clock: one key at a time, so that nothing waits.
 * What is printed goes above the line that is typed, which is drawn anew below it.
 * What a line means decides host/world/talk. */
#include "endpoint/console.h"

#include <glib-unix.h>
#include <histedit.h>
#include <signal.h>
#include <stdio.h>
#include <stdlib.h>
#include <string.h>
#include <unistd.h>

#include "endpoint/complete.h"
#include "endpoint/live.h"

#define REMEMBERED 500

static struct {
    EditLine *editor;
    History *history;
    struct talk *talk;
    struct live *live;
    FILE *printed; /* what the conversation prints, until it is shown */
    char *text;
    size_t count;
    char prompt[48];
    char *glance;       /* at the right edge */
    bool dumb, between; /* between: no line is typed, the cursor is where one begins */
} c;

/* ---- the line that is typed ---- */

static char *prompt(EditLine *editor)
{
    (void)editor;
    g_snprintf(c.prompt, sizeof c.prompt, "%.40s> ", talk_over_name(c.talk));
    return c.prompt;
}

static int columns_of(void)
{
    int columns = 80;
    el_get(c.editor, EL_GETTC, "co", &columns, NULL);
    return columns;
}

/* How all is, at the right edge, in less than half of the line; a long line pushes it out. */
static char *at_the_right(EditLine *editor)
{
    (void)editor;
    int columns = columns_of();
    g_free(c.glance);
    return c.glance = talk_glance(c.talk, columns > 40 ? (unsigned)columns / 2 : 0);
}

/* Rows of the terminal above the one where the cursor is. */
static unsigned rows_above(void)
{
    const int columns = columns_of();
    const LineInfo *line = el_line(c.editor);
    size_t before = strlen(prompt(c.editor)) + (size_t)(line->cursor - line->buffer);
    return columns > 0 ? (unsigned)before / (unsigned)columns : 0;
}

/* From the prompt on the terminal is empty. */
static void clear_line(void)
{
    if (c.dumb) {
        fputc('\n', stdout);
        return;
    }
    for (unsigned i = rows_above(); i; i--) fputs("\033[A", stdout);
    fputs("\r\033[J", stdout);
}

static void redraw(void)
{
    clear_line();
    fflush(stdout);
    el_set(c.editor, EL_REFRESH);
}

/* What was printed meanwhile appears, and the line below it. */
static void show(void)
{
    fflush(c.printed);
    if (!c.count) return;
    if (!c.between) clear_line();
    fwrite(c.text, 1, c.count, stdout);
    fflush(stdout);
    rewind(c.printed);
    c.count = 0;
    if (!c.between) el_set(c.editor, EL_REFRESH);
}

static void after(void *user)
{
    (void)user;
    talk_settle(c.talk);
    show();
}

/* ---- Tab ---- */

static unsigned char complete(EditLine *editor, int key)
{
    const LineInfo *line = el_line(editor);
    char *typed = g_strndup(line->buffer, (gsize)(line->cursor - line->buffer));
    GPtrArray *all = complete_line(c.talk, typed);
    char *more = complete_common(all, typed);
    (void)key;
    if (*more) {
        el_insertstr(editor, more);
    } else if (all->len) {
        for (unsigned i = 0; i < all->len; i++)
            fprintf(c.printed, "%s%s", i ? "  " : "", ((struct complete *)all->pdata[i])->text);
        fputc('\n', c.printed);
    }
    bool typed_on = *more;
    g_free(more);
    g_free(typed);
    bool any = all->len > 0;
    g_ptr_array_free(all, TRUE);
    return typed_on ? CC_REFRESH : any ? CC_NORM : CC_ERROR;
}

/* ---- keys ---- */

/* The clock goes on, also where nothing happens. */
static gboolean on_second(gpointer user)
{
    (void)user;
    redraw();
    return G_SOURCE_CONTINUE;
}

/* Whether a key goes out at once: over a link of keys, unless a line for the tool or behind the
 * lead has begun. */
static bool goes_at_once(const char *line)
{
    const struct lex_link *link = talk_end(c.talk)->of;
    return link->frame == LEX_FRAME_KEYS && *line != '!' && (!link->lead || *line != link->lead);
}

static void say(const char *line, size_t count)
{
    HistEvent event;
    char *text = g_strndup(line, count);
    if (count) history(c.history, &event, H_ENTER, text);
    live_now(c.live);
    if (count) talk_line(c.talk, text, count);
    live_now(c.live);
    g_free(text);
}

/* They are no line that one would want again. */
static void say_keys(const char *keys)
{
    live_now(c.live);
    talk_line(c.talk, keys, strlen(keys));
    live_now(c.live);
    if (!c.count) redraw();
}

static gboolean on_key(gint fd, GIOCondition condition, gpointer user)
{
    int count = 0;
    const char *line = el_gets(c.editor, &count);
    (void)fd, (void)user;
    el_set(c.editor, EL_UNBUFFERED, 1);
    bool hung_up = condition & (G_IO_HUP | G_IO_ERR) && !(condition & G_IO_IN);
    bool end = hung_up || (line && count == 1 && line[0] == 4); /* Ctrl-D on an empty line */
    if (end || !line || count <= 0) {
        if (end) live_quit(c.live);
        show();
        return end ? G_SOURCE_REMOVE : G_SOURCE_CONTINUE;
    }
    char last = line[count - 1];
    bool over = last == '\n' || last == '\r';
    if (!over && goes_at_once(line)) {
        char *keys = g_strndup(line, (gsize)count);
        el_deletestr(c.editor, count);
        say_keys(keys);
        g_free(keys);
        over = false;
    }
    if (!over) {
        show();
        return G_SOURCE_CONTINUE;
    }
    char *typed = g_strndup(line, (gsize)count - 1);
    el_set(c.editor, EL_UNBUFFERED, 0); /* the line is over... */
    c.between = true;
    say(typed, strlen(typed));
    show();
    g_free(typed);
    c.between = false;
    el_set(c.editor, EL_UNBUFFERED, 1); /* ...and the next one begins */
    return G_SOURCE_CONTINUE;
}

/* Ctrl-C drops the line that is typed, and on an empty one ends the conversation. */
static bool on_break(void *user)
{
    const LineInfo *line = el_line(c.editor);
    (void)user;
    if (line->lastchar == line->buffer) return false;
    clear_line();
    el_deletestr(c.editor, (int)(line->cursor - line->buffer));
    el_reset(c.editor);
    el_set(c.editor, EL_REFRESH);
    return true;
}

/* The board sent something, or is gone. */
static gboolean on_board(gint fd, GIOCondition condition, gpointer user)
{
    (void)fd, (void)condition, (void)user;
    live_now(c.live);
    outside_come(talk_end(c.talk)->board->device);
    live_now(c.live);
    return bench_failure(talk_bench(c.talk)) ? G_SOURCE_REMOVE : G_SOURCE_CONTINUE;
}

static gboolean on_resize(gpointer user)
{
    (void)user;
    el_resize(c.editor);
    return G_SOURCE_CONTINUE;
}

/* ---- begin and end ---- */

static void begin_editor(void)
{
    HistEvent event;
    const char *term = getenv("TERM");
    c.dumb = !term || !strcmp(term, "dumb");
    c.history = history_init();
    history(c.history, &event, H_SETSIZE, REMEMBERED);
    history(c.history, &event, H_SETUNIQUE, 1);
    c.editor = el_init(g_get_prgname(), stdin, stdout, stderr);
    el_set(c.editor, EL_PROMPT, prompt);
    if (!c.dumb) el_set(c.editor, EL_RPROMPT, at_the_right);
    el_set(c.editor, EL_EDITOR, "emacs");
    el_set(c.editor, EL_HIST, history, c.history);
    el_set(c.editor, EL_ADDFN, "complete", "completes by the lexicon", complete);
    el_set(c.editor, EL_BIND, "^I", "complete", NULL);
    el_set(c.editor, EL_UNBUFFERED, 1);
}

static void end_editor(void)
{
    el_set(c.editor, EL_UNBUFFERED, 0);
    el_end(c.editor);
    history_end(c.history);
}

bool console_run(struct lexicon *lx, const struct image *image, struct talk_options *options,
                 double speed, int board, GError **error)
{
    options->live = true;
    c.printed = open_memstream(&c.text, &c.count);
    c.talk = talk_new(lx, image, options, c.printed, error);
    bool ok = c.talk != NULL;
    if (ok) {
        fputs("# live: Tab completes, \"! help\" tells more, Ctrl-D ends\n", c.printed);
        begin_editor();
        talk_start(c.talk);
        c.live = live_new(talk_bench(c.talk), speed, after, NULL);
        live_on_break(c.live, on_break);
        guint keys = g_unix_fd_add(STDIN_FILENO, G_IO_IN | G_IO_HUP | G_IO_ERR, on_key, NULL);
        guint seconds = c.dumb ? 0 : g_timeout_add_seconds(1, on_second, NULL);
        guint from_board =
            board < 0 ? 0 : g_unix_fd_add(board, G_IO_IN | G_IO_HUP | G_IO_ERR, on_board, NULL);
        guint resized = g_unix_signal_add(SIGWINCH, on_resize, NULL);
        live_run(c.live, UINT64_MAX);
        g_source_remove(resized);
        const guint open[] = {keys, from_board, seconds};
        for (unsigned i = 0; i < G_N_ELEMENTS(open); i++) {
            GSource *left = open[i] ? g_main_context_find_source_by_id(NULL, open[i]) : NULL;
            if (left) g_source_destroy(left);
        }
        clear_line();
        end_editor();
        fflush(stdout);
        const char *failure = bench_failure(talk_bench(c.talk));
        if (failure) g_set_error(error, G_FILE_ERROR, G_FILE_ERROR_FAILED, "%s", failure);
        ok = !failure;
        live_free(c.live);
        talk_free(c.talk);
    }
    fclose(c.printed);
    free(c.text);
    g_clear_pointer(&c.glance, g_free);
    return ok;
}
