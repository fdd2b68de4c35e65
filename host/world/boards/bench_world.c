/* Sets a bench up from a world file, and changes it as the file has it.
 * Cables, air, bridges and modems are made from the file's statements.
 * It reads no file. */
#include "world/boards/bench_parts.h"

#include <string.h>

struct change {
    struct bench *bench;
    const struct world_change *is;
};

static struct board *board_at(const struct bench *bench, struct world_place place)
{
    return bench->boards->pdata[place.device];
}

static struct end *end_at(const struct bench *bench, struct world_place place)
{
    return board_at(bench, place)->ends->pdata[place.link];
}

/* ---- in the air ---- */

static void on_controller(void *user, enum rlx_delivery what, uint16_t tag, const char *text,
                          unsigned count)
{
    struct speaker *speaker = user;
    struct sight sight = {.kind = what == RLX_CLIENT_UNKNOWN || what == RLX_CLIENT_DROPPED
                                      ? SIGHT_UNKNOWN
                                  : what == RLX_CLIENT_SENT ? SIGHT_AWAY
                                                            : SIGHT_KNOWN,
                          .board = speaker->end->board,
                          .end = speaker->end,
                          .name = speaker->name,
                          .text = text,
                          .count = count};
    (void)tag;
    if (what != RLX_CLIENT_EVENT) speaker->waits--;
    bench_tell(speaker->bench, &sight);
}

/* The air itself hears nothing of what it carries. */
static void on_nothing(void *user, const uint8_t *bytes, unsigned count)
{
    (void)user, (void)bytes, (void)count;
}

static void on_air(void *user, enum radio_event what, unsigned from, unsigned to,
                   const uint8_t *bytes, unsigned count)
{
    struct medium *medium = user;
    struct end *of = medium->first;
    bool own = false;
    (void)to;
    for (unsigned i = 0; i < medium->bench->ends->len; i++) {
        struct end *end = medium->bench->ends->pdata[i];
        if (end->medium != medium || end->aerial->node != from) continue;
        own = true;
        of = end;
    }
    struct sight sight = {.kind = SIGHT_AIR,
                          .board = of->board,
                          .end = of,
                          .name = of->name,
                          .text = (const char *)bytes,
                          .count = count,
                          .air = what,
                          .own = own && what == RADIO_SENT};
    bench_tell(medium->bench, &sight);
}

static void join_air(struct medium *medium, struct end *end)
{
    end->medium = medium;
    end->aerial = aerial_new(medium->radio, end->board->device, (uint8_t)end->link);
}

/* The link is on the air from now on; at first it was perfect. */
static void begin_air(struct end *end, const struct air *air)
{
    struct bench *bench = end->board->bench;
    const struct world_file *file = bench->options->world; /* NULL: nothing else is in the air */
    if (end->medium) return;
    struct medium *medium = g_new0(struct medium, 1);
    *medium = (struct medium){.bench = bench, .first = end};
    medium->radio = radio_new(bench->world, (file ? file->seed : 1) + end->link, *air);
    radio_watch(medium->radio, on_air, medium);
    g_ptr_array_add(bench->mediums, medium);
    join_air(medium, end);
    for (unsigned i = 0; file && i < file->airs->len; i++) {
        const struct world_join *join = &g_array_index(file->airs, struct world_join, i);
        if (end_at(bench, join->a) == end) join_air(medium, end_at(bench, join->b));
    }
}

/* With which keys it seals and hears. */
static void give_keys(struct manner *manner, const struct lexicon *lx, const struct lex_link *of)
{
    unsigned number = 0;
    const struct lex_seal_key *key = keys_of_sender(lx, of, manner->from, &number);
    GPtrArray *all = lex_keys_of(lx, of);
    if (key) {
        const struct lex_seal_key *first = all->pdata[0];
        manner->key = keys_sample(key->name);
        manner->key_number = (uint8_t)number;
        manner->context = lex_seal_context(lx, of);
        manner->halt_sealed = of->seal_halt;
        manner->key_to_all_number = 1; /* the first key seals what goes to all */
        manner->key_to_all = number > 1 ? keys_sample(first->name) : NULL;
    }
    g_ptr_array_free(all, TRUE);
}

static void on_recorded(void *user, const uint8_t *bytes, unsigned count)
{
    struct speaker *speaker = user;
    g_ptr_array_add(speaker->recorded, g_bytes_new(bytes, count));
}

static void add_attacker(struct bench *bench, struct end *end, const struct world_controller *c)
{
    struct speaker *speaker = g_new0(struct speaker, 1);
    *speaker = (struct speaker){.bench = bench, .name = c->name, .end = end};
    speaker->radio = end->medium->radio;
    speaker->recorded = g_ptr_array_new_with_free_func((GDestroyNotify)g_bytes_unref);
    speaker->node = radio_join(speaker->radio, on_recorded, speaker);
    g_ptr_array_add(bench->speakers, speaker);
}

static void add_speaker(struct bench *bench, struct end *end, const struct world_controller *c)
{
    struct speaker *speaker = g_new0(struct speaker, 1);
    struct manner manner = {.to = (uint8_t)MAX(end->of->address, 0),
                            .no_address = end->of->address < 0,
                            .from = (uint8_t)c->from,
                            .tries = (uint8_t)c->tries,
                            .pause_ms = (uint16_t)c->pause_ms,
                            .window_ms = end->of->window,
                            .fixed = (uint8_t)end->of->length,
                            .pad = end->of->pad,
                            .check = end->of->check != LEX_DEMAND_OFF,
                            .one_way = c->one_way,
                            .all = c->all};
    if (end->of->seal) give_keys(&manner, end->board->lx, end->of);
    *speaker = (struct speaker){.bench = bench, .name = c->name, .end = end};
    speaker->controller =
        controller_new(bench->world, end->medium->radio, manner, on_controller, speaker);
    g_ptr_array_add(bench->speakers, speaker);
}

/* Nobody types a seal: what is said over a radio link with seals goes by a controller. */
static void add_sealer(struct bench *bench, struct end *end)
{
    static const struct air clear = {.payload = 255, .bits_a_second = 50000, .before_us = 1000};
    const struct lexicon *lx = end->board->lx;
    unsigned number;
    if (!end->of->seal || end->of->medium != LEX_RADIO || bench_speaker_to(bench, end)) return;
    const struct lex_seal_key *key = keys_of_sender(lx, end->of, 0, &number);
    if (!key) return;
    begin_air(end, &clear);
    const struct world_controller c = {
        .name = key->name, .from = key->sender, .tries = 4, .pause_ms = 200};
    add_speaker(bench, end, &c);
}

/* How the air of this link is at first. */
static struct air air_of(const struct world_file *file, struct world_place place,
                         const struct end *end)
{
    struct air air = {.payload = end->of->payload ? end->of->payload : 255,
                      .bits_a_second = 50000,
                      .before_us = 1000};
    for (unsigned i = file->changes->len; i--;) {
        const struct world_change *c = &g_array_index(file->changes, struct world_change, i);
        if (c->what == WORLD_AIR && c->place.device == place.device && c->place.link == place.link)
            air = c->air;
    }
    return air;
}

/* Who sends there what no controller sends. */
static void join_sender(struct end *end)
{
    if (end->medium && !bench_speaker_to(end->board->bench, end))
        end->sender = radio_join(end->medium->radio, on_nothing, NULL);
}

static void begin_airs(struct bench *bench, const struct world_file *file)
{
    for (unsigned i = 0; i < file->airs->len; i++) {
        struct world_place place = g_array_index(file->airs, struct world_join, i).a;
        struct air air = air_of(file, place, end_at(bench, place));
        begin_air(end_at(bench, place), &air);
    }
    for (unsigned i = 0; i < file->controllers->len; i++) {
        const struct world_controller *c =
            &g_array_index(file->controllers, struct world_controller, i);
        struct air air = air_of(file, c->place, end_at(bench, c->place));
        begin_air(end_at(bench, c->place), &air);
        (c->attacker ? add_attacker : add_speaker)(bench, end_at(bench, c->place), c);
    }
    for (unsigned i = 0; i < file->changes->len; i++) {
        const struct world_change *c = &g_array_index(file->changes, struct world_change, i);
        if (c->what == WORLD_AIR) begin_air(end_at(bench, c->place), &c->air);
    }
    for (unsigned i = 0; i < bench->ends->len; i++) join_sender(bench->ends->pdata[i]);
}

/* ---- what is so from a time on ---- */

/* The greeting of a board that shares its line with a loader comes when that is over. */
static void on_loaded(void *data, uint32_t cause)
{
    struct board *board = data;
    device_on(board->device, (enum rlx_reset)cause);
    if (!board->started && board->loads) loads_begin(board->loads);
    board->started = true;
    for (unsigned i = 0; i < board->ends->len; i++) bench_show_state(board->ends->pdata[i]);
}

void bench_power(struct board *board, enum rlx_reset cause)
{
    struct bench *bench = board->bench;
    const struct world_file *file = bench->options->world;
    uint32_t for_us = 0;
    bench_renew_sticks(board);
    for (unsigned i = 0; file && i < file->loaders->len; i++) {
        const struct world_loader *l = &g_array_index(file->loaders, struct world_loader, i);
        if (board_at(bench, l->place) != board) continue;
        struct end *end = end_at(bench, l->place);
        if (l->says)
            serial_load(end->serial, l->says, strlen(l->says),
                        l->baud ? l->baud : end->serial->is.baud);
        if (l->hears) bench_type(end, l->hears, strlen(l->hears));
        for_us = MAX(for_us, l->for_us);
    }
    if (for_us)
        world_at(bench->world, bench->world->now_us + for_us, on_loaded, board, cause);
    else
        on_loaded(board, cause);
}

static void reset(struct bench *bench, const struct world_change *change)
{
    static const char *const causes[] = {
#define NAME(id, name) name,
        RLX_RESETS(NAME)
#undef NAME
    };
    struct board *board = board_at(bench, change->place);
    bench_tell_about(board, NULL, SIGHT_RESET, *board->name ? board->name : board->lx->name,
                     causes[change->cause]);
    device_off(board->device);
    bench_power(board, change->cause);
}

void bench_show_state(struct end *end)
{
    const struct lex_link *of = end->of;
    bool bridge = of->medium == LEX_BRIDGE && (end->bridge || end->serial->draw);
    bool gone = end->bridge ? end->bridge->partner == NULL : end->serial->faults.out_of_range;
    if (end->reports && end->board->bench->options->world && of->state_pin != LEX_NO_PIN &&
        end->changed)
        gone = end->unplugged;
    else if (!bridge || of->state_pin == LEX_NO_PIN)
        return;
    if (end->board->started) bench_set_pin(end->board, of->state_pin, gone == of->state_low);
}

static void make_so(struct bench *bench, const struct world_change *change)
{
    const bool of_link = change->what != WORLD_RESET && change->what != WORLD_PUSH;
    struct end *end = of_link ? end_at(bench, change->place) : NULL;
    switch (change->what) {
    case WORLD_CABLE:
        serial_faults(end->serial, &change->faults, &bench->draw);
        if (end->wired) serial_join(end->serial, end->wired->serial, &bench->draw);
        if (end->bridge)
            bench_reach(end);
        else
            bench_show_state(end);
        break;
    case WORLD_MODEM: hop_modem(end->serial->hop, &change->modem, &bench->draw); break;
    case WORLD_AIR: radio_air(end->medium->radio, change->air); break;
    case WORLD_REPORTS:
        reports_manner(end->reports, &change->reports);
        end->changed = true;
        end->unplugged = change->reports.unplugged;
        bench_show_state(end);
        break;
    case WORLD_SMS: bench_sms(end, &change->sms); break;
    case WORLD_CONNECT: bench_connect(end, change->connect.name, change->connect.code); break;
    case WORLD_LEAVE: bench_leave(end); break;
    case WORLD_RESET: reset(bench, change); break;
    case WORLD_PUSH:
        bench_push(bench->boards->pdata[change->place.device], change->input, change->on);
        break;
    }
}

static void on_change(void *data, uint32_t unused)
{
    struct change *change = data;
    (void)unused;
    make_so(change->bench, change->is);
}

void bench_now(struct bench *bench, const struct world_file *more)
{
    for (unsigned i = more->known; i < more->changes->len; i++) {
        const struct world_change *change = &g_array_index(more->changes, struct world_change, i);
        struct end *end = change->what == WORLD_AIR ? end_at(bench, change->place) : NULL;
        if (end && !end->medium) {
            begin_air(end, &change->air);
            join_sender(end);
        }
        make_so(bench, change);
    }
}

/* ---- begin and end ---- */

static void begin_wires(struct bench *bench, const struct world_file *file)
{
    for (unsigned i = 0; i < file->wires->len; i++) {
        const struct world_join *join = &g_array_index(file->wires, struct world_join, i);
        struct end *a = end_at(bench, join->a), *b = end_at(bench, join->b);
        a->wired = b;
        b->wired = a;
        serial_join(a->serial, b->serial, &bench->draw);
    }
}

void bench_begin_world(struct bench *bench)
{
    const struct world_file *file = bench->options->world;
    bench->draw = draw_from(file ? file->seed : 1);
    if (file) {
        begin_wires(bench, file);
        begin_airs(bench, file);
    }
    for (unsigned i = 0; i < bench->ends->len; i++) add_sealer(bench, bench->ends->pdata[i]);
    if (!file) return;
    for (unsigned i = 0; i < file->loaders->len; i++) { /* at another rate it has to be sampled */
        const struct world_loader *l = &g_array_index(file->loaders, struct world_loader, i);
        if (l->baud) end_at(bench, l->place)->serial->draw = &bench->draw;
    }
    bench_begin_bridges(bench);
    for (unsigned i = 0; i < file->changes->len; i++) {
        const struct world_change *is = &g_array_index(file->changes, struct world_change, i);
        if (!is->at_us && is->what != WORLD_CONNECT) {
            make_so(bench, is);
            continue;
        }
        struct change *change = g_new(struct change, 1);
        *change = (struct change){bench, is};
        g_ptr_array_add(bench->changes, change);
        world_at(bench->world, is->at_us, on_change, change, 0);
    }
}

void bench_end_world(struct bench *bench)
{
    for (unsigned i = 0; i < bench->speakers->len; i++) {
        struct speaker *speaker = bench->speakers->pdata[i];
        if (speaker->controller) controller_free(speaker->controller);
        if (speaker->recorded) g_ptr_array_free(speaker->recorded, TRUE);
        g_free(speaker);
    }
    for (unsigned i = 0; i < bench->mediums->len; i++) {
        struct medium *medium = bench->mediums->pdata[i];
        radio_free(medium->radio);
        g_free(medium);
    }
}
