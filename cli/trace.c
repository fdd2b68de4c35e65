/* What talk and serve record: a trace, and a value change dump that is made of it at the end.
 * Where only the dump is wanted, the trace goes to a temporary file.
 * The dump is that of rlx draw. */
#include <glib/gstdio.h>
#include <string.h>
#include <unistd.h>

#include "draw/timeline.h"
#include "files/files.h"
#include "rlx_cli.h"
#include "world/boards/trace.h"

struct cli_trace {
    struct trace *trace;
    char *json;
    const char *vcd;
    bool temporary;
};

bool cli_trace_asked(const struct cli_traced *traced, const char *const *inputs, unsigned count)
{
    return cli_is_file("--trace", traced->json, CLI_PRINTS) &&
           cli_is_file("--vcd", traced->vcd, CLI_PRINTS) &&
           cli_can_write("--trace", traced->json, inputs, count) &&
           cli_can_write("--vcd", traced->vcd, inputs, count) &&
           cli_with("--bytes", traced->bytes, "--trace", traced->json);
}

struct cli_trace *cli_trace_begin(const struct lexicon *lx, const struct cli_traced *traced,
                                  GError **error)
{
    const char *json = traced->json, *vcd = traced->vcd;
    struct cli_trace *t = g_new0(struct cli_trace, 1);
    int made = -1;
    t->vcd = vcd;
    t->json = g_strdup(json);
    bool ok = !vcd || files_write(vcd, "", 0, error); /* an error comes now, not at the end */
    if (ok && vcd && !json) {
        made = g_file_open_tmp("rlx-trace-XXXXXX", &t->json, error);
        ok = made >= 0;
        t->temporary = ok;
        if (ok) close(made);
    }
    if (ok && t->json) ok = (t->trace = trace_begin(lx, t->json, error)) != NULL;
    if (ok) return t;
    cli_trace_end(t, NULL);
    return NULL;
}

struct trace *cli_trace_of(const struct cli_trace *t)
{
    return t ? t->trace : NULL;
}

bool cli_trace_end(struct cli_trace *t, GError **error)
{
    if (!t) return true;
    bool begun = t->trace != NULL, ok = trace_end(t->trace, error);
    if (ok && begun && t->vcd) {
        struct timeline *timeline = timeline_read(t->json, error);
        char *text = timeline ? timeline_vcd(timeline, 0, UINT64_MAX) : NULL;
        ok = text && files_write(t->vcd, text, strlen(text), error);
        g_free(text);
        timeline_free(timeline);
    }
    if (t->temporary) g_unlink(t->json);
    g_free(t->json);
    g_free(t);
    return ok;
}
