/* P10: numbers in words and back, in the host's reading and in the device's; and what a reply says
 * is read back as what it answered. */
#include <stdio.h>
#include <string.h>

#include "harness.h"
#include "lines.h"
#include "lexicon/read/reader.h"
#include "rig.h"

/* A slot as it stands in a lexicon. Owned by the caller. */
static struct lex_element *slot_of(struct lexicon *lx, const char *text)
{
    char *body = g_strndup(text + 1, strlen(text) - 2);
    struct token token = {TOKEN_SLOT, {0}, body};
    struct lex_element *e = lex_read_slot(lx, &token);
    g_free(body);
    return e;
}

static struct lexicon *empty(void)
{
    static const char text[] = "lexicon x 1\ncommand go => go()\nlink l serial 9600 frame line\n";
    return lexicon_read_text("it", g_strdup(text), strlen(text));
}

static void values_in_words(void)
{
    static const struct {
        const char *slot, *said;
        bool ok;
        int32_t value;
        const char *text;
    } all[] = {{"{0..100}", "7", true, 7, "7"},
               {"{0..100}", "007", true, 7, "7"},
               {"{0..100}", "0007", false, 0, ""},
               {"{0..100%}", "40%", true, 40, "40"},
               {"{0..100}", "40%", false, 0, ""},
               {"{-5..5}", "-5", true, -5, "-5"},
               {"{-5..5}", "-0", false, 0, ""},
               {"{-5..5}", "+5", false, 0, ""},
               {"{-5..5}", "6", false, 0, ""},
               {"{0.0..9.9}", "7.5", true, 75, "7.5"},
               {"{0.0..9.9}", "7", true, 70, "7.0"},
               {"{0.0..9.9}", "7.", false, 0, ""},
               {"{0.0..9.9}", "7.55", false, 0, ""},
               {"{-1.25..2}", "-1.2", true, -120, "-1.20"},
               {"{-1.25..2}", "-1.26", false, 0, ""},
               {"{0x00..0xFF}", "0x1f", true, 31, "0x1F"},
               {"{0x00..0xFF}", "1f", false, 0, ""},
               {"{0x00..0xFF}", "0x100", false, 0, ""},
               {"{250ms..5min}", "2s", true, 2000, "2s"},
               {"{250ms..5min}", "2500", true, 2500, "2500ms"},
               {"{250ms..5min}", "90s", true, 90000, "90s"},
               {"{250ms..5min}", "120s", true, 120000, "2min"},
               {"{250ms..5min}", "6min", false, 0, ""},
               {"{250ms..5min}", "2m", false, 0, ""},
               {"{10s..2h}", "60", true, 60000, "1min"},
               {"{1..90min}", "90min", true, 90, "90"}};
    struct lexicon *lx = empty();
    for (unsigned i = 0; i < G_N_ELEMENTS(all); i++) {
        struct lex_element *e = slot_of(lx, all[i].slot);
        int32_t value = 0;
        test_context("%s in %s", all[i].said, all[i].slot);
        CHECK_INT(lex_value_said(e, all[i].said, &value), all[i].ok);
        if (all[i].ok) {
            char *text = lex_value_text(e, value);
            CHECK_INT(value, all[i].value);
            CHECK_TEXT(text, all[i].text);
            g_free(text);
        }
        lex_element_free(e);
    }
    CHECK_INT(lx->faults->len, 0);
    lexicon_free(lx);
}

static void scales(void)
{
    static const struct {
        const char *slot;
        int32_t value, becomes;
    } all[] = {{"{0..100 as 100..0}", 0, 100},   {"{0..100 as 100..0}", 100, 0},
               {"{0..100 as 0..255}", 50, 128},  {"{0..255 as 0..100}", 128, 50},
               {"{-9..9 as -90..90}", -9, -90},  {"{0..3 as 0..2}", 1, 1},
               {"{0..3 as 0..2}", 2, 1},         {"{0..400 as 950..2050}", 200, 1500},
               {"{0..400 as 950..2050}", 1, 953}};
    struct lexicon *lx = empty();
    for (unsigned i = 0; i < G_N_ELEMENTS(all); i++) {
        struct lex_element *e = slot_of(lx, all[i].slot);
        test_context("%d in %s", all[i].value, all[i].slot);
        CHECK_INT(lex_value_scaled(e, all[i].value), all[i].becomes);
        lex_element_free(e);
    }
    lexicon_free(lx);
}

/* Slots as they are written are read as what they are. */
static void slots_as_written(void)
{
    static const char *const slots[] = {
        "{on|off}",          "{way up|down}",    "{n 0..9 = 3}",  "{way up|down = down}",
        "{t 10ms..5s}",      "{v -1.50..2.25C}", "{m 0x0..0xFF}", "{level 0..100% as 100..0}",
        "{c set red|green}", "{a 4 of 0..9}",    "{text 1..12}",  "{who text 0..12}",
        "{rest 1..40}"};
    struct lexicon *lx = empty();
    for (unsigned i = 0; i < G_N_ELEMENTS(slots); i++) {
        struct lex_element *e = slot_of(lx, slots[i]);
        char *text = lex_element_text(e);
        CHECK_TEXT(text, slots[i]);
        g_free(text);
        lex_element_free(e);
    }
    CHECK_INT(lx->faults->len, 0);
    lexicon_free(lx);
}

/* What comes back behind "ok", said again, comes back the same, with the same values. */
static void replies_are_read_back(void)
{
    struct rig *rig = rig_new(LEXICONS "/slots.lexicon");
    unsigned read_back = 0;
    CHECK_INT(rig_start(rig, 0), 0);
    rig_run(rig);
    lines_seed = 11;
    for (unsigned i = 0; i < 40000 && test_failures() < 5; i++) {
        char *line = lines_random(rig->lx), *said = g_strconcat(line, "\r", NULL);
        unsigned calls = rig->calls;
        char *reply = g_strdup(rig_say(rig, 0, said));
        if (g_str_has_prefix(reply, "ok ") && rig->calls != calls) {
            rlx_value values[RLX_SLOTS];
            memcpy(values, rig->value, sizeof values);
            bool text = strchr(reply, '"') || g_str_has_prefix(reply, "ok jot");
            test_context("'%s' -> '%s'", line, reply);
            CHECK_TEXT(rig_say(rig, 0, reply + 3), reply);
            if (!text) CHECK(!memcmp(values, rig->value, sizeof values));
            read_back++;
        }
        g_free(reply);
        g_free(said);
        g_free(line);
    }
    printf("%u replies read back\n", read_back);
    CHECK(read_back > 10000);
    rig_free(rig);
}

/* ---- several commands in one frame ---- */

/* P1: one that is wrong, and nothing is done; all right, and the same is done as one by one. */
static void batches_are_all_or_nothing(void)
{
    struct rig *rig = rig_new(LEXICONS "/built_in.lexicon");
    struct rig *single = rig_new(LEXICONS "/built_in.lexicon");
    unsigned done = 0, refused = 0;
    CHECK_INT(rig_start(rig, 0), 0);
    CHECK_INT(rig_start(single, 0), 0);
    rig_run(rig);
    rig_run(single);
    lines_seed = 5;
    for (unsigned i = 0; i < 70000 && test_failures() < 5; i++) {
        GString *batch = g_string_new(NULL);
        unsigned n = 2 + !lines_chance(4);
        char *parts[5];
        bool rest = false;
        for (unsigned k = 0; k < n; k++) {
            parts[k] = lines_random(rig->lx);
            char *small = g_ascii_strdown(parts[k], -1); /* text to the end takes the others too */
            rest |= strstr(small, "jo") || strchr(parts[k], '"') || strchr(parts[k], ';');
            g_free(small);
            g_string_append_printf(batch, "%s%s", k ? ";" : "", parts[k]);
        }
        if (!rest && batch->len < 80) {
            unsigned calls = rig->calls;
            test_context("'%s'", batch->str);
            g_string_append_c(batch, '\r');
            g_string_truncate(rig->pins, 0);
            const char *got = rig_say(rig, 0, batch->str);
            if (g_str_has_prefix(got, "ok")) {
                g_string_truncate(single->pins, 0);
                unsigned before = single->calls;
                for (unsigned k = 0; k < n; k++) {
                    char *line = g_strconcat(parts[k], "\r", NULL);
                    rig_say(single, 0, line);
                    g_free(line);
                }
                CHECK_TEXT(rig->pins->str, single->pins->str);
                CHECK_INT(rig->calls - calls, single->calls - before);
                done++;
            } else {
                CHECK_TEXT(rig->pins->str, "");
                CHECK_INT(rig->calls, calls);
                refused++;
            }
        }
        for (unsigned k = 0; k < n; k++) g_free(parts[k]);
        g_string_free(batch, TRUE);
    }
    printf("%u batches done, %u refused\n", done, refused);
    CHECK(done > 1000 && refused > 1000);
    rig_free(rig);
    rig_free(single);
}

static const struct test_case cases[] = {
    {"P10: values in words", values_in_words},
    {"scales", scales},
    {"slots as they are written", slots_as_written},
    {"P10: replies are read back", replies_are_read_back},
    {"P1: batches are all or nothing", batches_are_all_or_nothing},
};
TEST_MAIN(cases)
