/* The emitted device and the emitted sender in one program, with a wire or a radio between them.
 * Each request is sent with every value of small slots, with the bounds and with random values of
 * others; what the handler got and what the sender heard must be what was sent. */
#include <stdio.h>
#include <stdlib.h>
#include <string.h>

enum is { IS_WORD, IS_SET, IS_TEXT, IS_REST, IS_LIST, IS_CHOICE, IS_NUMBER };
struct slot {
    enum is is;
    int32_t low, high, scaled, to_low, to_high;
    unsigned most;
    struct {
        const char *word;
        int32_t value; /* that the device's handler gets */
    } words[33];
};
struct drawn {
    const struct slot *of;
    int32_t value, list[16];
    uint8_t count;
    char text[256];
};
struct tried {
    const char *name, *handler;
    int newest;
    unsigned slots, sent; /* sent: so many of them; the handler answers with the others */
    int (*send)(const struct drawn *);
    bool (*heard)(const HEARD_TYPE *, const struct drawn *);
    struct slot slot[16];
};
extern const struct tried tried[];

static DEVICE device;
static void give_keys(void);
static SENDER_TYPE sender;
static unsigned checks, failures, sent;
static bool resets, was_reset, memory_dead; /* so that what comes of a command is not written */
static uint32_t now, lost_per_mille;
static struct drawn drawn[16];

static uint32_t seed = 1;
static uint32_t draw(void)
{
    seed ^= seed << 13, seed ^= seed >> 17, seed ^= seed << 5;
    return seed;
}

/* ---- what the handlers got ---- */

static struct {
    const char *name;
    unsigned calls, count;
    int returns;
    int32_t value[64];
    char text[16][256];
    unsigned texts;
} handled;

static inline void got_begin(const char *name)
{
    handled.name = name;
    handled.calls++;
    handled.count = handled.texts = 0;
    if (resets && draw() % 2) memory_dead = true;
}
static inline void got(int32_t value)
{
    handled.value[handled.count++] = value;
}
static inline void got_text(const char *text, uint8_t count)
{
    memcpy(handled.text[handled.texts], text, count);
    handled.text[handled.texts++][count] = 0;
}
static inline int32_t answer(unsigned slot)
{
    return drawn[slot].value;
}

/* ---- what was heard ---- */

static inline bool same_text(const char *text, uint8_t count, const char *wanted)
{
    return strlen(wanted) == count && !memcmp(text, wanted, count);
}
/* A toggle is answered with what it led to. */
static inline bool same_value(int32_t value, const struct drawn *d, int8_t on)
{
    if (d->of->is == IS_CHOICE && !strcmp(d->of->words[d->value].word, "toggle")) return on >= 0;
    return value == d->value;
}
static inline bool is_near(int32_t value, const struct drawn *d, int32_t most)
{
    return most && d->of->is == IS_NUMBER && labs((long)value - d->value) <= most;
}
#define LIST(name, type)                                              \
    static inline const type *list_##name(const struct drawn *d)      \
    {                                                                 \
        static type list[16];                                         \
        for (unsigned i = 0; i < 16; i++) list[i] = (type)d->list[i]; \
        return list;                                                  \
    }
LIST(u8, uint8_t)
LIST(u16, uint16_t)
LIST(s16, int16_t)
LIST(s32, int32_t)

static HEARD_TYPE last;
static unsigned heard_some, heard_event, heard_word, heard_events;
static const struct tried *in_hand;
static bool last_same;

void SENDER(on_heard)(SENDER_TYPE *s, const HEARD_TYPE *heard)
{
    (void)s;
    if (heard->what == SENDER_IS(STARTED) || heard->what == SENDER_IS(NOTE)) return;
    if (heard->what == SENDER_IS(EVENT)) {
        heard_event = heard->event;
        heard_word = heard->word;
        heard_events += !heard->repeated;
        return;
    }
    last = *heard;
    last_same =
        heard->valued && in_hand && in_hand->heard(heard, drawn); /* texts are there now only */
    heard_some++;
}

/* ---- the device's memory, and resets behind a handler, before anybody hears the answer ---- */

static uint8_t memory[16384];

static void reset_device(void)
{
    memset(&device, 0, sizeof device);
    was_reset = true;
    memory_dead = false;
    if (DEVICE_INIT(&device, &device, RLX_RESET_POWER)) exit(2);
}

/* ---- between the two: each has its bytes, or packets, when it has its turn ---- */

struct way {
    uint8_t bytes[4096], count[64]; /* of packets: so many each */
    unsigned size, packets;
};
static struct way to_device, to_sender;

static bool put(struct way *way, const uint8_t *bytes, uint8_t count)
{
    if (lost_per_mille && draw() % 1000 < lost_per_mille) return true;
    if (way->size + count > sizeof way->bytes || way->packets == 64) return false;
    memcpy(way->bytes + way->size, bytes, count);
    way->size += count;
    way->count[way->packets++] = count;
    return true;
}

static unsigned written;
bool SENDER(on_write)(SENDER_TYPE *s, const uint8_t *bytes, uint8_t count)
{
    (void)s;
    written++;
    return put(&to_device, bytes, count);
}
bool rlx_port_packet_send(void *port, uint8_t link, const uint8_t *bytes, uint8_t count)
{
    (void)port;
    return link != LINK || put(&to_sender, bytes, count);
}
void rlx_port_kick(void *port, uint8_t link)
{
    uint8_t byte;
    (void)port;
    while (rlx_link_take(&device.link[link], &byte))
        if (link == LINK) {
            to_sender.bytes[to_sender.size++] = byte;
            to_sender.packets = 0;
        }
}

/* A stream comes in pieces, as its rate and the poll have it. */
static void stream_to_device(void)
{
    unsigned count = to_device.size < 16 ? to_device.size : 16;
    rlx_link_feed_block(&device.link[LINK], to_device.bytes, count);
    to_device.size -= count;
    memmove(to_device.bytes, to_device.bytes + count, to_device.size);
    to_device.packets = 0;
}

static void packets_to_device(void)
{
    struct way in = to_device;
    const uint8_t *at = in.bytes;
    to_device.size = to_device.packets = 0;
    (void)at;
    for (unsigned i = 0; i < in.packets; at += in.count[i++]) {
#if MESSAGES
        (void)rlx_link_message(&device.device, LINK, (const char *)at, in.count[i], 1);
#elif REPORTS
        for (unsigned from = 0; from < in.count[i]; from += 64)
            (void)rlx_link_feed_report(&device.link[LINK], at + from, 64);
#elif PACKETS
        (void)rlx_link_feed_packet(&device.link[LINK], at, in.count[i]);
#endif
    }
}

static void deliver(void)
{
    struct way out = to_sender;
    const uint8_t *at = out.bytes;
    to_sender.size = to_sender.packets = 0;
    if (PACKETS || MESSAGES || REPORTS)
        packets_to_device();
    else
        stream_to_device();
    for (unsigned i = 0; i < out.packets; at += out.count[i++])
        SENDER(receive)(&sender, at, out.count[i]);
    while (!out.packets && out.size) {
        uint16_t count = (uint16_t)(out.size < 7 ? out.size : 7);
        SENDER(receive)(&sender, at, count);
        at += count;
        out.size -= count;
    }
}

static void run_for(uint32_t ms, const unsigned *until)
{
    const unsigned before = until ? *until : 0;
    for (uint32_t end = now + ms; now < end && (!until || *until == before);) {
        uint32_t wait = SENDER(poll)(&sender, now), other = rlx_poll(&device.device, now);
        if (resets && handled.calls && !was_reset) {
            to_sender.size = to_sender.packets = 0;
            reset_device();
        }
        deliver();
        if (to_device.size || to_sender.size || wait < 1 || other < 1) wait = 1;
        if (other < wait) wait = other;
        now += GAP_MS ? 1 : wait < 1 ? 1 : wait > 20 ? 20 : wait;
    }
}

/* ---- the port's other functions ---- */

static bool pin_out[256], pin_in[256];
static uint16_t duty_of[256];
void rlx_port_pin_write(void *port, uint8_t pin, bool high)
{
    (void)port;
    pin_out[pin] = high;
}
bool rlx_port_pin_read(void *port, uint8_t pin)
{
    (void)port;
    return !pin_in[pin];
}
void rlx_port_pin_watch(void *port, uint8_t pin, enum rlx_pull pull)
{
    (void)port, (void)pin, (void)pull;
}
void rlx_port_duty(void *port, uint8_t channel, uint16_t duty, uint32_t hz)
{
    (void)port, (void)hz;
    duty_of[channel] = duty;
}
void rlx_port_pulse(void *port, uint8_t channel, uint16_t us)
{
    (void)port, (void)channel, (void)us;
}
int32_t rlx_port_steps(void *port, uint8_t channel, int32_t more, uint16_t hz)
{
    (void)port, (void)channel, (void)hz;
    return more;
}
uint16_t rlx_port_steps_left(void *port, uint8_t channel)
{
    (void)port, (void)channel;
    return 0;
}
void rlx_port_tone(void *port, uint8_t channel, uint16_t hz)
{
    (void)port, (void)channel, (void)hz;
}
bool rlx_port_nv_read(void *port, uint16_t offset, uint8_t *bytes, uint8_t count)
{
    (void)port;
    memcpy(bytes, memory + offset, count);
    return true;
}
bool rlx_port_nv_write(void *port, uint16_t offset, const uint8_t *bytes, uint8_t count)
{
    (void)port;
    while (count-- && !memory_dead) memory[offset + count] &= bytes[count];
    return true;
}
bool rlx_port_nv_erase(void *port, uint16_t offset)
{
    (void)port;
    if (!memory_dead) memset(memory + offset / 8 * 8, 0xFF, 8);
    return true;
}
enum rlx_nv rlx_port_nv_state(void *port)
{
    (void)port;
    return RLX_NV_READY;
}

#ifndef SENT_NO_MAIN
/* ---- what is tried ---- */

static void fail(const struct tried *t, const char *what)
{
    if (failures++ > 20) return;
    printf("FAIL %s: %s; what %d, error %d, \"%.*s\"; handler %s, %u calls; values", t->name, what,
           (int)last.what, last.error, last.count, heard_some ? last.text : "",
           handled.name ? handled.name : "none", handled.calls);
    for (unsigned i = 0; i < t->slots; i++) printf(" %d '%s'", drawn[i].value, drawn[i].text);
    printf("\n");
}

static bool handler_got_it(const struct tried *t)
{
    unsigned at = 0, texts = 0;
    if (strcmp(handled.name, t->handler)) return false;
    for (unsigned i = 0; i < t->sent; i++) {
        const struct drawn *d = &drawn[i];
        const struct slot *s = d->of;
        int64_t span = (int64_t)s->high - s->low, way = (int64_t)s->to_high - s->to_low;
        if (s->is == IS_TEXT || s->is == IS_REST) {
            if (strcmp(handled.text[texts++], d->text)) return false;
            continue;
        }
        for (unsigned k = 0; k < (s->is == IS_LIST ? d->count : 1u); k++) {
            int32_t value = s->is == IS_LIST ? d->list[k] : d->value, wanted = value;
            if (s->is == IS_CHOICE) wanted = s->words[value].value;
            if (s->scaled) { /* to the nearest; of two the one that is farther from to_low */
                int64_t part =
                    ((value - (int64_t)s->low) * (way < 0 ? -way : way) * 2 + span) / (2 * span);
                wanted = (int32_t)(s->to_low + (way < 0 ? -part : part));
            }
            if (handled.value[at++] != wanted) return false;
        }
    }
    return true;
}

static void try_drawn(const struct tried *t)
{
    checks++;
    handled.calls = 0;
    handled.name = NULL;
    heard_some = 0;
    was_reset = false;
    if (resets) handled.returns = draw() % 2 ? RLX_ALREADY : 0;
    in_hand = t;
    int result = t->send(drawn);
    if ((KEYED || BYTES) && result == SENDER_IS(NO_KEY)) return; /* no key or row says that */
    bool long_text = false;
    for (unsigned i = 0; i < t->slots; i++)
        long_text |= t->slot[i].is == IS_TEXT || t->slot[i].is == IS_REST;
    if (PACKETS && long_text && result == SENDER_IS(TOO_LONG)) return; /* than a packet */
    sent++;
    if (result) {
        fail(t, "was not queued");
        return;
    }
    run_for(60000, &heard_some);
    bool done = last.what == SENDER_IS(DONE) || last.what == SENDER_IS(ALREADY) ||
                last.what == SENDER_IS(SENT);
#if KEPT
    done |= resets && last.what == SENDER_IS(REFUSED) && last.error == SENDER_IS(ERR_UNSURE);
#endif
    bool unknown =
        lost_per_mille && (last.what == SENDER_IS(UNANSWERED) || last.what == SENDER_IS(SENT));
    if (heard_some != 1)
        fail(t, "nothing was heard, or more than one thing");
    else if (!done && !unknown)
        fail(t, "was not obeyed");
    else if (t->handler && (handled.calls > 1 || (handled.calls != 1 && !unknown)))
        fail(t, "the handler was not called once");
    else if (t->handler && handled.calls && !handler_got_it(t))
        fail(t, "the handler got something else");
    else if ((FULL || (BYTES && t->slots > t->sent)) && !SILENT && !unknown && t->slots &&
             !was_reset && !last_same)
        fail(t, "something else was heard");
    last.text = "";
    last.count = 0;
}

static void draw_slot(struct drawn *d, const struct slot *s, int how) /* 0 least, 1 most, 2 any */
{
    uint32_t span = (uint32_t)s->high - (uint32_t)s->low + 1;
    int32_t value = how == 0   ? s->low
                    : how == 1 ? s->high
                               : (int32_t)((uint32_t)s->low + (span ? draw() % span : draw()));
    bool rest = s->is == IS_REST;
    d->of = s;
    d->value = value;
    d->text[0] = 0;
    d->count = (uint8_t)(s->is == IS_LIST ? (how == 0   ? 1
                                             : how == 1 ? s->most
                                                        : 1 + draw() % s->most)
                                          : 0);
    for (unsigned i = 0; i < d->count; i++)
        d->list[i] =
            how < 2 ? value : (int32_t)((uint32_t)s->low + (span ? draw() % span : draw()));
    if (s->is != IS_TEXT && !rest) return;
    for (int32_t i = 0; i < value; i++) {
        uint8_t c = (uint8_t)(how < 2 ? 'x' : rest ? '!' + draw() % 94 : 32 + draw() % 224);
        if (c == 127 || (c == '"' && !rest)) c = 'y';
        if (rest && how == 2 && i && i + 1 < value && draw() % 5 == 0) c = ' ';
        if (c == ';' || c == '!' || c == '.') c = 'z'; /* batches, and what ends or fills frames */
        d->text[i] = (char)c;
        d->text[i + 1] = 0;
    }
}

static void try_request(const struct tried *t, unsigned rounds)
{
    uint64_t all = 1;
    for (unsigned i = 0; i < t->slots; i++)
        all = t->slot[i].is >= IS_CHOICE || t->slot[i].is == IS_SET
                  ? all * ((uint64_t)((int64_t)t->slot[i].high - t->slot[i].low) + 1)
                  : UINT32_MAX;
    bool each = all <= 5000 && !lost_per_mille;
    for (unsigned n = 0; n < (each ? all : rounds); n++) {
        uint64_t left = n;
        for (unsigned i = 0; i < t->slots; i++) {
            const struct slot *s = &t->slot[i];
            uint64_t values = (uint64_t)((int64_t)s->high - s->low) + 1;
            draw_slot(&drawn[i], s, n < 2 ? (int)n : 2);
            if (each) drawn[i].value = (int32_t)(s->low + (int64_t)(left % values));
            left /= values;
        }
        try_drawn(t);
    }
}

/* Sent twice at once: the first one is told to be dropped, and only the second is obeyed. */
static void try_newest(const struct tried *t)
{
    for (unsigned i = 0; i < t->slots; i++) draw_slot(&drawn[i], &t->slot[i], 1);
    checks++;
    handled.calls = 0;
    heard_some = 0;
    in_hand = NULL;
    int first = t->send(drawn), second = t->send(drawn);
    if (first || second || heard_some != 1 || last.what != SENDER_IS(DROPPED) || last.count)
        fail(t, "the older one was not told to be dropped");
    run_for(60000, &heard_some);
    if (heard_some != 2 || last.what == SENDER_IS(DROPPED) || (t->handler && handled.calls != 1))
        fail(t, "the newest was not obeyed once");
}

/* What the device refuses is heard as that. */
static void try_refused(int handler_returns, int (*send)(const struct drawn *), int error,
                        bool placed)
{
    checks++;
    handled.returns = handler_returns;
    heard_some = 0;
    if (send)
        send(drawn);
    else
        SENDER(send_text)(&sender, "zz");
    run_for(60000, &heard_some);
    handled.returns = 0;
    if (heard_some == 1 && last.what == SENDER_IS(REFUSED) && last.error == error &&
        (last.at != 255) == placed)
        return;
    failures++;
    printf("FAIL refused: what %d, error %d at %u, not %d\n", (int)last.what, last.error, last.at,
           error);
}

struct fired {
    const char *name;
    unsigned event, word;
    int (*fire)(void);
};
extern const struct fired fired[];

static void try_event(const struct fired *f)
{
    checks++;
    heard_events = heard_event = 0;
    f->fire();
    run_for(120000, &heard_events);
    if (heard_events != 1 || heard_event != f->event || heard_word != f->word) {
        failures++;
        printf("FAIL event %s, word %u: heard %u, event %u, word %u\n", f->name, f->word,
               heard_events, heard_event, heard_word);
    }
}

/* What nobody sends, while a command waits for its answer: pieces of frames, glued and torn. */
static void rubbish(void)
{
    static const char *const pieces[] = {
        "ok",    "err",    " ",  "ev ",  "#7 ", "@1/3 ", "@*/3 ", "e7",   "\r",
        "\n",    "!",      ".",  "<",    "> ",  "*ABCD", "range", " at ", "255",
        "note ", "ready ", "\"", "-0.5", "0x",  "\xff",  "none",  "+",    ","};
    for (unsigned i = 0; i < 20000; i++) {
        uint8_t bytes[300];
        uint16_t count = 0;
        for (unsigned n = draw() % 12; n && count < 200; n--) {
            const char *piece =
                draw() % 4 ? pieces[draw() % (sizeof pieces / sizeof *pieces)] : tried[0].name;
            for (; piece && *piece; piece++) bytes[count++] = (uint8_t)*piece;
        }
        if (draw() % 3 == 0 && count) bytes[draw() % count] = (uint8_t)draw();
        if (i % 100 == 0 && tried[0].name) (void)tried[0].send(drawn);
        uint8_t *just = malloc(count ? count : 1); /* of just this size, for the sanitizer */
        memcpy(just, bytes, count);
        SENDER(receive)(&sender, just, count);
        free(just);
        if (i % 10 == 0) run_for(5, NULL);
    }
    run_for(60000, NULL);
}

int main(int argc, char **argv)
{
    unsigned rounds = argc > 1 ? (unsigned)atoi(argv[1]) : 100;
    memset(memory, 0xFF, sizeof memory);
    if (DEVICE_INIT(&device, &device, RLX_RESET_POWER)) return 2;
#if CODED
    sender.code = "4711";
#endif
#if SEALED
    give_keys();
    sender.key_to_all = key_to_all;
    if (SENDER(init)(&sender, KEY, key_text, 4711)) return 2;
#else
    if (SENDER(init)(&sender
#if SOURCED
                     ,
                     1
#endif
#if TAGGED
                     ,
                     12345
#endif
                     ))
        return 2;
#endif
    run_for(3000, NULL);
    for (const struct tried *t = tried; t->name; t++) try_request(t, rounds);
    if (FULL && !SILENT && !KEYED) try_refused(0, NULL, SENDER_IS(ERR_UNKNOWN), true);
    for (const struct tried *t = tried; FULL && !SILENT && !KEYED && t->name; t++)
        if (t->handler && !t->slots)
            try_refused(-RLX_ERR_BUSY, t->send, SENDER_IS(ERR_BUSY), false);
    for (const struct tried *t = tried; t->name; t++)
        if (t->newest && !KEYED) try_newest(t);
    try_request(&tried[0], 1); /* behind a `bye` no event comes */
    for (const struct fired *f = fired; f->name && !SILENT; f++) try_event(f);
    in_hand = NULL;
    rubbish();
    if (TAGGED || SEALED) {
        lost_per_mille = 200;
        for (const struct tried *t = tried; t->name; t++) try_request(t, rounds);
    }
    if (KEPT) { /* what a handler did is not done again, whatever was written of it */
        resets = true;
        for (lost_per_mille = 0; lost_per_mille < 200; lost_per_mille += 150)
            for (const struct tried *t = tried; t->name; t++) try_request(t, rounds);
    }
    if (KEYED && sent < KEYS) {
        failures++;
        printf("FAIL the keys say %d commands, and %u were sent\n", KEYS, sent);
    }
    printf("%u passed, %u failed\n", checks - failures, failures);
    return failures != 0;
}
#endif
