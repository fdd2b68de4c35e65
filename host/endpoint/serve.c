/* Joins endpoints with the ends of a bench's links.
 * Serial links carry bytes, radios and reports packets; a connection moves a link's state pin.
 * What time it is decides live.c. */
#include "endpoint/serve.h"

#include <glib-unix.h>
#include <string.h>

#include "endpoint/board_line.h"
#include "lexicon/framing.h"

#define AHEAD 256u /* bytes that may wait to be sent over a link */

/* One endpoint of one link. */
struct place {
    struct serve *serve;
    struct end *end;
    struct endpoint *endpoint; /* NULL: a real device is there... */
    struct board_line *device; /* ...at this; NULL: an endpoint */
    guint reads;
    unsigned clients, baud; /* baud: of the terminal, as the cable has it by now */
    GString *line;          /* that is coming in, to be told */
};

struct serve {
    struct bench *bench;
    struct live *live;
    GPtrArray *places; /* struct place * */
    void (*told)(void *user, const char *text);
    void *user;
};

static void now(const struct serve *serve)
{
    if (serve->live) live_now(serve->live);
}

/* ---- from outside ---- */

static size_t room(void *user)
{
    const struct place *place = user;
    size_t waits = serial_waits(place->end->serial);
    return lex_comes_whole(place->end->of) ? AHEAD : waits < AHEAD ? AHEAD - waits : 0;
}

/* What was typed is told by lines, as if somebody had said them. */
static void tell_said(struct place *place, const guint8 *bytes, size_t count)
{
    for (size_t i = 0; i < count; i++) {
        bool ends = bytes[i] == '\r' || bytes[i] == '\n' || lex_is_keyed(place->end->of) ||
                    place->line->len >= 256;
        if (!ends || lex_is_keyed(place->end->of)) g_string_append_c(place->line, (char)bytes[i]);
        if (!ends || !place->line->len) continue;
        bench_was_typed(place->end, place->line->str, place->line->len);
        g_string_truncate(place->line, 0);
    }
}

/* A terminal that is set to another rate sends and sees what it would on a cable. */
static void check_baud(struct place *place)
{
    unsigned baud = endpoint_baud(place->endpoint), own = place->end->of->baud;
    if (!baud || !own || baud == place->baud) return;
    struct faults faults = place->end->serial->faults;
    faults.baud = baud == own ? 0 : baud;
    serial_faults(place->end->serial, &faults, &place->serve->bench->draw);
    char *text = g_strdup_printf(
        baud == own ? "%s: the terminal is set to %u baud, as the link is"
                    : "%s: the terminal is set to %u baud, but the link has %u: it sees rubbish",
        place->end->name, baud, own);
    place->serve->told(place->serve->user, text);
    g_free(text);
    place->baud = baud;
}

static void came(void *user, const guint8 *bytes, size_t count)
{
    struct place *place = user;
    now(place->serve);
    check_baud(place);
    tell_said(place, bytes, count);
    bench_type(place->end, (const char *)bytes, count);
    now(place->serve);
}

static void packet(void *user, const guint8 *bytes, size_t count)
{
    struct place *place = user;
    now(place->serve);
    if (!place->end->medium) bench_was_typed(place->end, (const char *)bytes, count);
    if (!bench_say_bytes(place->end, (const char *)bytes, count))
        place->serve->told(place->serve->user, "too many packets wait: one is lost");
    now(place->serve);
}

/* A link with a state pin is up while somebody is connected; a bridge of the world is connected by
 * its name. */
static void clients(void *user, unsigned count)
{
    struct place *place = user;
    struct end *end = place->end;
    unsigned before = 0, after = 0;
    now(place->serve);
    for (unsigned i = 0; i < place->serve->places->len; i++) {
        const struct place *other = place->serve->places->pdata[i];
        if (other->end == end) before += other->clients;
    }
    after = before - place->clients + count;
    place->clients = count;
    char *text = g_strdup_printf("%u connected", after);
    bench_is_met(end, text);
    g_free(text);
    bool changes = !before != !after, bridge = changes && after && bench_connect_own(end);
    if (changes && !after) bench_leave(end);
    if (end->of->state_pin != LEX_NO_PIN && changes && !bridge && !end->bridge)
        bench_set_pin(end->board, end->of->state_pin, (after > 0) != end->of->state_low);
    now(place->serve);
}

static void told(void *user, const char *text)
{
    const struct place *place = user;
    char *whole = g_strdup_printf("%s: %s", place->end->name, text);
    place->serve->told(place->serve->user, whole);
    g_free(whole);
}

/* ---- from the device ---- */

static void on_sight(void *user, const struct sight *sight)
{
    struct serve *serve = user;
    bool reports = sight->end && lex_framing_of(sight->end->of)->piece;
    bool byte = sight->kind == SIGHT_BYTE;
    bool whole = sight->kind == (reports ? SIGHT_REPORT : SIGHT_ANSWERED);
    for (unsigned i = 0; (byte || whole) && i < serve->places->len; i++) {
        struct place *place = serve->places->pdata[i];
        bool packets = lex_comes_whole(place->end->of) && !place->device;
        if (place->end != sight->end || whole != packets) continue;
        const guint8 one = (guint8)sight->event.value;
        const guint8 *packet = sight->bytes ? sight->bytes : (const guint8 *)sight->text;
        if (place->device) {
            const struct outside_line *out = board_line_outside(place->device);
            out->give(out->user, &one, 1);
        } else {
            endpoint_send(place->endpoint, byte ? &one : packet,
                          byte           ? 1
                          : sight->bytes ? sight->n_bytes
                                         : sight->count);
        }
    }
}

/* ---- all of them ---- */

struct serve *serve_new(struct bench *bench, void (*told_)(void *user, const char *text),
                        void *user)
{
    struct serve *serve = g_new0(struct serve, 1);
    *serve =
        (struct serve){.bench = bench, .places = g_ptr_array_new(), .told = told_, .user = user};
    bench_watch(bench, on_sight, serve);
    return serve;
}

static void place_free(struct place *place)
{
    endpoint_free(place->endpoint);
    if (place->reads) g_source_remove(place->reads);
    board_line_free(place->device);
    g_string_free(place->line, TRUE);
    g_free(place);
}

void serve_free(struct serve *serve)
{
    if (!serve) return;
    for (unsigned i = 0; i < serve->places->len; i++) place_free(serve->places->pdata[i]);
    g_ptr_array_free(serve->places, TRUE);
    g_free(serve);
}

/* Why this link cannot be there; NULL: it can. */
static const char *why_not(const struct end *end, bool terminal)
{
    if (end->modem) return "text messages have no line of bytes: write them in rlx talk";
    if (end->wired) return "it is wired to another board";
    if (lex_comes_whole(end->of) && terminal)
        return "it carries packets, not a line of bytes: open it by --tcp or --unix, where each "
               "packet has its length before it";
    return NULL;
}

struct endpoint *serve_endpoint(enum serve_at at, const char *where, unsigned baud, bool anywhere,
                                bool packets, struct endpoint_calls calls, GError **error)
{
    switch (at) {
    case SERVE_TERMINAL: return endpoint_terminal(where, baud, calls, error);
    case SERVE_TCP: return endpoint_tcp(where, anywhere, packets, calls, error);
    case SERVE_UNIX: break;
    }
    return endpoint_unix(where, packets, calls, error);
}

static struct place *place_new(struct serve *serve, struct end *end)
{
    struct place *place = g_new(struct place, 1);
    *place = (struct place){
        .serve = serve, .end = end, .baud = end->of->baud, .line = g_string_new(NULL)};
    g_ptr_array_add(serve->places, place);
    return place;
}

static struct endpoint_calls calls_of(struct place *place)
{
    return (struct endpoint_calls){place, room, came, packet, clients, told};
}

char *serve_open(struct serve *serve, enum serve_at at, const char *name, const char *where,
                 bool anywhere, GError **error)
{
    struct end *end = bench_end(serve->bench, name);
    const char *wrong = end ? why_not(end, at == SERVE_TERMINAL) : "there is no such link";
    if (wrong) {
        g_set_error(error, G_FILE_ERROR, G_FILE_ERROR_INVAL, "%s: %s", name, wrong);
        return NULL;
    }
    struct place *place = place_new(serve, end);
    bool packets = lex_comes_whole(end->of);
    place->endpoint =
        serve_endpoint(at, where, place->baud, anywhere, packets, calls_of(place), error);
    if (!place->endpoint) {
        g_ptr_array_remove(serve->places, place);
        place_free(place);
        return NULL;
    }
    return g_strdup(endpoint_where(place->endpoint));
}

void serve_open_each(struct serve *serve,
                     struct endpoint *(*open)(void *user, const char *name, bool packets,
                                              struct endpoint_calls calls),
                     void *user)
{
    for (unsigned i = 0; i < serve->bench->ends->len; i++) {
        struct end *end = serve->bench->ends->pdata[i];
        if (why_not(end, false)) continue;
        struct place *place = place_new(serve, end);
        place->endpoint = open(user, end->name, lex_comes_whole(end->of), calls_of(place));
    }
}

/* ---- a real device ---- */

static gboolean on_device(gint fd, GIOCondition condition, gpointer user)
{
    struct place *place = user;
    const struct outside_line *line = board_line_outside(place->device);
    uint8_t bytes[AHEAD];
    (void)fd, (void)condition;
    now(place->serve);
    size_t n = line->take(line->user, bytes, sizeof bytes, 0);
    if (n) bench_type(place->end, (const char *)bytes, n);
    now(place->serve);
    const char *gone = line->failure(line->user);
    if (!gone) return G_SOURCE_CONTINUE;
    place->serve->told(place->serve->user, gone);
    place->reads = 0;
    return G_SOURCE_REMOVE;
}

bool serve_device(struct serve *serve, const char *name, const char *where, bool anywhere,
                  GError **error)
{
    struct end *end = bench_end(serve->bench, name);
    struct board_line_options options = {.anywhere = anywhere};
    const char *wrong = !end                                      ? "there is no such link"
                        : end->wired                              ? "it is wired to another board"
                        : lex_comes_whole(end->of) && !end->modem ? "it carries packets"
                                                                  : NULL;
    if (wrong) {
        g_set_error(error, G_FILE_ERROR, G_FILE_ERROR_INVAL, "%s: %s", name, wrong);
        return false;
    }
    struct board_line *line = board_line_open(where, end->of, &options, error);
    if (!line) return false;
    bench_no_modem(end);
    struct place *place = place_new(serve, end);
    place->device = line;
    place->reads =
        g_unix_fd_add(board_line_fd(line), G_IO_IN | G_IO_HUP | G_IO_ERR, on_device, place);
    return true;
}

bool serve_open_all(struct serve *serve, void (*opened)(void *user, const char *name, char *where),
                    void *user, GError **error)
{
    for (unsigned i = 0; i < serve->bench->ends->len; i++) {
        const struct end *end = serve->bench->ends->pdata[i];
        if (why_not(end, true)) continue;
        char *where = serve_open(serve, SERVE_TERMINAL, end->name, NULL, false, error);
        if (!where) return false;
        opened(user, end->name, where);
    }
    return true;
}

void serve_live(struct serve *serve, struct live *live)
{
    serve->live = live;
}

void serve_after(struct serve *serve)
{
    for (unsigned i = 0; i < serve->places->len; i++) {
        struct place *place = serve->places->pdata[i];
        if (!place->endpoint) continue;
        check_baud(place);
        if (room(place)) endpoint_go_on(place->endpoint);
    }
}
