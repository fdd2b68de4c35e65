/* What many quick firmwares have, and less than the other parsers: strtok(), atoi() and snprintf();
 * no place and no list in an error; a second argument is not seen; a long line
 * is cut, a full ring loses bytes without a mark, and a reply overwrites what is not sent. */
#include <stdio.h>
#include <stdlib.h>
#include <string.h>

#include "hand.h"

void hand_exec(char *line) __attribute__((__noinline__)); /* it is measured */

static volatile uint8_t rx_head, rx_tail, tx_head, tx_tail;
static volatile char rx[RX], tx[TX];
static char text[LINE + 1], out[REPLY];
static uint8_t length;

void hand_feed(uint8_t byte)
{
    rx[rx_head++ % RX] = (char)byte;
}

bool hand_take(uint8_t *byte)
{
    if (tx_tail == tx_head) return false;
    *byte = (uint8_t)tx[tx_tail++ % TX];
    return true;
}

bool hand_idle(void)
{
    return rx_head == rx_tail;
}

uint32_t hand_poll(void)
{
    while (rx_tail != rx_head) {
        char c = rx[rx_tail++ % RX];
        if (c == '\r' || c == '\n') {
            text[length] = 0;
            length = 0;
            hand_exec(text);
            for (const char *p = out; *p; p++) tx[tx_head++ % TX] = *p;
            out[0] = 0;
            kick();
        } else if (length < LINE) {
            text[length++] = c;
        }
    }
    return UINT32_MAX;
}

static void poor_done(const char *word, const char *arg, int done)
{
    if (done < 0)
        snprintf(out, sizeof out, "err failed\r\n");
    else
        snprintf(out, sizeof out, "ok %s %s\r\n", word, arg);
}

static void poor_choice(const char *word, const char *arg, const char *const *words, handler_fn fn)
{
    for (int16_t i = 0; i < 3; i++)
        if (!strcmp(arg, words[i])) {
            poor_done(word, arg, fn(i));
            return;
        }
    snprintf(out, sizeof out, "err arg %s\r\n", word);
}

static void poor_number(const char *word, const char *arg, int low, int high, handler_fn fn)
{
    int value = atoi(arg);
    if (value < low || value > high)
        snprintf(out, sizeof out, "err range %s %d..%d\r\n", word, low, high);
    else
        poor_done(word, arg, fn((int16_t)value));
}

static const char *const on_words[] = {"off", "on", "toggle"};
static const char *const open_words[] = {"open", "close", "stop"};
#define BEGIN()                                            \
    char *word = strtok(line, " "), *arg = strtok(0, " "); \
    if (!word) return;                                     \
    if (!arg) arg = word + strlen(word)
#define SWITCHED(fn)          poor_choice(word, arg, on_words, fn)
#define MOVED(fn)             poor_choice(word, arg, open_words, fn)
#define NUMBER(low, high, fn) poor_number(word, arg, low, high, fn)
#define UNKNOWN()             snprintf(out, sizeof out, "err unknown\r\n")
