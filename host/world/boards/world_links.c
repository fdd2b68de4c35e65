/* Reads a world file's statements about links: cables, air, modems, networks, and their faults.
 * A change begins with the link's last state.
 * It changes nothing in a world. */
#include <string.h>

#include "world/run/draw.h"
#include "world/boards/world_parts.h"

/* 20%, 0.5%, 1/1000 -> parts of a billion */
static bool read_chance(struct statement *st, const char *what, uint32_t *chance)
{
    struct token *token = statement_take(st);
    char *end = NULL;
    guint64 a = token->kind == TOKEN_WORD ? g_ascii_strtoull(token->text, &end, 10) : 0, b = 0;
    guint64 part = 1;
    bool ok = end && end != token->text && a <= 1000000;
    if (ok && *end == '/') {
        b = g_ascii_strtoull(end + 1, &end, 10);
        ok = b > 0 && b <= BILLION && a <= b && !*end;
        if (ok) *chance = (uint32_t)(a * BILLION / b);
    } else if (ok) {
        a *= BILLION / 100;
        if (*end == '.')
            for (end++; g_ascii_isdigit(*end) && part < 10000000; end++) {
                part *= 10;
                a += (guint64)(*end - '0') * (BILLION / 100) / part;
            }
        ok = !strcmp(end, "%") && a <= BILLION;
        if (ok) *chance = (uint32_t)a;
    }
    if (!ok)
        lex_fault(st->lx, token->place, "%s: a chance like 20%%, 0.5%% or 1/1000, at most 100%%",
                  what);
    return ok;
}

#define READ_CHANCE(name, member, what)                                         \
    static bool read_##name(struct statement *st, void *target)                 \
    {                                                                           \
        return read_chance(st, what, &((struct world_change *)target)->member); \
    }
READ_CHANCE(noise, faults.noise, "how often a bit is read wrong")
READ_CHANCE(lost, faults.lost, "how many bytes do not come")
READ_CHANCE(byte_twice, faults.twice, "how many bytes come two times")
READ_CHANCE(loss, air.loss, "how many packets do not come")
READ_CHANCE(twice, air.twice, "how many packets come two times")
READ_CHANCE(errors, air.bit_errors, "how often a bit is turned")
READ_CHANCE(duty, air.duty, "the share of an hour that each may send")

static bool read_baud(struct statement *st, void *target)
{
    return statement_number(st, "the baud rate of the sender's end", 50, 4000000,
                            &((struct world_change *)target)->faults.baud);
}

static bool read_bits(struct statement *st, void *target)
{
    unsigned bits;
    if (!statement_number(st, "bits a second on the air", 10, 10000000, &bits)) return false;
    ((struct world_change *)target)->air.bits_a_second = bits;
    return true;
}

/* delay 20% by 60ms */
static bool read_late(struct statement *st, void *target)
{
    struct world_change *link = target;
    uint32_t ms;
    if (!read_chance(st, "how many packets come late", &link->air.late)) return false;
    if (!statement_take_word(st, "by")) {
        lex_fault(st->lx, statement_peek(st)->place,
                  "expected 'by' and the most that they are delayed");
        return false;
    }
    if (!statement_time(st, "the most that they are delayed", 1, 3600000, &ms)) return false;
    link->air.late_us = ms * 1000;
    return true;
}

bool world_read_us(struct statement *st, const char *what, uint32_t *us)
{
    uint32_t ms;
    if (!statement_time(st, what, 1, 60000, &ms)) return false;
    *us = ms * 1000;
    return true;
}

static bool read_typing(struct statement *st, void *target)
{
    return world_read_us(st, "the time between two keys",
                         &((struct world_change *)target)->faults.typing_us);
}

static bool read_latency(struct statement *st, void *target)
{
    return world_read_us(st, "how long a byte takes",
                         &((struct world_change *)target)->faults.late_us);
}

static bool read_clumps(struct statement *st, void *target)
{
    return world_read_us(st, "how long bytes wait for each other",
                         &((struct world_change *)target)->faults.clump_us);
}

#define READ_FLAG(name, member)                                 \
    static bool read_##name(struct statement *st, void *target) \
    {                                                           \
        (void)st;                                               \
        return ((struct world_change *)target)->member = true;  \
    }
READ_CHANCE(sms_loss, sms.faults.loss, "how many messages do not come")
READ_CHANCE(sms_twice, sms.faults.twice, "how many messages come two times")
READ_CHANCE(rejects, sms.faults.rejects, "how many messages the network does not take")
READ_CHANCE(rubbish, sms.manner.rubbish, "how often a byte is another one")
READ_CHANCE(chatty, sms.manner.chatty, "how often a notice stands before a byte")
READ_FLAG(silent, sms.manner.silent)
READ_FLAG(off, sms.off)
READ_FLAG(resets, sms.resets)
READ_FLAG(text, sms.manner.text_first)
READ_FLAG(unregistered, sms.manner.unregistered)
READ_FLAG(timeless, sms.manner.clock_unset)
READ_FLAG(pin, sms.manner.pin_wanted)
READ_FLAG(open, faults.open)
READ_FLAG(crossed, faults.crossed)
READ_FLAG(echo, faults.echo)
READ_FLAG(half, modem.half)
READ_FLAG(unplugged, reports.unplugged)
READ_FLAG(stale, reports.stale)

static bool read_out(struct statement *st, void *target)
{
    if (!statement_take_word(st, "of") || !statement_take_word(st, "range")) {
        lex_fault(st->lx, statement_peek(st)->place, "expected like: out of range");
        return false;
    }
    return ((struct world_change *)target)->faults.out_of_range = true;
}

static bool read_no(struct statement *st, void *target)
{
    if (!statement_take_word(st, "answers")) {
        lex_fault(st->lx, statement_peek(st)->place, "expected like: no answers");
        return false;
    }
    return ((struct world_change *)target)->faults.no_answers = true;
}

static bool read_format(struct statement *st, void *target)
{
    return statement_format(st, &((struct world_change *)target)->faults.format);
}

static bool read_fifo(struct statement *st, void *target)
{
    return statement_number(st, "the bytes that the receiver keeps", 1, 255,
                            &((struct world_change *)target)->faults.fifo);
}

static bool read_service(struct statement *st, void *target)
{
    struct faults *faults = &((struct world_change *)target)->faults;
    if (!faults->fifo) faults->fifo = 1;
    return world_read_us(st, "how often the receiver is looked at", &faults->service_us);
}

static bool read_poll(struct statement *st, void *target)
{
    return world_read_us(st, "how often the host asks",
                         &((struct world_change *)target)->reports.poll_us);
}

static bool read_modem_bits(struct statement *st, void *target)
{
    return statement_number(st, "bits a second on the air", 10, 10000000,
                            &((struct world_change *)target)->modem.bits_a_second);
}

static bool read_payload(struct statement *st, void *target)
{
    return statement_number(st, "the most bytes of a packet", 1, 255,
                            &((struct world_change *)target)->modem.payload);
}

static bool read_buffer(struct statement *st, void *target)
{
    return statement_number(st, "the bytes that may wait", 1, HOP_BUFFER,
                            &((struct world_change *)target)->modem.buffer);
}

static bool read_cut(struct statement *st, void *target)
{
    return world_read_us(st, "the pause that ends a packet",
                         &((struct world_change *)target)->modem.pause_us);
}

READ_CHANCE(modem_loss, modem.loss, "how many packets do not come")

static const struct attribute cable[] = {{"baud", read_baud, 0},
                                         {"format", read_format, 0},
                                         {"noise", read_noise, 0},
                                         {"loss", read_lost, 0},
                                         {"duplicate", read_byte_twice, 0},
                                         {"open", read_open, 0},
                                         {"crossed", read_crossed, 0},
                                         {"no", read_no, 0},
                                         {"echo", read_echo, 0},
                                         {"service", read_service, 0},
                                         {"fifo", read_fifo, 0},
                                         {"typing", read_typing, 0},
                                         {"latency", read_latency, WORLD_BRIDGE},
                                         {"clumps", read_clumps, WORLD_BRIDGE},
                                         {"out", read_out, WORLD_BRIDGE},
                                         {NULL, NULL, 0}};

static const struct attribute modem[] = {{"bits", read_modem_bits, 0},
                                         {"payload", read_payload, 0},
                                         {"pause", read_cut, 0},
                                         {"buffer", read_buffer, 0},
                                         {"loss", read_modem_loss, 0},
                                         {"half", read_half, 0},
                                         {NULL, NULL, 0}};

static bool read_with(struct statement *st, void *target);

static const struct attribute air[] = {{"with", read_with, 0},  {"bits", read_bits, 0},
                                       {"loss", read_loss, 0},  {"duplicate", read_twice, 0},
                                       {"delay", read_late, 0}, {"errors", read_errors, 0},
                                       {"duty", read_duty, 0},  {NULL, NULL, 0}};

static const struct attribute reports[] = {{"poll", read_poll, 0},
                                           {"unplugged", read_unplugged, 0},
                                           {"stale", read_stale, 0},
                                           {NULL, NULL, 0}};

static bool read_places(struct statement *st, void *target)
{
    return statement_number(st, "the messages that it can store", 1, 255,
                            &((struct world_change *)target)->sms.manner.places);
}

/* A time up to a day. */
static bool read_long(struct statement *st, const char *what, uint64_t *us)
{
    uint32_t ms;
    if (!statement_time(st, what, 1, 86400000, &ms)) return false;
    *us = ms * UINT64_C(1000);
    return true;
}

#define READ_LONG(name, member, what)                                         \
    static bool read_##name(struct statement *st, void *target)               \
    {                                                                         \
        return read_long(st, what, &((struct world_change *)target)->member); \
    }
READ_LONG(answers, sms.manner.answers_us, "how long it takes to answer")
READ_LONG(sends, sms.manner.sends_us, "how long it takes to send")
READ_LONG(delay, sms.faults.delay_us, "how long a message is under way")
READ_LONG(spread, sms.faults.spread_us, "how much longer some are")

static const struct attribute sms[] = {{"places", read_places, 0},
                                       {"answers", read_answers, 0},
                                       {"sends", read_sends, 0},
                                       {"delay", read_delay, 0},
                                       {"spread", read_spread, 0},
                                       {"loss", read_sms_loss, 0},
                                       {"duplicate", read_sms_twice, 0},
                                       {"rejects", read_rejects, 0},
                                       {"rubbish", read_rubbish, 0},
                                       {"chatty", read_chatty, 0},
                                       {"text", read_text, 0},
                                       {"silent", read_silent, 0},
                                       {"off", read_off, 0},
                                       {"resets", read_resets, 0},
                                       {"unregistered", read_unregistered, 0},
                                       {"timeless", read_timeless, 0},
                                       {"locked", read_pin, 0},
                                       {NULL, NULL, 0}};

/* ---- links ---- */

static const struct lexicon *lexicon_of(const struct world_file *file, unsigned device)
{
    return device ? ((struct world_device *)file->devices->pdata[device - 1])->lx : file->lx;
}

/* The name behind a device's, "skiff" of "two.skiff"; NULL: there is no such device. */
static const char *behind_device(const struct world_file *file, const char *name,
                                 struct world_place *place)
{
    const char *dot = strchr(name, '.');
    place->device = 0;
    for (unsigned i = 0; dot && i < file->devices->len && !place->device; i++) {
        const char *device = ((struct world_device *)file->devices->pdata[i])->name;
        if (strlen(device) == (size_t)(dot - name) && !strncmp(device, name, strlen(device)))
            place->device = i + 1;
    }
    return dot && !place->device ? NULL : dot ? dot + 1 : name;
}

/* A link "skiff", or "two.skiff"; NULL: there is none. */
static const struct lex_link *link_called(const struct world_file *file, const char *name,
                                          struct world_place *place)
{
    name = behind_device(file, name, place);
    const struct lexicon *lx = lexicon_of(file, place->device);
    for (place->link = 0; name && place->link < lx->links->len; place->link++) {
        const struct lex_link *link = lx->links->pdata[place->link];
        if (!strcmp(link->name, name)) return link;
    }
    return NULL;
}

const struct lex_input *world_named_input(struct statement *st, struct world_place *place)
{
    struct target *t = st->lx->target;
    struct token *token = statement_take(st);
    const char *name =
        token->kind == TOKEN_WORD ? behind_device(t->file, token->text, place) : NULL;
    struct lex_input *in = name ? lexicon_input(lexicon_of(t->file, place->device), name) : NULL;
    if (in) return in;
    if (token->kind == TOKEN_WORD)
        lex_fault(st->lx, token->place, "there is no input '%s'", token->text);
    else
        lex_fault(st->lx, token->place, "expected an input of the lexicon");
    return NULL;
}

/* What the links of these media are called; owned by the caller. */
static char *names_of(const struct world_file *file, unsigned media)
{
    GString *all = g_string_new(NULL);
    for (unsigned d = 0; d <= file->devices->len; d++) {
        const struct lexicon *lx = lexicon_of(file, d);
        const char *device = d ? ((struct world_device *)file->devices->pdata[d - 1])->name : NULL;
        for (unsigned i = 0; i < lx->links->len; i++) {
            const struct lex_link *link = lx->links->pdata[i];
            if (media >> link->medium & 1)
                g_string_append_printf(all, "%s%s%s%s", all->len ? ", " : "", device ? device : "",
                                       device ? "." : "", link->name);
        }
    }
    return g_string_free(all, FALSE);
}

/* The link that is named; NULL after a fault. */
const struct lex_link *world_named_link(struct statement *st, unsigned media,
                                        struct world_place *place)
{
    struct target *t = st->lx->target;
    struct token *token = statement_take(st);
    const char *name = token->kind == TOKEN_WORD ? token->text : NULL;
    const struct lex_link *link = name ? link_called(t->file, name, place) : NULL;
    if (link && media >> link->medium & 1) return link;
    char *all = names_of(t->file, media);
    if (name)
        lex_fault(st->lx, token->place, "'%s' is no link of this kind%s", name,
                  *all ? "" : "; there is none");
    else
        lex_fault(st->lx, token->place, "expected a link of the lexicon");
    if (*all) {
        struct lex_fault *fault = st->lx->faults->pdata[st->lx->faults->len - 1];
        fault->advice = g_strdup(all);
    }
    g_free(all);
    return NULL;
}

static bool same_place(struct world_place a, struct world_place b)
{
    return a.device == b.device && a.link == b.link;
}

/* Joined once at most, and never with itself. */
static void join(struct statement *st, struct lex_place place, GArray *joins,
                 struct world_join join)
{
    struct target *t = st->lx->target;
    if (join.a.device == join.b.device) {
        lex_fault(st->lx, place, "both are links of one device: it would speak to itself");
        return;
    }
    for (unsigned i = 0; i < joins->len; i++) {
        const struct world_join *other = &g_array_index(joins, struct world_join, i);
        bool again = joins == t->file->wires &&
                     (same_place(other->a, join.a) || same_place(other->b, join.a));
        if (again || same_place(other->a, join.b) || same_place(other->b, join.b)) {
            lex_fault(st->lx, place, "it is joined already");
            return;
        }
    }
    g_array_append_val(joins, join);
}

/* air skiff with two.skiff */
static bool read_with(struct statement *st, void *target)
{
    struct target *t = st->lx->target;
    struct world_join both = {.a = ((struct world_change *)target)->place};
    struct lex_place place = statement_peek(st)->place;
    if (t->at_us) {
        lex_fault(st->lx, place, "who is in reach does not change later");
        return false;
    }
    if (!world_named_link(st, 1u << LEX_RADIO, &both.b)) return false;
    join(st, place, t->file->airs, both);
    return true;
}

/* wire bench to two.bench */
void world_read_wire(struct statement *st)
{
    struct target *t = st->lx->target;
    struct world_join both;
    if (!world_named_link(st, WORLD_WIRED, &both.a)) return;
    if (!statement_take_word(st, "to")) {
        lex_fault(st->lx, statement_peek(st)->place, "expected 'to' and the other device's link");
        return;
    }
    struct lex_place place = statement_peek(st)->place;
    if (!world_named_link(st, WORLD_WIRED, &both.b)) return;
    g_free(statement_title(st));
    join(st, place, t->file->wires, both);
}

/* The last statement of the link; at first nothing is wrong with it. */
static struct world_change last_of(const struct world_file *file, enum world_what what,
                                   struct world_place place)
{
    struct world_change change = {.what = what, .place = place};
    const struct lex_link *of = lexicon_of(file, place.device)->links->pdata[place.link];
    change.air = (struct air){
        .payload = of->payload ? of->payload : 255, .bits_a_second = 50000, .before_us = 1000};
    change.modem = (struct modem){
        .bits_a_second = 9600, .before_us = 5000, .payload = 58, .pause_us = 20000, .buffer = 512};
    change.sms.manner = (struct sms_manner){.answers_us = 20000, .sends_us = 2000000, .places = 10};
    change.sms.faults.delay_us = 3000000;
    for (unsigned i = 0; i < file->changes->len; i++) {
        const struct world_change *other = &g_array_index(file->changes, struct world_change, i);
        if (other->what == what && same_place(other->place, place)) change = *other;
    }
    return change;
}

static void read_change(struct statement *st, enum world_what what, unsigned media,
                        const struct attribute *known, const char *called)
{
    struct target *t = st->lx->target;
    struct world_place place;
    const struct lex_link *named = world_named_link(st, media, &place);
    if (!named) return;
    struct world_change change = last_of(t->file, what, place);
    struct faults *faults = &change.faults;
    change.at_us = t->at_us;
    faults->open = faults->crossed = faults->no_answers = faults->out_of_range = faults->echo =
        false;
    struct sms_manner *manner = &change.sms.manner;
    change.sms.off = change.sms.resets = manner->silent = manner->unregistered = false;
    manner->clock_unset = manner->pin_wanted = false;
    change.reports.unplugged = change.reports.stale = change.modem.half = false;
    if (!statement_attributes(st, known, named->medium, statement_any_kind,
                              called ? called : lex_media[named->medium], &change))
        return;
    g_free(statement_title(st));
    g_array_append_val(t->file->changes, change);
}

void world_read_cable(struct statement *st)
{
    read_change(st, WORLD_CABLE, WORLD_WIRED, cable, NULL);
}

void world_read_modem(struct statement *st)
{
    read_change(st, WORLD_MODEM, 1u << LEX_MODEM, modem, NULL);
}

void world_read_air(struct statement *st)
{
    read_change(st, WORLD_AIR, 1u << LEX_RADIO, air, "air");
}

void world_read_sms(struct statement *st)
{
    read_change(st, WORLD_SMS, 1u << LEX_SMS, sms, NULL);
}

void world_read_reports(struct statement *st)
{
    read_change(st, WORLD_REPORTS, 1u << LEX_REPORT, reports, NULL);
}
