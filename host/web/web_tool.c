/* Runs this very program with other arguments, and hears it.
 * Its output is read line by line, its standard error to its end; both have bounds.
 * It knows no verb. */
#include "web/web_tool.h"

#include <gio/gio.h>
#include <signal.h>
#include <sys/prctl.h>

#define WRONG_MOST (16u * 1024)

struct tool {
    GSubprocess *process; /* NULL: it did not begin */
    GDataInputStream *out;
    GInputStream *err;
    GString *wrong;
    guint8 bytes[1024];
    GCancellable *dropped;
    void (*line)(void *user, const char *text);
    void (*over)(void *user, int code, const char *wrong);
    void *user;
    unsigned open; /* streams and the process: what is awaited */
};

static void free_tool(struct tool *t)
{
    if (t->process) g_object_unref(t->process);
    if (t->out) g_object_unref(t->out);
    g_object_unref(t->dropped);
    g_string_free(t->wrong, TRUE);
    g_free(t);
}

static void ended(struct tool *t)
{
    if (--t->open) return;
    bool dropped = g_cancellable_is_cancelled(t->dropped);
    bool exited = t->process && g_subprocess_get_if_exited(t->process);
    if (!dropped)
        t->over(t->user, exited ? g_subprocess_get_exit_status(t->process) : -1, t->wrong->str);
    free_tool(t);
}

static void on_line(GObject *out, GAsyncResult *result, gpointer user)
{
    struct tool *t = user;
    gsize n;
    char *text = g_data_input_stream_read_line_finish(G_DATA_INPUT_STREAM(out), result, &n, NULL);
    if (!text) {
        ended(t);
        return;
    }
    if (t->line && !g_cancellable_is_cancelled(t->dropped)) t->line(t->user, text);
    g_free(text);
    g_data_input_stream_read_line_async(t->out, G_PRIORITY_DEFAULT, t->dropped, on_line, t);
}

static void on_wrong(GObject *err, GAsyncResult *result, gpointer user)
{
    struct tool *t = user;
    gssize n = g_input_stream_read_finish(G_INPUT_STREAM(err), result, NULL);
    if (n <= 0) {
        ended(t);
        return;
    }
    if (t->wrong->len < WRONG_MOST) g_string_append_len(t->wrong, (const char *)t->bytes, n);
    g_input_stream_read_async(t->err, t->bytes, sizeof t->bytes, G_PRIORITY_DEFAULT, t->dropped,
                              on_wrong, t);
}

static void on_end(GObject *process, GAsyncResult *result, gpointer user)
{
    g_subprocess_wait_finish(G_SUBPROCESS(process), result, NULL);
    ended(user);
}

static void die_with_parent(gpointer user)
{
    (void)user;
    prctl(PR_SET_PDEATHSIG, SIGTERM);
}

static gboolean on_none(gpointer user)
{
    ended(user);
    return G_SOURCE_REMOVE;
}

struct tool *tool_run(const char *const *arguments, void (*line)(void *user, const char *text),
                      void (*over)(void *user, int code, const char *wrong), void *user)
{
    struct tool *t = g_new0(struct tool, 1);
    GError *error = NULL;
    char *own = g_file_read_link("/proc/self/exe", &error);
    GPtrArray *all = g_ptr_array_new();
    t->wrong = g_string_new(NULL);
    t->dropped = g_cancellable_new();
    t->line = line, t->over = over, t->user = user;
    t->open = 1;
    g_ptr_array_add(all, own);
    for (; *arguments; arguments++) g_ptr_array_add(all, (void *)*arguments);
    g_ptr_array_add(all, NULL);
    GSubprocessLauncher *launcher =
        g_subprocess_launcher_new(G_SUBPROCESS_FLAGS_STDOUT_PIPE | G_SUBPROCESS_FLAGS_STDERR_PIPE);
    g_subprocess_launcher_set_child_setup(launcher, die_with_parent, NULL, NULL);
    if (own)
        t->process =
            g_subprocess_launcher_spawnv(launcher, (const char *const *)all->pdata, &error);
    g_object_unref(launcher);
    g_ptr_array_free(all, TRUE);
    g_free(own);
    if (!t->process) {
        g_string_append(t->wrong, error->message);
        g_error_free(error);
        g_idle_add(on_none, t);
        return t;
    }
    t->open = 3;
    t->out = g_data_input_stream_new(g_subprocess_get_stdout_pipe(t->process));
    t->err = g_subprocess_get_stderr_pipe(t->process);
    g_data_input_stream_read_line_async(t->out, G_PRIORITY_DEFAULT, t->dropped, on_line, t);
    g_input_stream_read_async(t->err, t->bytes, sizeof t->bytes, G_PRIORITY_DEFAULT, t->dropped,
                              on_wrong, t);
    g_subprocess_wait_async(t->process, t->dropped, on_end, t);
    return t;
}

void tool_stop(struct tool *t)
{
    if (t->process) g_subprocess_send_signal(t->process, SIGINT);
}

void tool_drop(struct tool *t)
{
    if (!t) return;
    g_cancellable_cancel(t->dropped);
    if (t->process) g_subprocess_force_exit(t->process);
}
