/* The simulated board: pins, PWM channels, UARTs, non-volatile memory.
 * Every port function becomes an event for the world; time is the world's.
 * It knows no lexicon. */
#include "sim.h"

#include <string.h>

#include "rlx/port.h"

static void tell(struct sim_board *board, enum sim_kind kind, uint8_t index, uint32_t value)
{
    board->sink(board->sink_user, (struct sim_event){(uint8_t)kind, index, 0, value});
}

void sim_board_init(struct sim_board *board, sim_sink sink, void *sink_user, uint32_t start_ms,
                    enum rlx_reset cause)
{
    struct sim_interrupts interrupts = board->interrupts;
    struct sim_board was = *board;
    memset(board, 0, sizeof *board);
    memset(board->nv, 0xFF, sizeof board->nv);
    if (was.nv_kept) memcpy(board->nv, was.nv, sizeof board->nv);
    if (was.nv_kept) board->nv_erased = was.nv_erased;
    board->nv_kept = was.nv_kept;
    board->nv_absent = was.nv_absent;
    board->nv_page = was.nv_page;
    board->nv_slow = was.nv_slow;
    board->nv_refuses = was.nv_refuses;
    board->nv_left = was.nv_left;
    board->interrupts = interrupts;
    board->sink = sink;
    board->sink_user = sink_user;
    board->start_ms = start_ms;
    board->cause = cause;
    board->random = 0x2545F491u;
}

/* The UART's sender is free: the next byte, if there is one. */
static void send_next(struct sim_board *board, uint8_t uart)
{
    uint8_t byte;
    board->sending[uart] = board->interrupts.transmit(board->interrupts.user, uart, &byte);
    if (board->sending[uart]) tell(board, SIM_SEND, uart, byte);
}

/* A packet that comes in is reported when it is complete. */
static void packet_in(struct sim_board *board, struct sim_event event)
{
    if (event.value < 256) {
        if (board->packet_count < sizeof board->packet)
            board->packet[board->packet_count++] = (uint8_t)event.value;
        return;
    }
    if (board->interrupts.packet)
        board->interrupts.packet(board->interrupts.user, event.index, board->packet,
                                 board->packet_count);
    board->packet_count = 0;
}

void sim_board_in(struct sim_board *board, struct sim_event event)
{
    switch (event.kind) {
    case SIM_RECEIVED:
        board->interrupts.receive(board->interrupts.user, event.index, (uint8_t)event.value);
        break;
    case SIM_FAULT:
        if (board->interrupts.fault) board->interrupts.fault(board->interrupts.user, event.index);
        break;
    case SIM_SENT: send_next(board, event.index % SIM_UARTS); break;
    case SIM_PIN_IN:
        board->level[event.index] = event.value != 0;
        board->outside[event.index] = true;
        break;
    case SIM_PACKET_IN: packet_in(board, event); break;
    case SIM_PACED: board->paced[event.index % SIM_UARTS] = true; break;
    case SIM_TAKEN: board->full[event.index % SIM_UARTS] = false; break;
    default: break;
    }
}

/* ---- the port ---- */

void rlx_port_pin_write(void *port, uint8_t pin, bool high)
{
    struct sim_board *board = port;
    if (board->driven[pin] && board->level[pin] == high) return;
    board->level[pin] = high;
    board->driven[pin] = true;
    tell(board, SIM_PIN, pin, high);
}

bool rlx_port_pin_read(void *port, uint8_t pin)
{
    return ((struct sim_board *)port)->level[pin];
}

void rlx_port_pin_watch(void *port, uint8_t pin, enum rlx_pull pull)
{
    struct sim_board *board = port;
    board->driven[pin] = false;
    if (pull != RLX_PULL_NONE && !board->outside[pin]) board->level[pin] = pull == RLX_PULL_UP;
}

void rlx_port_duty(void *port, uint8_t channel, uint16_t duty, uint32_t hz)
{
    struct sim_board *board = port;
    (void)hz;
    board->duty[channel] = duty;
    tell(board, SIM_DUTY, channel, duty);
}

void rlx_port_pulse(void *port, uint8_t channel, uint16_t us)
{
    tell(port, SIM_PULSE, channel, us);
}

uint16_t sim_steps_sent(const struct sim_steps *steps, uint64_t now_us)
{
    uint64_t sent = (now_us - steps->from_us) * steps->hz / 1000000;
    return (uint16_t)(sent < steps->count ? sent : steps->count);
}

uint16_t sim_steps_left(const struct sim_steps *steps, uint64_t now_us)
{
    return (uint16_t)(steps->count - sim_steps_sent(steps, now_us));
}

void sim_steps_begin(struct sim_steps *steps, uint64_t now_us, uint16_t count, uint16_t hz)
{
    uint64_t from = now_us, period = hz ? 1000000u / hz : 0;
    if (sim_steps_left(steps, now_us)) /* its last pulse, which may be longer ago than a period */
        from = steps->from_us + (uint64_t)sim_steps_sent(steps, now_us) * 1000000 / steps->hz;
    if (from + period < now_us) from = now_us - period;
    *steps = (struct sim_steps){from, count, hz};
}

int32_t rlx_port_steps(void *port, uint8_t channel, int32_t more, uint16_t hz)
{
    struct sim_board *board = port;
    struct sim_steps *steps = &board->steps[channel];
    int32_t left = sim_steps_left(steps, board->now_us), count = left + more;
    bool first = !board->stepped[channel], stood = !steps->count;
    count = count < 0 ? 0 : count > UINT16_MAX ? UINT16_MAX : count;
    board->stepped[channel] = true;
    sim_steps_begin(steps, board->now_us, (uint16_t)count, count ? hz : 0);
    if (count || !stood || first)
        board->sink(board->sink_user,
                    (struct sim_event){SIM_STEPS, channel, steps->count, steps->hz});
    return count - left;
}

uint16_t rlx_port_steps_left(void *port, uint8_t channel)
{
    struct sim_board *board = port;
    return sim_steps_left(&board->steps[channel], board->now_us);
}

void rlx_port_tone(void *port, uint8_t channel, uint16_t hz)
{
    tell(port, SIM_TONE, channel, hz);
}

void rlx_port_kick(void *port, uint8_t link)
{
    struct sim_board *board = port;
    if (!board->sending[link % SIM_UARTS]) send_next(board, link % SIM_UARTS);
}

bool rlx_port_packet_send(void *port, uint8_t link, const uint8_t *bytes, uint8_t count)
{
    struct sim_board *board = port;
    if (board->radio_busy || board->full[link % SIM_UARTS]) return false;
    board->full[link % SIM_UARTS] = board->paced[link % SIM_UARTS];
    while (count--) tell(port, SIM_PACKET, link, *bytes++);
    tell(port, SIM_PACKET, link, 256);
    return true;
}

/* Non-volatile memory. */

static bool nv_has(size_t offset, size_t count)
{
    return offset + count <= sizeof((struct sim_board *)0)->nv;
}

/* It cannot do it now, or there is none. */
static bool refuses(struct sim_board *board)
{
    if (board->nv_refuses) board->nv_refuses--;
    return board->nv_refuses || board->nv_absent;
}

bool rlx_port_nv_read(void *port, uint16_t offset, uint8_t *bytes, uint8_t count)
{
    struct sim_board *board = port;
    if (!nv_has(offset, count) || refuses(board)) return false;
    memcpy(bytes, board->nv + offset, count);
    return true;
}

/* For one more byte. */
static bool has_power(struct sim_board *board)
{
    if (board->nv_left && !--board->nv_left) board->nv_dead = true;
    return !board->nv_dead;
}

bool rlx_port_nv_write(void *port, uint16_t offset, const uint8_t *bytes, uint8_t count)
{
    struct sim_board *board = port;
    if (!nv_has(offset, count) || refuses(board)) return false;
    for (uint8_t i = 0; i < count; i++)
        if (has_power(board)) board->nv[offset + i] &= bytes[i];
    board->nv_busy = board->nv_slow;
    return true;
}

bool rlx_port_nv_erase(void *port, uint16_t offset)
{
    struct sim_board *board = port;
    if (!nv_has(offset, 1) || refuses(board)) return false;
    unsigned page = board->nv_page ? board->nv_page : 256, from = offset / page * page;
    if (!board->nv_dead) board->nv_erased++;
    for (unsigned i = 0; i < page; i++)
        if (has_power(board) && !board->nv_worn) board->nv[from + i] = 0xFF;
    board->nv_busy = board->nv_slow;
    return true;
}

enum rlx_nv rlx_port_nv_state(void *port)
{
    struct sim_board *board = port;
    if (board->nv_fails || board->nv_absent) return RLX_NV_FAILED;
    if (board->nv_busy) board->nv_busy--;
    return board->nv_busy ? RLX_NV_BUSY : RLX_NV_READY;
}

/* Repeatable on purpose: every run with the same input is the same run. */
uint32_t rlx_port_random(void *port)
{
    struct sim_board *board = port;
    board->random ^= board->random << 13;
    board->random ^= board->random >> 17;
    board->random ^= board->random << 5;
    return board->random;
}
