/* P1, P5, P6: frames of proportional channels. What the device does with frames against lines of
 * text that a model of the rows gives: sticks that move, switches that pass their zones, damage,
 * silence, a receiver that hears nobody, halts. Each place of a stick against the tool's line. */
#include <stdio.h>
#include <stdlib.h>
#include <string.h>

#include "harness.h"
#include "lexicon/layout/layout.h"
#include "lexicon/layout/sticks.h"
#include "rig.h"
#include "rlx/link.h"

#define BETWEEN_MS 14

/* ---- a model of the rows ---- */

struct row_state {
    bool inside, goes;
};

struct model {
    const struct lex_link *of;
    struct row_state rows[32];
    bool seen; /* a frame since the link is there */
    struct sticks last;
};

static void forget(struct model *m)
{
    m->seen = false;
    memset(m->rows, 0, sizeof m->rows);
}

static bool is_between(uint16_t at, const int32_t ends[2])
{
    return at >= ends[0] && at <= ends[1];
}

/* The text of the row with the sticks as they are. Owned by the caller. */
static char *text_of(const struct lex_packed *row, const struct sticks *sticks)
{
    GString *text = g_string_new(NULL);
    for (unsigned i = 0; row->pieces[i]; i++) {
        const struct lex_element *e = row->command ? row->command->elements->pdata[i] : NULL;
        if (i) g_string_append_c(text, ' ');
        if (*row->pieces[i] != '{') g_string_append(text, row->pieces[i]);
        for (unsigned k = 0; *row->pieces[i] == '{' && k < row->fields->len; k++) {
            const struct lex_field *field = row->fields->pdata[k];
            if (field->of != e) continue;
            char *number =
                lex_value_text(e, (int32_t)sticks_value(field, sticks->at[field->channel - 1]));
            g_string_append_printf(text, "%s%s", number, e->glued ? e->unit : "");
            g_free(number);
        }
    }
    return g_string_free(text, FALSE);
}

/* Whether its output goes safe by itself, so that each frame renews it. */
static bool is_renewed(const struct lexicon *lx, const struct lex_packed *row)
{
    const struct lex_output *out =
        row->command ? lex_effect_output(lx, &row->command->effect) : NULL;
    return row->command && (row->command->expires || (out && out->expires));
}

/* What the row says now; NULL: nothing. Owned by the caller. */
static char *row_says(const struct lexicon *lx, struct model *m, unsigned r,
                      const struct sticks *now)
{
    const struct lex_packed *row = m->of->layout->rows->pdata[r];
    const struct lex_field *first = row->fields->pdata[0];
    struct row_state *s = &m->rows[r];
    uint16_t at = now->at[first->channel - 1];
    if (first->what == RLX_FLD_ZONE) {
        bool was = s->inside;
        s->inside = was ? is_between(at, first->near_rest) : at >= first->from && at <= first->to;
        if (!s->inside) s->goes = false;
        if (s->inside && !was && m->seen) s->goes = true;
        bool says = s->inside && s->goes && (!was || is_renewed(lx, row));
        return says ? text_of(row, now) : NULL;
    }
    bool rests = true, moved = false;
    for (unsigned k = 0; k < row->fields->len; k++) {
        const struct lex_field *field = row->fields->pdata[k];
        uint16_t place = now->at[field->channel - 1], before = m->last.at[field->channel - 1];
        rests &= is_between(place, field->near_rest);
        moved |= m->seen && sticks_value(field, place) != sticks_value(field, before);
    }
    bool went = s->goes;
    s->goes |= rests || (first->anywhere && moved);
    bool says = went ? moved || (!rests && is_renewed(lx, row)) : first->anywhere && moved;
    return says ? text_of(row, now) : NULL;
}

/* ---- both ---- */

struct pair {
    struct rig *rig, *lines;
    unsigned link;
    struct model model;
    unsigned said;
};

static struct pair pair_new(unsigned link)
{
    struct pair p = {.rig = rig_started(LEXICONS "/channels.lexicon", 0),
                     .lines = rig_started(LEXICONS "/channels.lexicon", 0),
                     .link = link};
    p.model.of = p.rig->lx->links->pdata[link];
    return p;
}

static void pair_free(struct pair *p)
{
    rig_free(p->rig);
    rig_free(p->lines);
}

static void pair_wait(struct pair *p, unsigned ms)
{
    rig_wait(p->rig, ms);
    rig_wait(p->lines, ms);
}

static void feed(struct pair *p, const GByteArray *frame)
{
    for (unsigned i = 0; i < frame->len; i++) {
        rlx_link_feed(&p->rig->link[p->link], frame->data[i]);
        if (i % 8 == 7) rig_run(p->rig);
    }
    rig_wait(p->rig, p->model.of->gap);
    rig_wait(p->lines, p->rig->now_ms - p->lines->now_ms); /* bytes take the one its time */
}

/* A whole frame on the one, what the model makes of it as lines on the other. */
static void say(struct pair *p, const struct sticks *now)
{
    GByteArray *frame = sticks_frame(p->model.of, now);
    feed(p, frame);
    g_byte_array_free(frame, TRUE);
    const GPtrArray *rows = p->model.of->layout->rows;
    bool halted = false;
    if (now->failsafe) {
        forget(&p->model);
        rig_say(p->lines, 0, "pump off\r"); /* it has `lost rc` */
    }
    for (unsigned r = 0; r < rows->len && !now->failsafe; r++) {
        const struct lex_packed *row = rows->pdata[r];
        char *text = row->event ? NULL : row_says(p->rig->lx, &p->model, r, now);
        if (!text) continue;
        char *line = g_strconcat(text, "\r", NULL);
        const char *answer = rig_say(p->lines, 0, line);
        if (!strncmp(answer, "e", 1)) p->model.rows[r].goes = false; /* it was refused */
        if (!strcmp(text, "halt")) {
            forget(&p->model);
            halted = true;
        }
        p->said++;
        g_free(line), g_free(text);
    }
    p->model.seen = !now->failsafe && !halted;
    p->model.last = *now;
}

static int by_text(const void *a, const void *b)
{
    return strcmp(*(char *const *)a, *(char *const *)b);
}

/* What the pins did, in any order: the two do not poll in the same milliseconds. Owned by the
 * caller. */
static char *sorted(const GString *pins)
{
    char **lines = g_strsplit(pins->str, "\n", -1);
    qsort(lines, g_strv_length(lines), sizeof *lines, by_text);
    char *text = g_strjoinv("\n", lines);
    g_strfreev(lines);
    return text;
}

static void same(struct pair *p)
{
    char *got = sorted(p->rig->pins), *wanted = sorted(p->lines->pins);
    if (strcmp(got, wanted) != 0) { /* one of them is a millisecond later */
        pair_wait(p, 3);
        g_free(got), g_free(wanted);
        got = sorted(p->rig->pins), wanted = sorted(p->lines->pins);
    }
    CHECK_TEXT(got, wanted);
    g_free(got), g_free(wanted);
    CHECK_INT(p->rig->calls, p->lines->calls);
    for (unsigned i = 0; p->lines->calls && i < p->lines->device.n_values; i++)
        CHECK_INT(p->rig->value[i], p->lines->value[i]);
    g_string_truncate(p->rig->pins, 0);
    g_string_truncate(p->lines->pins, 0);
}

/* ---- tests ---- */

/* Every bit of a channel where the format has it: 16 of 11 bits, least significant first. */
static void bits_of_channels(void)
{
    struct pair p = pair_new(1);
    static const struct {
        unsigned channel, value, byte;
        guint8 bytes[3];
    } known[] = {{1, 0x7FF, 1, {0xFF, 0x07, 0x00}},  {2, 0x7FF, 1, {0x00, 0xF8, 0x3F}},
                 {3, 0x7FF, 3, {0xC0, 0xFF, 0x01}},  {1, 0x001, 1, {0x01, 0x00, 0x00}},
                 {9, 0x400, 12, {0x00, 0x04, 0x00}}, {16, 0x7FF, 20, {0x00, 0xE0, 0xFF}}};
    for (unsigned i = 0; i < G_N_ELEMENTS(known); i++) {
        struct sticks sticks = {0};
        sticks.at[known[i].channel - 1] = (uint16_t)known[i].value;
        GByteArray *frame = sticks_frame(p.model.of, &sticks);
        test_context("channel %u at %u", known[i].channel, known[i].value);
        CHECK_INT(frame->len, 25);
        for (unsigned k = 0; k < 3; k++)
            CHECK_INT(frame->data[known[i].byte + k], known[i].bytes[k]);
        g_byte_array_free(frame, TRUE);
    }
    pair_free(&p);
}

/* Each place of each stick that a handler hears of. */
static void every_place(void)
{
    static const struct {
        unsigned link, row, most;
    } sticks_of[] = {{1, 0, 2047}, {2, 0, 4095}, {2, 1, 4095}, {2, 2, 4095}};
    for (unsigned i = 0; i < G_N_ELEMENTS(sticks_of); i++) {
        struct pair p = pair_new(sticks_of[i].link);
        const struct lex_packed *row = p.model.of->layout->rows->pdata[sticks_of[i].row];
        struct sticks now;
        unsigned calls = 0;
        sticks_rest(p.model.of, &now);
        say(&p, &now);
        for (unsigned at = 0; at <= sticks_of[i].most && test_failures() < 5; at++) {
            for (unsigned k = 0; k < row->fields->len; k++)
                now.at[((struct lex_field *)row->fields->pdata[k])->channel - 1] = (uint16_t)at;
            GByteArray *frame = sticks_frame(p.model.of, &now);
            p.rig->calls = 0;
            test_context("\"%s\" at %u", row->text, at);
            feed(&p, frame);
            for (unsigned k = 0; p.rig->calls && k < row->fields->len; k++) {
                const struct lex_field *field = row->fields->pdata[k];
                CHECK_INT(p.rig->value[k], sticks_value(field, (uint16_t)at));
            }
            calls += p.rig->calls;
            g_byte_array_free(frame, TRUE);
        }
        printf("\"%s\": %u values\n", row->text, calls);
        CHECK(calls > 50);
        pair_free(&p);
    }
}

/* The values at known places. */
static void known_places(void)
{
    struct pair p = pair_new(1);
    const struct lex_packed *drums = p.model.of->layout->rows->pdata[0];
    static const struct {
        unsigned slot, at;
        int value;
    } known[] = {{0, 0, -100}, {0, 172, -100}, {0, 567, -50},   {0, 976, 0},    {0, 1007, 0},
                 {0, 1025, 0}, {0, 1811, 100}, {0, 2047, 100},  {1, 172, 100},  {1, 960, 0},
                 {1, 1040, 0}, {1, 1426, -50}, {1, 1811, -100}, {1, 2047, -100}};
    for (unsigned i = 0; i < G_N_ELEMENTS(known); i++) {
        test_context("slot %u at %u", known[i].slot, known[i].at);
        CHECK_INT(sticks_value(drums->fields->pdata[known[i].slot], (uint16_t)known[i].at),
                  known[i].value);
    }
    pair_free(&p);
}

static void move_one(struct sticks *now, const struct lex_link *of, GRand *random)
{
    unsigned row = (unsigned)g_rand_int_range(random, 0, (gint32)of->layout->rows->len);
    const struct lex_packed *packed = of->layout->rows->pdata[row];
    if (packed->event) return;
    const struct lex_field *field =
        packed->fields->pdata[g_rand_int_range(random, 0, (gint32)packed->fields->len)];
    const int32_t most = (1 << of->layout->each) - 1;
    const int32_t near[] = {field->from, field->to, field->near_rest[0], field->near_rest[1]};
    unsigned which = (unsigned)g_rand_int_range(random, 0, 8);
    int32_t at = which < 4 ? near[which] + g_rand_int_range(random, -1, 2)
                           : g_rand_int_range(random, 0, most + 1);
    now->at[field->channel - 1] = (uint16_t)CLAMP(at, 0, most);
}

static void damage(struct pair *p, const struct sticks *now, GRand *random)
{
    GByteArray *frame = sticks_frame(p->model.of, now);
    unsigned how = (unsigned)g_rand_int_range(random, 0, 3);
    unsigned at = (unsigned)g_rand_int_range(random, 0, (gint32)frame->len);
    const guint8 more = 0x0F;
    if (how == 0) g_byte_array_set_size(frame, MAX(at, 1));
    if (how == 1) g_byte_array_append(frame, &more, 1);
    if (how == 2) frame->data[0] ^= (guint8)(1u << at % 8); /* its constant */
    feed(p, frame);
    g_byte_array_free(frame, TRUE);
}

static void anything(void)
{
    for (unsigned link = 1; link <= 2; link++) {
        struct pair p = pair_new(link);
        GRand *random = g_rand_new_with_seed(link);
        struct sticks now;
        unsigned halts = 0, silences = 0;
        sticks_rest(p.model.of, &now);
        for (unsigned n = 0; n < 20000 && test_failures() < 5; n++) {
            unsigned what = (unsigned)g_rand_int_range(random, 0, 200);
            test_context("link %u, frame %u, what %u", link, n, what);
            now.failsafe = what == 0;
            if (what == 1) {
                rig_say(p.rig, 0, "halt\r");
                rig_say(p.lines, 0, "halt\r");
                forget(&p.model);
                halts++;
            }
            if (what == 2) {
                pair_wait(&p, p.model.of->lost + 50);
                forget(&p.model);
                silences++;
            }
            if (what == 3) {
                struct sim_event push = {SIM_PIN_IN, 12, 0, n % 2};
                sim_board_in(&p.rig->board, push);
                sim_board_in(&p.lines->board, push);
            }
            if (what < 12) sticks_release(p.model.of, &now);
            if (what > 60) move_one(&now, p.model.of, random);
            if (what > 150) damage(&p, &now, random);
            say(&p, &now);
            pair_wait(&p, BETWEEN_MS - p.model.of->gap);
            same(&p);
        }
        printf("link %u: %u commands, %u halts, %u silences\n", link, p.said, halts, silences);
        CHECK(p.said > 2000 && halts > 20 && silences > 20);
        g_rand_free(random);
        pair_free(&p);
    }
}

static const struct test_case cases[] = {
    {"bits of channels", bits_of_channels},
    {"known places", known_places},
    {"every place of a stick", every_place},
    {"P1, P5, P6: frames against lines", anything},
};
TEST_MAIN(cases)
