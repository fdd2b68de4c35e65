/* Carries bytes between an endpoint, where a real board or another program is, and a modem of the
 * bench, which takes it for the device.
 * What the modem does is in host/world/modem. */
#include "endpoint/modem_line.h"

#include "endpoint/endpoint.h"

#define ROOM 1024u

struct modem_line {
    struct outside_line outside;
    struct endpoint *endpoint; /* NULL: it is not open yet */
    struct end *end;
    struct live *live;
    GByteArray *came;
};

/* ---- for the bench ---- */

static bool give(void *user, const uint8_t *bytes, size_t count)
{
    const struct modem_line *line = user;
    if (line->endpoint) endpoint_send(line->endpoint, bytes, count);
    return true;
}

static size_t take(void *user, uint8_t *bytes, size_t most, uint64_t us)
{
    struct modem_line *line = user;
    size_t n = MIN(most, line->came->len);
    (void)us; /* the clock is live: nobody waits here */
    for (size_t i = 0; i < n; i++) bytes[i] = line->came->data[i];
    g_byte_array_remove_range(line->came, 0, (guint)n);
    return n;
}

static const char *failure(void *user)
{
    (void)user;
    return NULL;
}

/* ---- from the endpoint ---- */

static size_t room(void *user)
{
    const struct modem_line *line = user;
    return ROOM - MIN(ROOM, line->came->len);
}

static void on_bytes(void *user, const guint8 *bytes, size_t count)
{
    struct modem_line *line = user;
    if (line->live) live_now(line->live);
    g_byte_array_append(line->came, bytes, (guint)count);
    outside_come(line->end->board->device);
    if (line->live) live_now(line->live);
}

static void on_packet(void *user, const guint8 *bytes, size_t count)
{
    (void)user, (void)bytes, (void)count;
}

static void on_clients(void *user, unsigned count)
{
    struct modem_line *line = user;
    char *text = g_strdup_printf("%u connected", count);
    bench_is_met(line->end, text);
    g_free(text);
}

static void told(void *user, const char *text)
{
    const struct modem_line *line = user;
    g_printerr("%s: %s: %s\n", g_get_prgname(), line->end->name, text);
}

/* ---- begin and end ---- */

struct modem_line *modem_line_new(void)
{
    struct modem_line *line = g_new0(struct modem_line, 1);
    line->outside = (struct outside_line){line, give, take, failure, NULL, false};
    line->came = g_byte_array_new();
    return line;
}

void modem_line_free(struct modem_line *line)
{
    if (!line) return;
    endpoint_free(line->endpoint);
    g_byte_array_free(line->came, TRUE);
    g_free(line);
}

const struct outside_line *modem_line_outside(struct modem_line *line)
{
    return &line->outside;
}

char *modem_line_open(struct modem_line *line, struct end *end, enum serve_at at, const char *where,
                      bool anywhere, GError **error)
{
    struct endpoint_calls calls = {line, room, on_bytes, on_packet, on_clients, told};
    line->end = end;
    line->endpoint = serve_endpoint(at, where, end->of->baud, anywhere, false, calls, error);
    return line->endpoint ? g_strdup(endpoint_where(line->endpoint)) : NULL;
}

void modem_line_live(struct modem_line *line, struct live *live)
{
    line->live = live;
}
