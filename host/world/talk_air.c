#include "talk_parts.h"

#include <string.h>

struct way *talk_way(const struct talk *t, unsigned link)
{
    for (unsigned i = 0; i < t->ways->len; i++) {
        struct way *way = t->ways->pdata[i];
        if (way->link == link) return way;
    }
    return NULL;
}

static void on_controller(void *user, enum rlx_delivery what, uint8_t tag, const char *text,
                          unsigned count)
{
    struct way *way = user;
    struct talk *t = way->talk;
    trace_text(t->options->trace, t->world->now_us, what == RLX_UNKNOWN ? "unknown" : "known",
               way->name, text, count);
    if (what != RLX_TOLD) way->waits = false;
    if (t->options->plain) {
        fprintf(t->out, "%s%.*s\n", what == RLX_UNKNOWN ? "unknown " : "", (int)count, text);
        return;
    }
    talk_stamp(t, '@', way->name);
    if (what == RLX_UNKNOWN) fprintf(t->out, "nothing came back: nobody knows what became of ");
    talk_text(t, text, count);
    (void)tag;
}

/* The air itself hears nothing of what it carries. */
static void on_nothing(void *user, const uint8_t *bytes, unsigned count)
{
    (void)user, (void)bytes, (void)count;
}

static void on_watch(void *user, enum radio_event what, unsigned from, unsigned to,
                     const uint8_t *bytes, unsigned count)
{
    static const char *const words[] = {"sent",      "lost",    "collided", "came twice",
                                        "came late", "damaged", "not sent"};
    struct way *way = user;
    struct talk *t = way->talk;
    const struct lex_link *link = t->lx->links->pdata[way->link];
    (void)to;
    trace_text(t->options->trace, t->world->now_us, words[what], link->name, (const char *)bytes,
               count);
    if (t->options->plain) return;
    if (what == RADIO_SENT && from == way->aerial->node) return; /* it is told as it is said */
    talk_stamp(t, what == RADIO_SENT ? '>' : 'x', link->name);
    if (what != RADIO_SENT) fprintf(t->out, "%s: ", words[what]);
    talk_text(t, (const char *)bytes, count);
}

struct change {
    struct talk *talk;
    struct world_link link;
};

static void make_so(struct talk *t, const struct world_link *link)
{
    struct way *way = talk_way(t, link->link);
    if (way) radio_air(way->radio, link->air);
    if (!way) serial_faults(t->serials->pdata[link->link], &link->faults, &t->draw);
    const struct lex_link *of = t->lx->links->pdata[link->link];
    if (of->medium == LEX_BRIDGE && of->state_pin != LEX_NO_PIN && t->started)
        talk_set_pin(t, of->state_pin, link->faults.gone == of->state_low);
}

static void on_change(void *data, uint32_t unused)
{
    struct change *change = data;
    (void)unused;
    make_so(change->talk, &change->link);
}

static void on_reset(void *data, uint32_t cause)
{
    static const char *const causes[] = {
#define NAME(id, name) name,
        RLX_RESETS(NAME)
#undef NAME
    };
    struct talk *t = data;
    trace_text(t->options->trace, t->world->now_us, "reset", t->lx->name, causes[cause],
               strlen(causes[cause]));
    if (!t->options->plain) {
        talk_stamp(t, '!', "reset");
        fprintf(t->out, "%s\n", causes[cause]);
    }
    device_reset(t->device, (enum rlx_reset)cause);
}

static void begin_way(struct talk *t, const struct world_link *link)
{
    if (talk_way(t, link->link)) return;
    struct way *way = g_new0(struct way, 1);
    *way = (struct way){.talk = t, .link = link->link};
    way->radio = radio_new(t->world, t->options->world->seed + link->link, link->air);
    way->aerial = aerial_new(way->radio, t->device, (uint8_t)link->link);
    radio_watch(way->radio, on_watch, way);
    g_ptr_array_add(t->ways, way);
    const GArray *controllers = t->options->world->controllers;
    const struct lex_link *of = t->lx->links->pdata[link->link];
    for (unsigned i = 0; i < controllers->len && !way->controller; i++) {
        const struct world_controller *c = &g_array_index(controllers, struct world_controller, i);
        if (c->link != link->link) continue;
        struct manner manner = {.to = (uint8_t)of->address,
                                .from = (uint8_t)c->from,
                                .tries = (uint8_t)c->tries,
                                .pause_ms = (uint16_t)c->pause_ms,
                                .fixed = (uint8_t)of->length,
                                .check = of->check != LEX_DEMAND_OFF};
        way->name = c->name;
        way->controller = controller_new(t->world, way->radio, manner, on_controller, way);
    }
    if (!way->controller) way->sender = radio_join(way->radio, on_nothing, NULL);
}

/* What is so from the start, and what will be. */
void talk_begin_world(struct talk *t)
{
    const struct world_file *file = t->options->world;
    t->ways = g_ptr_array_new();
    t->changes = g_ptr_array_new_with_free_func(g_free);
    if (!file) return;
    t->draw = draw_from(file->seed);
    for (unsigned i = 0; i < file->controllers->len; i++) {
        unsigned number = g_array_index(file->controllers, struct world_controller, i).link;
        struct world_link clear = {.link = number};
        clear.air = (struct air){.payload = 255, .bits_a_second = 50000, .before_us = 1000};
        for (unsigned k = file->links->len; k--;)
            if (g_array_index(file->links, struct world_link, k).link == number)
                clear = g_array_index(file->links, struct world_link, k);
        begin_way(t, &clear);
    }
    for (unsigned i = 0; i < file->links->len; i++) {
        const struct world_link *link = &g_array_index(file->links, struct world_link, i);
        if (link->is_air) begin_way(t, link);
        if (!link->at_us) {
            make_so(t, link);
            continue;
        }
        struct change *change = g_new(struct change, 1);
        *change = (struct change){t, *link};
        g_ptr_array_add(t->changes, change);
        world_at(t->world, link->at_us, on_change, change, 0);
    }
    for (unsigned i = 0; i < file->resets->len; i++) {
        const struct world_reset *reset = &g_array_index(file->resets, struct world_reset, i);
        world_at(t->world, reset->at_us, on_reset, t, reset->cause);
    }
}

void talk_end_world(struct talk *t)
{
    for (unsigned i = 0; i < t->ways->len; i++) {
        struct way *way = t->ways->pdata[i];
        controller_free(way->controller);
        g_free(way->aerial);
        radio_free(way->radio);
        g_free(way);
    }
    g_ptr_array_free(t->ways, TRUE);
    g_ptr_array_free(t->changes, TRUE);
}

void talk_bridges(struct talk *t)
{
    const struct world_file *file = t->options->world;
    for (unsigned i = 0; file && i < file->links->len; i++) {
        const struct world_link *link = &g_array_index(file->links, struct world_link, i);
        if (!link->at_us) make_so(t, link);
    }
}
