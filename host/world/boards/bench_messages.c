/* Links for text messages: the modem at the other end, its network, and people's phones.
 * Parts of a long message are joined where they are shown.
 * The modem itself is in host/world/modem. */
#include "world/boards/bench_parts.h"

#include <string.h>

/* Numbers of the devices' modems, and of who writes where nobody else is named. */
#define OWN_NUMBER  "+155501%02u"
#define FIRST_OWN   70u
#define SOMEBODY    "+15550142"
#define PATIENCE_US UINT64_C(1800000000)
#define SETTLE_US   UINT64_C(100000)

static void to_device(void *user, uint8_t byte)
{
    struct end *end = user;
    serial_type(end->serial, &byte, 1);
}

static void on_wire(void *user, bool from_device, const char *text)
{
    struct end *end = user;
    struct sight sight = {.kind = SIGHT_WIRE,
                          .board = end->board,
                          .end = end,
                          .name = end->name,
                          .text = text,
                          .count = strlen(text),
                          .own = from_device};
    bench_tell(end->board->bench, &sight);
}

static void tell_message(struct end *end, enum sight_kind kind, const char *text,
                         const char *number)
{
    struct sight sight = {.kind = kind,
                          .board = end->board,
                          .end = end,
                          .name = end->name,
                          .text = text,
                          .count = strlen(text),
                          .number = number};
    bench_tell(end->board->bench, &sight);
    if (kind == SIGHT_ANSWERED) bench_lamps(end, text, strlen(text));
}

static void on_phone(void *user, const char *from, const char *to, const char *text)
{
    const struct bench *bench = user;
    for (unsigned i = 0; i < bench->ends->len; i++) {
        struct end *end = bench->ends->pdata[i];
        if (end->modem && !strcmp(end->number, from)) tell_message(end, SIGHT_ANSWERED, text, to);
    }
}

/* Somebody who may command: the first of the lexicon, or of the setting as it is at first. */
static char *allowed_number(const struct lexicon *lx, const struct lex_link *of)
{
    if (of->allow->len) return g_strdup(of->allow->pdata[0]);
    const struct lex_setting *setting =
        of->allow_setting ? lexicon_setting(lx, of->allow_setting) : NULL;
    const char *all = setting && setting->value ? setting->value : "";
    while (*all == ' ' || *all == ',') all++;
    return *all ? g_strndup(all, strcspn(all, " ,")) : g_strdup(SOMEBODY);
}

void bench_begin_modem(struct end *end)
{
    struct bench *bench = end->board->bench;
    uint32_t seed = bench->options->world ? bench->options->world->seed : 1;
    if (!bench->network) bench->network = network_new(bench->world, seed, on_phone, bench);
    end->number = g_strdup_printf(OWN_NUMBER, FIRST_OWN + bench->ends->len);
    end->from = allowed_number(end->board->lx, end->of);
    end->modem =
        modem_new(bench->world, bench->network, seed + bench->ends->len, to_device, on_wire, end);
    network_join(bench->network, end->modem, end->number);
}

void bench_no_modem(struct end *end)
{
    if (!end->modem) return;
    modem_power(end->modem, false);
    end->unused = end->modem; /* the network knows it */
    end->modem = NULL;
}

void bench_sms(struct end *end, const struct world_sms *sms)
{
    if (!end->modem) return;
    *modem_manner(end->modem) = sms->manner;
    *network_faults(end->board->bench->network) = sms->faults;
    if (sms->resets) modem_reset(end->modem);
    modem_power(end->modem, !sms->off);
}

bool bench_is_number(const char *number)
{
    GByteArray *to = g_byte_array_new();
    bool ok = *number && g_utf8_validate(number, -1, NULL) && tpdu_put_address(to, number);
    g_byte_array_free(to, TRUE);
    return ok;
}

void bench_write_as(struct end *end, const char *number)
{
    g_free(end->from);
    end->from = g_strdup(number);
}

bool bench_write(struct end *end, const char *text)
{
    tell_message(end, SIGHT_SAID, text, end->from);
    return network_write(end->board->bench->network, end->from, end->number, text);
}

static bool is_at_work(const struct end *end)
{
    return network_under_way(end->board->bench->network) || modem_stored(end->modem) ||
           modem_is_busy(end->modem);
}

void bench_until_messages(struct end *end)
{
    struct world *world = end->board->bench->world;
    uint64_t latest = world->now_us + PATIENCE_US, quiet = world->now_us;
    while (world->now_us < latest && world->now_us - quiet < SETTLE_US) {
        world_step(world, MIN(latest, world->now_us + SETTLE_US));
        if (is_at_work(end)) quiet = world->now_us;
        if (bench_failure(end->board->bench)) break;
    }
}
