/* A program for a PC that commands the tide tank over a serial device: panel DEVICE LEVEL.
 * tidetank_bench.h and .c are made by: rlx emit ../tide_tank/tidetank.lexicon --sender bench
 * They know the commands; this file knows the serial device and the time. */
#include <fcntl.h>
#include <poll.h>
#include <stdio.h>
#include <stdlib.h>
#include <termios.h>
#include <time.h>
#include <unistd.h>

#include "tidetank_bench.h"

static int device;
static bool done;

bool tidetank_bench_on_write(struct tidetank_bench *s, const uint8_t *bytes, uint8_t count)
{
    (void)s;
    return write(device, bytes, count) == (ssize_t)count;
}

void tidetank_bench_on_heard(struct tidetank_bench *s, const struct tidetank_bench_heard *heard)
{
    bool glow = heard->request == TIDETANK_BENCH_REQUEST_GLOW;
    switch (heard->what) {
    case TIDETANK_BENCH_DONE:
    case TIDETANK_BENCH_ALREADY:
        if (glow) printf("the light is at %u %%\n", heard->is.glow.level);
        if (glow) tidetank_bench_send_pump(s, TIDETANK_BENCH_PUMP_TOGGLE); /* and the next one */
        if (!glow) printf("the pump is %s\n", heard->on ? "on" : "off");
        done = !glow;
        break;
    case TIDETANK_BENCH_REFUSED:
        printf("refused, error %u: %.*s\n", heard->error, heard->count, heard->text);
        done = true;
        break;
    case TIDETANK_BENCH_UNANSWERED:
        printf("no answer\n");
        done = true;
        break;
    default: break; /* what the tank sends by itself */
    }
}

static uint32_t now_ms(void)
{
    struct timespec t;
    clock_gettime(CLOCK_MONOTONIC, &t);
    return (uint32_t)t.tv_sec * 1000u + (uint32_t)(t.tv_nsec / 1000000);
}

int main(int argc, char **argv)
{
    static struct tidetank_bench tank;
    struct termios mode;
    int level = argc > 2 ? atoi(argv[2]) : 40;
    device = argc > 1 ? open(argv[1], O_RDWR | O_NOCTTY) : -1;
    if (device < 0 || tcgetattr(device, &mode)) {
        fprintf(stderr, "panel DEVICE LEVEL: the device is none\n");
        return 2;
    }
    mode.c_iflag = mode.c_oflag = mode.c_lflag = 0; /* bytes as they are */
    cfsetispeed(&mode, B115200);
    cfsetospeed(&mode, B115200);
    tcsetattr(device, TCSANOW, &mode);
    tidetank_bench_init(&tank);
    if (level < 0 || level > UINT8_MAX || tidetank_bench_send_glow(&tank, (uint8_t)level)) {
        printf("%d is no level, 0..100\n", level);
        return 1;
    }
    while (!done) {
        uint8_t bytes[64];
        uint32_t wait = tidetank_bench_poll(&tank, now_ms());
        struct pollfd in = {device, POLLIN, 0};
        if (poll(&in, 1, wait > 1000 ? 1000 : (int)wait) < 1) continue;
        ssize_t count = read(device, bytes, sizeof bytes);
        if (count <= 0) return 2;
        tidetank_bench_receive(&tank, bytes, (uint16_t)count);
    }
    return 0;
}
