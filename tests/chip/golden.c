/* Golden conversations on an emulated chip: each is said to a device that starts anew, and each
 * byte that it sends and each thing that it drives is compared as it comes. Prints "N passed, M
 * failed" and ends. The lexicon is LEXICON, its header EMITTED_HEADER; its handlers are
 * rig_invoke() (harness/rigged), and `script` is what rom_script made. */
#include <stdbool.h>
#include <stddef.h>

#include EMITTED_HEADER
#include "rlx/port.h"
#include "rlx/tables.h"

#define JOINED_(a, b) a##b
#define JOINED(a, b)  JOINED_(a, b)

static const uint8_t script[] RLX_ROM = {
#include "script.inc"
};

static struct LEXICON it;
static uint32_t now;
static uint8_t link_in_hand;
static bool greeted, wrong, bytes; /* bytes: no line end ends its answers */

/* ---- the chip: a character out, and the end ---- */

#if defined(__AVR__)
#include <avr/io.h>
static void tell(char c)
{
    UCSR0B = 1u << TXEN0;
    while (!(UCSR0A & 1u << UDRE0)) {}
    UDR0 = (uint8_t)c;
}
static void over(void)
{
    for (;;) {}
}
#elif defined(__riscv)
/* QEMU's virt machine: a 16550 at 0x10000000, and what ends it at 0x100000. */
static void tell(char c)
{
    *(volatile uint8_t *)0x10000000 = (uint8_t)c;
}
static void over(void)
{
    *(volatile uint32_t *)0x100000 = 0x5555;
    for (;;) {}
}
__asm__(".section .init\n.globl _start\n_start: la sp, stack_top\n call main\n");
#else
void uart0_interrupt(void);
void timer0_interrupt(void);
void uart0_interrupt(void)
{
}
void timer0_interrupt(void)
{
}
/* Semihosting: SYS_WRITEC, SYS_EXIT (Arm, "Semihosting for AArch32 and AArch64"). */
static void semihost(uint32_t what, const void *with)
{
    register uint32_t r0 __asm__("r0") = what;
    register const void *r1 __asm__("r1") = with;
    __asm__ volatile("bkpt 0xAB" : "+r"(r0) : "r"(r1) : "memory");
}
static void tell(char c)
{
    semihost(3, &c);
}
static void over(void)
{
    semihost(0x18, (void *)0x20026);
}
#endif

#if !defined(__AVR__)
void *memset(void *to, int value, size_t count);
void *memcpy(void *restrict to, const void *restrict from, size_t count);
__attribute__((__used__)) void *memset(void *to, int value, size_t count)
{
    for (volatile uint8_t *p = to; count; count--) *p++ = (uint8_t)value;
    return to;
}
__attribute__((__used__)) void *memcpy(void *restrict to, const void *restrict from, size_t count)
{
    const volatile uint8_t *p = from;
    for (uint8_t *q = to; count; count--) *q++ = *p++;
    return to;
}
#endif

static void tell_number(unsigned n)
{
    char digits[6];
    uint8_t count = 0;
    do digits[count++] = (char)('0' + n % 10);
    while (n /= 10);
    while (count) tell(digits[--count]);
}

static void tell_text(const char *text)
{
    while (*text) tell(*text++);
}

/* ---- what is wanted ---- */

/* A line of one kind, and how much of it has come. */
struct cursor {
    uint8_t kind;
    rlx_rom at; /* the line, or the end of the conversation */
    uint8_t done;
};
static struct cursor reply, doing;

static rlx_rom behind(rlx_rom line)
{
    return RLX_ROM8(line) == 'C' ? line + 2 : line + 2 + RLX_ROM8(line + 1);
}

static bool ends(rlx_rom line)
{
    return RLX_ROM8(line) == 'C' || !RLX_ROM8(line);
}

/* The next line of its kind, from this one on. */
static void seek(struct cursor *c, rlx_rom line)
{
    while (!ends(line) && RLX_ROM8(line) != c->kind) line = behind(line);
    c->at = line;
    c->done = 0;
}

/* The next character, or '\n' behind the last one of a line. */
static void compare(struct cursor *c, char is)
{
    uint8_t count = ends(c->at) ? 0 : RLX_ROM8(c->at + 1);
    char wanted = c->done < count ? (char)RLX_ROM8(c->at + 2 + c->done) : '\n';
    if (ends(c->at) || is != wanted) wrong = true;
    if (ends(c->at)) return;
    c->done++;
    bool over = bytes && c == &reply ? c->done == count : is == '\n';
    if (over) seek(c, behind(c->at));
}

static void does(const char *what, unsigned number, const char *how, unsigned value)
{
    char digits[6];
    for (; *what; what++) compare(&doing, *what);
    for (uint8_t round = 0; round < 2; round++) {
        unsigned n = round ? value : number;
        uint8_t count = 0;
        if (round && how) break;
        compare(&doing, ' ');
        do digits[count++] = (char)('0' + n % 10);
        while (n /= 10);
        while (count) compare(&doing, digits[--count]);
    }
    if (how) compare(&doing, ' ');
    for (; how && *how; how++) compare(&doing, *how);
    compare(&doing, '\n');
}

/* ---- the port ---- */

static uint8_t driven[32], high[32]; /* a bit for each pin */

void rlx_port_pin_write(void *port, uint8_t pin, bool level)
{
    uint8_t bit = (uint8_t)(1u << pin % 8);
    (void)port;
    if (driven[pin / 8] & bit && !(high[pin / 8] & bit) == !level) return;
    driven[pin / 8] |= bit;
    high[pin / 8] = (uint8_t)(level ? high[pin / 8] | bit : high[pin / 8] & (uint8_t)~bit);
    does("pin", pin, level ? "high" : "low", 0);
}

bool rlx_port_pin_read(void *port, uint8_t pin)
{
    (void)port;
    return high[pin / 8] >> pin % 8 & 1;
}

void rlx_port_pin_watch(void *port, uint8_t pin, enum rlx_pull pull)
{
    (void)port;
    if (pull == RLX_PULL_UP) high[pin / 8] |= (uint8_t)(1u << pin % 8);
}

#if RLX_HAS_SETTINGS
#define KEEPS (RLX_HAS_SEAL || RLX_KEEPS_TAGS)
/* Where nothing is kept over a reset it is erased and never ready to be written: it takes no RAM. */
static uint8_t memory[KEEPS ? 2 * RLX_NV_AREA_BYTES : 1];

bool rlx_port_nv_read(void *port, uint16_t offset, uint8_t *to, uint8_t count)
{
    (void)port;
    while (count--) to[count] = KEEPS ? memory[offset + count] : 0xFF;
    return true;
}

bool rlx_port_nv_write(void *port, uint16_t offset, const uint8_t *from, uint8_t count)
{
    (void)port;
    while (KEEPS && count--) memory[offset + count] &= from[count];
    return KEEPS;
}

/* A page is half of it. */
bool rlx_port_nv_erase(void *port, uint16_t offset)
{
    (void)port;
    offset = (uint16_t)(offset - offset % RLX_NV_AREA_BYTES);
    for (uint16_t i = 0; KEEPS && i < RLX_NV_AREA_BYTES; i++) memory[offset + i] = 0xFF;
    return KEEPS;
}

enum rlx_nv rlx_port_nv_state(void *port)
{
    (void)port;
    return RLX_NV_READY;
}
#endif

void rlx_port_duty(void *port, uint8_t channel, uint16_t duty, uint32_t hz)
{
    (void)port, (void)hz;
    does("pwm", channel, NULL, duty);
}

void rlx_port_pulse(void *port, uint8_t channel, uint16_t us)
{
    (void)port;
    does("pulse", channel, NULL, us);
}

void rlx_port_tone(void *port, uint8_t channel, uint16_t hz)
{
    (void)port;
    does("tone", channel, NULL, hz);
}

void rlx_port_kick(void *port, uint8_t link)
{
    (void)port, (void)link;
}

int rig_invoke(rlx_fn handler, void *user, rlx_value *value, const uint8_t *frame);
int rig_invoke(rlx_fn handler, void *user, rlx_value *value, const uint8_t *frame)
{
    (void)handler, (void)user, (void)value, (void)frame;
    return 0;
}

/* ---- a conversation ---- */

static void take_all(void)
{
    uint8_t byte;
    for (uint8_t i = 0; i < RLX_FIXED_LINKS; i++)
        while (rlx_link_take(&it.link[i], &byte)) {
            if (i != link_in_hand || (byte == '\r' && !bytes)) continue;
            if (greeted)
                compare(&reply, (char)byte);
            else
                greeted = byte == '\n';
        }
}

static uint32_t run(void)
{
    uint32_t wait;
    do {
        wait = rlx_poll(&it.device, now++);
        take_all();
    } while (!wait || !rlx_idle(&it.device));
    return wait;
}

static void pass(uint32_t ms)
{
    uint32_t end = now + ms;
    while ((int32_t)(end - now) > 0) {
        uint32_t wait = run(), left = end - now;
        wait = wait > 1 ? wait - 1 : 1;
        now += wait < left ? wait : left;
    }
    run();
}

/* Said byte by byte, so that any ring is large enough. */
static void say(rlx_rom line)
{
    uint32_t ms = 0;
    for (uint8_t i = 0; i < RLX_ROM8(line + 1); i++) {
        uint8_t byte = RLX_ROM8(line + 2 + i);
        if (RLX_ROM8(line) == '~')
            ms = ms * 10 + byte - '0';
        else
            rlx_link_feed(&it.link[link_in_hand], byte);
        if (RLX_ROM8(line) == '>' && i % 32 == 31) run();
    }
    if (RLX_ROM8(line) == '~')
        pass(ms);
    else
        run();
}

static void start(void)
{
    for (size_t i = 0; i < sizeof it; i++) ((volatile uint8_t *)&it)[i] = 0;
    for (uint8_t i = 0; i < sizeof driven; i++) driven[i] = high[i] = 0;
    if (JOINED(LEXICON, _init)(&it, NULL, RLX_RESET_WATCHDOG) != 0) wrong = true;
}

/* An event of the firmware, a link that comes up or goes down, a key, a reset. */
static void happen(rlx_rom line)
{
    if (RLX_ROM8(line) == 'R') start();
#if RLX_HAS_SEAL
    if (RLX_ROM8(line) == 'K') {
        char key[32];
        uint8_t count = (uint8_t)(RLX_ROM8(line + 1) - 1);
        for (uint8_t i = 0; i < count; i++) key[i] = (char)RLX_ROM8(line + 3 + i);
        wrong |= rlx_key_store(&it.device, RLX_ROM8(line + 2), key, count) != 0;
    }
#endif
#if RLX_HAS_EVENTS
    if (RLX_ROM8(line) == 'E')
        wrong |= rlx_event(&it.device, RLX_ROM8(line + 2), RLX_ROM8(line + 3)) != 0;
#endif
#if RLX_HAS_UP
    if (RLX_ROM8(line) == 'U' || RLX_ROM8(line) == 'D')
        rlx_link_is_up(&it.device, RLX_ROM8(line + 2), RLX_ROM8(line) == 'U');
#endif
    (void)line;
    run();
}

/* Returns where the next one begins. */
static rlx_rom play(rlx_rom at)
{
#if RLX_HAS_SETTINGS
    for (uint16_t i = 0; i < sizeof memory; i++) memory[i] = 0xFF;
#endif
    link_in_hand = RLX_ROM8(at + 1) & 127;
    bytes = RLX_ROM8(at + 1) > 127;
    at = behind(at);
    wrong = false;
    now = UINT32_MAX - 2;
    reply.kind = '<';
    doing.kind = '=';
    seek(&reply, at);
    seek(&doing, at);
    greeted = RLX_HAS_GREETING == 0 || bytes;
    start();
    run();
    for (; !ends(at); at = behind(at)) {
        uint8_t kind = RLX_ROM8(at);
        if (kind == '>' || kind == '~')
            say(at);
        else if (kind != '<' && kind != '=')
            happen(at);
    }
    if (!ends(reply.at) || !ends(doing.at)) wrong = true;
    return at;
}

int main(void)
{
    unsigned passed = 0, failed = 0;
    for (rlx_rom at = script; RLX_ROM8(at);) {
        at = play(at);
        if (wrong)
            failed++;
        else
            passed++;
    }
    tell_number(passed);
    tell_text(" passed, ");
    tell_number(failed);
    tell_text(" failed\n");
    over();
    return 0;
}
