/* A sender is learnt from what reaches a board: the nursery's own handset over every framing, with
 * lost bytes, and senders of bytes with each published check. What cannot be known is said. */
#include "learn/learn.h"

#include <stdio.h>
#include <stdlib.h>
#include <string.h>

#include "harness.h"
#include "lexicon/check/check.h"
#include "lexicon/layout/layout.h"
#include "rlx/image.h"
#include "world/boards/bench.h"

/* ---- recordings of the nursery's handset ---- */

static void hears(void *user, const struct sight *sight)
{
    struct recording *r = user;
    uint64_t now = sight->board->bench->world->now_us;
    if (sight->kind == SIGHT_HEARD && !strcmp(sight->name, "skiff")) {
        if (sight->event.kind == SIM_FAULT) r->noise++;
        recording_hear(r, now, now, (const guint8 *)sight->text, sight->count,
                       sight->event.kind == SIM_PACKET_IN);
    } else if (sight->kind == SIGHT_HANDSET) {
        char **words = g_strsplit(sight->text, " ", 2);
        enum act act = !strcmp(words[1], "pressed")    ? ACT_PRESSED
                       : !strcmp(words[1], "released") ? ACT_RELEASED
                                                       : ACT_SLID;
        recording_mark(r, now, act, words[0]);
        g_strfreev(words);
    }
}

/* The line that begins so goes. */
static void drop(GString *text, const char *begin)
{
    char *at = g_strrstr(text->str, begin);
    if (CHECK(at != NULL))
        g_string_erase(text, at - text->str, (gssize)(1 + strcspn(at + 1, "\n")));
}

/* The nursery with another link under its handset. */
static struct lexicon *nursery(const char *link, struct image **image)
{
    char *plain;
    CHECK(g_file_get_contents(EXAMPLES "/nursery/nursery.lexicon", &plain, NULL, NULL));
    GString *text = g_string_new(plain);
    drop(text, "\nlink skiff");
    g_string_append_printf(text, "%s\n", link);
    struct lexicon *lx = lexicon_read_text("nursery", g_strdup(text->str), text->len);
    *image = image_build(lx);
    lexicon_check(lx, *image);
    if (!CHECK(!lexicon_has(lx, false))) puts(lexicon_faults_text(lx, 5));
    g_string_free(text, TRUE);
    g_free(plain);
    return lx;
}

static void use(struct bench *bench, unsigned rounds)
{
    for (unsigned i = 0; i < rounds; i++) {
        static const char *const buttons[] = {"up", "lights", "feed"};
        for (unsigned b = 0; b < G_N_ELEMENTS(buttons); b++) {
            bench_press(bench, buttons[b], true);
            bench_pass(bench, 2000000);
            bench_press(bench, buttons[b], false);
            bench_pass(bench, 1000000);
        }
        for (unsigned v = 0; v <= 20; v++) {
            char value[8];
            g_snprintf(value, sizeof value, "%u", v <= 10 ? 10 * v : 200 - 10 * v);
            bench_slide(bench, "glow", value);
            bench_pass(bench, 200000);
        }
        bench_pass(bench, 1000000);
    }
}

static struct recording *record(struct lexicon *lx, struct image *image, const char *world_text,
                                unsigned rounds)
{
    struct recording *r = recording_new();
    const struct lex_link *link = lexicon_link(lx, "skiff");
    struct world_file *world = world_file_text("w", g_strdup(world_text), strlen(world_text), lx);
    CHECK_INT(world->read->faults->len, 0);
    struct bench_options options = {.world = world};
    struct bench *bench = bench_new(lx, image, &options, NULL);
    r->link = g_strdup("skiff");
    r->handset = g_strdup("deck");
    r->medium = link->medium;
    r->baud = link->baud;
    bench_watch(bench, hears, r);
    bench_hears(bench);
    bench_start(bench);
    bench_pass(bench, 1000000);
    use(bench, rounds);
    bench_free(bench);
    world_file_free(world);
    return r;
}

/* The lexicon that it proposes is sound, and its handset is this one. */
static void check_proposal(struct learnt *l, const struct lex_handset *deck)
{
    char *text = learnt_lexicon(l);
    struct lexicon *lx = lexicon_read_text("learnt", g_strdup(text), strlen(text));
    struct image *image = image_build(lx);
    lexicon_check(lx, image);
    if (!CHECK(!lexicon_has(lx, false))) printf("%s\n%s", text, lexicon_faults_text(lx, 5));
    GString *out = g_string_new(NULL);
    const struct lex_handset *own = lx->handsets->len ? lx->handsets->pdata[0] : NULL;
    if (CHECK(own != NULL) && !CHECK_INT(own->buttons->len, deck->buttons->len)) puts(text);
    if (own && learnt_against(l, lx, own, out)) CHECK_TEXT(out->str, "");
    g_string_free(out, TRUE);
    image_free(image);
    lexicon_free(lx);
    g_free(text);
}

static bool doubts(const struct learnt *l, const char *about)
{
    bool found = false;
    for (unsigned i = 0; i < l->doubts->len; i++)
        found |= strstr(l->doubts->pdata[i], about) != NULL;
    return found;
}

static const struct {
    const char *link, *world;
    enum lex_frame frame;
} links[] = {
    {"link skiff serial 9600 frame line", "cable skiff loss 1%%\nseed %u\n", LEX_FRAME_LINE},
    {"link skiff serial 9600 frame ended \"\\x03\"", "cable skiff loss 1%%\nseed %u\n",
     LEX_FRAME_ENDED},
    {"link skiff serial 9600 frame gap 20ms", "cable skiff loss 1%%\nseed %u\n", LEX_FRAME_GAP},
    {"link skiff serial 9600 frame fixed 24 pad \"\\x00\" gap 50ms",
     "cable skiff loss 1%%\nseed %u\n", LEX_FRAME_FIXED},
    {"link skiff serial 1200 format 7E1 frame line check required address 3",
     "cable skiff loss 1%%\nseed %u\n", LEX_FRAME_LINE},
    {"link skiff radio payload 48 address 3 senders 2 check required tags required open",
     "air skiff loss 10%%\nseed %u\n", LEX_FRAME_PACKET},
    {"link skiff radio payload 48 frame fixed 40 pad \"\\x00\" open",
     "air skiff loss 10%%\nseed %u\n", LEX_FRAME_FIXED},
    {"link skiff report", "seed %u\n", LEX_FRAME_REPORT},
};

/* The handset of the nursery from its own traffic: all of it, with a byte of a hundred lost. */
static void own_traffic(void)
{
    for (unsigned i = 0; i < G_N_ELEMENTS(links); i++) {
        for (unsigned seed = 0; seed < 4 * test_rounds(); seed += test_stride()) {
            struct image *image;
            struct lexicon *lx = nursery(links[i].link, &image);
            const struct lex_handset *deck = lx->handsets->pdata[0];
            char *world = g_strdup_printf(links[i].world, seed + 1);
            struct recording *r = record(lx, image, world, 5);
            struct learnt *l = learn(r, NULL);
            GString *out = g_string_new(NULL);
            test_context("%s, seed %u", links[i].link, seed);
            if (!CHECK_INT(learnt_against(l, lx, deck, out), 0))
                printf("%s%s\n", learnt_report(l), out->str);
            CHECK(l->framing.found);
            if (links[i].frame != LEX_FRAME_REPORT) CHECK_INT(l->framing.frame, links[i].frame);
            check_proposal(l, deck);
            test_context("%s", "");
            g_string_free(out, TRUE);
            learnt_free(l);
            recording_free(r);
            g_free(world);
            image_free(image);
            lexicon_free(lx);
        }
    }
}

/* A button that was used once, a slider that was moved a little: each is said. */
static void says_doubts(void)
{
    struct image *image;
    struct lexicon *lx = nursery("link skiff serial 9600 frame line", &image);
    struct recording *r = record(lx, image, "cable skiff loss 1%\nseed 3\n", 1);
    struct learnt *l = learn(r, NULL);
    CHECK(doubts(l, "up was used once"));
    CHECK(doubts(l, "feed was used once"));
    learnt_free(l);
    g_array_set_size(r->marks, 0);
    l = learn(r, NULL);
    CHECK(doubts(l, "does not say which button was pressed"));
    CHECK(l->buttons->len >= 3);
    learnt_free(l);
    recording_free(r);
    image_free(image);
    lexicon_free(lx);
}

/* ---- senders of bytes ---- */

struct sends {
    unsigned seed;
    struct lex_field check;
    unsigned head; /* bytes of constant head */
    bool length, number, cobs;
    unsigned value_bits;
    bool little, is_signed;
};

static uint32_t pseudo(uint32_t *state)
{
    *state = *state * 1664525u + 1013904223u;
    return *state >> 8;
}

static void put_value(GByteArray *out, uint32_t value, unsigned bits, bool little)
{
    for (unsigned i = 0; i < bits / 8; i++) {
        guint8 byte = (guint8)(value >> 8 * (little ? i : bits / 8 - 1 - i));
        g_byte_array_append(out, &byte, 1);
    }
}

/* One frame at a time; one byte of a hundred is lost on its way, but where nothing would show that
 * a zero of a sum was. */
static void send(struct recording *r, const struct sends *s, uint64_t at_us, guint8 number,
                 const GByteArray *body, uint32_t *state)
{
    static const guint8 head[] = {0xA5, 0x5A, 0x07};
    GByteArray *out = g_byte_array_new();
    g_byte_array_append(out, head, s->head);
    guint8 length = (guint8)(s->head + 1 + s->number + body->len + s->check.bits / 8);
    if (s->length) g_byte_array_append(out, &length, 1);
    if (s->number) g_byte_array_append(out, &number, 1);
    g_byte_array_append(out, body->data, body->len);
    put_value(out, layout_sum(&s->check, out->data, out->len), s->check.bits, s->check.little);
    if (s->cobs) {
        struct lex_link link = {.frame = LEX_FRAME_COBS};
        layout_wrap(&link, out);
    }
    for (guint i = 0; i < out->len; i++) {
        uint64_t us = at_us + 1042 * (uint64_t)i;
        bool lost = !(pseudo(state) % 100), plain = s->check.what != RLX_FLD_CRC;
        if (!lost || (plain && !s->length)) recording_hear(r, us, us, &out->data[i], 1, false);
    }
    g_byte_array_free(out, TRUE);
}

/* Two buttons, each with a body for its press and its release, and a slider from end to end. */
static struct recording *binary_recording(const struct sends *s)
{
    struct recording *r = recording_new();
    GByteArray *body = g_byte_array_new();
    uint32_t state = s->seed;
    uint64_t now = 1000000;
    guint8 number = 250;
    r->baud = 9600;
    for (unsigned round = 0; round < 6; round++) {
        for (guint8 b = 0; b < 4; b++) {
            recording_mark(r, now, b & 1 ? ACT_RELEASED : ACT_PRESSED, b < 2 ? "up" : "down");
            g_byte_array_set_size(body, 0);
            g_byte_array_append(body, (const guint8[]){b < 2 ? 1 : 2, b & 1}, 2);
            if (b >= 2) g_byte_array_append(body, (const guint8[]){0x33}, 1);
            send(r, s, now + 5000, number++, body, &state);
            now += 1500000;
        }
        recording_mark(r, now, ACT_SLID, "dim");
        for (int32_t v = -20; v <= 20; v++) {
            g_byte_array_set_size(body, 0);
            g_byte_array_append(body, (const guint8[]){0x0B}, 1);
            int32_t value = (s->is_signed ? 0 : 100) + v * (s->value_bits > 8 ? 40 : 3);
            put_value(body, (uint32_t)(s->is_signed ? value : abs(value)), s->value_bits,
                      s->little);
            send(r, s, now + 5000, number++, body, &state);
            now += 200000;
        }
        now += 1000000;
    }
    g_byte_array_free(body, TRUE);
    return r;
}

static void check_binary(const struct sends *s)
{
    struct recording *r = binary_recording(s);
    struct learnt *l = learn(r, NULL);
    const struct learnt_layout *y = &l->layout;
    CHECK(l->binary);
    CHECK_INT(y->check.what, s->check.what);
    CHECK_INT(y->check.bits, s->check.bits);
    CHECK(y->check.crc == s->check.crc);
    if (s->check.what == RLX_FLD_SUM) CHECK_INT(y->check.sum, s->check.sum);
    CHECK_INT(y->check.little, s->check.little);
    CHECK_INT(y->n_head, s->head + s->length + s->number);
    for (unsigned i = 0; i < y->n_head; i++) {
        enum byte_kind wanted = i < s->head                 ? BYTE_CONSTANT
                                : i == s->head && s->length ? BYTE_LENGTH
                                                            : BYTE_NUMBER;
        CHECK_INT(y->head[i].kind, wanted);
    }
    CHECK_INT(l->buttons->len, 2);
    CHECK_INT(l->sliders->len, 1);
    if (l->sliders->len) {
        const struct learnt_slider *slider = l->sliders->pdata[0];
        CHECK_INT(slider->bits, s->value_bits);
        if (s->value_bits > 8) CHECK_INT(slider->little, s->little);
        CHECK_INT(slider->is_signed, s->is_signed);
    }
    char *text = learnt_lexicon(l);
    struct lexicon *lx = lexicon_read_text("learnt", g_strdup(text), strlen(text));
    struct image *image = image_build(lx);
    lexicon_check(lx, image);
    if (!CHECK(!lexicon_has(lx, false))) printf("%s\n%s", text, lexicon_faults_text(lx, 5));
    image_free(image);
    lexicon_free(lx);
    g_free(text);
    learnt_free(l);
    recording_free(r);
}

/* Every check that the language has, at every form of frame. */
static void bytes(void)
{
    for (unsigned seed = 1; seed <= 3 * test_rounds(); seed++)
        for (unsigned i = seed % test_stride(); i < lex_n_sums + 4; i += test_stride()) {
            struct sends s = {.seed = seed * 100 + i,
                              .check = {.what = RLX_FLD_SUM, .bits = 8, .sum = i}};
            if (i == 3) s.check = (struct lex_field){.what = RLX_FLD_XOR, .bits = 8};
            if (i > 3)
                s.check = (struct lex_field){.what = RLX_FLD_CRC,
                                             .bits = lex_sums[i - 4].bits,
                                             .crc = &lex_sums[i - 4],
                                             .little = lex_sums[i - 4].bits > 8 && i % 2};
            s.head = i % 4;
            s.length = i % 2;
            s.number = i % 3 > 0;
            s.cobs = (i + seed) % 5 == 0;
            s.value_bits = i % 3 == 2 ? 8 : 16;
            s.little = i % 3 == 1;
            s.is_signed = (i + seed) % 2;
            if (!s.length && !s.head && !s.number && !s.cobs) s.head = 1;
            test_context("check %u, seed %u, head %u, length %d, number %d, cobs %d, %c%u %d", i,
                         seed, s.head, s.length, s.number, s.cobs, s.is_signed ? 'i' : 'u',
                         s.value_bits, s.little);
            check_binary(&s);
        }
    test_context("%s", "");
}

/* ---- radio controls ---- */

struct control {
    unsigned each, count, mark;
    bool lsb, checked;
};

static void put_channel(GByteArray *out, const struct control *c, unsigned channel, unsigned value)
{
    for (unsigned i = 0; i < c->each; i++) {
        unsigned at = channel * c->each + i, bit = value >> (c->lsb ? i : c->each - 1 - i) & 1;
        unsigned place = c->lsb ? at % 8 : 7 - at % 8;
        if (bit) out->data[c->mark + at / 8] |= (guint8)(1u << place);
    }
}

static void send_channels(struct recording *r, const struct control *c, uint64_t at_us,
                          const unsigned *values)
{
    GByteArray *out = g_byte_array_new();
    unsigned bytes = c->mark + (c->each * c->count + 7) / 8 + 1; /* flags behind them */
    g_byte_array_set_size(out, bytes);
    memset(out->data, 0, bytes);
    if (c->mark) out->data[0] = 0xA5;
    for (unsigned i = 0; i < c->count; i++) put_channel(out, c, i, values[i]);
    struct lex_field check = {.what = RLX_FLD_CRC, .bits = 16, .crc = &lex_sums[7], .little = true};
    if (c->checked) put_value(out, layout_sum(&check, out->data, out->len), 16, true);
    for (guint i = 0; i < out->len; i++)
        recording_hear(r, at_us + 100 * i, at_us + 100 * i, &out->data[i], 1, false);
    g_byte_array_free(out, TRUE);
}

/* Two sticks from end to end and a switch, each frame 14 ms behind the one before. */
static struct recording *control_recording(const struct control *c)
{
    struct recording *r = recording_new();
    const unsigned most = (1u << c->each) - 1, middle = most / 2;
    unsigned values[16];
    uint64_t now = 1000000;
    r->baud = 100000;
    for (unsigned i = 0; i < c->count; i++) values[i] = middle;
    values[2] = 0;
    for (unsigned stick = 0; stick < 2; stick++) {
        recording_mark(r, now, ACT_SLID, stick ? "speed" : "way");
        for (unsigned n = 0; n <= 160; n++) {
            double part = n <= 40 ? n / 40. : n <= 120 ? (80. - n) / 40. : (n - 160.) / 40.;
            values[stick] = (unsigned)(middle + part * (middle - 1));
            send_channels(r, c, now += 14000, values);
        }
        now += 1;
    }
    for (unsigned n = 0; n < 200; n++) {
        if (n == 0) recording_mark(r, now, ACT_PRESSED, "horn");
        if (n == 100) recording_mark(r, now, ACT_RELEASED, "horn");
        values[2] = n < 100 ? most : 0;
        send_channels(r, c, now += 14000, values);
    }
    return r;
}

static void check_control(const struct control *c)
{
    struct recording *r = control_recording(c);
    struct learnt *l = learn(r, NULL);
    if (CHECK(l->channels.found)) {
        CHECK_INT(l->channels.each, c->each);
        CHECK_INT(l->channels.mark, c->mark);
        if (c->each != 8) CHECK_INT(l->channels.lsb, c->lsb);
        CHECK_INT(l->sticks->len, 3);
        for (unsigned i = 0; i < l->sticks->len; i++) {
            const struct learnt_stick *s = l->sticks->pdata[i];
            CHECK_INT(s->channel, i);
            CHECK_INT(s->is_switch, i == 2);
        }
    }
    char *text = learnt_lexicon(l), *report = learnt_report(l);
    struct lexicon *lx = lexicon_read_text("learnt", g_strdup(text), strlen(text));
    struct image *image = image_build(lx);
    lexicon_check(lx, image);
    if (!CHECK(!lexicon_has(lx, false)))
        printf("%s\n%s%s", report, text, lexicon_faults_text(lx, 5));
    image_free(image);
    lexicon_free(lx);
    g_free(report);
    g_free(text);
    learnt_free(l);
    recording_free(r);
}

/* Channels of every width, in both orders of bits. */
static void channels(void)
{
    for (unsigned each = 8; each <= 16; each += test_stride())
        for (unsigned way = 0; way < 8; way++) {
            bool lsb = way & 1; /* those of a lexicon are whole bytes */
            struct control c = {each, way & 4 || lsb ? 8 : 6, 1, lsb, way & 2};
            test_context("%u channels of %u bits, %s, %s", c.count, each, c.lsb ? "lsb" : "msb",
                         c.checked ? "with a check" : "without one");
            check_control(&c);
        }
    test_context("%s", "");
}

static const struct test_case cases[] = {
    {"own traffic", own_traffic},
    {"says doubts", says_doubts},
    {"bytes", bytes},
    {"channels", channels},
};
TEST_MAIN(cases)
