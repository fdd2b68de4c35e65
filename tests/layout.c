/* P1, P2, P5: frames of bytes by a layout. The library against the encoder and decoder of the tool,
 * which share nothing with it, and both against a line of text with the same command; every damage
 * of every frame; noise. */
#include <stdio.h>
#include <string.h>

#include "harness.h"
#include "lexicon/layout/layout.h"
#include "rig.h"
#include "rlx/link.h"

/* ---- how bytes come ---- */

/* A byte below 256; a silence, or the end of a packet; a byte that the receiver lost. */
#define SILENCE 256
#define FAULT   257

static void play(struct rig *rig, unsigned number, const GArray *bytes)
{
    const struct lex_link *link = rig->lx->links->pdata[number];
    GByteArray *packet = g_byte_array_new();
    for (unsigned i = 0; i < bytes->len; i++) {
        int byte = g_array_index(bytes, int, i);
        guint8 one = (guint8)byte;
        if (byte == FAULT) {
            rlx_link_fault(&rig->link[number]);
            rig_run(rig); /* up to here the ring drops what comes */
        } else if (link->frame == LEX_FRAME_PACKET && byte != SILENCE) {
            g_byte_array_append(packet, &one, 1);
        } else if (byte != SILENCE) {
            rlx_link_feed(&rig->link[number], one);
        } else if (packet->len) {
            rlx_link_feed_packet(&rig->link[number], packet->data, (uint8_t)packet->len);
            g_byte_array_set_size(packet, 0);
        }
        if (byte == SILENCE || i % 8 == 7) rig_run(rig);
        if (byte == SILENCE && link->gap) rig_wait(rig, link->gap + 1);
    }
    rig_run(rig);
    g_byte_array_free(packet, TRUE);
}

/* The frames in it, as texts: what each says, "" for an unknown one; without the damaged ones. */
static GPtrArray *frames_in(const struct lex_link *link, const GArray *bytes)
{
    GPtrArray *texts = g_ptr_array_new_with_free_func(g_free);
    GByteArray *frame = g_byte_array_new();
    bool lost = false;
    int end = link->frame == LEX_FRAME_STUFFED ? 0x7E : link->frame == LEX_FRAME_COBS ? 0 : SILENCE;
    for (unsigned i = 0; i < bytes->len; i++) {
        int byte = g_array_index(bytes, int, i);
        guint8 one = (guint8)byte;
        if (byte == FAULT) {
            lost = true; /* up to the frame's end */
        } else if (byte == end) {
            bool fits =
                !lost && frame->len && frame->len <= link->longest && layout_unwrap(link, frame);
            char *text = fits ? layout_command(link, frame->data, frame->len) : NULL;
            if (text) g_ptr_array_add(texts, text);
            g_byte_array_set_size(frame, 0);
            lost = false;
        } else if (byte != SILENCE) {
            g_byte_array_append(frame, &one, 1);
        }
    }
    g_byte_array_free(frame, TRUE);
    return texts;
}

static void add(GArray *bytes, const guint8 *more, unsigned count)
{
    for (unsigned i = 0; i < count; i++) {
        int byte = more[i];
        g_array_append_val(bytes, byte);
    }
}

static void add_one(GArray *bytes, int what)
{
    g_array_append_val(bytes, what);
}

static void add_end(GArray *bytes)
{
    add_one(bytes, SILENCE);
}

/* ---- the same as text ---- */

struct pair {
    struct rig *rig, *lines;
    unsigned link; /* of bytes */
    const struct lex_link *of;
    unsigned acted;
};

static struct pair pair_new(const char *lexicon, unsigned link)
{
    char *file = g_strdup_printf("%s/%s.lexicon", LEXICONS, lexicon);
    struct pair p = {.rig = rig_started(file, 0), .lines = rig_started(file, 0), .link = link};
    p.of = p.rig->lx->links->pdata[link];
    g_free(file);
    return p;
}

static void pair_free(struct pair *p)
{
    rig_free(p->rig);
    rig_free(p->lines);
}

/* What the device answered in bytes, a word each. Owned by the caller. */
static char *answers_of(struct pair *p)
{
    GString *words = g_string_new(NULL);
    GString *sent = p->rig->sent[p->link];
    const guint8 *bytes = (const guint8 *)sent->str;
    for (size_t at = 0, used; at < sent->len; at += used) {
        char *text = layout_decode(p->of, bytes + at, sent->len - at, &used);
        int n = (int)(g_str_has_prefix(text, "ok") ? 2 : strlen(text)); /* without its values */
        g_string_append_printf(words, "%s%.*s", words->len ? " " : "", n, text);
        g_free(text);
    }
    return g_string_free(words, FALSE);
}

/* Bytes on the one device, their commands as lines on the other: both do the same, call the same,
 * and answer the same. */
static void compare(struct pair *p, const GArray *bytes)
{
    bool answers = p->of->layout->answer->len != 0;
    CHECK_INT(rig_start(p->rig, 0), 0);
    CHECK_INT(rig_start(p->lines, 0), 0);
    rig_run(p->rig);
    rig_run(p->lines);
    rig_forget(p->rig);
    rig_forget(p->lines);
    p->rig->calls = p->lines->calls = 0;
    play(p->rig, p->link, bytes);
    GPtrArray *texts = frames_in(p->of, bytes);
    GString *wanted = g_string_new(NULL);
    for (unsigned i = 0; i < texts->len; i++) {
        const char *text = texts->pdata[i];
        char *line = g_strconcat(*text ? text : "?", "\r", NULL);
        const char *answer = rig_say(p->lines, 0, line);
        size_t n = strcspn(answer, "\r ");
        if (answers)
            g_string_append_printf(wanted, "%s%.*s", wanted->len ? " " : "", (int)n, answer);
        g_free(line);
    }
    char *came = answers_of(p);
    CHECK_TEXT(came, wanted->str);
    CHECK_TEXT(p->rig->pins->str, p->lines->pins->str);
    CHECK_INT(p->rig->calls, p->lines->calls);
    for (unsigned i = 0; p->lines->calls && i < p->lines->device.n_values; i++)
        CHECK_INT(p->rig->value[i], p->lines->value[i]);
    p->acted += p->rig->pins->len || p->rig->calls;
    g_string_free(wanted, TRUE);
    g_ptr_array_free(texts, TRUE);
    g_free(came);
}

static const struct {
    const char *lexicon;
    unsigned link;
    bool checked; /* by a check */
} links[] = {{"layouts", 1, false},
             {"layouts", 2, true},
             {"layouts", 3, true},
             {"layouts_other", 1, true},
             {"layouts_other", 2, true}};

/* A text of the row, with values around their bounds and anywhere between. Owned by the caller. */
static char *text_of(const struct lex_packed *row, GRand *random)
{
    GString *text = g_string_new(NULL);
    for (unsigned i = 0; row->pieces[i]; i++) {
        const struct lex_element *e = row->command ? row->command->elements->pdata[i] : NULL;
        if (i) g_string_append_c(text, ' ');
        if (*row->pieces[i] != '{') {
            g_string_append(text, row->pieces[i]);
            continue;
        }
        const int32_t near[] = {e->low - 1, e->low,      e->low + 1, e->high - 1,
                                e->high,    e->high + 1, 0};
        unsigned which = (unsigned)g_rand_int_range(random, 0, 12);
        int32_t value = which < G_N_ELEMENTS(near) ? near[which]
                                                   : g_rand_int_range(random, e->low, e->high + 1);
        char *number = lex_value_text(e, value);
        g_string_append_printf(text, "%s%s", number, e->glued ? e->unit : "");
        g_free(number);
    }
    return g_string_free(text, FALSE);
}

static void each_command(void)
{
    GRand *random = g_rand_new_with_seed(1);
    for (unsigned i = 0; i < G_N_ELEMENTS(links); i++) {
        struct pair p = pair_new(links[i].lexicon, links[i].link);
        unsigned said = 0;
        for (unsigned n = 0; n < 400 && test_failures() < 5; n++) {
            GArray *bytes = g_array_new(FALSE, FALSE, sizeof(int));
            for (unsigned k = 0; k < 3;) {
                const GPtrArray *rows = p.of->layout->rows;
                const struct lex_packed *row =
                    rows->pdata[g_rand_int_range(random, 0, (gint32)rows->len)];
                if (row->event) continue;
                char *text = text_of(row, random);
                GByteArray *frame = layout_encode(p.of, text, g_rand_int(random));
                test_context("%s of %s: \"%s\"", p.of->name, links[i].lexicon, text);
                if (frame) { /* a value beyond its field has no bytes */
                    add(bytes, frame->data, frame->len);
                    add_end(bytes);
                    g_byte_array_free(frame, TRUE);
                    said++;
                    k++;
                }
                g_free(text);
            }
            compare(&p, bytes);
            g_array_free(bytes, TRUE);
        }
        printf("%s of %s: %u frames, %u times something moved\n", p.of->name, links[i].lexicon,
               said, p.acted);
        CHECK(p.acted > 100);
        pair_free(&p);
    }
    g_rand_free(random);
}

/* The text comes back of the bytes, for every value of every small field. */
static void encodes_and_decodes(void)
{
    for (unsigned i = 0; i < G_N_ELEMENTS(links); i++) {
        struct pair p = pair_new(links[i].lexicon, links[i].link);
        unsigned said = 0;
        for (int32_t value = -400; value <= 400; value++) {
            static const char *const texts[] = {"glow %d", "%dmm", "drums %d -3", "drums 7 %d",
                                                "seek %d"};
            for (unsigned k = 0; k < G_N_ELEMENTS(texts); k++) {
                char text[32], *percent = strchr(texts[k], '%');
                g_snprintf(text, sizeof text, "%.*s%d%s", (int)(percent - texts[k]), texts[k],
                           value, percent + 2);
                GByteArray *frame = layout_encode(p.of, text, 5);
                test_context("\"%s\" on %s", text, p.of->name);
                if (frame) CHECK(layout_says(p.of, text));
                said += frame != NULL;
                if (frame) g_byte_array_free(frame, TRUE);
            }
        }
        CHECK(said > 200);
        pair_free(&p);
    }
}

/* ---- damage ---- */

static void damage_of(struct pair *p, const GByteArray *frame, const GByteArray *next)
{
    static const guint8 strays[] = {0x00, 0x7E, 0x7D, 0xFF, 0xA5, 0x01};
    GArray *bytes = g_array_new(FALSE, FALSE, sizeof(int));
    for (unsigned bit = 0; bit < frame->len * 8; bit++) { /* each bit */
        frame->data[bit / 8] ^= (guint8)(1u << bit % 8);
        g_array_set_size(bytes, 0);
        add(bytes, frame->data, frame->len);
        frame->data[bit / 8] ^= (guint8)(1u << bit % 8);
        add_end(bytes);
        add(bytes, next->data, next->len);
        add_end(bytes);
        compare(p, bytes);
    }
    for (unsigned n = 0; n <= frame->len; n++) { /* beginnings, bytes lost and bytes added */
        for (unsigned k = 0; k < 3 + G_N_ELEMENTS(strays); k++) {
            g_array_set_size(bytes, 0);
            add(bytes, frame->data, n);
            if (k > 2) add(bytes, &strays[k - 3], 1);
            if (k == 1 && n < frame->len) add(bytes, frame->data + n + 1, frame->len - n - 1);
            if (k > 2) add(bytes, frame->data + n, frame->len - n);
            if (k != 2) add_end(bytes); /* else the next frame follows without a silence */
            add(bytes, next->data, next->len);
            add_end(bytes);
            add(bytes, next->data, next->len);
            add_end(bytes);
            compare(p, bytes);
        }
    }
    /* the receiver loses a byte before each place, and the rest of the frame, or a whole one,
     * follows */
    for (unsigned n = 0; n <= frame->len && p->of->frame != LEX_FRAME_PACKET; n++) {
        for (unsigned k = 0; k < 3; k++) {
            g_array_set_size(bytes, 0);
            add(bytes, frame->data, n);
            add_one(bytes, FAULT);
            if (k == 0) add(bytes, frame->data + n, frame->len - n);
            if (k == 1) add(bytes, frame->data, frame->len);
            test_context("%s, byte %u lost, %u", p->of->name, n, k);
            add_end(bytes);
            add(bytes, next->data, next->len);
            add_end(bytes);
            add(bytes, next->data, next->len);
            add_end(bytes);
            compare(p, bytes);
        }
    }
    g_array_free(bytes, TRUE);
}

static void every_damage(void)
{
    for (unsigned i = 0; i < G_N_ELEMENTS(links); i++) {
        struct pair p = pair_new(links[i].lexicon, links[i].link);
        GRand *random = g_rand_new_with_seed(i);
        const GPtrArray *rows = p.of->layout->rows;
        for (unsigned r = 0; r < rows->len && test_failures() < 5; r++) {
            const struct lex_packed *row = rows->pdata[r];
            GByteArray *frame = NULL, *next = NULL;
            while (!row->event && !next) {
                char *text = text_of(row, random);
                test_context("%s of %s: \"%s\"", p.of->name, links[i].lexicon, text);
                GByteArray **to = frame ? &next : &frame;
                *to = layout_encode(p.of, text, r);
                g_free(text);
            }
            if (!next) continue;
            damage_of(&p, frame, next);
            g_byte_array_free(frame, TRUE);
            g_byte_array_free(next, TRUE);
        }
        g_rand_free(random);
        pair_free(&p);
    }
}

/* 8 KB of noise on each link, with whole frames here and there. */
static void noise(void)
{
    for (unsigned i = 0; i < G_N_ELEMENTS(links); i++) {
        struct pair p = pair_new(links[i].lexicon, links[i].link);
        GRand *random = g_rand_new_with_seed(7 + i);
        for (unsigned n = 0; n < 128 && test_failures() < 5; n++) {
            GArray *bytes = g_array_new(FALSE, FALSE, sizeof(int));
            while (bytes->len < 64) {
                int byte = g_rand_int_range(random, 0, 256);
                const struct lex_packed *row = p.of->layout->rows->pdata[0];
                char *text = text_of(row, random);
                GByteArray *frame = byte < 24 ? layout_encode(p.of, text, 3) : NULL;
                if (frame && byte % 2) add_end(bytes);
                if (frame) {
                    add(bytes, frame->data, frame->len);
                    g_byte_array_free(frame, TRUE);
                } else {
                    g_array_append_val(bytes, byte);
                }
                if (byte % 3 == 0) add_end(bytes);
                g_free(text);
            }
            add_end(bytes);
            test_context("%s of %s, noise %u", p.of->name, links[i].lexicon, n);
            compare(&p, bytes);
            g_array_free(bytes, TRUE);
        }
        CHECK(p.acted > 20);
        g_rand_free(random);
        pair_free(&p);
    }
}

/* ---- checks ---- */

/* Every published check, by its check value, and over a link in both directions. */
static void published_checks(void)
{
    const guint8 *digits = (const guint8 *)"123456789";
    for (unsigned i = 0; i < lex_n_sums; i++) {
        struct lex_field field = {
            .what = RLX_FLD_CRC, .bits = lex_sums[i].bits, .crc = &lex_sums[i]};
        test_context("%s", lex_sums[i].published);
        CHECK_INT(layout_sum(&field, digits, 9), lex_sums[i].of_digits);
    }
    for (unsigned i = 0; i < lex_n_sums + 7; i++) {
        static const char *const sums[] = {"u8 xor",
                                           "u8 sum",
                                           "u16 sum",
                                           "u8 sum negated",
                                           "u16 sum negated",
                                           "u8 sum inverted",
                                           "u16 little sum inverted"};
        char *check = i < lex_n_sums ? g_strdup_printf("u%u crc%u %s", lex_sums[i].bits,
                                                       lex_sums[i].bits, lex_sums[i].word)
                                     : g_strdup(sums[i - lex_n_sums]);
        char *text = g_strdup_printf("lexicon it 1\noutput glow led pwm 1 at 1kHz safe 0%%\n"
                                     "command glow {level 0..100%%} => glow\n"
                                     "link it serial 9600 frame gap 5ms\n"
                                     "layout it frame body u8 number %s\n"
                                     "layout it answer u8 number u8 result %s u8 0xFF\n"
                                     "layout it \"glow {level}\" u8 level\n",
                                     check, check);
        struct rig *rig = rig_of_text(text);
        const struct lex_link *link = rig->lx->links->pdata[0];
        test_context("%s", check);
        for (unsigned level = 0; level <= 100; level += 7) {
            char command[16];
            size_t used;
            g_snprintf(command, sizeof command, "glow %u", level);
            GByteArray *frame = layout_encode(link, command, level + 100);
            rig_forget(rig);
            rig_feed(rig, 0, (const char *)frame->data, frame->len);
            rig_wait(rig, 20);
            GString *sent = rig->sent[0];
            char *answer = layout_decode(link, (const guint8 *)sent->str, sent->len, &used);
            CHECK_TEXT(answer, "ok");
            CHECK_INT(used, sent->len);
            CHECK_INT((guint8)sent->str[0], level + 100); /* the sender's number */
            g_free(answer);
            g_byte_array_free(frame, TRUE);
        }
        rig_free(rig);
        g_free(text);
        g_free(check);
    }
}

/* Events come as their bytes, and a link of bytes says nothing else: no greeting, no note. */
static void events_in_bytes(void)
{
    for (unsigned i = 0; i < G_N_ELEMENTS(links); i++) {
        struct pair p = pair_new(links[i].lexicon, links[i].link);
        bool has = p.of->layout->event->len != 0;
        test_context("%s", p.of->name);
        CHECK_INT(p.rig->sent[p.link]->len, 0);
        static const char *const words[] = {"pressed", "released"};
        for (unsigned k = 0; k < 2; k++) {
            char *text = g_strdup_printf("ev call %s", words[k]);
            rlx_event(&p.rig->device, 0, (uint8_t)k);
            rig_wait(p.rig, 50);
            char *came = answers_of(&p);
            CHECK_TEXT(came, has ? text : "");
            rig_forget(p.rig);
            g_free(came);
            g_free(text);
        }
        pair_free(&p);
    }
}

/* What a handler answers with comes back in its fields. */
static void values_in_bytes(void)
{
    struct pair p = pair_new("layouts", 3), other = pair_new("layouts_other", 1);
    static const struct {
        const char *says;
        rlx_value tells[3];
        const char *answer;
    } talks[] = {{"level?", {0}, "ok level 0"},
                 {"level?", {4000}, "ok level 4000"},
                 {"level?", {0x17E}, "ok level 382"},
                 {"level?", {4001}, "e12"},
                 {"temp? 4", {-400, 2, 5}, "ok temp -40.0 high a+c"},
                 {"temp? 1", {1250, 0, 0}, "ok temp 125.0 low none"},
                 {"temp? 5", {0, 0, 0}, "e7"},
                 {"temp? 2", {0, 3, 0}, "e12"},
                 {"move 10", {60000}, "ok 60000"},
                 {"move 400", {36}, "ok 40"}, /* in steps of ten */
                 {"move 0", {0}, "ok 0"}};
    for (unsigned i = 0; i < G_N_ELEMENTS(talks); i++) {
        p.rig->asked = true;
        memcpy(p.rig->tells, talks[i].tells, sizeof talks[i].tells);
        CHECK_TALK(p.rig, 3, talks[i].says, talks[i].answer);
    }
    other.rig->asked = true;
    other.rig->tells[0] = 256;
    CHECK_TALK(other.rig, 1, "level?", "ok level 256");
    pair_free(&p);
    pair_free(&other);
}

static const struct test_case cases[] = {
    {"each command, with values at and past its bounds", each_command},
    {"texts come back of their bytes", encodes_and_decodes},
    {"P1, P5: every damage of every frame", every_damage},
    {"P5: noise", noise},
    {"published checks", published_checks},
    {"events in bytes", events_in_bytes},
    {"values in bytes", values_in_bytes},
};
TEST_MAIN(cases)
