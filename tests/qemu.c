/* The tide tank's firmware on an emulated Cortex-M0: golden conversations over the emulated UART,
 * with pins and PWM read from the chip's registers, and a flood. */
#include <errno.h>
#include <poll.h>
#include <signal.h>
#include <stdint.h>
#include <stdio.h>
#include <stdlib.h>
#include <string.h>
#include <sys/socket.h>
#include <sys/un.h>
#include <sys/wait.h>
#include <unistd.h>

#include "harness.h"
#include "script.h"

#define PATIENCE_MS 30000
#define GPIO_OUT    0x50000504u /* nRF51 manual 14.2.1 */
#define TIMER1_CC0  0x40009540u /* 18.2.6 */
#define PERIOD      16000u      /* of 1 kHz at 16 MHz */

static const char *elf;

struct chip {
    pid_t pid;
    int uart, monitor;
    char *folder;
    GString *heard;
};

static int dial(const char *path)
{
    struct sockaddr_un to = {.sun_family = AF_UNIX};
    g_strlcpy(to.sun_path, path, sizeof to.sun_path);
    int fd = socket(AF_UNIX, SOCK_STREAM, 0);
    for (int tries = 0; tries < 100; tries++) {
        if (connect(fd, (struct sockaddr *)&to, sizeof to) == 0) return fd;
        g_usleep(50000);
    }
    perror(path);
    exit(2);
}

/* Appends what comes within `ms`; false when nothing does. */
static bool hear(int fd, GString *to, int ms)
{
    char bytes[512];
    struct pollfd in = {.fd = fd, .events = POLLIN};
    if (poll(&in, 1, ms) <= 0) return false;
    ssize_t n = read(fd, bytes, sizeof bytes);
    if (n > 0) g_string_append_len(to, bytes, n);
    return n > 0;
}

static void say(int fd, const char *bytes, size_t count)
{
    while (count) {
        ssize_t n = write(fd, bytes, count);
        if (n < 0 && errno != EINTR) exit(2);
        if (n > 0) bytes += n, count -= (size_t)n;
    }
}

/* The chip waits for somebody on its UART before it starts. */
static struct chip chip_start(void)
{
    struct chip chip = {.folder = g_dir_make_tmp("rlx-qemu-XXXXXX", NULL),
                        .heard = g_string_new(NULL)};
    char *uart = g_strdup_printf("%s/u", chip.folder),
         *monitor = g_strdup_printf("%s/m", chip.folder);
    char *serial = g_strdup_printf("unix:%s,server=on,wait=on", uart);
    char *control = g_strdup_printf("unix:%s,server=on,wait=off", monitor);
    chip.pid = fork();
    if (chip.pid == 0) {
        execlp("qemu-system-arm", "qemu-system-arm", "-M", "microbit", "-display", "none",
               "-serial", serial, "-monitor", control, "-kernel", elf, (char *)NULL);
        _exit(127);
    }
    chip.uart = dial(uart);
    chip.monitor = dial(monitor);
    g_free(uart);
    g_free(monitor);
    g_free(serial);
    g_free(control);
    return chip;
}

static void chip_stop(struct chip *chip)
{
    char *remove = g_strdup_printf("rm -r '%s'", chip->folder);
    kill(chip->pid, SIGKILL);
    waitpid(chip->pid, NULL, 0);
    close(chip->uart);
    close(chip->monitor);
    if (system(remove) != 0) exit(2);
    g_free(remove);
    g_free(chip->folder);
    g_string_free(chip->heard, TRUE);
}

/* A word of the chip's memory or of a register. */
static uint32_t chip_peek(struct chip *chip, uint32_t address)
{
    char *command = g_strdup_printf("xp /1wx 0x%x\n", address);
    char *tag = g_strdup_printf("%016x: 0x", address);
    GString *answer = g_string_new(NULL);
    const char *at = NULL;
    while (hear(chip->monitor, answer, 0)) {}
    g_string_truncate(answer, 0);
    say(chip->monitor, command, strlen(command));
    while (!at || !strchr(at, '\n')) {
        if (!hear(chip->monitor, answer, PATIENCE_MS)) exit(2);
        at = strstr(answer->str, tag);
    }
    uint32_t value = (uint32_t)strtoul(at + strlen(tag), NULL, 16);
    g_string_free(answer, TRUE);
    g_free(command);
    g_free(tag);
    return value;
}

static unsigned lines_in(const GString *text)
{
    unsigned n = 0;
    for (const char *p = text->str; *p; p++) n += *p == '\n';
    return n;
}

/* Waits for so many lines in all. */
static void hear_lines(struct chip *chip, unsigned lines)
{
    while (lines_in(chip->heard) < lines && hear(chip->uart, chip->heard, PATIENCE_MS)) {}
}

/* "pin 4 low" or "pwm 1 26214": what the registers must say. */
static void check_output(struct chip *chip, const char *wanted)
{
    unsigned pin, duty;
    char level[8];
    test_context("%s", wanted);
    if (sscanf(wanted, "pin %u %7s", &pin, level) == 2)
        CHECK_INT(chip_peek(chip, GPIO_OUT) >> pin & 1, !strcmp(level, "high"));
    else if (sscanf(wanted, "pwm 1 %u", &duty) == 1)
        CHECK_INT(chip_peek(chip, TIMER1_CC0), duty * (PERIOD >> 4) >> 12);
    else
        CHECK(!"a line of the conversation is about neither pin nor pwm");
}

static void check_outputs(struct chip *chip, GHashTable *outputs)
{
    GHashTableIter all;
    gpointer value;
    g_hash_table_iter_init(&all, outputs);
    while (g_hash_table_iter_next(&all, NULL, &value)) check_output(chip, value);
}

/* The last line about each output is how it must be now. */
static void note_output(GHashTable *outputs, char *line)
{
    char *blank = strchr(strchr(line, ' ') + 1, ' ');
    g_hash_table_insert(outputs, g_strndup(line, (gsize)(blank - line)), line);
}

/* Waits until the chip has received so many bytes in all, and its main loop has taken them: rx_head
 * is there, and rx_limit a ring ahead of it. */
static void wait_taken(struct chip *chip, unsigned sent)
{
    uint32_t at = (uint32_t)strtoul(getenv("RX_HEAD_AT"), NULL, 16);
    for (int tries = 0; tries < 1000; tries++) {
        uint32_t word = chip_peek(chip, at); /* rx_head, rx_cut, tx_tail, rx_limit */
        uint8_t head = (uint8_t)word, limit = (uint8_t)(word >> 24);
        if (head == (uint8_t)sent && limit == (uint8_t)(head + 64)) return;
        g_usleep(5000);
    }
    CHECK(!"the chip takes what it is sent");
}

static void play(const struct script *script)
{
    struct chip chip = chip_start();
    GHashTable *outputs = g_hash_table_new_full(g_str_hash, g_str_equal, g_free, NULL);
    unsigned lines = 1, sent = 0;
    hear_lines(&chip, lines);
    CHECK(g_str_has_prefix(chip.heard->str, "ready tidetank 1 "));
    for (unsigned i = 0; i < script->lines->len; i++) {
        struct script_line *line = &g_array_index(script->lines, struct script_line, i);
        if (line->kind == '=') note_output(outputs, line->text->str);
        if (line->kind == '<') lines++;
        bool over = i + 1 == script->lines->len;
        if (over || g_array_index(script->lines, struct script_line, i + 1).kind == '>') {
            hear_lines(&chip, lines);
            check_outputs(&chip, outputs);
        }
        if (line->kind != '>') continue;
        say(chip.uart, line->text->str, line->text->len);
        sent += (unsigned)line->text->len;
        if (over || line[1].kind == '>') wait_taken(&chip, sent); /* no reply to wait for */
    }
    hear(chip.uart, chip.heard, 50); /* nothing else may come */
    test_context("%s", script->title);
    g_string_replace(chip.heard, "\r\n", "\n", 0);
    GString *wanted = script_expected(script, '<');
    CHECK_TEXT(strchr(chip.heard->str, '\n') + 1, wanted->str);
    g_string_free(wanted, TRUE);
    g_hash_table_destroy(outputs);
    chip_stop(&chip);
}

static void golden_conversations(void)
{
    static const char *const files[] = {GOLDEN "/tidetank.talk", GOLDEN "/bytes.talk"};
    for (unsigned f = 0; f < G_N_ELEMENTS(files); f++) {
        GPtrArray *scripts = script_read(files[f]);
        for (unsigned i = 0; i < scripts->len; i++) play(scripts->pdata[i]);
    }
}

static unsigned count_of(const GString *text, const char *what)
{
    unsigned n = 0;
    for (const char *p = text->str; (p = strstr(p, what)); p++) n++;
    return n;
}

/* Until nothing comes any more and the receive ring stands still: its indices and the count of lost
 * bytes are the same twice, half a second apart. */
static void hear_out(struct chip *chip)
{
    uint32_t head_at = (uint32_t)strtoul(getenv("RX_HEAD_AT"), NULL, 16);
    uint32_t lost_at = (uint32_t)strtoul(getenv("RX_LOST_AT"), NULL, 16);
    uint32_t head, lost;
    do {
        head = chip_peek(chip, head_at);
        lost = chip_peek(chip, lost_at);
        while (hear(chip->uart, chip->heard, 500)) {}
    } while (head != chip_peek(chip, head_at) || lost != chip_peek(chip, lost_at));
}

/* Everything at once, without waiting for answers: each line is answered, or its bytes are counted
 * as lost and the line they were cut from is refused. */
static void flood(void)
{
    enum { PAIRS = 2000 };
    struct chip chip = chip_start();
    uint32_t lost_at = (uint32_t)strtoul(getenv("RX_LOST_AT"), NULL, 16);
    unsigned sent = 0;
    hear_lines(&chip, 1);
    for (unsigned i = 0; i < PAIRS; i++) {
        static const char pair[] = "glow 10\rglow 20\r";
        say(chip.uart, pair, sizeof pair - 1);
        sent += sizeof pair - 1;
        while (hear(chip.uart, chip.heard, 0)) {}
    }
    hear_out(&chip);
    unsigned ok = count_of(chip.heard, "ok glow"), refused = count_of(chip.heard, "err lost");
    unsigned lost = chip_peek(&chip, lost_at) & 0xFFFF;
    printf("flood: %u bytes sent, %u lines done, %u refused, %u bytes lost\n", sent, ok, refused,
           lost);
    test_context("flood");
    CHECK_INT(ok + refused + 1, lines_in(chip.heard));
    CHECK((lost == 0) == (refused == 0));
    CHECK(ok * 8 + lost <= sent && sent <= ok * 8 + lost + refused * 16);
    say(chip.uart, "\rpump off\r", 10);
    g_string_truncate(chip.heard, 0);
    while (!strstr(chip.heard->str, "ok pump off\r\n") &&
           hear(chip.uart, chip.heard, PATIENCE_MS)) {}
    CHECK(g_str_has_suffix(chip.heard->str, "ok pump off\r\n"));
    chip_stop(&chip);
}

static void first_light(void)
{
    elf = FIRST_LIGHT;
    struct chip chip = chip_start();
    hear_lines(&chip, 1);
    check_output(&chip, "pin 13 low");
    say(chip.uart, "t", 1);
    hear_lines(&chip, 2);
    check_output(&chip, "pin 13 high");
    say(chip.uart, "xt", 2);
    hear_lines(&chip, 4);
    check_output(&chip, "pin 13 low");
    CHECK(strstr(chip.heard->str, "\n<ok lamp on\r\n<err unknown x at 0\r\n<ok lamp off\r\n"));
    chip_stop(&chip);
}

static void tell_dial(struct chip *chip, const char *text, const char *answer)
{
    g_string_truncate(chip->heard, 0);
    say(chip->uart, text, strlen(text));
    say(chip->uart, "\r", 1);
    while (!strstr(chip->heard->str, answer) && hear(chip->uart, chip->heard, PATIENCE_MS)) {}
    test_context("%s", text);
    CHECK(strstr(chip->heard->str, answer) != NULL);
}

/* In tenths of a degree, which are steps, when it stands. */
static int dial_place(struct chip *chip)
{
    do tell_dial(chip, "dial?", "deg\r\n");
    while (strstr(chip->heard->str, "moving"));
    const char *at = strstr(chip->heard->str, "ok dial ");
    double degrees = at ? g_ascii_strtod(at + strlen("ok dial "), NULL) : 1e6;
    return (int)(degrees * 10 + (degrees < 0 ? -0.5 : 0.5));
}

/* Each move sends just as many pulses as its way has steps, also where it is stopped or lengthened
 * in the midst of a run; more where it is turned round. */
static void steps(void)
{
    static const struct {
        const char *first, *then;
        bool turns;
        int place; /* 0: wherever it stops */
    } moves[] = {{"dial 160", NULL, false, 1600},        {"turn -0.1", NULL, false, 1599},
                 {"dial -160", "dial stop", false, 0},   {"dial -158", "dial -159", false, -1590},
                 {"dial 160", "dial -160", true, -1600}, {"turn 2.5", "turn 2.5", false, -1550},
                 {"dial 3", "dial home", false, 0}};
    elf = DIAL;
    struct chip chip = chip_start();
    uint32_t at = (uint32_t)strtoul(getenv("PULSES_AT"), NULL, 16);
    hear_lines(&chip, 1);
    int place = dial_place(&chip);
    CHECK_INT(place, 0);
    for (unsigned i = 0; i < G_N_ELEMENTS(moves); i++) {
        uint32_t before = chip_peek(&chip, at);
        tell_dial(&chip, moves[i].first, "ok");
        g_usleep(moves[i].then ? 150000 : 0);
        if (moves[i].then) tell_dial(&chip, moves[i].then, "ok");
        int now = dial_place(&chip);
        unsigned sent = chip_peek(&chip, at) - before, way = (unsigned)abs(now - place);
        printf("%s, %s: from %d to %d in %u pulses\n", moves[i].first,
               moves[i].then ? moves[i].then : "-", place, now, sent);
        if (moves[i].place) CHECK_INT(now, moves[i].place);
        CHECK(moves[i].turns ? sent > way : sent == way);
        place = now;
    }
    CHECK_INT(place, 0);
    chip_stop(&chip);
}

static const struct test_case cases[] = {
    {"golden conversations on a Cortex-M0", golden_conversations},
    {"a flood on a Cortex-M0", flood},
    {"first light on a Cortex-M0", first_light},
    {"a stepper on a Cortex-M0", steps},
};

int main(int argc, char **argv)
{
    elf = TIDE_TANK;
    return test_main(argc, argv, cases, G_N_ELEMENTS(cases));
}
