/* A device that runs in a world: the library with a lexicon's tables, or a firmware program.
 * Events go in and come out at the world's time; several devices live side by side.
 * Links' other ends are the bench's. */
#include "world/run/running.h"

#include <errno.h>
#include <string.h>
#include <sys/mman.h>
#include <unistd.h>

#include "world/run/program.h"
#include "rlx/rlx.h"

/* A main loop that has polled this often without coming to rest hangs. */
#define POLLS_MAX 100000
/* A program that does so much before it sleeps, or runs so often in one moment, floods. */
#define DOINGS_MAX 100000
/* One whose code runs so long without a sleep does not come back to its main loop. */
#define BUSY_MAX_US UINT64_C(10000000)

struct device {
    struct world *world;
    device_out out;
    void *user;
    device_called called; /* NULL: nobody asks */
    void *called_user;
    char *failure;
    int32_t ppm;       /* its clock is faster by these */
    uint32_t start_ms; /* of its clock, where the world's began... */
    uint32_t first_ms; /* ...and when it is switched on next */
    uint32_t wake;     /* number of the wake-up that counts */
    bool on;
    bool paced[SIM_UARTS];
    bool pin_told[256], pin[256]; /* levels at inputs, which a reset does not change */

    /* the reference model */
    const struct lexicon *lx;
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
    struct rlx_pending **events;
    struct rlx_sms **sms;
    rlx_fn *handlers, *invokers; /* handlers: their numbers from 1 on, never called as they are */
    uint8_t n_links;

    /* the program */
    char *program;           /* NULL: none */
    char *should, *is;       /* "NAME VERSION FINGERPRINT" of its lexicon; is: as much as it sent */
    struct program *process; /* NULL: it does not run */
    GArray *given;           /* struct sim_event that it has not got yet */
    char taken[512 * sizeof(struct sim_event)]; /* what it sent... */
    unsigned n_taken, at_taken;                 /* ...bytes, and which is next */
    int nv;             /* file of its non-volatile memory, which outlives it */
    uint64_t busy_us;   /* its code has run since its last sleep, by the clock that it reads */
    uint64_t moment_us; /* it ran last... */
    unsigned in_moment; /* ...so often in that microsecond */
};

static void run(struct device *device);

static void fail(struct device *device, const char *format, ...) G_GNUC_PRINTF(2, 3);
static void fail(struct device *device, const char *format, ...)
{
    va_list args;
    if (device->failure) return;
    va_start(args, format);
    device->failure = g_strdup_vprintf(format, args);
    va_end(args);
}

static void on_wake(void *data, uint32_t number)
{
    struct device *device = data;
    if (number == device->wake) run(device);
}

/* Milliseconds that its clock has counted since the world began. */
static uint64_t counted_ms(const struct device *device)
{
    int64_t us = (int64_t)device->world->now_us;
    return (uint64_t)(us + us / 1000 * device->ppm / 1000) / 1000;
}

/* The device sleeps for `ms` of its own clock, which counts whole milliseconds. */
static void sleep_for(struct device *device, uint32_t ms)
{
    device->wake++;
    if (ms == RLX_FOREVER) return;
    uint64_t at_us = (counted_ms(device) + ms) * 1000;
    if (device->ppm)
        at_us = (uint64_t)((double)at_us * 1e6 / (1e6 + device->ppm)) + 1000; /* at the latest */
    world_at(device->world, at_us, on_wake, device, device->wake);
}

/* ---- the reference model on the simulated board ---- */

static void on_receive(void *user, uint8_t uart, uint8_t byte)
{
    struct device *device = user;
    if (uart < device->n_links) rlx_link_feed(&device->links[uart], byte);
}

static void on_fault(void *user, uint8_t uart)
{
    struct device *device = user;
    if (uart < device->n_links) rlx_link_fault(&device->links[uart]);
}

static bool on_transmit(void *user, uint8_t uart, uint8_t *byte)
{
    struct device *device = user;
    return uart < device->n_links && rlx_link_take(&device->links[uart], byte);
}

/* A query answers with the least of each of its values. */
static int stand_in(rlx_fn handler, void *user, rlx_value *value, const uint8_t *frame)
{
    const struct device *device = user;
    (void)frame;
    if (device->called)
        device->called(device->called_user, (unsigned)((uintptr_t)handler - 1), value);
    return 0;
}

/* Reports are pieces of a line; a message comes from the first of those who may send any. */
static void on_packet(void *user, uint8_t link, const uint8_t *bytes, uint8_t count)
{
    struct device *device = user;
    if (link >= device->n_links) return;
    const struct lex_link *l = device->lx->links->pdata[link];
    if (l->frame == LEX_FRAME_REPORT)
        rlx_link_feed_report(&device->links[link], bytes, count);
    else if (l->frame == LEX_FRAME_MESSAGE)
        rlx_link_message(&device->core, link, (const char *)bytes, count, 1);
    else
        rlx_link_feed_packet(&device->links[link], bytes, count);
}

static void table_sink(void *user, struct sim_event event)
{
    struct device *device = user;
    device->out(device->user, event);
}

static void run_tables(struct device *device)
{
    uint32_t wait;
    unsigned polls = 0;
    do {
        uint32_t now = device->start_ms + (uint32_t)counted_ms(device);
        wait = rlx_poll(&device->core, now);
        if (++polls == POLLS_MAX) {
            fail(device, "the device does not come to rest");
            return;
        }
    } while (!wait || !rlx_idle(&device->core));
    sleep_for(device, wait);
}

struct device *device_of_image(struct world *world, const struct lexicon *lx,
                               const struct image *image, uint32_t start_ms, GError **error)
{
    struct device *device = g_new0(struct device, 1);
    unsigned n = lx->links->len, n_invokers = MAX(image->signatures->len, 1);
    device->world = world;
    device->first_ms = start_ms;
    device->links = g_new0(struct rlx_link, n);
    device->buffers = g_new0(uint8_t *, n);
    device->senders = g_new0(struct rlx_sender *, n);
    device->events = g_new0(struct rlx_pending *, n);
    device->sms = g_new0(struct rlx_sms *, n);
    device->lx = lx;
    device->outputs = g_new0(struct rlx_output, lx->outputs->len + 1);
    device->inputs = g_new0(struct rlx_input, lx->inputs->len + 1);
    device->routines = g_new0(struct rlx_routine, lx->routines->len + 1);
    device->settings = g_new0(rlx_value, image_settings(lx) + 1);
    device->setting_texts = g_malloc0(image->setting_texts + 1);
    device->invokers = g_new(rlx_fn, n_invokers);
    for (unsigned i = 0; i < n_invokers; i++) device->invokers[i] = (rlx_fn)stand_in;
    device->handlers = g_new(rlx_fn, image->handlers->len + 1);
    for (unsigned i = 0; i < image->handlers->len; i++)
        device->handlers[i] = (rlx_fn)((uintptr_t)i + 1);
    for (unsigned i = 0; i < n; i++) {
        struct lex_link *link = lx->links->pdata[i];
        device->buffers[i] =
            g_malloc0(RLX_LINK_BUFFER(link->receive, link->transmit, link->longest));
        device->links[i].buffer = device->buffers[i];
        if (link->tags)
            device->links[i].senders = device->senders[i] = g_new0(struct rlx_sender, 32);
        if (lx->events->len)
            device->links[i].events = device->events[i] =
                g_new0(struct rlx_pending, lx->events->len);
        if (lex_drives_modem(link))
            device->links[i].sms = device->sms[i] = g_new0(struct rlx_sms, 1);
    }
    device->n_links = (uint8_t)n;
    device->core = (struct rlx_device){
        .image = image->bytes->data,
        .handlers = device->handlers,
        .invokers = device->invokers,
        .links = device->links,
        .outputs = device->outputs,
        .inputs = device->inputs,
        .routines = device->routines,
        .settings = device->settings,
        .setting_texts = device->setting_texts,
        .nv_area = (uint16_t)image_nv_area(lx),
        .port = &device->board,
        .user = device,
    };
    device->fresh = device->core;
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
    for (unsigned i = 0; i < device->n_links; i++) {
        struct rlx_sender *senders = device->senders[i];
        if (senders) memset(senders, 0, 32 * sizeof *senders);
        if (device->events[i])
            memset(device->events[i], 0, device->lx->events->len * sizeof *device->events[i]);
        if (device->sms[i]) memset(device->sms[i], 0, sizeof *device->sms[i]);
        device->links[i] = (struct rlx_link){.buffer = device->buffers[i],
                                             .senders = senders,
                                             .events = device->events[i],
                                             .sms = device->sms[i]};
    }
}

static bool give(struct device *device, struct sim_event event);

/* Gives it what it does not run for. */
static bool hand(struct device *device, struct sim_event event)
{
    if (device->program) return give(device, event);
    sim_board_in(&device->board, event);
    return true;
}

/* What a reset does not change. */
static void hand_wiring(struct device *device)
{
    for (unsigned i = 0; i < 256; i++) {
        if (device->paced[i % SIM_UARTS] && i < SIM_UARTS)
            hand(device, (struct sim_event){SIM_PACED, (uint8_t)i, 0, 1});
        if (device->pin_told[i])
            hand(device, (struct sim_event){SIM_PIN_IN, (uint8_t)i, 0, device->pin[i]});
    }
}

static void start_tables(struct device *device, enum rlx_reset cause)
{
    clear_links(device);
    memset(device->outputs, 0, device->lx->outputs->len * sizeof *device->outputs);
    memset(device->inputs, 0, device->lx->inputs->len * sizeof *device->inputs);
    memset(device->routines, 0, device->lx->routines->len * sizeof *device->routines);
    device->core = device->fresh;
    device->board.interrupts =
        (struct sim_interrupts){device, on_receive, on_transmit, on_packet, on_fault};
    sim_board_init(&device->board, table_sink, device, device->start_ms, cause);
    device->board.nv_kept = true;
    hand_wiring(device);
    int error = rlx_init(&device->core, cause);
    if (error)
        fail(device, "rlx_init() refused the image: %s", refusal(error));
    else
        run_tables(device);
}

/* ---- a program in lock-step ---- */

/* What became of it; nothing more comes. */
static void program_failed(struct device *device, char *failure)
{
    fail(device, "%s", failure);
    g_free(failure);
}

/* What is given goes out when the program is listened to. */
static bool give(struct device *device, struct sim_event event)
{
    if (device->failure) return false;
    g_array_append_val(device->given, event);
    return true;
}

static bool flush(struct device *device)
{
    char *failure = NULL;
    bool ok = program_give(device->process, device->given->data,
                           device->given->len * sizeof(struct sim_event), &failure);
    g_array_set_size(device->given, 0);
    if (!ok) program_failed(device, failure);
    return ok;
}

/* More of what it does; false: it is over, or hangs. */
static bool take_more(struct device *device)
{
    char *failure = NULL;
    size_t n = program_take(device->process, device->taken + device->n_taken,
                            sizeof device->taken - device->n_taken, &failure);
    device->n_taken += (unsigned)n;
    if (!n) program_failed(device, failure);
    return n != 0;
}

static bool get(struct device *device, struct sim_event *event)
{
    while (device->n_taken - device->at_taken < sizeof *event) {
        unsigned rest = device->n_taken - device->at_taken;
        memmove(device->taken, device->taken + device->at_taken, rest);
        device->n_taken = rest;
        device->at_taken = 0;
        if (!take_more(device)) return false;
    }
    memcpy(event, device->taken + device->at_taken, sizeof *event);
    device->at_taken += (unsigned)sizeof *event;
    return true;
}

/* Its code goes on behind this time; what happens meanwhile are interrupts. */
static void run_on(struct device *device, uint32_t us)
{
    device->wake++;
    device->busy_us += us;
    if (device->busy_us > BUSY_MAX_US)
        fail(device,
             "the firmware program has not slept for %u s of its clock: code waits for "
             "what does not come, or its main loop never calls board_sleep()",
             (unsigned)(BUSY_MAX_US / 1000000));
    else
        world_at(device->world, device->world->now_us + us, on_wake, device, device->wake);
}

/* A byte of its lexicon's name. */
static void know(struct device *device, uint32_t byte)
{
    size_t length = strlen(device->is);
    if (byte && length < strlen(device->should) + 40) {
        char *more = g_strdup_printf("%s%c", device->is, (char)byte);
        g_free(device->is);
        device->is = more;
    } else if (!byte && strcmp(device->is, device->should) != 0) {
        fail(device,
             "the firmware program is made from another lexicon (%s) than this one (%s): "
             "build it anew from this lexicon's rlx emit",
             device->is, device->should);
    }
}

static void sleep_now(struct device *device, uint32_t ms)
{
    if (device->busy_us)
        device->out(device->user, (struct sim_event){SIM_BUSY, 0, 0, (uint32_t)device->busy_us});
    device->busy_us = 0;
    sleep_for(device, ms);
}

/* Up to the program's next sleep, or until it waits for its clock. */
static void listen_to(struct device *device)
{
    struct sim_event event;
    unsigned doings = 0;
    program_patience(device->process);
    if (!flush(device)) return;
    while (get(device, &event)) {
        if (event.kind == SIM_SLEEP) {
            sleep_now(device, event.value);
            return;
        }
        if (event.kind == SIM_BUSY) {
            run_on(device, MIN(event.value, 1000000));
            return;
        }
        if (event.kind == SIM_IS)
            know(device, event.value);
        else
            device->out(device->user, event);
        if (device->failure) return;
        if (++doings < DOINGS_MAX) continue;
        fail(device, "the firmware program floods: %u things done without a sleep", doings);
        return;
    }
}

/* Whether it runs again and again while no time passes. */
static bool is_restless(struct device *device)
{
    device->in_moment = device->moment_us == device->world->now_us ? device->in_moment + 1 : 0;
    device->moment_us = device->world->now_us;
    if (device->in_moment == DOINGS_MAX)
        fail(device, "the firmware program does not come to rest: it never sleeps for a time");
    return device->failure != NULL;
}

/* False: it could not. */
static bool begin_program(struct device *device)
{
    char *failure = NULL;
    device->n_taken = device->at_taken = 0;
    g_array_set_size(device->given, 0);
    g_free(device->is);
    device->is = g_strdup("");
    device->process = program_begin(device->program, device->nv, &failure);
    if (!device->process) program_failed(device, failure);
    return device->process != NULL;
}

static void end_program(struct device *device)
{
    program_end(device->process);
    device->process = NULL;
}

struct device *device_of_program(struct world *world, const struct lexicon *lx,
                                 const struct image *image, const char *program, uint32_t start_ms,
                                 GError **error)
{
    if (access(program, X_OK) != 0) {
        g_set_error(error, G_FILE_ERROR, G_FILE_ERROR_NOENT, "%s: %s", program, strerror(errno));
        return NULL;
    }
    struct device *device = g_new0(struct device, 1);
    device->world = world;
    device->first_ms = start_ms;
    device->program = g_strdup(program);
    device->should = g_strdup_printf("%s %u %s", lx->name, lx->version, image->fingerprint);
    device->nv = memfd_create("nv", 0);
    device->given = g_array_new(FALSE, FALSE, sizeof(struct sim_event));
    if (begin_program(device)) return device;
    g_set_error(error, G_FILE_ERROR, G_FILE_ERROR_FAILED, "%s", device->failure);
    device_free(device);
    return NULL;
}

/* ---- both ---- */

/* Tells a program the time. */
static bool give_time(struct device *device)
{
    uint64_t now = device->world->now_us, rest = now % 1000000;
    return give(device, (struct sim_event){SIM_RUN, (uint8_t)(rest / 65536),
                                           (uint16_t)(rest % 65536), (uint32_t)(now / 1000000)});
}

static void run(struct device *device)
{
    if (device->failure) return;
    device->board.now_us = device->world->now_us;
    if (!device->program)
        run_tables(device);
    else if (!is_restless(device) && give_time(device))
        listen_to(device);
}

static void start(struct device *device, enum rlx_reset cause)
{
    device->start_ms = device->first_ms - (uint32_t)counted_ms(device);
    struct sim_event power = {SIM_POWER, (uint8_t)cause, 0, device->start_ms};
    device->on = true;
    device->first_ms = 0;
    if (device->program && give_time(device)) hand_wiring(device);
    if (!device->program)
        start_tables(device, cause);
    else if (give(device, power))
        listen_to(device);
}

void device_listen(struct device *device, device_out out, void *user)
{
    device->out = out;
    device->user = user;
}

void device_start(struct device *device, device_out out, void *user)
{
    device_listen(device, out, user);
    start(device, RLX_RESET_POWER);
}

void device_clock(struct device *device, int32_t ppm)
{
    device->ppm = ppm;
}

void device_pace(struct device *device, uint8_t link)
{
    if (link < SIM_UARTS) device->paced[link] = true;
}

void device_off(struct device *device)
{
    if (!device->on) return;
    device->on = false;
    end_program(device);
    device->wake++; /* what it slept for is forgotten */
    device->busy_us = 0;
}

void device_on(struct device *device, enum rlx_reset cause)
{
    if (device->failure || device->on) return;
    if (!device->program || device->process || begin_program(device)) start(device, cause);
}

void device_reset(struct device *device, enum rlx_reset cause)
{
    if (device->failure) return;
    device_off(device);
    device_on(device, cause);
}

/* Something came: it wakes what sleeps, and does not hurry code that runs. */
static void interrupt(struct device *device)
{
    if (!device->busy_us) run(device);
}

void device_in(struct device *device, enum sim_kind kind, uint8_t index, uint32_t value)
{
    struct sim_event event = {(uint8_t)kind, index, 0, value};
    if (kind == SIM_PIN_IN) device->pin_told[index] = true, device->pin[index] = value != 0;
    if (!device->failure && device->on && hand(device, event)) interrupt(device);
}

bool device_pin(const struct device *device, uint8_t pin, bool *high)
{
    *high = device->pin[pin];
    return device->pin_told[pin];
}

bool device_tell(struct device *device, unsigned event, unsigned word)
{
    if (device->program || device->failure || !device->on) return false;
    bool told = !rlx_event(&device->core, (uint8_t)event, (uint8_t)word);
    run(device);
    return told;
}

bool device_note(struct device *device, const char *text)
{
    if (device->program || device->failure || !device->on) return false;
    bool noted = rlx_note(&device->core, text);
    run(device);
    return noted;
}

void device_on_call(struct device *device, device_called called, void *user)
{
    device->called = called;
    device->called_user = user;
}

void device_packet(struct device *device, uint8_t index, const uint8_t *bytes, unsigned count)
{
    for (unsigned i = 0; i <= count && device->on && !device->failure; i++) {
        struct sim_event event = {SIM_PACKET_IN, index, 0, i < count ? bytes[i] : 256u};
        if (!hand(device, event)) return;
    }
    if (device->on) interrupt(device);
}

bool device_is_busy(const struct device *device)
{
    return device->busy_us > 0;
}

const char *device_failure(const struct device *device)
{
    return device->failure;
}

struct rlx_device *device_core(struct device *device)
{
    return device->program ? NULL : &device->core;
}

struct sim_board *device_board(struct device *device)
{
    return device->program ? NULL : &device->board;
}

void device_free(struct device *device)
{
    if (!device) return;
    end_program(device);
    if (device->program) close(device->nv);
    if (device->given) g_array_free(device->given, TRUE);
    g_free(device->program);
    g_free(device->should);
    g_free(device->is);
    for (unsigned i = 0; device->buffers && i < device->n_links; i++) {
        g_free(device->buffers[i]);
        g_free(device->senders[i]);
        g_free(device->events[i]);
        g_free(device->sms[i]);
    }
    g_free(device->buffers);
    g_free(device->senders);
    g_free(device->events);
    g_free(device->sms);
    g_free(device->links);
    g_free(device->outputs);
    g_free(device->inputs);
    g_free(device->routines);
    g_free(device->settings);
    g_free(device->setting_texts);
    g_free(device->handlers);
    g_free(device->invokers);
    g_free(device->failure);
    g_free(device);
}
