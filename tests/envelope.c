/* P8 and the check: every small damage is found, every tag is obeyed once, against a sender's book
 * of its own. */
#include <stdio.h>
#include <string.h>

#include "harness.h"
#include "lines.h"
#include "lexicon/write/worked.h"
#include "rig.h"

static uint16_t crc_of(const char *text, size_t count)
{
    uint16_t crc = 0xFFFF; /* ITU-T V.41, bit by bit, another way than the library's */
    for (size_t bit = 0; bit < count * 8; bit++) {
        unsigned in = (unsigned char)text[bit / 8] >> (7 - bit % 8) & 1, out = crc >> 15;
        crc = (uint16_t)(crc << 1);
        if (in != out) crc ^= 0x1021;
    }
    return crc;
}

/* Owned by the caller. */
static char *with_check(const char *text)
{
    uint16_t crc = crc_of(text, strlen(text));
    return g_strdup_printf("%s*%c%c%c%c", text, '@' + (crc >> 12), '@' + (crc >> 8 & 15),
                           '@' + (crc >> 4 & 15), '@' + (crc & 15));
}

static struct rig *start(void)
{
    struct rig *rig = rig_new(LEXICONS "/radio.lexicon");
    CHECK_INT(rig_start(rig, 0), 0);
    rig_run(rig);
    return rig;
}

static const char *say_packet(struct rig *rig, const char *bytes, size_t count)
{
    g_string_truncate(rig->sent[0], 0);
    g_string_truncate(rig->pins, 0);
    rig_feed(rig, 0, bytes, count);
    rig_run(rig);
    return rig->sent[0]->str;
}

static void the_standard_value(void)
{
    CHECK_INT(crc_of("123456789", 9), 0x29B1);
}

/* Turns over up to three bits of the frame: nothing may happen but where they are the same bit. */
static void damage(struct rig *rig, const char *frame, size_t bits, size_t a, size_t b, size_t c)
{
    char bytes[64];
    size_t count = strlen(frame);
    memcpy(bytes, frame, count);
    bytes[a / 8] = (char)(bytes[a / 8] ^ 1 << a % 8);
    if (b < bits) bytes[b / 8] = (char)(bytes[b / 8] ^ 1 << b % 8);
    if (c < bits) bytes[c / 8] = (char)(bytes[c / 8] ^ 1 << c % 8);
    const char *got = say_packet(rig, bytes, count);
    if (!*got && !rig->pins->len) return;
    test_context("'%s' with the bits %zu, %zu and %zu turned over", frame, a, b, c);
    CHECK_TEXT(got, "");
    CHECK_TEXT(rig->pins->str, "");
}

static void small_damage(void)
{
    static const char *const texts[] = {"@3/1 #1 pump toggle", "@3/2 #200 lamp on", "@3/1 #9 go 7"};
    for (unsigned i = 0; i < G_N_ELEMENTS(texts); i++) {
        struct rig *rig = start();
        char *frame = with_check(texts[i]);
        size_t bits = strlen(frame) * 8, tried = 0;
        for (size_t a = 0; a < bits && test_failures() < 5; a++)
            for (size_t b = a + 1; b <= bits; b++)
                for (size_t c = b < bits ? b + 1 : bits; c <= bits; c++, tried++)
                    damage(rig, frame, bits, a, b, c);
        printf("'%s': %zu damages of 1 to 3 bits, none obeyed\n", frame, tried);
        CHECK(*say_packet(rig, frame, strlen(frame)));
        g_free(frame);
        rig_free(rig);
    }
}

/* ---- tags, against a book of what was said ---- */

enum { SENDERS = 2, SAID = 6000 };

struct book {
    unsigned last; /* of the sender's tags, from FIRST on, counted up beyond the highest one */
    unsigned obeyed[SAID * 2];
};

#define FIRST       12000u
#define TAG(number) ((FIRST + (number)) & (RLX_TAG_OPENS - 1))

/* A frame with a new tag, or one of the last 24 again; what the device must do of it. */
static void say_tag(struct rig *rig, struct book *book, unsigned sender)
{
    unsigned again = lines_chance(3) ? 0 : 1 + lines_chance(24);
    unsigned number = again && again <= book->last ? book->last - again + 1
                                                   : (book->last += lines_chance(10) ? 1u : 2u);
    unsigned back = book->last - number, calls = rig->calls;
    char *text = g_strdup_printf("@3/%u #%u go 7", sender + 1, TAG(number));
    char *frame = with_check(text), *start;
    const char *got = say_packet(rig, frame, strlen(frame));
    bool before = book->obeyed[number];
    test_context("'%s', %u back, obeyed before: %d, got '%s'", text, back, before, got);
    if (!before && back <= 16) {
        CHECK_INT(rig->calls - calls, 1);
        book->obeyed[number] = 1;
        start = g_strdup_printf("@%u/3 #%u ok go 7*", sender + 1, TAG(number));
    } else {
        CHECK_INT(rig->calls - calls, 0);
        char *hint = g_strdup_printf("err old %u", TAG(book->last));
        start = g_strdup_printf("@%u/3 #%u %s*", sender + 1, TAG(number),
                                back > 16 ? hint
                                : back    ? "err old"
                                          : "ok go 7");
        g_free(hint);
    }
    CHECK(g_str_has_prefix(got, start));
    g_free(start);
    g_free(frame);
    g_free(text);
}

#define WINDOW_MS 10000 /* where the lexicon tells none */

static void each_tag_once(void)
{
    struct rig *rig = start();
    struct book *books = g_new0(struct book, SENDERS);
    lines_seed = 3;
    for (unsigned i = 0; i < 2 * SAID && test_failures() < 5; i++) {
        unsigned sender = lines_chance(SENDERS);
        if (i == SAID) { /* all senders start again */
            rig_wait(rig, WINDOW_MS + 1);
            memset(books, 0, sizeof *books * SENDERS);
        }
        say_tag(rig, &books[sender], sender);
    }
    g_free(books);
    rig_free(rig);
}

/* The window closes when it is due, also where the clock wraps, and is not open again later. */
static void windows_close(void)
{
    char *frame = with_check("@3/1 #5 pump toggle");
    for (unsigned i = 0; i < 2; i++) {
        struct rig *rig = rig_new(LEXICONS "/radio.lexicon");
        CHECK_INT(rig_start(rig, i ? UINT32_MAX - 3000 : 0), 0);
        rig_run(rig);
        say_packet(rig, frame, strlen(frame));
        CHECK_TEXT(rig->pins->str, "pin 4 high\n");
        rig_wait(rig, WINDOW_MS - 100);
        say_packet(rig, frame, strlen(frame));
        CHECK_TEXT(rig->pins->str, "");
        rig_wait(rig, WINDOW_MS + 10);
        say_packet(rig, frame, strlen(frame));
        CHECK_TEXT(rig->pins->str, "pin 4 low\n");
        rig_free(rig);
    }
    g_free(frame);
}

/* What the card works out goes in, and what it says comes back, byte for byte. */
static void worked_examples(void)
{
    static const char *const files[] = {
        LEXICONS "/framings.lexicon", LEXICONS "/framings_other.lexicon",
        LEXICONS "/framings_small.lexicon", LEXICONS "/radio.lexicon", LEXICONS "/asked.lexicon"};
    unsigned answers = 0;
    for (unsigned i = 0; i < G_N_ELEMENTS(files); i++) {
        struct rig *rig = rig_started(files[i], 0);
        for (unsigned k = 0; k < rig->lx->links->len; k++) {
            struct worked worked;
            if (!worked_example(rig->lx, rig->lx->links->pdata[k], &worked)) continue;
            test_context("link %u: %s", k, worked.frame->str);
            CHECK_INT(rig_start(rig, 0), 0);
            rig_run(rig);
            rig_forget(rig);
            rig_feed(rig, k, worked.frame->str, worked.frame->len);
            rig_wait(rig, 200);
            if (worked.answer) {
                answers++;
                gsize echo = rig->sent[k]->len - worked.answer->len; /* for people */
                const struct lex_link *link = rig->lx->links->pdata[k];
                CHECK(rig->sent[k]->len >= worked.answer->len && (link->people || !echo));
                CHECK(!memcmp(rig->sent[k]->str + echo, worked.answer->str, worked.answer->len));
            }
            CHECK(rig->pins->len); /* it was obeyed */
            worked_clear(&worked);
        }
        rig_free(rig);
    }
    CHECK_INT(answers, 14);
}

static const struct test_case cases[] = {
    {"worked examples", worked_examples},
    {"the check of \"123456789\"", the_standard_value},
    {"P1: every damage of one to three bits is found", small_damage},
    {"P8: each tag is obeyed once", each_tag_once},
    {"P8, P11: a sender's window closes", windows_close},
};
TEST_MAIN(cases)
