/* Asks a level gauge each second, and reads what it sends: rlx_raw_read() hands over the bytes that
 * came, and says where some were lost. The rest is as in any other firmware. */
#include "board.h"
#include "gauge.h"

#define ASK_MS    1000u
#define SILENT_MS 3000u

static struct gauge gauge;

static uint8_t frame[4], frame_len;
static uint16_t level;
static bool known;
static uint32_t heard_at, asked_at;

int gauge_read_level(struct gauge *device, uint16_t *mm)
{
    (void)device;
    if (!known) return GAUGE_REFUSES_SILENT;
    *mm = level;
    return RLX_DONE;
}

/* A byte of the gauge. What does not begin with 0x55, or has another sum, is dropped. */
static void take(uint8_t byte, uint32_t now)
{
    frame[frame_len++] = byte;
    if (frame[0] != 0x55) frame_len = 0;
    if (frame_len < sizeof frame) return;
    frame_len = 0;
    if ((uint8_t)(frame[0] + frame[1] + frame[2]) != frame[3]) return;
    level = (uint16_t)(frame[1] << 8 | frame[2]);
    if (!known) gauge_send_gauge(&gauge, GAUGE_EVENT_GAUGE_BACK);
    known = true;
    heard_at = now;
}

static void run_gauge(uint32_t now)
{
    static const uint8_t ask = 0x01;
    uint8_t bytes[16], n;
    bool lost;
    while ((n = rlx_raw_read(&gauge.device, GAUGE_LINK_GAUGE, bytes, sizeof bytes, &lost)) != 0) {
        if (lost) frame_len = 0;
        for (uint8_t i = 0; i < n; i++) take(bytes[i], now);
    }
    if (known && now - heard_at >= SILENT_MS) {
        known = false;
        gauge_send_gauge(&gauge, GAUGE_EVENT_GAUGE_SILENT);
    }
    if (now - asked_at < ASK_MS) return;
    asked_at = now;
    rlx_raw_write(&gauge.device, GAUGE_LINK_GAUGE, &ask, 1);
}

int main(void)
{
    void *port = board_start(gauge.link, GAUGE_LINKS, GAUGE_BENCH_BAUD);
    if (!port || gauge_init(&gauge, port, board_reset_cause()) != 0) return 1;
    for (;;) {
        uint32_t now = board_millis(), wait = rlx_poll(&gauge.device, now);
        run_gauge(now);
        if (wait > 100) wait = 100;
        board_mask();
        if (rlx_idle(&gauge.device)) board_sleep(wait);
        board_unmask();
    }
}
