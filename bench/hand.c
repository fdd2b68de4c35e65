#include "hand.h"

/* The rings are the library's: each index has one writer, and is read by the other side as
 * volatile. */
#define FENCE()      __asm__ volatile("" ::: "memory")
#define THEIRS(byte) (*(const volatile uint8_t *)&(byte))
static uint8_t rx_limit = RX, rx_head, rx_cut, rx_seen, tx_head, tx_tail;
static uint16_t rx_lost;
static uint8_t rx[RX], tx[TX];
static char line[LINE + 1];
static uint8_t len, state, stage;

enum { READY = 0x80, E_BYTE = 1, E_LONG, E_LOST };

void hand_feed(uint8_t byte)
{
    uint8_t head = rx_head;
    if (rx_cut == THEIRS(rx_seen) && head != THEIRS(rx_limit)) {
        rx[head % RX] = byte;
        FENCE();
        rx_head = (uint8_t)(head + 1);
        return;
    }
    if (rx_cut == THEIRS(rx_seen)) rx_cut++;
    if (rx_lost != UINT16_MAX) rx_lost++;
}

bool hand_take(uint8_t *byte)
{
    uint8_t tail = tx_tail;
    if (tail == THEIRS(tx_head)) return false;
    *byte = tx[tail % TX];
    FENCE();
    tx_tail = (uint8_t)(tail + 1);
    FENCE();
    return true;
}

void put(char c)
{
    tx[stage++ % TX] = (uint8_t)c;
}

void put_rom(const ROM char *text)
{
    char c;
    while ((c = *text++) != 0) put(c);
}

void put_word(const char *word)
{
    for (uint8_t n = 0; *word > ' ' && n < 16; n++) put(*word++);
}

void put_int(int16_t value)
{
    char digit[5];
    uint8_t n = 0;
    uint16_t left = (uint16_t)value;
    if (value < 0) {
        put('-');
        left = (uint16_t)-left;
    }
    do {
        uint16_t rest = (uint16_t)((uint32_t)left * 52429u >> 19);
        digit[n++] = (char)('0' + (left - rest * 10));
        left = rest;
    } while (left);
    while (n) put(digit[--n]);
}

void fail(const ROM char *name, const ROM char *list, const char *word, int16_t low, int16_t high,
          const char *at)
{
    stage = tx_head;
    put_rom(F("err "));
    put_rom(name);
    put(' ');
    if (list) {
        put_rom(list);
    } else if (word) {
        put_word(word);
    } else {
        put_rom(F("n "));
        put_int(low);
        put('.');
        put('.');
        put_int(high);
    }
    put_rom(F(" at "));
    put_int((int16_t)(at - line));
}

static bool is_word(const char *s, const ROM char *word)
{
    while (*word && *word == *s) s++, word++;
    return !*word && *s <= ' ';
}

void unknown(const char *word)
{
    const char *s = word;
    if (is_word(word, F("ok")) || is_word(word, F("err")) || is_word(word, F("ev")) ||
        is_word(word, F("note")) || is_word(word, F("ready")))
        return;
    if (*s == 'e' && (uint8_t)(s[1] - '0') <= 9) {
        while ((uint8_t)(*++s - '0') <= 9) {}
        if (*s <= ' ') return;
    }
    fail(F("unknown"), NULL, word, 0, 0, word);
}

char *skip(char *s)
{
    while (*s == ' ') s++;
    return s;
}

void finish(int done)
{
    if (done < 0) {
        stage = tx_head;
        put_rom(done == -13 ? F("err busy") : F("err failed"));
    } else if (done) {
        put_rom(F(" already"));
    }
}

#ifndef CHAIN
const ROM char switched[3][7] = {"off", "on", "toggle"}, moved[3][7] = {"open", "close", "stop"};
const ROM char switched_list[] = "on|off|toggle", moved_list[] = "open|close|stop";

static void begin_ok(const char *word)
{
    put('o');
    put('k');
    put(' ');
    while (*word > ' ') put(*word++);
    put(' ');
}

void choice(const char *word, char *s, const ROM char (*words)[7], const ROM char *list,
            handler_fn fn)
{
    char *end = s, *extra;
    uint8_t i = 0;
    if (!*s) {
        fail(F("missing"), list, NULL, 0, 0, s);
        return;
    }
    while (!is_word(s, words[i]))
        if (++i == 3) {
            fail(F("choice"), list, NULL, 0, 0, s);
            return;
        }
    while (*end > ' ') end++;
    extra = skip(end);
    if (*extra) {
        fail(F("extra"), NULL, extra, 0, 0, extra);
        return;
    }
    begin_ok(word);
    put_word(s);
    finish(fn(i));
}

void number(const char *word, char *s, int16_t low, int16_t high, handler_fn fn)
{
    char *p = s, *digits, *first, *end;
    uint8_t width = low < -99 || high > 99 ? 3 : high > 9 || low < -9 ? 2 : 1, digit;
    uint32_t sum = 0;
    bool minus = *s == '-';
    const ROM char *name = NULL;
    if (!*s) {
        fail(F("missing"), NULL, NULL, low, high, s);
        return;
    }
    if (minus) p++;
    for (digits = p; *p == '0';) p++;
    for (first = p; (digit = (uint8_t)(*p - '0')) <= 9; p++) sum = sum * 10 + digit;
    end = p;
    if (end != digits && first == end) first--;
    int32_t value = minus ? -(int32_t)sum : (int32_t)sum;
    if (end == digits || *end > ' ' || (minus && *first == '0'))
        name = F("number");
    else if (end - first > width || value < low || value > high)
        name = F("range");
    else if (end - digits > width)
        name = F("digits");
    if (name) {
        fail(name, NULL, NULL, low, high, s);
        return;
    }
    p = skip(end);
    if (*p) {
        fail(F("extra"), NULL, p, 0, 0, p);
        return;
    }
    begin_ok(word);
    if (minus) put('-');
    while (first != end) put(*first++);
    finish(fn((int16_t)value));
}
#endif

__attribute__((noinline)) static bool answer(void)
{
    if ((uint8_t)(TX - (uint8_t)(tx_head - THEIRS(tx_tail))) < REPLY) return false;
    uint8_t error = state & (uint8_t)~READY, n = len;
    stage = tx_head;
    if (!error) {
        hand_exec(line);
    } else {
        put_rom(error == E_BYTE ? F("err byte ") : error == E_LONG ? F("err long") : F("err lost"));
        if (error == E_BYTE) put_int((uint8_t)line[n]);
        put_rom(F(" at "));
        put_int(n);
    }
    len = state = 0;
    if (stage == tx_head) return true;
    put('\r');
    put('\n');
    FENCE();
    tx_head = stage;
    FENCE();
    kick();
    return true;
}

static void line_byte(uint8_t byte)
{
    if (byte == '\r' || byte == '\n') {
        if (!state) {
            if (!len) return;
            line[len] = 0;
        }
        state |= READY;
    } else if (!state) {
        if (len == LINE) {
            state = E_LONG;
            return;
        }
        line[len] = (char)byte;
        if ((uint8_t)(byte - ' ') > '~' - ' ')
            state = E_BYTE;
        else
            len++;
    }
}

uint32_t hand_poll(void)
{
    for (uint8_t budget = 64;;) {
        if (state & READY && !answer()) return UINT32_MAX;
        if (!budget--)
            return (uint8_t)(rx_limit - RX) == THEIRS(rx_head) && THEIRS(rx_cut) == rx_seen
                       ? UINT32_MAX
                       : 0;
        uint8_t cut = THEIRS(rx_cut);
        FENCE();
        uint8_t limit = rx_limit, tail = (uint8_t)(limit - RX);
        if (tail != THEIRS(rx_head)) {
            FENCE();
            uint8_t byte = rx[tail % RX];
            FENCE();
            rx_limit = (uint8_t)(limit + 1);
            line_byte(byte);
        } else if (cut != rx_seen) {
            rx_seen = cut;
            if (!state) state = E_LOST;
        } else {
            return UINT32_MAX;
        }
    }
}

bool hand_idle(void)
{
    if (state & READY) return (uint8_t)(TX - (uint8_t)(tx_head - THEIRS(tx_tail))) < REPLY;
    return (uint8_t)(rx_limit - RX) == THEIRS(rx_head) && THEIRS(rx_cut) == rx_seen;
}
