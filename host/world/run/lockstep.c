/* A firmware program in lock-step: it runs while the world's clock stands, up to its next sleep.
 * What comes in is given together with the time; what it does comes out in between.
 * The process itself is in program.c. */
#include "world/run/running_parts.h"

#include <errno.h>
#include <string.h>
#include <sys/mman.h>
#include <unistd.h>

#include "world/run/program.h"

/* A program that does so much before it sleeps, or runs so often in one moment, floods. */
#define DOINGS_MAX 100000
/* One whose code runs so long without a sleep does not come back to its main loop. */
#define BUSY_MAX_US UINT64_C(10000000)

struct lockstep {
    char *program;
    char *should, *is;       /* "NAME VERSION FINGERPRINT" of its lexicon; is: as much as it sent */
    struct program *process; /* NULL: it does not run */
    GArray *given;           /* struct sim_event that it has not got yet */
    char taken[512 * sizeof(struct sim_event)]; /* what it sent... */
    unsigned n_taken, at_taken;                 /* ...bytes, and which is next */
    int nv;             /* file of its non-volatile memory, which outlives it */
    uint64_t moment_us; /* it ran last... */
    unsigned in_moment; /* ...so often in that microsecond */
};

/* What became of it; nothing more comes. */
static void program_failed(struct device *device, char *failure)
{
    device_fail(device, "%s", failure);
    g_free(failure);
}

/* What is given goes out when the program is listened to. */
static bool give(struct device *device, struct sim_event event)
{
    if (device->failure) return false;
    g_array_append_val(device->lockstep->given, event);
    return true;
}

static bool flush(struct device *device)
{
    char *failure = NULL;
    bool ok = program_give(device->lockstep->process, device->lockstep->given->data,
                           device->lockstep->given->len * sizeof(struct sim_event), &failure);
    g_array_set_size(device->lockstep->given, 0);
    if (!ok) program_failed(device, failure);
    return ok;
}

/* More of what it does; false: it is over, or hangs. */
static bool take_more(struct device *device)
{
    char *failure = NULL;
    size_t n =
        program_take(device->lockstep->process, device->lockstep->taken + device->lockstep->n_taken,
                     sizeof device->lockstep->taken - device->lockstep->n_taken, &failure);
    device->lockstep->n_taken += (unsigned)n;
    if (!n) program_failed(device, failure);
    return n != 0;
}

static bool get(struct device *device, struct sim_event *event)
{
    while (device->lockstep->n_taken - device->lockstep->at_taken < sizeof *event) {
        unsigned rest = device->lockstep->n_taken - device->lockstep->at_taken;
        memmove(device->lockstep->taken, device->lockstep->taken + device->lockstep->at_taken,
                rest);
        device->lockstep->n_taken = rest;
        device->lockstep->at_taken = 0;
        if (!take_more(device)) return false;
    }
    memcpy(event, device->lockstep->taken + device->lockstep->at_taken, sizeof *event);
    device->lockstep->at_taken += (unsigned)sizeof *event;
    return true;
}

/* Its code goes on behind this time; what happens meanwhile are interrupts. */
static void run_on(struct device *device, uint32_t us)
{
    device->busy_us += us;
    if (device->busy_us > BUSY_MAX_US)
        device_fail(device,
                    "the firmware program has not slept for %u s of its clock: code waits for "
                    "what does not come, or its main loop never calls board_sleep()",
                    (unsigned)(BUSY_MAX_US / 1000000));
    else
        device_wake_at(device, device->world->now_us + us);
}

/* A byte of its lexicon's name. */
static void know(struct device *device, uint32_t byte)
{
    size_t length = strlen(device->lockstep->is);
    if (byte && length < strlen(device->lockstep->should) + 40) {
        char *more = g_strdup_printf("%s%c", device->lockstep->is, (char)byte);
        g_free(device->lockstep->is);
        device->lockstep->is = more;
    } else if (!byte && strcmp(device->lockstep->is, device->lockstep->should) != 0) {
        device_fail(device,
                    "the firmware program is made from another lexicon (%s) than this one (%s): "
                    "build it anew from this lexicon's rlx emit",
                    device->lockstep->is, device->lockstep->should);
    }
}

static void sleep_now(struct device *device, uint32_t ms)
{
    if (device->busy_us)
        device->out(device->user, (struct sim_event){SIM_BUSY, 0, 0, (uint32_t)device->busy_us});
    device->busy_us = 0;
    device_sleep(device, ms);
}

/* Up to the program's next sleep, or until it waits for its clock. */
static void listen_to(struct device *device)
{
    struct sim_event event;
    unsigned doings = 0;
    program_patience(device->lockstep->process);
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
        device_fail(device, "the firmware program floods: %u things done without a sleep", doings);
        return;
    }
}

/* Whether it runs again and again while no time passes. */
static bool is_restless(struct device *device)
{
    device->lockstep->in_moment =
        device->lockstep->moment_us == device->world->now_us ? device->lockstep->in_moment + 1 : 0;
    device->lockstep->moment_us = device->world->now_us;
    if (device->lockstep->in_moment == DOINGS_MAX)
        device_fail(device,
                    "the firmware program does not come to rest: it never sleeps for a time");
    return device->failure != NULL;
}

/* False: it could not. */
static bool begin_program(struct device *device)
{
    char *failure = NULL;
    device->lockstep->n_taken = device->lockstep->at_taken = 0;
    g_array_set_size(device->lockstep->given, 0);
    g_free(device->lockstep->is);
    device->lockstep->is = g_strdup("");
    device->lockstep->process =
        program_begin(device->lockstep->program, device->lockstep->nv, &failure);
    if (!device->lockstep->process) program_failed(device, failure);
    return device->lockstep->process != NULL;
}

static void end_program(struct device *device)
{
    program_end(device->lockstep->process);
    device->lockstep->process = NULL;
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
    device->kind = &device_lockstep;
    device->lockstep = g_new0(struct lockstep, 1);
    device->lx = lx;
    device->world = world;
    device->first_ms = start_ms;
    device->lockstep->program = g_strdup(program);
    device->lockstep->should =
        g_strdup_printf("%s %u %s", lx->name, lx->version, image->fingerprint);
    device->lockstep->nv = memfd_create("nv", 0);
    device->lockstep->given = g_array_new(FALSE, FALSE, sizeof(struct sim_event));
    if (begin_program(device)) return device;
    g_set_error(error, G_FILE_ERROR, G_FILE_ERROR_FAILED, "%s", device->failure);
    device_free(device);
    return NULL;
}

/* Tells a program the time. */
static bool give_time(struct device *device)
{
    uint64_t now = device->world->now_us, rest = now % 1000000;
    return give(device, (struct sim_event){SIM_RUN, (uint8_t)(rest / 65536),
                                           (uint16_t)(rest % 65536), (uint32_t)(now / 1000000)});
}

static void run_program(struct device *device)
{
    if (!is_restless(device) && give_time(device)) listen_to(device);
}

static void start_program(struct device *device, enum rlx_reset cause)
{
    struct sim_event power = {SIM_POWER, (uint8_t)cause, 0, device->start_ms};
    if (give_time(device)) device_hand_wiring(device);
    if (give(device, power)) listen_to(device);
}

static bool begin_again(struct device *device)
{
    return device->lockstep->process || begin_program(device);
}

static void free_program(struct device *device)
{
    struct lockstep *l = device->lockstep;
    end_program(device);
    close(l->nv);
    g_array_free(l->given, TRUE);
    g_free(l->program);
    g_free(l->should);
    g_free(l->is);
    g_free(l);
}

/* It reads its memory when it is begun. */
static void keep_program(struct device *device, const uint8_t *nv, size_t count)
{
    if (pwrite(device->lockstep->nv, nv, count, 0) != (ssize_t)count)
        device_fail(device, "its memory: %s", strerror(errno));
    end_program(device);
    begin_program(device);
}

const struct device_kind device_lockstep = {.hand = give,
                                            .keep = keep_program,
                                            .run = run_program,
                                            .start = start_program,
                                            .begin = begin_again,
                                            .end = end_program,
                                            .free = free_program};
