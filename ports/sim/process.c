/* The board of a firmware program of its own: in lock-step with a world over a socket, or alone
 * on standard input and output. */
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

static struct {
    struct sim_board board;
    struct rlx_link *links;
    unsigned n_links;
    int world; /* socket, or -1 */
    struct sim_event pending[PENDING_MAX];
    unsigned n_pending;
    bool input_over;
    struct timespec start;
} self;

/* ---- in lock-step ---- */

static void give(struct sim_event event)
{
    const char *bytes = (const char *)&event;
    for (size_t done = 0; done < sizeof event;) {
        ssize_t n = write(self.world, bytes + done, sizeof event - done);
        if (n < 0 && errno == EINTR) continue;
        if (n <= 0) exit(0); /* the world is gone */
        done += (size_t)n;
    }
}

static struct sim_event get(void)
{
    struct sim_event event;
    for (size_t done = 0; done < sizeof event;) {
        ssize_t n = read(self.world, (char *)&event + done, sizeof event - done);
        if (n < 0 && errno == EINTR) continue;
        if (n <= 0) exit(0);
        done += (size_t)n;
    }
    return event;
}

static void lockstep_sink(void *user, struct sim_event event)
{
    (void)user;
    give(event);
}

/* Tells how long it can sleep, then takes what happens up to the next time it runs. */
static void lockstep_sleep(uint32_t ms)
{
    give((struct sim_event){SIM_SLEEP, 0, 0, ms});
    for (;;) {
        struct sim_event event = get();
        if (event.kind == SIM_RUN) {
            self.board.now_us =
                (uint64_t)event.value * 1000000 + (uint64_t)event.index * 65536 + event.low;
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
    self.world = fd ? atoi(fd) : -1;
    if (fd) {
        struct sim_event power = get();
        for (; power.kind != SIM_POWER && self.n_pending < PENDING_MAX; power = get())
            self.pending[self.n_pending++] = power;
        sim_board_init(&self.board, lockstep_sink, NULL, power.value, (enum rlx_reset)power.index);
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
    return self.board.start_ms + (uint32_t)(self.board.now_us / 1000);
}

void board_mask(void)
{
    /* interrupts are only ever delivered by board_unmask() */
}

void board_unmask(void)
{
    for (unsigned i = 0; i < self.n_pending; i++) sim_board_in(&self.board, self.pending[i]);
    self.n_pending = 0;
}

void board_sleep(uint32_t ms)
{
    if (self.world >= 0)
        lockstep_sleep(ms);
    else
        alone_sleep(ms);
}
