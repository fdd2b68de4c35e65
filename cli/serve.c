/* Opens a simulated board to the outside: its links on pseudo-terminals and sockets, live.
 * Reads the options; lines of standard input are those of rlx talk.
 * What goes over an endpoint is in host/endpoint, what goes to pages in host/web. */
#include "endpoint/modem_line.h"
#include "endpoint/serve.h"
#include "web/web_bench.h"
#include "web/web_drill.h"

#include <glib-unix.h>
#include <stdio.h>
#include <string.h>
#include <unistd.h>

#include "drill/suites/drill.h"
#include "pages/pages.h"
#include "rlx_cli.h"
#include "world/talk/talk.h"

#define LINE_MOST (1024u * 1024)

static struct {
    struct talk *talk;
    struct serve *serve;
    struct live *live;
    struct web *web; /* NULL: no pages */
    struct web_bench *page;
    struct web_drill *drill;
    struct modem_line *modem; /* for a board that is not simulated; NULL */
    GString *line;            /* of standard input */
} s;

static void told(void *user, const char *text)
{
    (void)user;
    fflush(stdout);
    fprintf(stderr, "%s: %s\n", g_get_prgname(), text);
}

static void after(void *user)
{
    (void)user;
    serve_after(s.serve);
    talk_settle(s.talk);
    web_bench_after(s.page);
    if (ferror(stdout)) live_quit(s.live);
}

/* ---- standard input ---- */

static void say_line(void)
{
    if (s.line->len && s.line->str[s.line->len - 1] == '\r')
        g_string_truncate(s.line, s.line->len - 1);
    live_now(s.live);
    talk_line(s.talk, s.line->str, s.line->len);
    live_now(s.live);
    g_string_truncate(s.line, 0);
}

static gboolean on_input(gint fd, GIOCondition condition, gpointer user)
{
    char bytes[1024];
    ssize_t n = read(fd, bytes, sizeof bytes);
    (void)condition, (void)user;
    for (ssize_t i = 0; i < n; i++) {
        if (s.line->len == LINE_MOST) {
            told(NULL, "a line of the input has more than 1 MB: it ends here");
            return G_SOURCE_REMOVE;
        }
        if (bytes[i] == '\n')
            say_line();
        else
            g_string_append_c(s.line, bytes[i]);
    }
    if (n > 0) return G_SOURCE_CONTINUE;
    if (s.line->len) say_line(); /* which nothing ended; the board goes on */
    return G_SOURCE_REMOVE;
}

/* ---- links ---- */

static void opened(void *user, const char *name, char *where)
{
    (void)user;
    printf("%s: %s\n", name, where);
    g_free(where);
}

/* "bench", "bench=./bench.tty" for each of them. False after an error. */
static bool open_links(char **links, enum serve_at at, bool anywhere, GError **error)
{
    for (; links && *links; links++) {
        char **parts = g_strsplit(*links, "=", 2);
        char *where = NULL;
        if (!parts[1] && at != SERVE_TERMINAL)
            g_set_error(error, G_FILE_ERROR, G_FILE_ERROR_INVAL, "'%s': expected LINK=%s", *links,
                        at == SERVE_TCP ? "PORT" : "PATH");
        else
            where = serve_open(s.serve, at, parts[0], parts[1], anywhere, error);
        if (where) opened(NULL, parts[0], where);
        g_strfreev(parts);
        if (!where) return false;
    }
    return true;
}

/* ---- the verb ---- */

struct wanted {
    char **terminals, **ports, **sockets;
    char **devices;
    char *firmware, *world, *length, *link, *modem, *from, *web;
    struct cli_traced traced;
    gboolean loads, anywhere, quiet, wire;
    gint64 seed;
    double speed;
    uint64_t until_us;
};

/* Where the modem is for a board that is not simulated: "shore=./modem.tty" of --pty and the like.
 */
static bool open_modem(const struct wanted *w, GError **error)
{
    static const struct {
        enum serve_at at;
        const char *option;
    } all[] = {{SERVE_TERMINAL, "--pty"}, {SERVE_TCP, "--tcp"}, {SERVE_UNIX, "--unix"}};
    char *const *const links[] = {w->terminals, w->ports, w->sockets};
    struct end *end = talk_end(s.talk);
    const size_t n = strlen(w->modem);
    char *where = NULL;
    for (unsigned i = 0; i < G_N_ELEMENTS(all) && !where && !*error; i++)
        for (char *const *one = links[i]; one && *one && !where && !*error; one++) {
            bool its = !strncmp(*one, w->modem, n) && ((*one)[n] == '=' || !(*one)[n]);
            if (!its)
                g_set_error(error, G_FILE_ERROR, G_FILE_ERROR_INVAL,
                            "%s %s: with --modem %s there is nothing but that modem", all[i].option,
                            *one, w->modem);
            else
                where = modem_line_open(s.modem, end, all[i].at, (*one)[n] ? *one + n + 1 : NULL,
                                        w->anywhere, error);
        }
    if (!where && !*error)
        where = modem_line_open(s.modem, end, SERVE_TERMINAL, NULL, false, error);
    if (where) opened(NULL, w->modem, where);
    return where != NULL;
}

/* "shore=/dev/ttyUSB0" for each of them. */
static bool open_devices(char **devices, bool anywhere, GError **error)
{
    for (; devices && *devices; devices++) {
        char **parts = g_strsplit(*devices, "=", 2);
        bool ok = parts[1] && serve_device(s.serve, parts[0], parts[1], anywhere, error);
        if (!parts[1])
            g_set_error(error, G_FILE_ERROR, G_FILE_ERROR_INVAL, "'%s': expected LINK=PATH",
                        *devices);
        else if (ok)
            printf("%s: the device at %s\n", parts[0], parts[1]);
        g_strfreev(parts);
        if (!ok) return false;
    }
    return true;
}

static void put_path(GString *head, const char *word, const char *path)
{
    char *whole = path ? g_canonicalize_filename(path, NULL) : NULL;
    if (whole) g_string_append_printf(head, "%s%s \"%s\"", head->len ? " " : "", word, whole);
    g_free(whole);
}

/* The head of a scene that plays on such a bench, wherever the file is. Owned by the caller. */
static char *scene_head(const struct lexicon *lx, const struct wanted *w)
{
    GString *head = g_string_new(NULL);
    put_path(head, "lexicon", lx->file);
    put_path(head, "world", w->world);
    put_path(head, "firmware", w->firmware);
    g_string_append_printf(head, " loads seed %" G_GINT64_FORMAT, w->seed);
    return g_string_free(head, FALSE);
}

#define SUITE(name, ...) #name,
static const char *const suites[] = {DRILL_SUITES(SUITE) NULL};
#undef SUITE

/* The bench, drills of it, the sender's page for each link and for each handset, and the links
 * themselves. */
static bool open_web(const struct lexicon *lx, const struct image *image, const struct wanted *w,
                     bool *mistyped, GError **error)
{
    s.web = web_new(w->web, w->anywhere, told, NULL, error);
    if (!s.web) return false;
    char *page = pages_bench(lx, image);
    web_page(s.web, "/", page);
    g_free(page);
    char *scene = scene_head(lx, w);
    s.page = web_bench_new(s.web, "/bench", s.talk, scene, mistyped);
    g_free(scene);
    page = pages_drill(lx, image);
    web_page(s.web, "/drill", page);
    g_free(page);
    s.drill = web_drill_new(s.web, lx, w->firmware, suites);
    page = pages_sender(lx, image);
    for (unsigned i = 0; i < lx->links->len + lx->handsets->len; i++) {
        const struct lex_link *link = i < lx->links->len ? lx->links->pdata[i] : NULL;
        const struct lex_handset *handset = link ? NULL : lx->handsets->pdata[i - lx->links->len];
        char *path = link ? g_strconcat("/sender/", link->name, NULL)
                          : g_strconcat("/handset/", handset->name, NULL);
        web_page(s.web, path, page);
        g_free(path);
    }
    g_free(page);
    web_links(s.web, s.serve);
    printf("page: %s\nfor a page in a file: %s%s\n", web_where(s.web), web_where(s.web),
           w->anywhere ? "" : web_key(s.web));
    return true;
}

static bool open_all(const struct lexicon *lx, const struct image *image, const struct wanted *w,
                     bool *mistyped, GError **error)
{
    s.serve = serve_new(talk_bench(s.talk), told, NULL);
    if (w->modem) return open_modem(w, error);
    if (w->web && !open_web(lx, image, w, mistyped, error)) return false;
    if (!open_devices(w->devices, w->anywhere, error)) return false;
    bool some = w->terminals || w->ports || w->sockets;
    if ((w->devices || w->web) && !some) return true;
    if (!some) return serve_open_all(s.serve, opened, NULL, error);
    return open_links(w->terminals, SERVE_TERMINAL, w->anywhere, error) &&
           open_links(w->ports, SERVE_TCP, w->anywhere, error) &&
           open_links(w->sockets, SERVE_UNIX, w->anywhere, error);
}

static bool go(const struct wanted *w, GError **error)
{
    talk_start(s.talk);
    s.live = live_new(talk_bench(s.talk), w->speed, after, NULL);
    s.line = g_string_new(NULL);
    serve_live(s.serve, s.live);
    web_bench_live(s.page, s.live);
    if (s.modem) modem_line_live(s.modem, s.live);
    g_unix_fd_add(STDIN_FILENO, G_IO_IN | G_IO_HUP, on_input, NULL);
    fflush(stdout);
    live_run(s.live, w->until_us);
    talk_settle(s.talk);
    const char *failure = bench_failure(talk_bench(s.talk));
    if (failure) g_set_error(error, G_FILE_ERROR, G_FILE_ERROR_FAILED, "%s", failure);
    return !failure;
}

/* False after an error. */
static bool run(struct lexicon *lx, const struct image *image, const struct wanted *w,
                struct talk_options *options, GError **error)
{
    FILE *out = w->quiet ? fopen("/dev/null", "w") : stdout;
    struct cli_trace *trace = cli_trace_begin(lx, &w->traced, error);
    options->trace = cli_trace_of(trace);
    bool ok = !*error && out && (s.talk = talk_new(lx, image, options, out, error)) != NULL &&
              open_all(lx, image, w, options->mistyped, error) && go(w, error);
    serve_free(s.serve);
    web_bench_free(s.page);
    web_drill_free(s.drill);
    web_free(s.web);
    modem_line_free(s.modem);
    live_free(s.live);
    if (s.line) g_string_free(s.line, TRUE);
    if (s.talk) talk_free(s.talk);
    if (w->quiet && out) fclose(out);
    return cli_trace_end(trace, ok ? error : NULL) && ok;
}

static struct wanted w = {.seed = 1, .speed = 1, .until_us = UINT64_MAX};

static const char description[] =
    "Switches a simulated board on, and goes on until Ctrl-C. Each link is where a program "
    "finds it:\na serial one as a pseudo-terminal for any terminal program, or on a "
    "socket. "
    "Without --pty,\n--tcp and --unix each serial link is a pseudo-terminal. Radios and "
    "reports speak in packets:\neach has its length before it, two bytes, the high one "
    "first. What happens is printed as\nrlx talk does, and lines of the input are its "
    "lines: "
    "\"! upper on\" moves an input's pin.\nSee docs/live.md.\n\n"
    "Example:\n  rlx serve --pty bench=./bench.tty "
    "examples/tide_tank/tidetank.lexicon\n  picocom -q -b 115200 ./bench.tty\n";

/* The board is whatever is at the modem's line. False after a message. */
static bool begin_modem(const struct lexicon *lx, struct talk_options *options)
{
    const struct lex_link *of = lexicon_link(lx, w.modem);
    guint number = 0;
    if (!of || !lex_drives_modem(of)) {
        fprintf(stderr, "%s: --modem: '%s' is no link whose modem the library drives\n",
                g_get_prgname(), w.modem);
        return false;
    }
    if (w.firmware || w.loads || w.devices || w.web) {
        fprintf(stderr, "%s: with --modem no board is simulated: %s is for one\n", g_get_prgname(),
                w.firmware  ? "--firmware"
                : w.loads   ? "--loads"
                : w.devices ? "--device"
                            : "--web");
        return false;
    }
    s.modem = modem_line_new();
    g_ptr_array_find(lx->links, of, &number);
    options->bench.outside = modem_line_outside(s.modem);
    options->bench.outside_link = number;
    options->where = w.modem;
    options->link = w.modem;
    return true;
}

int verb_serve(int argc, char **argv)
{
    const GOptionEntry entries[] = {
        {"pty", 0, 0, G_OPTION_ARG_STRING_ARRAY, &w.terminals,
         "the link as a pseudo-terminal, with this name for it", "LINK[=PATH]"},
        {"tcp", 0, 0, G_OPTION_ARG_STRING_ARRAY, &w.ports,
         "the link on a TCP port of this machine; 0: one that is free", "LINK=[HOST:]PORT"},
        {"unix", 0, 0, G_OPTION_ARG_STRING_ARRAY, &w.sockets,
         "the link on a socket in the file system", "LINK=PATH"},
        {"web", 0, 0, G_OPTION_ARG_STRING, &w.web,
         "the board alive in a browser, a page that commands it, each link as a WebSocket",
         "[HOST:]PORT"},
        {"modem", 0, 0, G_OPTION_ARG_STRING, &w.modem,
         "the modem of this link for a board that is not simulated; no board is switched on",
         "LINK"},
        {"device", 0, 0, G_OPTION_ARG_STRING_ARRAY, &w.devices,
         "a real modem, or another real device, at this link of the board", "LINK=PATH"},
        {"from", 0, 0, G_OPTION_ARG_STRING, &w.from, "who writes the text messages", "+NUMBER"},
        {"wire", 0, 0, G_OPTION_ARG_NONE, &w.wire,
         "print what goes between a board and its modem for text messages", NULL},
        {"anywhere", 0, 0, G_OPTION_ARG_NONE, &w.anywhere,
         "other machines may connect: anybody there can command", NULL},
        {"speed", 0, 0, G_OPTION_ARG_DOUBLE, &w.speed,
         "seconds of the board's time in each second (default: 1)", "N"},
        {"for", 0, 0, G_OPTION_ARG_STRING, &w.length, "ends after this time of the board's",
         "TIME"},
        {"link", 'l', 0, G_OPTION_ARG_STRING, &w.link, "lines of the input go over this link",
         "NAME"},
        {"firmware", 'f', 0, G_OPTION_ARG_FILENAME, &w.firmware,
         "this program is the board's, made for the simulated port", "PROGRAM"},
        {"world", 'w', 0, G_OPTION_ARG_FILENAME, &w.world,
         "what the links go through: noise, loss, another baud rate", "FILE"},
        {"loads", 'L', 0, G_OPTION_ARG_NONE, &w.loads,
         "what hangs on the pins moves: gates reach their switches, relays bounce", NULL},
        CLI_TRACE_OPTIONS(w.traced),
        {"seed", 's', 0, G_OPTION_ARG_INT64, &w.seed, "of what is random about the loads", "N"},
        {"quiet", 'q', 0, G_OPTION_ARG_NONE, &w.quiet, "print no conversation", NULL},
        {0}};
    if (!cli_options(&argc, &argv, entries, "LEXICON", description, 1) ||
        !cli_paced(w.speed, w.seed) || (w.length && !cli_time("--for", w.length, &w.until_us)))
        return 2;
    const char *const inputs[] = {argv[1], w.world, w.firmware};
    if (!cli_is_file("LEXICON", argv[1], CLI_TYPES) ||
        !cli_is_file("--world", w.world, CLI_TYPES) || !cli_trace_asked(&w.traced, inputs, 3))
        return 2;
    GError *error = NULL;
    struct image *image;
    struct world_file *world = NULL;
    bool mistyped = false;
    int code;
    struct talk_options options = {.live = true, .link = w.link, .mistyped = &mistyped};
    struct lexicon *lx = cli_runnable_lexicon(argv[1], &image, &code);
    if (!lx) return code;
    options.bench.firmware = w.firmware;
    options.wire = w.wire;
    options.bytes = w.traced.bytes;
    options.from = w.from;
    options.bench.loads = w.loads || w.web; /* a page shows what hangs on the pins */
    options.bench.seed = (uint32_t)w.seed;
    bool ok = !w.world || cli_world(w.world, lx, &world);
    options.bench.world = world;
    ok = ok && (!w.modem || begin_modem(lx, &options));
    ok = ok && run(lx, image, &w, &options, &error);
    if (error) {
        fflush(stdout);
        fprintf(stderr, "%s: %s\n", g_get_prgname(), error->message);
        g_error_free(error);
    }
    world_file_free(world);
    image_free(image);
    lexicon_free(lx);
    return !ok ? 2 : mistyped ? 1 : 0;
}
