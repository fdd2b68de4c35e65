/* Keeps the session of a served board in a file of the server's folder.
 * The picture is drawn by the tool, beside the board.
 * It knows no page. */
#include "web/web_session.h"

#include "web/web_tool.h"
#include "world/boards/trace.h"

struct web_session {
    struct trace *trace;
    char *file, *picture, *name;
    struct web_request *asks; /* for a picture; NULL: none is drawn */
    struct tool *tool;
    bool full;
};

static void on_sight(void *user, const struct sight *sight)
{
    struct web_session *s = user;
    if (!s->full) trace_sight(s->trace, sight);
}

void web_session_look(struct web_session *s)
{
    if (!s || s->full) return;
    trace_look(s->trace);
    s->full = trace_size(s->trace) > SESSION_MOST;
}

static void drawn(void *user, int code, const char *wrong)
{
    struct web_session *s = user;
    struct web_request *asks = s->asks;
    s->tool = NULL;
    s->asks = NULL;
    if (code)
        web_refuse(asks, 500, *wrong ? wrong : "rlx draw was ended\n");
    else
        web_give(asks, s->picture, "image/svg+xml", NULL);
}

static void draw(struct web_session *s, struct web_request *request)
{
    const char *from = web_request_query(request, "from"), *to = web_request_query(request, "to");
    const char *all[9] = {"draw", s->file, "-o", s->picture};
    unsigned n = 4;
    if (from) all[n++] = "--from", all[n++] = from;
    if (to) all[n++] = "--to", all[n++] = to;
    if (s->asks) {
        web_refuse(request, 503, "Another picture is being drawn: try again.\n");
        return;
    }
    s->asks = request;
    s->tool = tool_run(all, NULL, drawn, s);
}

static void make(void *user, struct web_request *request)
{
    struct web_session *s = user;
    const char *path = web_request_path(request);
    if (!trace_flush(s->trace))
        web_refuse(request, 500, "The trace could not be written.\n");
    else if (g_str_has_suffix(path, "/trace"))
        web_give(request, s->file, "application/jsonl", s->name);
    else if (g_str_has_suffix(path, "/picture"))
        draw(s, request);
    else
        web_refuse(request, 404, "There is /session/trace and /session/picture.\n");
}

struct web_session *web_session_new(struct web *web, struct bench *bench)
{
    const char *folder = web_folder(web);
    const struct lexicon *lx = ((struct board *)bench->boards->pdata[0])->lx;
    if (!folder) return NULL;
    struct web_session *s = g_new0(struct web_session, 1);
    s->file = g_build_filename(folder, "session.jsonl", NULL);
    s->picture = g_build_filename(folder, "session.svg", NULL);
    s->name = g_strconcat(lx->name, ".jsonl", NULL);
    s->trace = trace_begin(lx, s->file, NULL);
    if (!s->trace) {
        web_session_free(s);
        return NULL;
    }
    bench_watch(bench, on_sight, s);
    trace_states(s->trace, bench);
    web_files(web, "/session", make, s);
    return s;
}

void web_session_free(struct web_session *s)
{
    if (!s) return;
    tool_drop(s->tool);
    trace_end(s->trace, NULL);
    g_free(s->file), g_free(s->picture), g_free(s->name);
    g_free(s);
}
