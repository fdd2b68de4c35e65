/* The reference model: the library with a lexicon's tables on the simulated board.
 * Handlers are stand-ins that answer as done, and tell who asks.
 * When it runs is decided in running.c. */
#include "world/run/running_parts.h"

#include <string.h>

#include "rlx/rlx.h"
#include "world/run/stand_in.h"

/* A main loop that has polled this often without coming to rest hangs. */
#define POLLS_MAX 100000

struct tables {
    struct sim_board board;
    struct rlx_device core, fresh; /* fresh: as it is before it starts */
    struct rlx_link *links;
    struct rlx_output *outputs;
    struct rlx_input *inputs;
    struct rlx_routine *routines;
    rlx_value *settings;
    uint8_t *setting_texts;
    uint8_t **buffers;
    struct rlx_sender **senders;
    struct rlx_session **sessions;
    struct rlx_pending **events;
    struct rlx_sms **sms;
    rlx_fn *handlers, *invokers; /* handlers: their numbers from 1 on, never called as they are */
    const GPtrArray *called;     /* struct lex_command *, by the number of the handler */
    struct stand_in_last *last;  /* by the same */
    uint8_t n_links;
};

static void on_receive(void *user, uint8_t uart, uint8_t byte)
{
    struct device *device = user;
    if (uart < device->tables->n_links) rlx_link_feed(&device->tables->links[uart], byte);
}

static void on_fault(void *user, uint8_t uart)
{
    struct device *device = user;
    if (uart < device->tables->n_links) rlx_link_fault(&device->tables->links[uart]);
}

static bool on_transmit(void *user, uint8_t uart, uint8_t *byte)
{
    struct device *device = user;
    return uart < device->tables->n_links && rlx_link_take(&device->tables->links[uart], byte);
}

/* What is answered are the least values that there are. */
static int stand_in(rlx_fn handler, void *user, rlx_value *value, const uint8_t *frame)
{
    const struct device *device = user;
    const unsigned number = (unsigned)((uintptr_t)handler - 1);
    struct tables *tables = device->tables;
    const struct lex_command *command = tables->called->pdata[number];
    (void)frame;
    if (device->called) device->called(device->called_user, number, value);
    for (unsigned i = 0; command->told && i < command->told->len; i++) {
        const struct lex_element *e = command->told->pdata[i];
        if (e->kind == LEX_NUMBER) value[tables->core.n_values + i] = e->low;
    }
    if (device->idle) return 0;
    return stand_in_act(&tables->core, device->lx, tables->called, number, value, tables->last);
}

/* Reports are pieces of a line; a message comes from the first of those who may send any. */
static void on_packet(void *user, uint8_t link, const uint8_t *bytes, uint8_t count)
{
    struct device *device = user;
    if (link >= device->tables->n_links) return;
    const struct lex_link *l = device->lx->links->pdata[link];
    if (l->frame == LEX_FRAME_REPORT)
        rlx_link_feed_report(&device->tables->links[link], bytes, count);
    else if (l->frame == LEX_FRAME_MESSAGE)
        rlx_link_message(&device->tables->core, link, (const char *)bytes, count, 1);
    else
        rlx_link_feed_packet(&device->tables->links[link], bytes, count);
}

static void table_sink(void *user, struct sim_event event)
{
    struct device *device = user;
    device->out(device->user, event);
}

/* Raw bytes are the firmware's, and there is none. */
static void drop_raw(struct rlx_device *core)
{
    uint8_t bytes[RLX_RING_MAX];
    bool lost;
    for (uint8_t i = 0; i < core->n_links; i++)
        while (rlx_raw_read(core, i, bytes, sizeof bytes, &lost)) {}
}

static void run_tables(struct device *device)
{
    device->tables->board.now_us = device->world->now_us;
    uint32_t wait;
    unsigned polls = 0;
    do {
        uint32_t now = device->start_ms + (uint32_t)device_counted_ms(device);
        wait = rlx_poll(&device->tables->core, now);
        drop_raw(&device->tables->core);
        if (++polls == POLLS_MAX) {
            device_fail(device, "the device does not come to rest");
            return;
        }
    } while (!wait || !rlx_idle(&device->tables->core));
    device_sleep(device, wait);
}

struct device *device_of_image(struct world *world, const struct lexicon *lx,
                               const struct image *image, uint32_t start_ms, GError **error)
{
    struct device *device = g_new0(struct device, 1);
    device->kind = &device_tables;
    device->tables = g_new0(struct tables, 1);
    unsigned n = lx->links->len, n_invokers = MAX(image->signatures->len, 1);
    device->world = world;
    device->first_ms = start_ms;
    device->tables->links = g_new0(struct rlx_link, n);
    device->tables->buffers = g_new0(uint8_t *, n);
    device->tables->senders = g_new0(struct rlx_sender *, n);
    device->tables->sessions = g_new0(struct rlx_session *, n);
    device->tables->events = g_new0(struct rlx_pending *, n);
    device->tables->sms = g_new0(struct rlx_sms *, n);
    device->lx = lx;
    device->tables->outputs = g_new0(struct rlx_output, lx->outputs->len + 1);
    device->tables->inputs = g_new0(struct rlx_input, lx->inputs->len + 1);
    device->tables->routines = g_new0(struct rlx_routine, lx->routines->len + 1);
    device->tables->settings = g_new0(rlx_value, lex_n_settings(lx) + 1);
    device->tables->setting_texts = g_malloc0(image->setting_texts + 1);
    device->tables->invokers = g_new(rlx_fn, n_invokers);
    for (unsigned i = 0; i < n_invokers; i++) device->tables->invokers[i] = (rlx_fn)stand_in;
    device->tables->handlers = g_new(rlx_fn, image->handlers->len + 1);
    device->tables->called = image->handlers;
    device->tables->last = g_new0(struct stand_in_last, image->handlers->len + 1);
    for (unsigned i = 0; i < image->handlers->len; i++)
        device->tables->handlers[i] = (rlx_fn)((uintptr_t)i + 1);
    for (unsigned i = 0; i < n; i++) {
        struct lex_link *link = lx->links->pdata[i];
        device->tables->buffers[i] =
            g_malloc0(RLX_LINK_BUFFER(link->receive, link->transmit, link->longest));
        device->tables->links[i].buffer = device->tables->buffers[i];
        if (link->tags)
            device->tables->links[i].senders = device->tables->senders[i] =
                g_new0(struct rlx_sender, 32);
        if (link->seal)
            device->tables->links[i].sessions = device->tables->sessions[i] =
                g_new0(struct rlx_session, LEX_SEAL_KEYS_MOST);
        if (lx->events->len)
            device->tables->links[i].events = device->tables->events[i] =
                g_new0(struct rlx_pending, lx->events->len);
        if (lex_drives_modem(link))
            device->tables->links[i].sms = device->tables->sms[i] = g_new0(struct rlx_sms, 1);
    }
    device->tables->n_links = (uint8_t)n;
    device->tables->core = (struct rlx_device){
        .image = image->bytes->data,
        .handlers = device->tables->handlers,
        .invokers = device->tables->invokers,
        .links = device->tables->links,
        .outputs = device->tables->outputs,
        .inputs = device->tables->inputs,
        .routines = device->tables->routines,
        .settings = device->tables->settings,
        .setting_texts = device->tables->setting_texts,
        .nv_area = (uint16_t)lex_nv_area(lx),
        .port = &device->tables->board,
        .user = device,
    };
    device->tables->board.nv_page = lx->nv_page;
    device->tables->fresh = device->tables->core;
    if (n > SIM_UARTS) {
        g_set_error(error, G_FILE_ERROR, G_FILE_ERROR_INVAL,
                    "the simulated board has %d UARTs, not %u", SIM_UARTS, n);
        device_free(device);
        return NULL;
    }
    return device;
}

static const char *refusal(int error)
{
    switch (-error) {
#define SENTENCE(number, id, name, sentence) \
    case number: return sentence;
        RLX_INIT_ERRORS(SENTENCE)
#undef SENTENCE
    default: return "for no reason that is known";
    }
}

/* Links with nothing in them but where their memory is. */
static void clear_links(struct device *device)
{
    for (unsigned i = 0; i < device->tables->n_links; i++) {
        struct rlx_sender *senders = device->tables->senders[i];
        struct rlx_session *sessions = device->tables->sessions[i];
        if (senders) memset(senders, 0, 32 * sizeof *senders);
        if (sessions) memset(sessions, 0, LEX_SEAL_KEYS_MOST * sizeof *sessions);
        if (device->tables->events[i])
            memset(device->tables->events[i], 0,
                   device->lx->events->len * sizeof *device->tables->events[i]);
        if (device->tables->sms[i])
            memset(device->tables->sms[i], 0, sizeof *device->tables->sms[i]);
        device->tables->links[i] = (struct rlx_link){.buffer = device->tables->buffers[i],
                                                     .senders = senders,
                                                     .sessions = sessions,
                                                     .events = device->tables->events[i],
                                                     .sms = device->tables->sms[i]};
    }
}

static void start_tables(struct device *device, enum rlx_reset cause)
{
    clear_links(device);
    memset(device->tables->outputs, 0, device->lx->outputs->len * sizeof *device->tables->outputs);
    memset(device->tables->inputs, 0, device->lx->inputs->len * sizeof *device->tables->inputs);
    memset(device->tables->routines, 0,
           device->lx->routines->len * sizeof *device->tables->routines);
    device->tables->core = device->tables->fresh;
    memset(device->tables->last, 0, (device->tables->called->len + 1) * sizeof *device->tables->last);
    device->tables->board.interrupts =
        (struct sim_interrupts){device, on_receive, on_transmit, on_packet, on_fault};
    sim_board_init(&device->tables->board, table_sink, device, device->start_ms, cause);
    device->tables->board.nv_kept = true;
    device_hand_wiring(device);
    int error = rlx_init(&device->tables->core, cause);
    if (error)
        device_fail(device, "rlx_init() refused the image: %s", refusal(error));
    else
        run_tables(device);
}

static bool hand_tables(struct device *device, struct sim_event event)
{
    sim_board_in(&device->tables->board, event);
    return true;
}

struct rlx_device *device_core(struct device *device)
{
    return device->tables ? &device->tables->core : NULL;
}

struct sim_board *device_board(struct device *device)
{
    return device->tables ? &device->tables->board : NULL;
}

bool device_tell(struct device *device, unsigned event, unsigned word)
{
    if (!device->tables || device->failure || !device->on) return false;
    bool told = !rlx_event(&device->tables->core, (uint8_t)event, (uint8_t)word);
    run_tables(device);
    return told;
}

bool device_note(struct device *device, const char *text)
{
    if (!device->tables || device->failure || !device->on) return false;
    bool noted = rlx_note(&device->tables->core, text);
    run_tables(device);
    return noted;
}

static void free_tables(struct device *device)
{
    struct tables *t = device->tables;
    for (unsigned i = 0; t->buffers && i < t->n_links; i++) {
        g_free(t->buffers[i]);
        g_free(t->senders[i]);
        g_free(t->sessions[i]);
        g_free(t->events[i]);
        g_free(t->sms[i]);
    }
    g_free(t->buffers);
    g_free(t->senders);
    g_free(t->sessions);
    g_free(t->events);
    g_free(t->sms);
    g_free(t->links);
    g_free(t->outputs);
    g_free(t->inputs);
    g_free(t->routines);
    g_free(t->settings);
    g_free(t->setting_texts);
    g_free(t->handlers);
    g_free(t->last);
    g_free(t->invokers);
    g_free(t);
}

static void keep_tables(struct device *device, const uint8_t *nv, size_t count)
{
    memcpy(device->tables->board.nv, nv, count);
    device->tables->board.nv_kept = true;
}

const struct device_kind device_tables = {.hand = hand_tables,
                                          .run = run_tables,
                                          .start = start_tables,
                                          .free = free_tables,
                                          .keep = keep_tables};
