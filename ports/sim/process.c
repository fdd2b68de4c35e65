/* The main program around a firmware on the simulated board: in lock-step with a world, or alone.
 * A socket from the world, or standard input and output.
 * The board itself is in board.c. */
#include <errno.h>
#include <poll.h>
#include <stdio.h>
#include <stdlib.h>
#include <string.h>
#include <time.h>
#include <unistd.h>

#include "board.h"
#include "rlx/image.h"
#include "sim.h"

#define PENDING_MAX 1024
#define DONE_MAX    256
/* Code that reads the clock again and again waits for it: behind so many reads since the last sleep
 * each one takes time. A main loop never reads it so often. */
#define FREE_READS 1000u
#define READ_US    100u

static struct {
    struct sim_board board;
    struct rlx_link *links;
    unsigned n_links;
    int world;                       /* socket, or -1 */
    struct sim_event done[DONE_MAX]; /* not sent yet */
    unsigned n_done;
    char taken[512 * sizeof(struct sim_event)]; /* what came in... */
    unsigned n_taken, at_taken;                 /* ...bytes, and which is next */
    int nv;                                     /* file of the non-volatile memory, or -1... */
    uint8_t nv_was[sizeof((struct sim_board *)0)->nv]; /* ...and what is in it */
    struct sim_event pending[PENDING_MAX];
    unsigned n_pending;
    unsigned reads; /* of the clock since the last sleep */
    bool masked;
    bool input_over;
    struct timespec start;
} self;

/* ---- in lock-step ---- */

/* What was done goes out when there is no room for more, and before the program sleeps. */
static void flush(void)
{
    const char *bytes = (const char *)self.done;
    size_t count = self.n_done * sizeof *self.done;
    for (size_t done = 0; done < count;) {
        ssize_t n = write(self.world, bytes + done, count - done);
        if (n < 0 && errno == EINTR) continue;
        if (n <= 0) exit(0); /* the world is gone */
        done += (size_t)n;
    }
    self.n_done = 0;
}

static void give(struct sim_event event)
{
    if (self.n_done == DONE_MAX) flush();
    self.done[self.n_done++] = event;
}

static uint64_t time_of(struct sim_event run)
{
    return (uint64_t)run.value * 1000000 + (uint64_t)run.index * 65536 + run.low;
}

static struct sim_event get(void)
{
    struct sim_event event;
    while (self.n_taken - self.at_taken < sizeof event) {
        unsigned rest = self.n_taken - self.at_taken;
        memmove(self.taken, self.taken + self.at_taken, rest);
        self.n_taken = rest;
        self.at_taken = 0;
        ssize_t n = read(self.world, self.taken + rest, sizeof self.taken - rest);
        if (n < 0 && errno == EINTR) continue;
        if (n <= 0) exit(0);
        self.n_taken += (unsigned)n;
    }
    memcpy(&event, self.taken + self.at_taken, sizeof event);
    self.at_taken += (unsigned)sizeof event;
    return event;
}

static void lockstep_sink(void *user, struct sim_event event)
{
    (void)user;
    give(event);
}

/* What the file has is taken before the board starts... */
static void load_nv(void)
{
    const char *fd = getenv(SIM_NV_FD);
    self.nv = fd ? atoi(fd) : -1;
    memset(self.board.nv, 0xFF, sizeof self.board.nv);
    if (self.nv >= 0 && pread(self.nv, self.board.nv, sizeof self.board.nv, 0) < 0) self.nv = -1;
    self.board.nv_kept = self.nv >= 0;
    memcpy(self.nv_was, self.board.nv, sizeof self.nv_was);
}

/* ...and what changed is put there before it sleeps: while it sleeps the power may be cut. */
static void save_nv(void)
{
    if (self.nv < 0 || !memcmp(self.nv_was, self.board.nv, sizeof self.nv_was)) return;
    memcpy(self.nv_was, self.board.nv, sizeof self.nv_was);
    if (pwrite(self.nv, self.nv_was, sizeof self.nv_was, 0) < 0) exit(1);
}

/* Lets time go by, then takes what happens up to the next time it runs. */
static void lockstep_pass(struct sim_event how)
{
    save_nv();
    give(how);
    flush();
    for (;;) {
        struct sim_event event = get();
        if (event.kind == SIM_RUN) {
            self.board.now_us = time_of(event);
            return;
        }
        if (self.n_pending < PENDING_MAX) self.pending[self.n_pending++] = event;
    }
}

/* ---- alone ---- */

static void alone_sink(void *user, struct sim_event event)
{
    (void)user;
    if (event.kind == SIM_SEND && event.index == 0) {
        putchar((int)event.value);
        fflush(stdout);
    } else if (event.kind == SIM_PIN) {
        fprintf(stderr, "pin %u %s\n", event.index, event.value ? "high" : "low");
    } else if (event.kind == SIM_DUTY) {
        fprintf(stderr, "pwm %u duty %lu of 65535\n", event.index, (unsigned long)event.value);
    }
    /* the byte is out at once: the next */
    if (event.kind == SIM_SEND && self.n_pending < PENDING_MAX)
        self.pending[self.n_pending++] = (struct sim_event){SIM_SENT, event.index, 0, 0};
}

static void alone_clock(void)
{
    struct timespec now;
    clock_gettime(CLOCK_MONOTONIC, &now);
    self.board.now_us = (uint64_t)((now.tv_sec - self.start.tv_sec) * 1000000 +
                                   (now.tv_nsec - self.start.tv_nsec) / 1000);
}

static void alone_sleep(uint32_t ms)
{
    struct pollfd in = {.fd = STDIN_FILENO, .events = POLLIN};
    uint8_t bytes[32];
    if (!self.n_pending && self.input_over) exit(0);
    if (!self.n_pending && poll(&in, 1, ms > 1000000 ? -1 : (int)ms) > 0) {
        ssize_t n = read(STDIN_FILENO, bytes, sizeof bytes);
        self.input_over = n <= 0;
        for (ssize_t i = 0; i < n; i++)
            self.pending[self.n_pending++] = (struct sim_event){SIM_RECEIVED, 0, 0, bytes[i]};
    }
    alone_clock();
}

/* ---- both ---- */

static void deliver(void)
{
    for (unsigned i = 0; i < self.n_pending; i++) sim_board_in(&self.board, self.pending[i]);
    self.n_pending = 0;
}

static void on_fault(void *user, uint8_t uart)
{
    (void)user;
    if (uart < self.n_links) rlx_link_fault(&self.links[uart]);
}

static void on_receive(void *user, uint8_t uart, uint8_t byte)
{
    (void)user;
    if (uart < self.n_links) rlx_link_feed(&self.links[uart], byte);
}

static bool on_transmit(void *user, uint8_t uart, uint8_t *byte)
{
    (void)user;
    return uart < self.n_links && rlx_link_take(&self.links[uart], byte);
}

/* Where a firmware has both, a packet of 64 bytes is a report. */
static void on_packet(void *user, uint8_t link, const uint8_t *bytes, uint8_t count)
{
    (void)user;
    if (link >= self.n_links) return;
#if RLX_HAS_REPORT
    if (!RLX_HAS_PACKET || count == RLX_REPORT) {
        rlx_link_feed_report(&self.links[link], bytes, count);
        return;
    }
#endif
#if RLX_HAS_PACKET
    rlx_link_feed_packet(&self.links[link], bytes, count);
#endif
    (void)bytes, (void)count;
}

/* Tells the world which lexicon this firmware is of, where its configuration knows it. */
static void tell_lexicon(void)
{
#ifdef RLX_LEXICON
    static const char is[] = RLX_LEXICON;
    for (unsigned i = 0; i < sizeof is; i++) give((struct sim_event){SIM_IS, 0, 0, (uint8_t)is[i]});
#endif
}

void *board_start_(struct rlx_link *links, unsigned count, uint32_t baud, size_t link_size)
{
    if (link_size != sizeof(struct rlx_link)) {
        fprintf(stderr, "the port and the firmware are compiled with different RLX_CONFIG\n");
        return NULL;
    }
    const char *fd = getenv(SIM_WORLD_FD);
    (void)baud;
    self.links = links;
    self.n_links = count;
    self.board.interrupts =
        (struct sim_interrupts){NULL, on_receive, on_transmit, on_packet, on_fault};
#if RLX_NV_AREA_BYTES % 256
    self.board.nv_page = RLX_NV_AREA_BYTES; /* each in one area alone */
#endif
    self.world = fd ? atoi(fd) : -1;
    if (fd) {
        load_nv();
        struct sim_event power = get();
        uint64_t now_us = 0; /* of the world, which began before the board was switched on */
        for (; power.kind != SIM_POWER && self.n_pending < PENDING_MAX; power = get())
            if (power.kind == SIM_RUN)
                now_us = time_of(power);
            else
                self.pending[self.n_pending++] = power;
        sim_board_init(&self.board, lockstep_sink, NULL, power.value, (enum rlx_reset)power.index);
        self.board.now_us = now_us;
        tell_lexicon();
        board_unmask(); /* how it was wired before */
    } else {
        clock_gettime(CLOCK_MONOTONIC, &self.start);
        sim_board_init(&self.board, alone_sink, NULL, 0, RLX_RESET_POWER);
    }
    return &self.board;
}

enum rlx_reset board_reset_cause(void)
{
    return self.board.cause;
}

uint32_t board_millis(void)
{
    if (self.world >= 0 && ++self.reads > FREE_READS) {
        lockstep_pass((struct sim_event){SIM_BUSY, 0, 0, READ_US});
        if (!self.masked) deliver();
    }
    return self.board.start_ms + (uint32_t)(self.board.now_us / 1000);
}

/* Interrupts come here and while code waits for the clock, nowhere else. */
void board_mask(void)
{
    self.masked = true;
}

void board_unmask(void)
{
    self.masked = false;
    deliver();
}

void board_sleep(uint32_t ms)
{
    self.reads = 0;
    if (self.world >= 0)
        lockstep_pass((struct sim_event){SIM_SLEEP, 0, 0, ms});
    else
        alone_sleep(ms);
}
